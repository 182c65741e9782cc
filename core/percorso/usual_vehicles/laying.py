"""Lays the usual vehicle as found: existing parts in builders' sizes and usual lengths, with its circuits."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from heapq import heappop, heappush
from itertools import count
from typing import Any, cast

from percorso.targets import Family, Target, TargetKind
from percorso.usual_vehicles.questions import AND, CONSUMERS, complete
from percorso.usual_vehicles.rows import rows, rows_for, values
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Device, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.states import Input, State

GROUNDS = {"front": "Body front", "rear": "Body rear", "engine": "Engine block"}
FEEDS = {"30": "Fuse box 30", "15": "Fuse box 15", "acc": "Fuse box accessory"}
INSTRUMENTS = "Instruments 15"  # which feeds relays too
FIRST_OF_CONSUMERS = {"W": 20, "F": 10, "K": 3, "S": 5, "J": 10}  # numbers beyond those of the other tables
OF_A_12_V = 12.0  # what the tables are of; one of twice the voltage takes half the current for the same power
CHARGING_V, AT_REST_V = 14.2, 12.4  # at the battery, common practice
TIMES_OF_24_V = 0.7  # of the starter's current: a 24 V engine is the larger one, from memory
DROP_PERCENT = 6.0  # of a consumer's feed, there and back, common practice


def usual_vehicle(answers: Mapping[str, str]) -> Vehicle:
    """The usual vehicle of its kind; a question that is not answered is taken as usual. Raises UnknownNameError."""
    laying = _Laying(complete(answers))
    laying.parts()
    laying.consumers()
    laying.devices()
    return laying.vehicle()


class _Laying:
    def __init__(self, answers: Mapping[str, str]) -> None:
        self._answers = answers
        self._times = 2.0 if "24 V" in answers["system"] else 1.0
        self._points: dict[str, Point] = {}
        self._segments: dict[str, Segment] = {}
        self._devices: dict[str, Device] = {}
        self._same = {row["from"]: row["to"] for row in rows_for("parts", answers) if row["kind"] == "same point"}
        self._numbers = {letter: count(first) for letter, first in FIRST_OF_CONSUMERS.items()}

    def parts(self) -> None:
        """The sources' metal, the key and what starts and charges."""
        for row in rows_for("parts", self._answers):
            if row["kind"] != "same point":
                spec = {"kind": row["kind"], **values(row["spec"])}
                if row["kind"] == "wire":
                    spec |= {"length_m": self._length(row["run"]), "zone": row["zone"], "colour": row["colour"]}
                self._segment(row["designation"], row["from"], row["to"], spec)

    def devices(self) -> None:
        """Batteries, alternator, starter, lamp and relay."""
        for row in rows_for("devices", self._answers):
            self._device(row["designation"], row["name"], values(row["terminals"]), self._scaled(values(row["spec"])))

    def consumers(self) -> None:
        """Each over its fuse, and its switch or its relay, to its device and its ground."""
        for row in _consumers(self._answers):
            self._consumer(row)

    def vehicle(self) -> Vehicle:
        """All of it, with the circuits that lead over it."""
        moved = {getattr(each.spec, "input", None) for each in self._segments.values()}
        listed = rows_for("inputs", self._answers)
        inputs = {row["id"]: self._input(row) for row in listed if row["id"] in moved}
        laid = Vehicle(OF_A_12_V * self._times, self._points, self._segments, devices=self._devices, inputs=inputs)
        return replace(laid, circuits={each.id: each for each in _circuits(laid, self._answers)})

    def _consumer(self, row: Mapping[str, str]) -> None:
        name, colour = row["name"], row["colour"]
        fused, plus, minus, ground = (f"{name} {each}" for each in ("fuse out", "+", "−", "ground"))
        self._segment(self._next("F"), FEEDS[row["feed"]], fused, {"kind": "fuse", "rating_a": float(row["fuse_a"])})
        wire = {"kind": "wire", "size": row["size"], "colour": colour, "zone": _zone(row["run"])}
        start = fused
        if row["relay"]:
            start = self._relay(row, fused, {**wire, "size": "1.5 mm2"})
        elif row["switched_by"]:
            start = f"{name} switch out"
            self._segment(self._next("S"), fused, start, _switch(row["switched_by"]))
        self._segment(self._next("W"), start, plus, {**wire, "length_m": self._length(row["run"])})
        back = {**wire, "colour": "BN", "length_m": self._length("to its ground")}
        self._segment(self._next("W"), minus, ground, back)
        self._segment(self._next("J"), ground, GROUNDS[row["ground"]], {"kind": "joint"})
        rated_a = float(row["rated_w"]) / (13.2 * self._times)
        spec = {
            "kind": row["kind"],
            "rated_v": 13.2 * self._times,
            "rated_a": round(rated_a, 2),
            "runs_in": row["runs_in"].split(),
            "priority": row["priority"],
        }
        if row["min_v"]:
            spec["min_v"] = float(row["min_v"]) * self._times
        self._device(row["designation"], name, {"+": plus, "-": minus}, spec)

    def _relay(self, row: Mapping[str, str], fused: str, wire: Mapping[str, Any]) -> str:
        """The relay of a consumer: its contact behind the fuse, and its coil from the key, over a switch or without."""
        name = f"{row['name']} relay"
        made, contact = self._next("K"), f"{name} 87"
        coil = f"{name} 86"
        self._segment(made, fused, contact, {"kind": "relay contact", "coil": _id(made), "rated_a": 30})
        feed = INSTRUMENTS
        if row["switched_by"] != "15":
            feed = f"{name} switch out"
            self._segment(self._next("S"), INSTRUMENTS, feed, _switch(row["switched_by"]))
        self._segment(self._next("W"), feed, coil, {**wire, "length_m": 0.5, "zone": "cabin"})
        self._device(made, name, {"86": coil, "85": GROUNDS["front"]}, self._scaled({"kind": "relay coil"}))
        return contact

    def _scaled(self, spec: Mapping[str, Any]) -> dict[str, Any]:
        """What a table says of 12 V as it is of this vehicle's voltage."""
        made, kind = dict(spec), spec["kind"]
        if self._times == 1 or kind == "battery":
            return made
        amps = TIMES_OF_24_V if kind == "starter" else 1 / self._times
        by_end = {"_v": self._times, "_a": amps, "_ohm": self._times**2}
        for key, value in made.items():
            times = next((by_end[end] for end in by_end if key.endswith(end)), 1.0)
            made[key] = value * times if isinstance(value, float) else value
        if kind == "relay coil":
            made |= {"resistance_ohm": 360.0, "pull_in_v": 14.4, "drop_out_v": 4.8}
        if kind == "starter":
            made |= {"coil_ohm": 4.8, "pull_in_v": 14.4, "drop_out_v": 4.8}
        return made

    def _input(self, row: Mapping[str, str]) -> Input:
        by_state = cast(dict[State, str], values(row["by_state"]))
        return Input(row["id"], row["name"], tuple(row["positions"].split()), by_state)

    def _length(self, run: str) -> float:
        at = self._answers["battery_at"]
        row = next(each for each in rows("lengths") if each["run"] == run and each["battery_at"] in ("", at))
        return float(row[self._answers["kind"]])

    def _segment(self, designation: str, start: str, end: str, spec: Mapping[str, Any]) -> None:
        ends = self._point(start), self._point(end)
        spec = {key: _id(value) if key == "coil" else value for key, value in spec.items()}
        made = _id(designation) + ("-contact" if spec["kind"] == "relay contact" else "")
        self._segments[made] = Segment(
            made, designation, *ends, SEGMENT_SPEC.validate_python(dict(spec)), known="assumed"
        )

    def _device(self, designation: str, name: str, terminals: Mapping[str, str], spec: Mapping[str, Any]) -> None:
        made = _id(designation)
        at = {mark: self._point(point) for mark, point in terminals.items()}
        self._devices[made] = Device(
            made, designation, name, at, DEVICE_SPEC.validate_python(dict(spec)), known="assumed"
        )

    def _point(self, name: str) -> str:
        name = self._same.get(name, name)
        made = _id(name)
        self._points.setdefault(made, Point(made, name))
        return made

    def _next(self, letter: str) -> str:
        return f"{letter}{next(self._numbers[letter])}"


def _consumers(answers: Mapping[str, str]) -> list[dict[str, str]]:
    there = answers[CONSUMERS.key].split(AND)
    return [row for row in rows("consumers") if row["name"] in there]


def _switch(by: str) -> dict[str, Any]:
    return {"kind": "switch", "input": by, "closed_in": ["on"]}


def _zone(run: str) -> str:
    return "engine bay" if run in ("fuse box to engine", "fuse box to front") else "cabin"


def _id(name: str) -> str:
    """The same for the same name: an identifier takes letters, figures and hyphens."""
    plain = name.lower().replace("+", " plus").replace("−", " minus")
    return "-".join(plain.split())


def _circuits(vehicle: Vehicle, answers: Mapping[str, str]) -> Iterable[Circuit]:
    for row in rows_for("circuits", answers):
        device = vehicle.devices[_id(row["device"])]
        yield _circuit(vehicle, row["name"], device, row["from"], row["to"], row)
    for row in _consumers(answers):
        device = vehicle.devices[_id(row["designation"])]
        assert isinstance(device.spec, Load)
        own = {
            "family": "feed",
            "amps": str(device.spec.rated_a),
            "state": "idle",
            "back_to": "Battery −",
            "target_kind": "max_drop_percent",
            "target_value": str(DROP_PERCENT),
        }
        yield _circuit(vehicle, row["name"], device, "Battery +", f"{row['name']} +", own)


def _circuit(vehicle: Vehicle, name: str, device: Device, start: str, end: str, row: Mapping[str, str]) -> Circuit:
    # What charges a battery goes in at its plus and back from the vehicle's minus, over both where two are in series.
    returns = _id("Battery −") if row["family"] == "charging" else device.terminals[device.spec.TERMINALS[1]]
    source, state, times = _id(start), cast(State, row["state"]), vehicle.nominal_v / OF_A_12_V
    most = float(row["target_value"]) * (times if row["target_kind"] == "max_drop_v" else 1)
    return Circuit(
        _id(name),
        name,
        cast(Family, row["family"]),
        device.name,
        float(row["amps"]),
        (CHARGING_V if state in ("idle", "road") else AT_REST_V) * times,
        Target(cast(TargetKind, row["target_kind"]), most),
        source,
        _path(vehicle, source, _id(end)),
        returns,
        _path(vehicle, returns, _id(row["back_to"])),
        state=state,
        device_id=device.id,
    )


def _path(vehicle: Vehicle, start: str, end: str) -> tuple[str, ...]:
    """The way of fewest ohms from a point to another, over switches and contacts as if they were closed."""
    todo: list[tuple[float, str, tuple[str, ...]]] = [(0.0, start, ())]
    done: set[str] = set()
    while todo:
        ohm, point, path = heappop(todo)
        if point == end:
            return path
        if point in done:
            continue
        done.add(point)
        for segment in vehicle.meeting.get(point, ()):
            other = segment.other_end(point)
            if other is not None and other not in done:
                heappush(todo, (ohm + sum(segment.ohms), other, (*path, segment.id)))
    raise AssertionError(f"nothing leads from {start} to {end}")
