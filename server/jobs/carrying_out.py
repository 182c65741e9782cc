"""Carries out a request to change a job's network, and finds the job a row belongs to."""

from collections.abc import Callable
from uuid import UUID

from django.http import Http404

from jobs import models
from jobs.editing import Editing, editing
from jobs.schemas import Saved, saved
from percorso.vehicle import Vehicle
from workshop.signed_in import SignedInRequest


def carry_out(
    request: SignedInRequest, job_id: UUID, key: UUID, change: Callable[[Editing], tuple[str, Vehicle]]
) -> Saved:
    """Carry out one change of a job's network; a change that came before under the same key is left as it is."""
    with editing(job_id, request.user, key) as held:
        if held is None:
            return saved("saved before")
        label, after = change(held)
        versions = held.finish(label, after)
    return saved(label, versions)


def job_of(request: SignedInRequest, model: type[models.NetworkRow], row_id: UUID) -> models.Job:
    """The job a living row belongs to, in this shop; Http404 otherwise."""
    row = model.objects.filter(pk=row_id, job__shop=request.user.shop_id, live=True).select_related("job").first()
    if row is None:
        raise Http404
    job: models.Job = row.job
    return job
