"""What a solved state shows of alternators: excitation, limit, and where the regulator senses."""

from collections.abc import Iterator

from percorso.changes.edits import ChangeDevice, InsertSegment, MoveEnd
from percorso.findings.finding import Finding, Remedy
from percorso.findings.overloads import View
from percorso.findings.rules import named
from percorso.network.device_results import is_destroyed
from percorso.network.modes import TURNING
from percorso.vehicle.alternators import setpoint_v
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.loads import IndicatorLamp, Load
from percorso.vehicle.model import Circuit, Device, stations

SENSE_OFF_V = 0.1  # a sense lead that is off by more overcharges or starves the battery; from memory
EXCITER_OHM, EXCITER_W = 470.0, 0.5  # in the lead of a 12 V regulator, common practice
RUNS_AWAY_TIMES = 1.1  # what it is set to, from where on it harms, from memory
FILAMENT_TELL_TALE_A = 0.17  # a 2 W bulb, common practice


def alternator_findings(view: View) -> Iterator[Finding]:
    """Every finding about alternators in a state."""
    yield from _asleep(view)
    yield from _at_limit(view)
    yield from _running_away(view)
    yield from _open_senses(view)
    yield from _exciters(view)
    yield from _sense_leads(view)


def _turning(view: View) -> Iterator[tuple[Device, Alternator]]:
    """The alternators of an engine that turns; none while it stands."""
    return view.vehicle.devices_of(Alternator) if view.solution.modes.engine in TURNING else iter(())


@named(
    "alternator-asleep",
    says="an alternator does not excite",
    when="its exciter lead brings too little at this speed",
    source="the alternator's own values, from memory",
    cure="a bulb in place of an LED",
)
def _asleep(view: View) -> Iterator[Finding]:
    for device, spec in _turning(view):
        if device.id not in view.solution.modes.excited:
            reason = (
                f"Its exciter lead must bring {spec.excitation_a:g} A at this speed; look at lamp, resistor and lead."
            )
            cure = _filament_instead(view)
            yield Finding("error", f"{device.name} does not excite.", reason, (), cure, device_ids=(device.id,))


@named(
    "alternator-at-limit",
    says="an alternator is at its limit",
    when="more is asked than it makes at this speed, or its regulator does not see what it makes",
    source="ISO 8854 marking",
)
def _at_limit(view: View) -> Iterator[Finding]:
    for device, spec in _turning(view):
        mode = view.solution.regulation.get(device.id)
        if device.id in view.solution.modes.excited and mode == "at its limit":
            given = view.solution.devices[device.id].current_a or 0.0
            title = f"{device.name} is at its limit of {given:.0f} A."
            yield Finding("caution", title, _why_at_limit(view, device, spec), (), device_ids=(device.id,))


@named(
    "alternator-runs-away",
    says="an alternator runs away",
    when="its regulator sees too little whatever it gives, and little takes what it makes",
    source="from memory",
)
def _running_away(view: View) -> Iterator[Finding]:
    for device, spec in _turning(view):
        post_v = view.solution.devices[device.id].voltage_v or 0.0
        if view.solution.regulation.get(device.id) != "running away" or post_v <= RUNS_AWAY_TIMES * spec.setpoint_v:
            continue
        loads = view.vehicle.devices_of(Load)
        burnt = [each for each, one in loads if is_destroyed(one, view.solution.devices[each.id].voltage_v or 0.0)]
        destroys = f" It destroys {' and '.join(each.name for each in burnt)}." if burnt else ""
        reason = f"{_sees(view, device)} and drives its field to the full, and little takes what it makes.{destroys}"
        mend = " Stop the engine; fix its cable to the battery and what its regulator senses by."
        title = f"{device.name} runs away: {post_v:.0f} V at its post."
        yield Finding("error", title, reason + mend, (), device_ids=(device.id, *(each.id for each in burnt)))


@named(
    "sense-open",
    says="a sense lead is open",
    when="it leads nowhere",
    source="common practice",
)
def _open_senses(view: View) -> Iterator[Finding]:
    for device, spec in _turning(view):
        if device.id in view.solution.sense_open:
            does = (
                "It falls back to its own post, and the battery gets less by what the cable to it loses."
                if spec.senses_own_post
                else "Its regulator sees nothing and has it give all it can: it overcharges, or runs away."
            )
            reason = f"{does} Repair the lead to terminal S."
            yield Finding("error", f"The sense lead of {device.name} is open.", reason, (), device_ids=(device.id,))


def _why_at_limit(view: View, device: Device, spec: Alternator) -> str:
    """Whether more is asked than it makes, or its regulator does not see what it makes."""
    post_v = view.solution.devices[device.id].voltage_v
    if post_v is None or post_v <= setpoint_v(spec, spec.temperature_c):
        return f"More is asked than it makes at this speed, so the voltage falls: {view.volts(device)} at its post."
    return (
        f"{_sees(view, device)} and calls for more, though there are {post_v:.1f} V at its post: "
        "repair its sense lead before the battery boils."
    )


def _sees(view: View, device: Device) -> str:
    """What the regulator of an alternator sees."""
    seen_v = view.solution.voltage_v(device.terminals.get("S", device.terminals["B+"]), device.terminals["B-"])
    blind = seen_v is None or device.id in view.solution.sense_open
    return f"Its regulator sees {'nothing' if blind else f'{seen_v:.1f} V'}"


def _filament_instead(view: View) -> Remedy | None:
    """An LED in the exciter lead passes too little for the first excitation; a bulb does not."""
    lamps = [each for each, spec in view.vehicle.devices_of(IndicatorLamp) if spec.technology == "LED"]
    in_lead = next((each for each in lamps if _in_exciter_lead(view, each)), None)
    if in_lead is None:
        return None
    edit = ChangeDevice(device_id=in_lead.id, change={"technology": "filament", "rated_a": FILAMENT_TELL_TALE_A})
    return Remedy(f"a bulb of {FILAMENT_TELL_TALE_A:g} A in place of {in_lead.name}", (edit,))


def _in_exciter_lead(view: View, lamp: Device) -> bool:
    """Whether a lamp lies on the way to some alternator's D+: its minus leads there by what nothing switches."""
    bus = buses(view.vehicle)
    posts = [each.terminals["D+"] for each, _ in view.vehicle.devices_of(Alternator) if "D+" in each.terminals]
    return any(bus[lamp.terminals["-"]] == bus[post] for post in posts)


@named(
    "exciter-direct",
    says="an exciter is fed directly",
    when="more flows than its regulator is good for",
    source="from memory",
    cure="a resistor in the lead",
)
def _exciters(view: View) -> Iterator[Finding]:
    """A regulator that wants a lamp or a resistor in its lead and gets the full feed."""
    for device, spec in view.vehicle.devices_of(Alternator):
        if "D+" not in device.terminals or view.solution.modes.engine in TURNING:
            continue
        voltage = view.solution.voltage_v(device.terminals["D+"], device.terminals["B-"])
        current = (voltage or 0.0) / spec.exciter_ohm
        if current <= spec.exciter_max_a:
            continue
        title = f"The exciter of {device.name} is fed directly: {current:.2g} A."
        reason = f"Its regulator is good for {spec.exciter_max_a:g} A and needs a lamp or a resistor in this lead."
        last = _last_piece_to(view, device.terminals["D+"])
        cure = None
        if last is not None:
            circuit, segment_id = last
            ohm = round(EXCITER_OHM * view.vehicle.nominal_v / 12)
            resistor = {"kind": "resistor", "resistance_ohm": ohm, "rated_w": EXCITER_W * view.vehicle.nominal_v / 12}
            edit = InsertSegment(circuit_id=circuit.id, beside=segment_id, after=True, spec=resistor)
            cure = Remedy(f"{ohm} Ω, {resistor['rated_w']:g} W in the lead", (edit,))
        yield Finding("error", title, reason, (last[1],) if last else (), cure, device_ids=(device.id,))


def _last_piece_to(view: View, point: str) -> tuple[Circuit, str] | None:
    """The circuit whose supply side ends on a point, and its last segment."""
    for circuit in view.vehicle.circuits.values():
        if circuit.supply and stations(view.vehicle, circuit, "supply")[-1] == point:
            return circuit, circuit.supply[-1]
    return None


@named(
    "sense-off",
    says="a sense lead sees another voltage than the battery's",
    when=f"by more than {SENSE_OFF_V:g} V",
    source="from memory",
    cure="the lead on the battery's post",
)
def _sense_leads(view: View) -> Iterator[Finding]:
    """A sense lead taken where the voltage is not the battery's: the regulator makes up for what is lost there."""
    if view.solution.modes.engine not in TURNING:
        return
    batteries = [device for device, _ in view.vehicle.devices_of(Battery)]
    for device, _ in view.vehicle.devices_of(Alternator):
        if "S" not in device.terminals or not batteries or device.id in view.solution.sense_open:
            continue
        post = batteries[0].terminals["+"]
        off_v = view.solution.voltage_v(post, device.terminals["S"])
        if off_v is None or abs(off_v) <= SENSE_OFF_V:
            continue
        sees = "less" if off_v > 0 else "more"
        does = "overcharges it by" if off_v > 0 else "charges it short by"
        title = f"The sense lead of {device.name} sees {abs(off_v):.2f} V {sees} than the battery."
        reason = f"The regulator holds the voltage there and {does} as much. Take the lead to the battery's plus post."
        yield Finding("error", title, reason, (), _sense_at(view, device, post), device_ids=(device.id,))


def _sense_at(view: View, alternator: Device, post: str) -> Remedy | None:
    """The far end of the sense lead on the battery's post, where one wire leads to S."""
    at_s = alternator.terminals["S"]
    leads = [each for each in view.vehicle.segments.values() if each.other_end(at_s) not in (None, post)]
    if len(leads) != 1:
        return None
    far = leads[0].other_end(at_s) or ""
    edit = MoveEnd(segment_id=leads[0].id, from_point=far, to_point=post)
    return Remedy(f"{leads[0].designation} on {view.vehicle.points[post].name}", (edit,))
