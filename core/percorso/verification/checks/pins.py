"""The pin sheet of every plug: feeds and grounds first, every pin in every position of the key, plugged and not."""

from collections import Counter
from collections.abc import Iterator

from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.vehicle.connectivity import buses
from percorso.vehicle.model import Segment, Stage
from percorso.vehicle.segments import Connector
from percorso.vehicle.states import State
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.asked import Check, voltage
from percorso.verification.checks.sources import WHEN
from percorso.verification.measured.measurements import Situation
from percorso.verification.measured.preparations import Preparation, Unplug

KEY_STATES: tuple[State, ...] = ("off", "accessory", "on", "cranking")


def pin_checks(network: Network, stage: Stage) -> Iterator[Check]:
    """Every pin of every plug, at its loom side against battery minus."""
    black = reference_point(network.vehicle)
    for plug in network.vehicle.plugs:
        unplugged = Unplug(part=plug)
        loom = _loom_sides(network, unplugged)
        ways = sorted(network.vehicle.plugs[plug], key=lambda each: not _is_supply(network, loom[each.id]))
        for done, state in ((done, state) for done in ((unplugged,), ()) for state in KEY_STATES):
            situation = Situation(stage=stage, state=state, preparations=done)
            plugged = "unplugged" if done else "plugged"
            for way in ways:
                if loom[way.id] == black:
                    continue
                pin = f"{plug} pin {_number(way)}"
                title = f"{pin}, {WHEN[state]}, {plugged}"
                measured = voltage(loom[way.id], black, situation)
                yield Check(plug, f"pin-{_number(way)}-{plugged}", title, "pins", measured)


def _number(way: Segment) -> str:
    return way.spec.way or "" if isinstance(way.spec, Connector) else ""


def _loom_sides(network: Network, unplugged: Preparation) -> dict[str, str]:
    """Of each way of a plug the point on its loom side: where more hangs on once it is unplugged."""
    vehicle = prepared(network.vehicle, [unplugged])
    bus = buses(vehicle, through_switches=True)
    size = Counter(bus.values())
    return {
        each.id: max((each.from_point, each.to_point), key=lambda point: size[bus[point]])
        for each in vehicle.segments.values()
    }


def _is_supply(network: Network, point: str) -> bool:
    """Whether a pin is a feed or a ground: it keeps its potential when the key is off or on, and the lamp is bright."""
    bus = buses(network.vehicle, through_switches=False)
    reference = reference_point(network.vehicle)
    if bus[point] == bus[reference]:
        return True
    volts = network.solve("on", look_ahead=False).voltage_v(point, reference)
    return volts is not None and volts > network.vehicle.nominal_v / 2
