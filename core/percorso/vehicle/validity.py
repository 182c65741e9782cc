"""What must hold of each part of a vehicle, with the field that does not."""

from percorso.errors import PathError, PercorsoError
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.loads import Load
from percorso.vehicle.model import STAGES, Circuit, Device, Part, Segment, Vehicle, stations
from percorso.vehicle.scenarios import PRESETS, STANDARD, Drive, Scenario, find_scenario
from percorso.vehicle.segments import Connector, RelayContact, SensorSwitch, Switch
from percorso.vehicle.stages import is_there
from percorso.vehicle.states import KEY_INPUT, KEY_POSITIONS, Input


def check_segment(vehicle: Vehicle, segment: Segment) -> None:
    """Raise PathError unless a segment ends on two points of the job and what switches it is there."""
    for name, point in (("from_point", segment.from_point), ("to_point", segment.to_point)):
        if point not in vehicle.points:
            raise PathError(f"{segment.designation} ends on a point this job does not have", field=(name,))
    if segment.from_point == segment.to_point:
        raise PathError(f"{segment.designation} makes a loop: it ends where it begins", field=("to_point",))
    spec = segment.spec
    if isinstance(spec, Connector) and spec.plug is not None:
        _check_way(vehicle, segment, spec)
    if isinstance(spec, Switch | SensorSwitch):
        _check_positions(vehicle, segment.designation, spec)
    if isinstance(spec, RelayContact) and spec.coil is not None:
        device = vehicle.devices.get(spec.coil)
        if device is None or not isinstance(device.spec, RelayCoil):
            raise PathError(f"{segment.designation} is moved by a coil this job does not have", field=("spec", "coil"))


def _check_way(vehicle: Vehicle, segment: Segment, spec: Connector) -> None:
    """Raise PathError unless a plug is called as nothing else, and the way's number is its own as found and planned."""
    named = {each.designation for each in vehicle.segments.values()}
    if spec.plug in named | {each.designation for each in vehicle.devices.values()}:
        raise PathError(f"{spec.plug} is something else already; call the plug otherwise", field=("spec", "plug"))
    others = (each for each in vehicle.plugs.get(spec.plug or "", ()) if each.id != segment.id and _meet(each, segment))
    if any(isinstance(each.spec, Connector) and each.spec.way == spec.way for each in others):
        raise PathError(f"{spec.plug} has a way {spec.way} already", field=("spec", "way"))


def _meet(one: Part, other: Part) -> bool:
    return any(is_there(one, stage) and is_there(other, stage) for stage in STAGES)


def _check_positions(vehicle: Vehicle, designation: str, spec: Switch | SensorSwitch) -> None:
    driver = vehicle.inputs.get(spec.input)
    if driver is None and spec.input != KEY_INPUT:
        raise PathError(
            f'{designation} is driven by "{spec.input}", which this job does not have', field=("spec", "input")
        )
    can = KEY_POSITIONS if driver is None else driver.positions
    for position in spec.closed_in:
        if position not in can:
            message = f'{designation} cannot be closed in "{position}"; {spec.input} can be {", ".join(can)}'
            raise PathError(message, field=("spec", "closed_in"))


def check_input(each: Input) -> None:
    """Raise PathError unless an input stands in positions it has, each of them once, and is not called the key."""
    if each.id == KEY_INPUT:
        raise PathError(f'"{KEY_INPUT}" is the ignition key itself; call this input otherwise', field=("id",))
    if len(set(each.positions)) < len(each.positions):
        raise PathError(f"{each.name} has a position twice", field=("positions",))
    for state, position in each.by_state.items():
        if position not in each.positions:
            can = ", ".join(each.positions)
            raise PathError(f'{each.name} cannot be "{position}"; it can be {can}', field=("by_state", state))


def check_device(vehicle: Vehicle, device: Device) -> None:
    """Raise PathError unless a device's terminals are its own, complete, and on points of the job."""
    spec = device.spec
    if isinstance(spec, Load) and spec.independent_of is not None and spec.independent_of not in vehicle.devices:
        raise PathError(
            f"{device.designation} is meant to outlive a device this job does not have",
            field=("spec", "independent_of"),
        )
    if not device.terminals and not isinstance(spec, RelayCoil):
        return
    for terminal in spec.TERMINALS:
        if terminal not in device.terminals:
            raise PathError(
                f"{device.designation}: say where its terminal {terminal} goes", field=("terminals", terminal)
            )
    for terminal, point in device.terminals.items():
        place = ("terminals", terminal)
        if terminal not in (*spec.TERMINALS, *spec.OPTIONAL_TERMINALS):
            raise PathError(f"a {spec.kind} has no terminal {terminal}", field=place)
        if point not in vehicle.points:
            raise PathError(f"{device.designation} {terminal} is on a point this job does not have", field=place)
    first, second = (device.terminals[each] for each in spec.TERMINALS)
    if first == second:
        raise PathError(f"both sides of {device.designation} are on one point", field=("terminals", spec.TERMINALS[1]))


def check_scenario(vehicle: Vehicle, scenario: Scenario) -> None:
    """Raise PathError unless a scenario's duties are of loads of the job, and its id is none of the standard ones."""
    if scenario.id in STANDARD:
        raise PathError(f'"{scenario.id}" is a standard scenario; call yours otherwise', field=("id",))
    for device_id in scenario.duty_percent:
        device = vehicle.devices.get(device_id)
        if device is None or not isinstance(device.spec, Load):
            raise PathError(f"{scenario.name} sets a load this job does not have", field=("duty_percent", device_id))


def check_drive(vehicle: Vehicle, drive: Drive) -> None:
    """Raise PercorsoError unless every spell of a drive runs under a scenario, and its id is no usual one's."""
    if drive.id in PRESETS:
        raise PathError(f'"{drive.id}" is one of the usual drives; call yours otherwise', field=("id",))
    for place, spell in enumerate(drive.spells):
        find_scenario(spell.scenario, vehicle.scenarios, ("spells", place, "scenario"))


def check_circuit(vehicle: Vehicle, circuit: Circuit) -> None:
    """Raise PathError unless the circuit is one path out and one path back that never meet, to a device of the job."""
    if circuit.device_id is not None and circuit.device_id not in vehicle.devices:
        raise PathError(f"{circuit.name} feeds a device this job does not have", field=("device_id",))
    out = stations(vehicle, circuit, "supply")
    back = stations(vehicle, circuit, "return")
    shared = set(out) & set(back)
    if shared:
        name = vehicle.points[next(point for point in back if point in shared)].name
        raise PathError(
            f"{circuit.name} makes a loop: the return side meets the supply side at {name}", field=("return_path",)
        )


SOURCE_SHARES = (0.3, 1.5)  # of nominal: from a cranking battery to an overcharging alternator, from memory


def check_believable(vehicle: Vehicle, circuit: Circuit) -> None:
    """Raise PercorsoError where a circuit's voltages are none its vehicle can have, or leave nothing to lose."""
    low, high = (round(share * vehicle.nominal_v, 2) for share in SOURCE_SHARES)
    if not low <= circuit.source_v <= high:
        message = f"a source of a {vehicle.nominal_v:g} V vehicle has {low:g} to {high:g} V, not {circuit.source_v:g} V"
        raise PercorsoError(message, field=("source_v",))
    allowed = circuit.target.allowed_drop_v(circuit.source_v, vehicle.nominal_v)
    if not 0 < allowed < circuit.source_v:
        source = f"{circuit.source_v:g} V"
        at_device = circuit.target.kind == "min_device_v"
        hint = f"the device can get less than the {source} of its source" if at_device else f"write less than {source}"
        raise PercorsoError(f"that leaves {allowed:.3g} V to lose of {source}; {hint}", field=("target_value",))
