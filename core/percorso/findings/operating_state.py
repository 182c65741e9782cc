"""What a solved state shows of the vehicle as a whole: what chatters, back-feeds, floats, or is not as it is meant."""

from collections import defaultdict
from collections.abc import Iterable, Iterator

from percorso.changes.edits import InsertSegment, ResizeCircuit
from percorso.findings.alternators import alternator_findings
from percorso.findings.cold_mornings import cold_start_findings
from percorso.findings.finding import Finding, Remedy, gravest_first
from percorso.findings.overloads import View, overloads
from percorso.findings.rules import named
from percorso.house_rules import HouseRules
from percorso.network.branches import has_source
from percorso.network.device_results import draws
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Segment, stations
from percorso.vehicle.resistance import IDEAL_OHM, segment_resistance_ohm
from percorso.vehicle.segments import RelayContact

BACKFEED_A = 0.005  # a lead that gives back more than this is fed from its wrong end
TRIGGER_SHARE = 0.05  # of its pull-in voltage, from where on a starter's trigger is not dead
LEAST_DIODE_A, DIODE_RESERVE = 3.0, 1.5  # the smallest power diode, and its rating over its current; common practice
CRANKS_SLOWLY = 0.75  # of the speed at the running point, below which an engine is hard to start; from memory


def behaviour(network: Network, solution: Solution, rules: HouseRules) -> tuple[Finding, ...]:
    """Every finding about one solved state, the gravest first."""
    view = View(network.vehicle, solution, rules)
    noticed = (
        overloads,
        _unsettled,
        _no_source,
        _running_on,
        alternator_findings,
        _slow_starters,
        cold_start_findings,
        _half_pulled_coils,
        _live_triggers,
        _back_feeds,
        _joined_contacts,
        _not_as_meant,
        _floating_devices,
        _ideal_loops,
    )
    return gravest_first((finding for rule in noticed for finding in rule(view)), network.vehicle)


@named(
    "unsettled",
    says="something chatters, or a state does not come to rest",
    when="the same situation comes round again",
    source="the solve itself",
)
def _unsettled(view: View) -> Iterator[Finding]:
    for each in view.solution.unsettled:
        names = ", ".join(view.vehicle.devices[device].designation for device in each.device_ids)
        title = f"{names} chatters." if names else "This state does not come to rest."
        yield Finding("error", title, f"{each.reason[0].upper()}{each.reason[1:]}.", (), device_ids=each.device_ids)


@named(
    "no-source",
    says="nothing feeds the vehicle",
    when="there is neither battery nor alternator",
    source="the job itself",
)
def _no_source(view: View) -> Iterator[Finding]:
    if not has_source(view.vehicle):
        reason = "There is neither a battery nor an alternator, so no voltage is known: add the battery first."
        yield Finding("hint", "Nothing feeds this vehicle.", reason, ())


@named(
    "engine-runs-on",
    says="the engine keeps running with the key off",
    when="the alternator feeds what the engine needs back through its exciter lead",
    source="common practice",
)
def _running_on(view: View) -> Iterator[Finding]:
    solution = view.solution
    if not (solution.running_on or solution.outlasts_key):
        return
    fed = [device for device, spec in view.vehicle.devices_of(Load) if spec.keeps_engine_running]
    names = " and ".join(f"{each.name} ({view.volts(each)})" for each in fed)
    title = "The engine keeps running with the key off."
    if solution.outlasts_key:
        title = "Turning the key off does not stop the engine."
    reason = (
        f"The alternator feeds {names} back through its exciter lead. A lamp in that lead, or a diode that lets "
        "current to the alternator only, stops it."
    )
    yield Finding("error", title, reason, (), device_ids=tuple(each.id for each in fed))


@named(
    "starter-slow",
    says="a starter does not pull in, does not turn, or turns slowly",
    when="while cranking its voltage is too low",
    source="the starter's own points; common practice",
)
def _slow_starters(view: View) -> Iterator[Finding]:
    for device, spec in view.vehicle.devices_of(Starter):
        speed = view.solution.devices[device.id].speed
        if view.solution.state != "cranking" or speed is None:
            continue
        if not view.solution.devices[device.id].pulled_in and "50" in device.terminals:
            yield Finding(
                "error",
                f"{device.name} does not pull in.",
                _at_trigger(view, device, spec),
                (),
                device_ids=(device.id,),
            )
        elif speed < CRANKS_SLOWLY:
            title = f"{device.name} turns at {speed:.0%} of its speed." if speed else f"{device.name} does not turn."
            reason = f"Only {view.volts(device)} reach it; see where its cables and grounds lose the rest."
            yield Finding("error", title, reason, (), device_ids=(device.id,))


def _at_trigger(view: View, device: Device, spec: Starter) -> str:
    voltage = view.solution.voltage_v(device.terminals["50"], device.terminals["31"])
    got = "nothing that is known" if voltage is None else f"{voltage:.1f} V"
    return f"Its solenoid gets {got} and needs {spec.pull_in_v:g} V."


@named(
    "coil-half-pulled",
    says="a coil has too little voltage to pull in",
    when="between drop-out and pull-in",
    source="the coil's own limits",
    cure="the circuit sized anew",
)
def _half_pulled_coils(view: View) -> Iterator[Finding]:
    for device, spec in view.vehicle.devices_of(RelayCoil):
        result = view.solution.devices[device.id]
        voltage = abs(result.voltage_v or 0.0)
        if result.pulled_in is False and spec.drop_out_v < voltage < spec.pull_in_v:
            title = f"{device.designation} gets {voltage:.1f} V and needs {spec.pull_in_v:g} V to pull in."
            feeds = (each for each in view.vehicle.circuits.values() if each.device_id == device.id)
            circuit = next(feeds, None)
            cure = Remedy(f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),)) if circuit else None
            reason = "Its coil is fed through something that drops too much."
            yield Finding("caution", title, reason, (), cure, device_ids=(device.id,))


@named(
    "trigger-live",
    says="a starter's trigger is alive while nobody cranks",
    when="more than a twentieth of its pull-in voltage",
    source="common practice",
)
def _live_triggers(view: View) -> Iterator[Finding]:
    for device, spec in view.vehicle.devices_of(Starter):
        if "50" not in device.terminals or view.solution.state == "cranking":
            continue
        voltage = view.solution.voltage_v(device.terminals["50"], device.terminals["31"])
        if voltage is not None and voltage > TRIGGER_SHARE * spec.pull_in_v:
            pulls_in = view.solution.devices[device.id].pulled_in
            title = f"The trigger of {device.name} has {voltage:.1f} V while nobody cranks."
            if pulls_in:
                title = f"{device.name} pulls in while nobody cranks: its trigger has {voltage:.1f} V."
            reason = (
                "Current comes back to it through a lead that only the start position should feed; a diode stops it."
            )
            yield Finding("error", title, reason, (), point_ids=(device.terminals["50"],), device_ids=(device.id,))


@named(
    "back-feed",
    says="a control or exciter circuit is backfed",
    when="its device gives current back into its supply side",
    source="Kirchhoff's law",
    cure="a diode at the device",
)
def _back_feeds(view: View) -> Iterator[Finding]:
    """Control and exciter circuits whose device gives current back into the last piece of their supply side."""
    for circuit in view.vehicle.circuits.values():
        if circuit.family not in ("control", "exciter") or not circuit.supply:
            continue
        last = view.vehicle.segments[circuit.supply[-1]]
        current = view.solution.segments[last.id].current_a or 0.0
        at_device = stations(view.vehicle, circuit, "supply")[-1]
        back = current if last.from_point == at_device else -current
        if back > BACKFEED_A:
            title = f"{circuit.name} is backfed: {back:.2g} A come back through {last.designation}."
            reason = "Another source reaches its device and goes on from there. A diode at the device stops it."
            diode = InsertSegment(circuit_id=circuit.id, beside=last.id, after=True, spec={"kind": "diode"})
            yield Finding("error", title, reason, (last.id,), Remedy(f"a diode after {last.designation}", (diode,)))


@named(
    "relays-joined",
    says="relays have their outputs joined",
    when="their outputs meet, so that pulling one isolates nothing",
    source="common practice",
    cure="a diode behind each",
)
def _joined_contacts(view: View) -> Iterator[Finding]:
    """Relay outputs that meet behind their contacts: pulling one relay isolates nothing."""
    bus = buses(view.vehicle)
    feeds = {
        bus[device.terminals[mark]]
        for kind, marks in ((Battery, ("+", "-")), (Alternator, ("B+", "B-")))
        for device, _ in view.vehicle.devices_of(kind)
        for mark in marks
    }
    outputs: dict[str, dict[str, Segment]] = defaultdict(dict)
    for segment, spec in view.vehicle.segments_of(RelayContact):
        if spec.coil is not None:
            ends = [bus[segment.to_point], bus[segment.from_point]]
            output = next((end for end in ends if end not in feeds), None)
            if output is not None:
                outputs[output][spec.coil] = segment
    for output, joined in outputs.items():
        if len(joined) > 1:
            names = " and ".join(sorted(segment.designation for segment in joined.values()))
            title = f"{names} have their outputs joined."
            reason = (
                f"Pulling one of these relays leaves {_fed_from(view, bus, output)} on: the other feeds it. "
                "Separate their outputs."
            )
            parted = tuple(_diode_after(view, segment) for segment in joined.values())
            edits = tuple(edit for edit in parted if edit)
            cure = Remedy("a diode behind each of them", edits) if len(edits) == len(joined) else None
            yield Finding("caution", title, reason, tuple(segment.id for segment in joined.values()), cure)


def _diode_after(view: View, contact: Segment) -> InsertSegment | None:
    """A diode behind a contact, for what flows through it; None where no circuit passes it."""
    passing = (each for each in view.vehicle.circuits.values() if contact.id in each.supply)
    circuit = next(passing, None)
    if circuit is None:
        return None
    rated = max(LEAST_DIODE_A, round(DIODE_RESERVE * circuit.design_current_a))
    spec = {"kind": "diode", "rated_a": rated}
    return InsertSegment(circuit_id=circuit.id, beside=contact.id, after=True, spec=spec)


def _fed_from(view: View, bus: dict[str, str], output: str) -> str:
    fed = [each.name for each, _ in view.vehicle.devices_of(Load) if bus[each.terminals["+"]] == output]
    return " and ".join(sorted(fed)) or "what hangs on it"


@named(
    "not-as-meant",
    says="a device is off, low on voltage, on or over-volted against what it is meant to be",
    when="it must be on or off in this state, or is good for less",
    source="the device's own values",
)
def _not_as_meant(view: View) -> Iterator[Finding]:
    state = view.solution.state
    for device, spec in view.vehicle.devices_of(Load):
        here, result = (device.id,), view.solution.devices[device.id]
        if result.on is False and state in spec.runs_in:
            reason = f"It must be on in this state; {view.volts(device)} reach it, it needs {spec.least_v:g} V."
            title = f"{device.name} gets too little voltage." if draws(spec, result) else f"{device.name} is off."
            yield Finding("error", title, reason, (), device_ids=here)
        elif state in spec.rests_in and (result.on or draws(spec, result)):
            current = abs(result.current_a or 0.0)
            title = f"{device.name} is on." if result.on else f"{device.name} gets {current:.3g} A."
            reason = f"It must be off in this state and gets {view.volts(device)}: see what feeds it."
            yield Finding("error", title, reason, (), device_ids=here)
        elif spec.max_v is not None and (result.voltage_v or 0) > spec.max_v:
            reason = f"It gets {view.volts(device)} and is good for {spec.max_v:g} V."
            yield Finding("error", f"{device.name} gets too much voltage.", reason, (), device_ids=here)


@named(
    "device-floats",
    says="a device hangs in the air",
    when="no switch at all could tie it to a battery",
    source="Kirchhoff's law",
)
def _floating_devices(view: View) -> Iterator[Finding]:
    """Devices that no switch at all could tie to the battery."""
    name = buses(view.vehicle, through_switches=True)
    fed = {name[each.terminals["-"]] for each, _ in view.vehicle.devices_of(Battery)}
    fed |= {name[each.terminals["B-"]] for each, _ in view.vehicle.devices_of(Alternator)}
    for device in view.vehicle.devices.values():
        ends = [device.terminals[each] for each in device.spec.TERMINALS]
        if fed and not any(name[each] in fed for each in ends) and view.solution.points[ends[0]].floating:
            reason = "Neither of its sides leads to the battery, so its voltage is not known."
            yield Finding("hint", f"{device.name} floats.", reason, (), point_ids=tuple(ends), device_ids=(device.id,))


@named(
    "ideal-loop",
    says="links without resistance close a loop",
    when="how current shares there is anybody's guess",
    source="Ohm's law",
)
def _ideal_loops(view: View) -> Iterator[Finding]:
    """Links of no resistance that close a loop among themselves: how current shares there is anybody's guess."""
    name = {point: point for point in view.vehicle.points}
    looped = []
    for segment in _ideal_links(view):
        old, new = name[segment.to_point], name[segment.from_point]
        if old == new:
            looped.append(segment)
        name = {point: new if on == old else on for point, on in name.items()}
    if looped:
        names = ", ".join(segment.designation for segment in looped)
        reason = (
            f"Nothing says how current shares there; each is taken as {IDEAL_OHM * 1e6:g} µΩ. Give them a resistance."
        )
        yield Finding("caution", f"{names} close a loop without resistance.", reason, tuple(each.id for each in looped))


def _ideal_links(view: View) -> Iterable[Segment]:
    for segment in view.vehicle.segments.values():
        ohm = segment_resistance_ohm(segment.spec, view.vehicle.zone_temperature_c)
        if ohm <= IDEAL_OHM and segment.id in view.solution.conducting:
            yield segment
