"""Tests of battery, alternator, exciter and starter, at their own terminals."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from percorso.network.branches import battery_posts
from percorso.network.mornings import LEAST_POSTS_V
from percorso.network.operating_point import Network
from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.loads import IndicatorLamp, Load
from percorso.vehicle.model import Device, Stage, Vehicle
from percorso.vehicle.segments import Wire
from percorso.vehicle.states import State
from percorso.verification.checks.asked import Check, CheckGroup, CheckTarget, seen, voltage, with_target
from percorso.verification.checks.live import device_on
from percorso.verification.measured.measurements import Measurement, Situation

A_LOAD_A = 0.5  # from there on a switch counts as one of a load, from memory
MOST_DRAIN_A = 0.05  # of a vehicle at rest, common practice
CHARGED_SHARE = 12.4 / 12  # at rest: from there on a lead battery may be judged by cranking, common practice


def source_checks(network: Network, stage: Stage) -> Iterator[Check]:
    """At rest, while charging and while cranking."""
    vehicle = network.vehicle
    posts = battery_posts(vehicle)
    for each, spec in vehicle.devices_of(Battery):
        rest = _of(each, "rest", "at rest", "at rest", _between(each, "+", "-", Situation(stage=stage, state="off")))
        least = CHARGED_SHARE * (spec.nominal_v or vehicle.nominal_v)
        enough = CheckTarget("at least", round(least, 2), "charged enough to be judged, common practice")
        yield with_target(rest, enough if spec.chemistry != "LiFePO4" else None)
        yield from _drain(network, stage, each)
    for each, alternator in vehicle.devices_of(Alternator):
        yield from _charging(network, stage, each, alternator, posts)
    for each, starter in vehicle.devices_of(Starter):
        yield from _starting(network, stage, each, starter, posts)


def _drain(network: Network, stage: Stage, battery: Device) -> Iterator[Check]:
    """What is drawn from a battery at rest with everything switched off, in the leads at its minus."""
    off = Situation(stage=stage, state="off")
    off = off.model_copy(update={"inputs": {name: at[0] for name, at in _by_load(network, "off").items()}})
    rests = network.solve("off", off.inputs, look_ahead=False)
    for each in network.vehicle.meeting.get(battery.terminals["-"], ()):
        flow = Measurement(quantity="current", segment=each.id, situation=off)
        drain = _of(battery, f"drain-{each.id}", f"drain at rest, in {each.designation}", "at rest", flow)
        is_meant = abs(rests.flow_a.get(each.id, 0.0)) > MOST_DRAIN_A  # something runs with the key off
        most = CheckTarget("at most", MOST_DRAIN_A, "once its modules sleep, common practice")
        yield with_target(drain, None if is_meant else most)


def _of(device: Device, what: str, title: str, group: CheckGroup, measurement: Measurement) -> Check:
    return Check(device.id, what, f"{device.name}: {title}", group, measurement)


def _between(device: Device, red: str, black: str, situation: Situation) -> Measurement:
    return voltage(device.terminals[red], device.terminals[black], situation)


def _charging(
    network: Network, stage: Stage, device: Device, spec: Alternator, posts: tuple[str, str] | None
) -> Iterator[Check]:
    """Its voltage at post and battery, what is lost on both ways, what it gives, its sense lead and its exciter."""
    idling = device_on(network, stage, device.id, ("idle", "road"))
    running = idling or Situation(stage=stage, state="idle")
    post, case = device.terminals["B+"], device.terminals["B-"]
    yield _of(device, "post", "charging voltage at its post", "charging", voltage(post, case, running))
    if posts is not None:
        plus, minus = posts
        at_battery = voltage(plus, minus, running)
        yield _of(device, "battery", "charging voltage at the battery", "charging", at_battery)
        for how, loaded in _loaded(network, running):
            yield _of(device, f"battery-{how}", f"at the battery, {how}", "charging", voltage(plus, minus, loaded))
        if post != plus:
            yield _of(device, "plus", "lost from post to battery", "charging", voltage(post, plus, running))
        if case != minus:
            yield _of(device, "minus", "lost from case to battery minus", "charging", voltage(case, minus, running))
    leads = network.vehicle.meeting.get(post, ())
    for each in leads:
        flow = Measurement(quantity="current", segment=each.id, situation=running)
        yield _of(device, f"current-{each.id}", f"current in {each.designation}", "charging", flow)
    if "S" in device.terminals:
        yield _of(device, "sense", "at its sense terminal", "charging", _between(device, "S", "B-", running))
        if posts is not None and device.terminals["S"] != posts[0]:
            lost = voltage(posts[0], device.terminals["S"], running)
            yield _of(device, "sense-lost", "lost from battery plus to its sense terminal", "charging", lost)
    if "D+" in device.terminals:
        yield from _exciter(network.vehicle, stage, device, running)


def _loaded(network: Network, running: Situation) -> Iterator[tuple[str, Situation]]:
    """The situation with as few loads on as its inputs allow, and with as many."""
    drawn = _by_load(network, running.state)
    if drawn:
        for how, place in (("loads off", 0), ("all loads on", -1)):
            chosen = {name: positions[place] for name, positions in drawn.items()}
            yield how, running.model_copy(update={"inputs": chosen})


def _by_load(network: Network, state: State) -> dict[str, list[str]]:
    """The positions of each input that switches a load worth speaking of, the one with which least is drawn first."""
    found = {}
    for each in network.vehicle.inputs.values():
        drawn = {at: _drawn_a(network, state, {each.id: at}) for at in each.possible(state)}
        if max(drawn.values()) - min(drawn.values()) >= A_LOAD_A:
            found[each.id] = sorted(drawn, key=drawn.__getitem__)
    return found


def _drawn_a(network: Network, state: State, chosen: Mapping[str, str]) -> float:
    """What all loads draw together, A."""
    devices = network.solve(state, chosen, look_ahead=False).devices
    return sum(abs(devices[each.id].current_a or 0.0) for each, _ in network.vehicle.devices_of(Load))


def _exciter(vehicle: Vehicle, stage: Stage, device: Device, running: Situation) -> Iterator[Check]:
    """D+ and its lamp with the key off, on, and while the alternator gives."""
    off, on = (Situation(stage=stage, state=state) for state in ("off", "on"))
    lamp = _charge_lamp(vehicle, device)
    moments: tuple[tuple[Situation, CheckGroup], ...] = ((off, "at rest"), (on, "at rest"), (running, "charging"))
    for situation, group in moments:
        when = WHEN[situation.state]
        yield _of(device, "exciter", f"D+, {when}", group, _between(device, "D+", "B-", situation))
        if lamp is not None:
            looks = Check(lamp.id, "lamp", f"{lamp.name}, {when}", group, seen(lamp.id, situation))
            yield looks


WHEN: dict[State, str] = {
    "off": "key off",
    "accessory": "key on accessory",
    "on": "key on",
    "cranking": "cranking",
    "idle": "idling",
    "road": "on the road",
}


def _charge_lamp(vehicle: Vehicle, alternator: Device) -> Device | None:
    """The indicator lamp that some of the metal joins to D+ without a contact between."""
    reached, waiting = {alternator.terminals["D+"]}, [alternator.terminals["D+"]]
    others = {point for mark, point in alternator.terminals.items() if mark != "D+"}
    while waiting:
        for each in vehicle.meeting.get(waiting.pop(), ()):
            ends = {each.from_point, each.to_point} - reached - others
            reached |= ends
            waiting += ends
    lamps = vehicle.devices_of(IndicatorLamp)
    return next((each for each, _ in lamps if reached.intersection(each.terminals.values())), None)


def _starting(
    network: Network, stage: Stage, device: Device, spec: Starter, posts: tuple[str, str] | None
) -> Iterator[Check]:
    """All while cranking: battery, trigger, what is lost out and back, and the current."""
    cranking = device_on(network, stage, device.id, ("cranking",)) or Situation(stage=stage, state="cranking")
    nominal = network.vehicle.nominal_v
    if posts is not None:
        at_posts = _of(device, "battery", "battery while cranking", "cranking", voltage(*posts, cranking))
        least = round(LEAST_POSTS_V * nominal / 12, 2)
        yield with_target(at_posts, CheckTarget("at least", least, "common practice"))
    if "50" in device.terminals:
        trigger = _of(device, "trigger", "trigger at 50", "cranking", _between(device, "50", "31", cranking))
        yield with_target(trigger, CheckTarget("at least", spec.pull_in_v, "what its solenoid pulls in at"))
    leads = [each for each in network.vehicle.meeting.get(device.terminals["30"], ()) if isinstance(each.spec, Wire)]
    flow_a = network.solve("cranking", cranking.inputs, look_ahead=False).flow_a
    for each in sorted(leads, key=lambda lead: -abs(flow_a.get(lead.id, 0.0)))[:1]:
        flow = Measurement(quantity="current", segment=each.id, situation=cranking)
        yield _of(device, "current", f"current in {each.designation}", "cranking", flow)
    yield _of(device, "motor", "at the starter itself", "cranking", _between(device, "30", "31", cranking))
    if posts is not None:
        plus, minus = posts
        for what, title, red, black in (
            ("plus", "lost from battery to 30", plus, device.terminals["30"]),
            ("minus", "lost from its body to battery minus", device.terminals["31"], minus),
        ):
            if red != black:
                yield _of(device, what, title, "cranking", voltage(red, black, cranking))
    turns = seen(device.id, cranking)
    yield replace(_of(device, "turns", "turns the engine", "cranking", turns))
