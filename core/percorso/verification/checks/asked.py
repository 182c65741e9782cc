"""One test that is asked for: what is measured in what situation, what it must come to, how, and how long it takes."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal, get_args

from percorso.vehicle.model import Circuit, Vehicle
from percorso.verification.measured.measurements import Measurement, Situation

CheckGroup = Literal[
    "before power", "first power", "at rest", "under load", "cranking", "charging", "interlocks", "independence", "pins"
]
GROUP_NAMES: Mapping[CheckGroup, str] = {
    "before power": "Before power",
    "first power": "First power",
    "at rest": "At rest",
    "under load": "Under load",
    "cranking": "Cranking",
    "charging": "Charging",
    "interlocks": "State by state",
    "independence": "One without the other",
    "pins": "Pin by pin",
}
GROUPS: tuple[CheckGroup, ...] = get_args(CheckGroup)  # in a safe and cheap order


@dataclass(frozen=True)
class CheckTarget:
    """What a measured value must keep to whatever is expected, in its own unit, and who says so."""

    kind: Literal["at most", "at least"]
    value: float
    source: str

    def margin(self, value: float) -> float:
        """How far a value is on the right side."""
        return self.value - value if self.kind == "at most" else value - self.value


@dataclass(frozen=True)
class Check:
    """A test. ``about`` is what it is of (a circuit, a device, a plug), ``what`` tells it apart there.

    ``only_if``: the test after whose failure alone it is worth its while.
    """

    about: str
    what: str
    title: str
    group: CheckGroup
    measurement: Measurement
    circuit_id: str | None = None
    target: CheckTarget | None = None
    only_if: str | None = None
    how: str = ""
    caution: str = ""
    minutes: float = 0.0

    @property
    def id(self) -> str:
        """The same for the same test as long as the job keeps its ids."""
        situation = self.measurement.situation
        return ".".join([self.about, self.what, situation.state])


def of_circuit(circuit: Circuit, what: str, title: str, group: CheckGroup, measurement: Measurement) -> Check:
    """A test of a circuit."""
    return Check(circuit.id, what, f"{circuit.name}: {title}", group, measurement, circuit_id=circuit.id)


def voltage(red: str, black: str, situation: Situation) -> Measurement:
    """A voltage between two points."""
    return Measurement(quantity="voltage", red_point=red, black_point=black, situation=situation)


def seen(device_id: str, situation: Situation) -> Measurement:
    """What a device is seen to do."""
    return Measurement(quantity="seen", device=device_id, situation=situation)


def with_target(asked: Check, target: CheckTarget | None) -> Check:
    """A test that must come to something."""
    return replace(asked, target=target)


def has_points(vehicle: Vehicle, points: Iterable[str | None]) -> bool:
    """Whether every one of some points is there."""
    return all(each in vehicle.points for each in points)
