"""Changes of a job's network: one at a time, against the version seen, all or nothing, and undoable."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from typing import Any, Literal
from uuid import UUID

from django.db import transaction
from django.db.models import Q
from django.http import Http404

from percorso.changes.routes import check_circuits
from percorso.errors import PercorsoError
from percorso.vehicle.model import Vehicle
from percorso_server.jobs.models import Edit, Job
from percorso_server.network.differences import RowChange, changes_between, values_of
from percorso_server.network.reading import StoredNetwork, network_of
from percorso_server.network.writing import write_changes
from percorso_server.workshop.models import Person
from percorso_server.workshop.stale import StaleError

# New versions by row id, or it was there, or it is to be computed anew.
Written = dict[str, int] | Literal["before"] | None


class NothingToUndoError(PercorsoError):
    """There is no change of this person left to take back or to redo."""

    code = "nothing-to-undo"


@dataclass
class Draft:
    """A network as it is read before a change: what a change is computed from."""

    network: StoredNetwork

    @property
    def vehicle(self) -> Vehicle:
        """The vehicle as it was at that moment."""
        return self.network.vehicle

    @property
    def versions(self) -> Mapping[str, int]:
        """The version of each row by id."""
        return self.network.versions

    def expect(self, row_id: str, version: int) -> None:
        """Raise StaleError unless the row still has the version its editor saw, Http404 when it is gone."""
        found = ((name, rows[row_id]) for name, rows in values_of(self.vehicle).items() if row_id in rows)
        table, values = next(found, ("", None))
        if values is None:
            raise Http404
        if self.versions[row_id] != version:
            raise StaleError(f"this {table}", row_id, values | {"version": self.versions[row_id]})


@dataclass
class Editing(Draft):
    """A job held for one change: ``finish`` with what it is to become."""

    job: Job
    person: Person
    key: UUID

    def finish(self, label: str, after: Vehicle) -> dict[str, int]:
        """Write the vehicle's changes and remember them for undo; returns the new version of each row written.

        Raises PathError when a circuit would break.
        """
        changes = changes_between(self.vehicle, check_circuits(after))
        if not changes:
            return {}
        written = write_changes(self.job, changes)
        Edit.objects.filter(job=self.job, person=self.person, undone=True).delete()  # a new change ends the redo
        Edit.objects.create(
            job=self.job,
            person=self.person,
            key=self.key,
            label=label,
            changes=[asdict(change) for change in changes],
        )
        self.job.save(update_fields=["changed_at"])
        self.network = self.network.after(after, written, self.job.changed_at)
        return {row_id: row.version for row_id, row in written.items()}


@contextmanager
def editing(job_id: UUID, person: Person, key: UUID) -> Iterator[Editing | None]:
    """Hold a job of the person's shop for one change; None when the change named by ``key`` is already written."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(shop=person.shop, pk=job_id).first()
        if job is None:
            raise Http404
        if is_written(job, key):
            yield None
        else:
            yield Editing(network_of(job), job, person, key)


def is_written(job: Job, key: UUID) -> bool:
    """Whether the change, undo or redo of that key is written."""
    return Edit.objects.filter(Q(key=key) | Q(step_key=key), job=job).exists()


def write_if_unchanged(draft: Draft, job_id: UUID, person: Person, key: UUID, change: tuple[str, Vehicle]) -> Written:
    """Write what was computed from a draft, if its job has not changed since; the lock is held for the writing alone.

    The draft is then of the network as it was written. Raises Http404 when the job is gone.
    """
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(shop=person.shop, pk=job_id).first()
        if job is None:
            raise Http404
        if is_written(job, key):
            return "before"
        if job.changed_at != draft.network.changed_at:
            return None
        held = Editing(draft.network, job, person, key)
        versions = held.finish(*change)
        draft.network = held.network
        return versions


def undo(held: Editing) -> str:
    """Take back this person's latest change of the job; returns its label."""
    edit = Edit.objects.filter(job=held.job, person=held.person, undone=False).order_by("-id").first()
    if edit is None:
        raise NothingToUndoError("there is nothing of yours to undo in this job")
    _apply(held, edit, [_change(item).reversed() for item in edit.changes], undone=True)
    return edit.label


def redo(held: Editing) -> str:
    """Do again this person's change that was last undone; returns its label."""
    edit = Edit.objects.filter(job=held.job, person=held.person, undone=True).order_by("id").first()
    if edit is None:
        raise NothingToUndoError("there is nothing of yours to redo in this job")
    _apply(held, edit, [_change(item) for item in edit.changes], undone=False)
    return edit.label


def _change(item: dict[str, Any]) -> RowChange:
    return RowChange(**item)


def _apply(held: Editing, edit: Edit, changes: list[RowChange], *, undone: bool) -> None:
    """Write stored changes if every row is still as they expect it."""
    current = values_of(held.vehicle)
    for change in changes:
        if current[change.table].get(change.id) != change.before:
            raise StaleError(f'what "{edit.label}" changed', change.id, current[change.table].get(change.id))
    write_changes(held.job, changes)
    check_circuits(network_of(held.job).vehicle)
    edit.undone, edit.step_key = undone, held.key
    edit.save(update_fields=["undone", "step_key"])
    held.job.save(update_fields=["changed_at"])
