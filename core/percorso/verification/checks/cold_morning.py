"""What starting tests would show on the coldest morning on which the engine must start, beside what they show today."""

from collections.abc import Hashable, Iterable, Iterator
from dataclasses import replace

from percorso.network.branches import battery_posts
from percorso.network.mornings import cranked
from percorso.vehicle.devices import Starter
from percorso.vehicle.model import Device, Vehicle
from percorso.verification.checks.asked import Check
from percorso.verification.measured.measurements import Measurement


def with_cold_morning(vehicle: Vehicle, asked: Iterable[Check], outside_c: float) -> Iterator[Check]:
    """The same tests; those of a starter say what they would come to as cold as that, °C."""
    predicted: dict[Hashable, str] = {}
    posts = battery_posts(vehicle)
    if posts is not None:
        for starter, _ in vehicle.devices_of(Starter):
            predicted |= _predicted(vehicle, posts, starter, outside_c)
    for each in asked:
        measured = each.measurement
        says = predicted.get(_where(measured), "") if measured.situation.state == "cranking" else ""
        yield replace(each, how=f"{each.how} On a morning of {outside_c:g} °C {says}.") if says else each


def _predicted(vehicle: Vehicle, posts: tuple[str, str], starter: Device, outside_c: float) -> dict[Hashable, str]:
    """What comes of each measurement of a starter, by where it is made."""
    morning, at = cranked(vehicle, starter, outside_c), starter.terminals
    plus, minus = posts
    volts = {
        (plus, minus): morning.posts_v,
        (at["30"], at["31"]): morning.starter_v,
        (plus, at["30"]): morning.plus_lost_v,
        (at["31"], minus): morning.ground_lost_v,
        (at.get("50"), at["31"]): morning.trigger_v,
    }
    predicted: dict[Hashable, str] = {
        each: f"about {value:.3g} V" for each, value in volts.items() if value is not None
    }
    return predicted | {starter.id: f"it {morning.does}"}


def _where(measured: Measurement) -> Hashable:
    return (measured.red_point, measured.black_point) if measured.quantity == "voltage" else measured.device
