"""One moment of the database for several queries."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def one_snapshot() -> Iterator[None]:
    """Queries within see one moment, whatever others commit meanwhile.

    Within a transaction nothing changes: whoever reads a network there holds its job locked.
    """
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")  # of the next transaction alone
    with transaction.atomic():
        yield
