"""Tests before the first power: the new metal by ohmmeter, battery off, and then the first power, fuse by fuse."""

from collections.abc import Iterator, Sequence
from itertools import groupby

from percorso.network.branches import GATED, reference_point
from percorso.network.operating_point import Network
from percorso.vehicle.devices import Battery, RelayCoil
from percorso.vehicle.model import SIDES, Circuit, Segment, Side, Stage, Vehicle, stations
from percorso.vehicle.segments import GUARDS, Connector, Diode, Fuse, RelayContact
from percorso.vehicle.states import positions
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.asked import Check, of_circuit, seen, voltage
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import BatteryOff, Bridge, Preparation, Pull, Unplug


def is_worked_on(vehicle: Vehicle, circuit: Circuit) -> bool:
    """Whether the work lays something new for a circuit."""
    device = vehicle.devices.get(circuit.device_id or "")
    parts = [vehicle.segments[each] for each in circuit.whole_path]
    return any(each.origin == "new" for each in parts) or (device is not None and device.origin == "new")


def before_power(vehicle: Vehicle, stage: Stage, circuit: Circuit) -> Iterator[Check]:
    """Terminals seated, each new run continuous, and nothing between the supply and ground."""
    dead = Situation(stage=stage, state="off", preparations=(BatteryOff(),))
    for side in SIDES:
        for run in _runs(vehicle, circuit, side):
            yield from _continuity(vehicle, circuit, side, run, dead)
    for each in (vehicle.segments[each] for each in circuit.whole_path):
        if isinstance(each.spec, Connector) and each.origin == "new":
            moved = Measurement(quantity="wiggle", segment=each.id, situation=dead)
            title = f"{each.designation} seated and locked"
            yield of_circuit(circuit, f"seated-{each.id}", title, "before power", moved)
    if circuit.supply:
        yield _isolation(vehicle, circuit, stage)


def _runs(vehicle: Vehicle, circuit: Circuit, side: Side) -> list[list[Segment]]:
    """What hangs together along a side without a contact between, where something of it is new."""
    parts = [vehicle.segments[each] for each in circuit.path(side)]
    together = groupby(parts, key=lambda each: isinstance(each.spec, (*GATED, Diode)) and not _is_fuse(each))
    runs = [list(run) for opens, run in together if not opens]
    return [run for run in runs if any(each.origin == "new" for each in run)]


def _is_fuse(segment: Segment) -> bool:
    return isinstance(segment.spec, Fuse)


def _continuity(
    vehicle: Vehicle, circuit: Circuit, side: Side, run: Sequence[Segment], dead: Situation
) -> Iterator[Check]:
    points = stations(vehicle, circuit, side)
    place = circuit.path(side).index(run[0].id)
    start, end = points[place], points[place + len(run)]
    names = run[0].designation if len(run) == 1 else f"{run[0].designation} to {run[-1].designation}"
    through = Measurement(quantity="continuity", red_point=start, black_point=end, situation=dead)
    yield of_circuit(circuit, f"through-{run[0].id}", f"{names} continuous", "before power", through)


def _isolation(vehicle: Vehicle, circuit: Circuit, stage: Stage) -> Check:
    """The supply against ground, with its fuses out and its device unplugged."""
    out = stations(vehicle, circuit, "supply")
    done: list[Preparation] = [BatteryOff()]
    done += [Pull(part=each) for each in circuit.supply if isinstance(vehicle.segments[each].spec, GUARDS)]
    device = vehicle.devices.get(circuit.device_id or "")
    if device is not None and not isinstance(device.spec, Battery):
        done.append(Unplug(part=device.id))
    situation = Situation(stage=stage, state="off", preparations=tuple(done))
    ground = Measurement(
        quantity="continuity", red_point=out[-1], black_point=reference_point(vehicle), situation=situation
    )
    return of_circuit(circuit, "isolation", "supply against ground", "before power", ground)


def first_power(network: Network, stage: Stage, circuit: Circuit) -> Iterator[Check]:
    """A lamp in place of each new fuse, what is live with the key off, and the relay by hand."""
    vehicle = network.vehicle
    off = Situation(stage=stage, state="off")
    if not circuit.supply:
        return
    out, back = stations(vehicle, circuit, "supply"), stations(vehicle, circuit, "return")
    for place, each in enumerate(vehicle.segments[each] for each in circuit.supply):
        if isinstance(each.spec, Fuse) and each.origin == "new":
            pulled = Situation(stage=stage, state="off", preparations=(Pull(part=each.id),))
            lamp = Measurement(quantity="lamp", red_point=out[place], black_point=out[place + 1], situation=pulled)
            yield of_circuit(circuit, f"lamp-{each.id}", f"lamp in place of {each.designation}", "first power", lamp)
    yield of_circuit(circuit, "key-off", f"{circuit.device}, key off", "first power", voltage(out[-1], back[-1], off))
    for each in (vehicle.segments[each] for each in circuit.supply):
        if isinstance(each.spec, RelayContact) and each.spec.coil in vehicle.devices and circuit.device_id:
            by_hand = _by_hand(vehicle, stage, out[0], each.spec.coil or "")
            title = f"{circuit.device} with {each.designation} energised by a jumper"
            yield of_circuit(circuit, f"by-hand-{each.id}", title, "first power", seen(circuit.device_id, by_hand))


def _by_hand(vehicle: Vehicle, stage: Stage, feed: str, coil: str) -> Situation:
    """The key off and a jumper from the feed to the coil's 86, and from its 85 to ground where a contact holds that."""
    device = vehicle.devices[coil]
    assert isinstance(device.spec, RelayCoil)
    jumpers = [Bridge(from_point=feed, to_point=device.terminals["86"])]
    fed = Network(prepared(vehicle, jumpers))
    if fed.cannot_pull_in(coil, positions(vehicle.inputs, "off", {})):
        jumpers.append(Bridge(from_point=device.terminals["85"], to_point=reference_point(vehicle)))
    return Situation(stage=stage, state="off", preparations=tuple(jumpers))
