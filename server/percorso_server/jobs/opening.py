"""Opens a job under an id that its sender chose, once, however often and however close together it is asked for."""

from collections.abc import Callable
from uuid import UUID

from django.db import IntegrityError, transaction

from percorso.errors import PercorsoError
from percorso_server.jobs.models import Job
from percorso_server.workshop.models import Shop


def opened_once(shop: Shop, job_id: UUID, opened: Callable[[], Job]) -> Job:
    """The job of that id in the shop, opened now if there is none. Raises PercorsoError for an id it cannot have."""
    mine = Job.objects.filter(shop=shop, pk=job_id).first()
    if mine is not None:
        return mine
    try:
        with transaction.atomic():
            return opened()
    except IntegrityError:
        same = Job.objects.filter(shop=shop, pk=job_id).first()
        if same is None:
            raise PercorsoError("a job cannot have this id; send another", field=("id",)) from None
        return same
