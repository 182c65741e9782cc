"""What every endpoint that changes a network does around its change: compute it, write it, answer."""

from collections.abc import Callable, Sequence
from uuid import UUID

from django.http import Http404

from percorso.errors import PercorsoError
from percorso.vehicle.model import Vehicle
from percorso_server.jobs import models
from percorso_server.jobs.schemas import Saved, saved
from percorso_server.network.editing import Draft, editing, is_written, write_if_unchanged
from percorso_server.network.solving import keep_for_reading, network_for_reading
from percorso_server.workshop.signed_in import SignedInRequest

MOST_TRIES = 3  # at computing without the lock while others keep changing the job

Change = Callable[[Draft], tuple[str, Vehicle]]


def carry_out(request: SignedInRequest, job_id: UUID, key: UUID, change: Change, new_ids: Sequence[str] = ()) -> Saved:
    """Carry out one change of a job's network; what came before, by its key or its new rows' ids, is left as it is.

    The change is computed first and the job locked after, so that nobody waits for what takes long; if the job changed
    meanwhile it is computed anew, at last with the job locked.
    """
    job = models.Job.objects.filter(shop=request.user.shop_id, pk=job_id).first()
    if job is None:
        raise Http404
    if is_written(job, key):
        return saved("saved before")
    rules = request.user.shop.house_rules
    for turn in range(MOST_TRIES):
        if turn:
            job.refresh_from_db(fields=["changed_at"])
        draft = Draft(network_for_reading(job, rules).stored)
        if _are_there(draft, new_ids):
            return saved("saved before", {each: draft.versions[each] for each in new_ids})
        label, after = change(draft)
        written = write_if_unchanged(draft, job_id, request.user, key, (label, after))
        if written == "before":
            return saved("saved before")
        if written is not None:
            keep_for_reading(job, draft.network, rules)
            return saved(label, written)
    with editing(job_id, request.user, key) as held:
        if held is None or _are_there(held, new_ids):
            return saved("saved before")
        label, after = change(held)
        return saved(label, held.finish(label, after))


def _are_there(draft: Draft, new_ids: Sequence[str]) -> bool:
    """Whether all rows that are to be made are in the job already: the same request came twice.

    Raises PercorsoError where some are: their ids are taken.
    """
    there = [each in draft.versions for each in new_ids]
    if any(there) and not all(there):
        raise PercorsoError("nothing new can have this id; send another", field=("id",))
    return bool(there) and all(there)


def job_of(request: SignedInRequest, model: type[models.NetworkRow], row_id: UUID) -> models.Job:
    """The job a living row belongs to, in this shop; Http404 otherwise."""
    its = model.objects.filter(pk=row_id, live=True).values("job")
    job = models.Job.objects.filter(pk__in=its, shop=request.user.shop_id).first()
    if job is None:
        raise Http404
    return job
