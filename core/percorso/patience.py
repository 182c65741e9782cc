"""Lets whoever waits for a long computation give it up: between its pieces the work asks whether to go on."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class NobodyWaitsError(Exception):
    """Whoever asked has gone."""


_asked: ContextVar[Callable[[], None] | None] = ContextVar("asked", default=None)


def go_on() -> None:
    """Called between the pieces of long work. Raises whatever the one who waits says it with."""
    ask = _asked.get()
    if ask is not None:
        ask()


@contextmanager
def while_wanted(ask: Callable[[], None]) -> Iterator[None]:
    """Long work meanwhile asks ``ask`` between its pieces, which raises something to end it."""
    token = _asked.set(ask)
    try:
        yield
    finally:
        _asked.reset(token)
