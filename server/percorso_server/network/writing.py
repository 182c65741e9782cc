"""Writes rows that changed: a few statements, however many rows, in the caller's transaction."""

from collections.abc import Mapping
from uuid import UUID

from percorso.vehicle import model as core
from percorso_server.jobs.models import (
    TABLES,
    Circuit,
    CircuitSegment,
    Device,
    DeviceTerminal,
    Input,
    Job,
    NetworkRow,
)
from percorso_server.jobs.searching import NAMED, index_job
from percorso_server.network.differences import RowChange

LISTS = ("terminals", *core.SIDES)  # values that are rows of their own


def write_changes(
    job: Job, changes: list[RowChange], file_ids: Mapping[str, str] | None = None
) -> dict[str, NetworkRow]:
    """Write rows that were computed with ``changes_between`` or stored from it; the caller holds the transaction.

    Returns each as it is now, by its id in the core. ``file_ids`` are new rows' ids in job files, where they came from
    one. First every changed row steps out of the unique names it may hand over to another, then all take their new
    values, table by table: a few statements, however many rows.
    """
    by_table = {table: [each for each in changes if each.table == table] for table in TABLES}
    stored = {table: _stored(job, TABLES[table], of_table) for table, of_table in by_table.items() if of_table}
    for table, rows in stored.items():
        leaving = [rows[each.id].pk for each in by_table[table] if each.before is not None]
        if len(by_table[table]) > 1:
            TABLES[table].objects.filter(pk__in=leaving).update(live=None)
    now: dict[str, NetworkRow] = {}
    for table, rows in stored.items():
        written = [_written(job, each, rows.get(each.id), file_ids or {}) for each in by_table[table]]
        _save(TABLES[table], written, by_table[table])
        _write_lists(TABLES[table], list(zip(written, by_table[table], strict=True)))
        now |= {each.id: row for each, row in zip(by_table[table], written, strict=True)}
    if any(each.columns.intersection(NAMED.get(TABLES[each.table], ())) for each in changes):
        index_job(job)  # it is found by other words now
    return now


def _stored(job: Job, model: type[NetworkRow], changes: list[RowChange]) -> dict[str, NetworkRow]:
    """The rows there are of those that change, by id in the core; of two inputs of one key the living one."""
    name = "key" if model is Input else "pk"
    found = model.objects.filter(job=job, **{f"{name}__in": [each.id for each in changes]})
    return {str(getattr(row, name)): row for row in sorted(found, key=lambda row: row.live is True)}


def _written(job: Job, change: RowChange, stored: NetworkRow | None, file_ids: Mapping[str, str]) -> NetworkRow:
    """A row with its new values, not saved yet; every change of an existing one is a new version."""
    model = TABLES[change.table]
    row = stored or (Input(job=job, key=change.id) if model is Input else model(job=job, id=UUID(change.id)))
    row.version += 0 if stored is None else 1
    row.file_id = file_ids.get(change.id, row.file_id)
    row.live = None if change.after is None else True
    for column, value in (change.after or {}).items():
        if column not in LISTS:
            setattr(row, column, value)
    return row


def _save(model: type[NetworkRow], rows: list[NetworkRow], changes: list[RowChange]) -> None:
    """New rows in one statement, and what changes of existing ones in another."""
    model.objects.bulk_create([row for row in rows if row._state.adding])
    existing = [row for row in rows if not row._state.adding]
    columns = {"live", "version", "file_id"}.union(*(each.columns for each in changes))
    model.objects.bulk_update(existing, sorted(columns.difference(LISTS)))


def _write_lists(model: type[NetworkRow], rows: list[tuple[NetworkRow, RowChange]]) -> None:
    """The rows that hang on circuits or devices, written anew."""
    living = [(row, change.after) for row, change in rows if change.after is not None]
    if model is Circuit:
        CircuitSegment.objects.filter(circuit__in=[row.pk for row, _ in living]).delete()
        CircuitSegment.objects.bulk_create(
            CircuitSegment(circuit_id=row.pk, segment_id=segment_id, side=side, order=order)
            for row, after in living
            for side in core.SIDES
            for order, segment_id in enumerate(after[side])
        )
    if model is Device:
        DeviceTerminal.objects.filter(device__in=[row.pk for row, _ in living]).delete()
        DeviceTerminal.objects.bulk_create(
            DeviceTerminal(device_id=row.pk, mark=mark, point_id=point)
            for row, after in living
            for mark, point in after["terminals"].items()
        )
