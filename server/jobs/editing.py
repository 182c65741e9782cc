"""Changes of a job's network: one at a time, against the version seen, all or nothing, and undoable."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Q
from django.http import Http404

from jobs.assembly import Change, StoredNetwork, changes_between, network_of, values_of, write_changes
from jobs.models import Edit, Job
from percorso.errors import PercorsoError
from percorso.rerouting import check_circuits
from percorso.vehicle import Vehicle
from workshop.models import Person
from workshop.stale import StaleError


class NothingToUndoError(PercorsoError):
    """There is no change of this person left to take back or to redo."""

    code = "nothing-to-undo"


@dataclass
class Editing:
    """A job held for one change: read ``vehicle``, then ``finish`` with what it is to become."""

    job: Job
    person: Person
    key: UUID
    network: StoredNetwork

    @property
    def vehicle(self) -> Vehicle:
        """The vehicle as it is in the database, held still."""
        return self.network.vehicle

    def expect(self, table: str, row_id: str, version: int) -> None:
        """Raise StaleError unless the row still has the version its editor saw, Http404 when it is gone."""
        values = values_of(self.vehicle)[table].get(row_id)
        if values is None:
            raise Http404
        if self.network.versions[row_id] != version:
            raise StaleError(f"this {table}", values | {"version": self.network.versions[row_id]})

    def expect_new_or(self, table: str, row_id: str, version: int | None) -> None:
        """As ``expect``; without a version it must not be there yet."""
        if version is not None:
            self.expect(table, row_id, version)
        elif row_id in values_of(self.vehicle)[table]:
            raise StaleError(f"this {table}", values_of(self.vehicle)[table][row_id])

    def expect_row(self, row_id: str, version: int) -> None:
        """As ``expect``, of a row of whatever table."""
        table = next((name for name, rows in values_of(self.vehicle).items() if row_id in rows), None)
        if table is None:
            raise Http404
        self.expect(table, row_id, version)

    def finish(self, label: str, after: Vehicle) -> dict[str, int]:
        """Write the vehicle's changes and remember them for undo; returns the new version of each row written.

        Raises PathError when a circuit would break.
        """
        changes = changes_between(self.vehicle, check_circuits(after))
        if not changes:
            return {}
        versions = write_changes(self.job, changes)
        Edit.objects.filter(job=self.job, person=self.person, undone=True).delete()  # a new change ends the redo
        Edit.objects.create(
            job=self.job,
            person=self.person,
            key=self.key,
            label=label,
            changes=[asdict(change) for change in changes],
        )
        self.job.save(update_fields=["changed_at"])
        return versions


@contextmanager
def editing(job_id: UUID, person: Person, key: UUID) -> Iterator[Editing | None]:
    """Hold a job of the person's shop for one change; None when the change named by ``key`` is already written."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(shop=person.shop, pk=job_id).first()
        if job is None:
            raise Http404
        if Edit.objects.filter(Q(key=key) | Q(step_key=key), job=job).exists():
            yield None
        else:
            yield Editing(job, person, key, network_of(job))


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


def _change(item: dict[str, Any]) -> Change:
    return Change(**item)


def _apply(held: Editing, edit: Edit, changes: list[Change], *, undone: bool) -> None:
    """Write stored changes if every row is still as they expect it."""
    current = values_of(held.vehicle)
    for change in changes:
        if current[change.table].get(change.id) != change.before:
            raise StaleError(f'what "{edit.label}" changed', current[change.table].get(change.id))
    write_changes(held.job, changes)
    check_circuits(network_of(held.job).vehicle)
    edit.undone, edit.step_key = undone, held.key
    edit.save(update_fields=["undone", "step_key"])
    held.job.save(update_fields=["changed_at"])
