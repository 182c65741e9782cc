"""What a budget is drawn up for: a stage's battery, alternator and starter, and its consumers, wired or not."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar

from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.loads import IndicatorLamp, Load, LoadSpec
from percorso.vehicle.model import Device, Stage, Vehicle, in_order
from percorso.vehicle.stages import devices_at, vehicle_at

_Spec = TypeVar("_Spec", Battery, Alternator, Starter)


@dataclass(frozen=True)
class Budgeted:
    """A stage of a vehicle as its load budget sees it; ``wired`` is the network without what is not wired yet.

    Of several batteries, alternators or starters the first of each counts. Tell-tales are no consumers.
    """

    vehicle: Vehicle
    wired: Vehicle
    battery: Device | None
    alternator: Device | None
    starter: Device | None
    consumers: tuple[Device, ...]

    def load(self, device: Device) -> LoadSpec:
        """The values of one of its consumers."""
        assert isinstance(device.spec, Load)
        return device.spec


def budgeted(vehicle: Vehicle, stage: Stage) -> Budgeted:
    """A stage of a vehicle as its load budget sees it."""
    there = in_order(devices_at(vehicle, stage))
    return Budgeted(
        vehicle=vehicle,
        wired=vehicle_at(vehicle, stage),
        battery=_first(there, Battery),
        alternator=_first(there, Alternator),
        starter=_first(there, Starter),
        consumers=tuple(each for each in there if isinstance(each.spec, Load) and not _tells_only(each)),
    )


def _first(devices: Iterable[Device], kind: type[_Spec]) -> Device | None:
    """The first device of a kind, a wired one before one that is not."""
    found = [each for each in devices if isinstance(each.spec, kind)]
    return next((each for each in found if each.terminals), next(iter(found), None))


def _tells_only(device: Device) -> bool:
    return isinstance(device.spec, IndicatorLamp)
