"""Vehicles made up at random from a seed: every kind of segment and device, on 5 to 150 points."""

from random import Random
from typing import Any

from percorso.files.job_file import JobHead, job_file_of, write_job_file
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.states import Input

SOURCES = ("main", "kl15", "kl50")
GROUNDS = ("body", "engine", "rear")


class _Builder:
    def __init__(self, seed: int) -> None:
        self.random = Random(seed)
        self.points: dict[str, Point] = {}
        self.segments: dict[str, Segment] = {}
        self.devices: dict[str, Device] = {}

    def point(self, name: str | None = None) -> str:
        name = name or f"p{len(self.points)}"
        self.points.setdefault(name, Point(name, name))
        return name

    def segment(self, start: str, end: str, **spec: Any) -> str:
        name = f"s{len(self.segments)}"
        ends = (start, end) if self.random.random() < 0.5 or spec["kind"] == "diode" else (end, start)
        self.segments[name] = Segment(name, name.upper(), *ends, SEGMENT_SPEC.validate_python(spec))
        return end

    def device(self, terminals: dict[str, str], **spec: Any) -> str:
        name = f"d{len(self.devices)}"
        self.devices[name] = Device(name, name.upper(), name, terminals, DEVICE_SPEC.validate_python(spec))
        return name

    def vehicle(self) -> Vehicle:
        inputs = {"lights": Input("lights", "Lights", by_state={"on": "on", "road": "on"})}
        return Vehicle(12, self.points, self.segments, devices=self.devices, inputs=inputs)

    def wire(self, start: str, end: str) -> str:
        size = self.random.choice(["1.5 mm2", "4 mm2", "16 mm2", "10 AWG", "2 AWG"])
        zone = self.random.choice(["cabin", "engine bay", "outside"])
        return self.segment(start, end, kind="wire", size=size, length_m=self.random.uniform(0.1, 6), zone=zone)

    def small_part(self, start: str, end: str) -> str:
        kind = self.random.choice(["connector", "splice", "joint", "fuse", "shunt", "breaker", "fusible link", "body"])
        extra: dict[str, dict[str, Any]] = {
            "fuse": {"rating_a": 30},
            "breaker": {"rating_a": 20},
            "fusible link": {"size": "14 AWG"},
        }
        return self.segment(start, end, kind=kind, **extra.get(kind, {}))


def generated_vehicle(seed: int, size: int, alternators: int = 1) -> Vehicle:
    """A vehicle of at most ``size`` points with battery, alternators, starter, key, relays, diodes and every load."""
    made = _Builder(seed)
    _sources(made)
    for _ in range(alternators - 1):
        _alternator(made)
    while len(made.points) + 8 <= size:
        _consumer(made)
    for _ in range(size // 20):
        made.wire(*made.random.sample([point for point in made.points if point in GROUNDS], 2))
    return made.vehicle()


def large_vehicle(seed: int = 1) -> Vehicle:
    """A vehicle of 150 points, 250 segments and 40 devices, 12 relays among them."""
    made = _Builder(seed)
    _sources(made)
    for _ in range(12):
        _consumer(made, "relay")
    while len(made.devices) < 40:
        _consumer(made, made.random.choice(["straight", "switch", "sensor", "diode", "resistor"]))
    while len(made.points) < 150:
        made.wire(made.random.choice(list(made.points)), made.point())
    while len(made.segments) < 250:  # a second wire or part beside one that is there
        beside = made.random.choice([each for each in made.segments.values() if each.spec.kind == "wire"])
        made.wire(beside.from_point, beside.to_point)
    return made.vehicle()


def _sources(made: _Builder) -> None:
    random = made.random
    plus, minus, engine = made.point("plus"), made.point("minus"), made.point("engine")
    made.device(
        {"+": plus, "-": minus},
        kind="battery",
        chemistry=random.choice(["lead-acid", "AGM", "LiFePO4"]),
        capacity_ah=random.uniform(40, 120),
        cold_cranking_a=random.uniform(300, 900),
        state_of_charge_percent=random.uniform(40, 100),
        temperature_c=random.uniform(-18, 40),
    )
    made.wire(minus, made.point("body"))
    made.wire(made.point("body"), engine)
    made.wire(plus, made.point("main"))
    made.segment(made.point("body"), made.point("rear"), kind="body")
    made.segment("main", made.point("kl15"), kind="switch", closed_in=["on", "start"])
    if random.random() < 0.8:
        made.segment("main", made.point("kl50"), kind="switch", closed_in=["start"])
        terminals = {"30": plus, "50": "kl50", "31": engine}
        made.device(terminals, kind="starter", running_v=10, running_a=140, locked_v=4, locked_a=400)
    _alternator(made)


def _alternator(made: _Builder) -> None:
    """One with or without an exciter lead, sensing at its post, at the battery, or over a lead with a pulled fuse."""
    random = made.random
    post = made.wire(random.choice(["plus", "main"]), made.point())
    terminals = {"B+": post, "B-": "engine"}
    sensing = random.choice(["post", "post", "battery", "fuse"])
    if sensing == "battery":
        terminals["S"] = random.choice(["plus", "main"])
    elif sensing == "fuse":
        terminals["S"] = made.segment("main", made.point(), kind="fuse", rating_a=5, fitted=random.random() < 0.5)
        made.device({"+": terminals["S"], "-": "engine"}, kind="filament lamp", rated_v=13.5, rated_a=0.3)
    if random.random() < 0.7:
        lamp = random.choice(["filament", "LED"])
        lead = made.point()
        terminals["D+"] = lead
        if random.random() < 0.4:
            lead = made.point()
            made.segment(lead, terminals["D+"], kind="diode", rated_a=3)
        made.device({"+": "kl15", "-": lead}, kind="indicator lamp", technology=lamp, rated_v=12, rated_a=0.1)
    made.device(
        terminals,
        kind="alternator",
        setpoint_v=random.uniform(13.8, 14.6),
        at_1800_a=random.uniform(15, 50),
        at_6000_a=random.uniform(60, 120),
        self_excites_rpm=random.choice([None, 1500]),
    )


def _consumer(made: _Builder, way: str | None = None) -> None:
    """One load, fed straight, over a switch, a diode or a relay, and grounded somewhere, perhaps badly."""
    random = made.random
    here = random.choice([point for point in SOURCES if point in made.points])
    here = made.wire(here, made.point())
    here = made.small_part(here, made.point())
    way = way or random.choice(["straight", "switch", "sensor", "diode", "relay", "resistor"])
    if way == "switch":
        here = made.segment(here, made.point(), kind="switch", input="lights", closed_in=["on"])
    elif way == "sensor":
        here = made.segment(here, made.point(), kind="sensor switch", input="lights", closed_in=["off"])
    elif way in ("diode", "resistor"):
        extra = {"resistance_ohm": random.uniform(0.1, 500), "rated_w": 5} if way == "resistor" else {"rated_a": 10}
        here = made.segment(here, made.point(), kind=way, **extra)
    elif way == "relay":
        suppression = random.choice(["none", "diode"])
        coil = made.device(
            {"86": random.choice(["kl15", "main"]), "85": random.choice(["body", "rear"])},
            kind="relay coil",
            resistance_ohm=random.uniform(60, 110),
            suppression=suppression,
        )
        here = made.segment(here, made.point(), kind="relay contact", coil=coil, form=random.choice(["NO", "NC"]))
    plus = made.wire(here, made.point())
    minus = made.wire(random.choice([point for point in GROUNDS if point in made.points]), made.point())
    _load(made, plus, minus)


def _load(made: _Builder, plus: str, minus: str) -> None:
    random = made.random
    kind = random.choice(
        ["resistive", "motor", "filament lamp", "constant current", "constant power", "indicator lamp"]
    )
    values: dict[str, Any] = {"rated_v": 13.5, "rated_a": round(random.uniform(0.2, 8), 2)}
    if kind == "indicator lamp":
        values = {"rated_v": 13.5, "rated_a": 0.02, "technology": random.choice(["LED", "filament"])}
    made.device({"+": plus, "-": minus}, kind=kind, **values)


def sneaky_vehicle(seed: int) -> Vehicle:
    """A small vehicle of relays, loads and two switches, with links and holding contacts where chance puts them."""
    made = _Builder(seed)
    _sources(made)
    random = made.random
    ends = [_switched_relay(made) for _ in range(random.randint(1, 3))]
    feeds = [each for each in ("main", "kl15", "kl50", "plus") if each in made.points]
    for switch in "ab":
        feed = random.choice([*feeds, *(out for _, out in ends)])
        way = made.segment(feed, made.point(), kind="switch", input=switch, closed_in=["on"])
        made.segment(way, made.point(), kind="fuse", rating_a=random.choice([2, 5, 10]))
    dangling = [each for each in made.points if len(_meeting(made, each)) == 1]
    for plus in dangling:
        _meant_load(made, plus)
    sneaks = [point for pair in ends for point in pair] + feeds
    for _ in range(random.randint(0, 2)):
        one, other = random.sample(sneaks, 2)
        if random.random() < 0.3:
            made.segment(one, other, kind="diode", rated_a=10)
        else:
            made.segment(one, other, kind="resistor", resistance_ohm=random.choice([0.02, 30, 200]), rated_w=5)
    inputs = {each: Input(each, each, by_state={"idle": random.choice(["off", "on"])}) for each in "ab"}
    return Vehicle(12, made.points, made.segments, devices=made.devices, inputs=inputs)


def _switched_relay(made: _Builder) -> tuple[str, str]:
    """A relay whose coil an input switches, perhaps held by a contact of its own; its coil's and its output point."""
    random = made.random
    coil_point, output = made.point(), made.point()
    feed = random.choice(["kl15", "main"])
    made.segment(feed, coil_point, kind="switch", input=random.choice("ab"), closed_in=["on"])
    coil = made.device(
        {"86": coil_point, "85": "body"}, kind="relay coil", suppression=random.choice(["none", "diode"])
    )
    made.segment("main", output, kind="relay contact", coil=coil)
    if random.random() < 0.4:
        made.segment(random.choice(["main", "kl15"]), coil_point, kind="relay contact", coil=coil)
    return coil_point, output


def _meeting(made: _Builder, point: str) -> list[str]:
    at = [each.id for each in made.segments.values() if point in (each.from_point, each.to_point)]
    return at + [each.id for each in made.devices.values() if point in each.terminals.values()]


def _meant_load(made: _Builder, plus: str) -> None:
    states = made.random.sample(["off", "accessory", "on", "cranking", "idle", "road"], 4)
    values = {"rated_v": 12, "rated_a": made.random.choice([0.5, 3, 8]), "runs_in": states[:2], "rests_in": states[2:]}
    values["keeps_engine_running"] = made.random.random() < 0.3
    made.device({"+": plus, "-": "body"}, kind=made.random.choice(["resistive", "motor", "filament lamp"]), **values)


def generated_job(seed: int, points: int) -> str:
    """The job file of such a vehicle."""
    return write_job_file(
        job_file_of(JobHead("Generated", f"{points} points", ""), generated_vehicle(seed, points), [])
    )
