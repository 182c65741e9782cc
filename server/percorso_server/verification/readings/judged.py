"""What is said of each reading of a job, against the plan as it is: judged once, and kept as long as the plan is."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any
from uuid import UUID
from weakref import WeakKeyDictionary

from django.db.models import Q
from pydantic import BaseModel

from percorso.verification.judging.logged import Judged, Logged
from percorso.verification.judging.pinned import Pinned, pinned
from percorso.verification.judging.readings import Mark
from percorso.verification.measured.measurements import Measurement
from percorso_server.jobs.models import Job
from percorso_server.network.solving import JobNetwork
from percorso_server.verification.models import Reading

LINKS = ("red_point", "black_point", "segment", "device")
COLUMNS = (
    *("id", "quantity", "situation", "instrument", "value", "outcome", "current_a", "lead_offset", "meter", "note"),
    *("taken_at", "circuit_id", "taken_by__username"),
    *(f"{each}_id" for each in LINKS),
)
Row = Mapping[str, Any]


class ReadingOut(BaseModel):
    """A logged measurement and what it says of the metal, against the plan as it is now.

    ``net`` is its value without what the leads add, ``mark`` its place on the profile that is shown, ``names`` those of
    its points by id; ``pins`` is what it tells of assumed metal.
    """

    id: str
    measurement: Measurement
    circuit_id: str | None
    names: dict[str, str]
    net: float | None
    current_a: float | None
    lead_offset: float
    meter: str
    note: str
    taken_at: datetime
    taken_by: str
    superseded: bool
    judged: Judged
    pins: Pinned | None
    mark: Mark | None = None

    @property
    def logged(self) -> Logged:
        """The reading as the core judges it."""
        return Logged(self.measurement, self.circuit_id, self.current_a, self.lead_offset)


_TOLD: WeakKeyDictionary[JobNetwork, dict[UUID, ReadingOut]] = WeakKeyDictionary()


def readings_of(job: Job, network: JobNetwork) -> list[ReadingOut]:
    """The readings of what still lives in a job, the newest first.

    A reading never changes but for being superseded, so that of a thousand only those are read that are new.
    """
    living = Reading.objects.filter(Q(circuit=None) | Q(circuit__live=True), job=job)
    listed = list(living.values_list("id", "superseded_by"))
    told = _TOLD.setdefault(network, {})
    fresh = [reading_id for reading_id, _ in listed if reading_id not in told]
    if fresh:
        rows = Reading.objects.filter(pk__in=fresh).order_by().values(*COLUMNS)
        told |= {row["id"]: _reading_out(network, row) for row in rows}
    return [_superseded(told[reading_id]) if later else told[reading_id] for reading_id, later in listed]


def reading_of(job: Job, network: JobNetwork, reading_id: UUID) -> ReadingOut:
    """One reading of a job."""
    row = Reading.objects.filter(job=job).values(*COLUMNS, "superseded_by").get(pk=reading_id)
    told = _reading_out(network, row)
    return told if row["superseded_by"] is None else _superseded(told)


def _superseded(reading: ReadingOut) -> ReadingOut:
    return reading.model_copy(update={"superseded": True})


def _reading_out(network: JobNetwork, row: Row) -> ReadingOut:
    """A reading that nothing supersedes, judged against the plan as it is now."""
    measurement = _measurement(row)
    points = [each for each in (measurement.red_point, measurement.black_point) if each]
    circuit_id = _text(row["circuit_id"])
    measured = Logged(measurement, circuit_id, row["current_a"], row["lead_offset"])
    return ReadingOut(
        id=str(row["id"]),
        measurement=measurement,
        circuit_id=circuit_id,
        names={each: network.vehicle.points[each].name for each in points if each in network.vehicle.points},
        taken_by=row["taken_by__username"],
        superseded=False,
        net=measured.net.value,
        judged=network.judge.judged(measured),
        pins=pinned(network.vehicle, measured),
        **{name: row[name] for name in ("current_a", "lead_offset", "meter", "note", "taken_at")},
    )


def _measurement(row: Row) -> Measurement:
    """What a row says was measured; it was checked when it was written."""
    values = {name: _text(row[f"{name}_id"]) for name in LINKS}
    columns = {name: row[name] for name in ("quantity", "situation", "instrument", "value", "outcome")}
    return Measurement.model_validate(columns | values)


def _text(value: UUID | None) -> str | None:
    return None if value is None else str(value)
