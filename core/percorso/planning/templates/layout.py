"""Lays routes on a vehicle: finds the points, devices and ways that are there, and makes what is missing."""

from collections import Counter, deque
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

from percorso.changes.parts import with_device, with_input
from percorso.changes.routes import named_point, with_circuit, with_segments, with_values
from percorso.components.conductors import Series, find_size
from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.sizing.search import recommend
from percorso.targets import Family, Target, purpose_of
from percorso.vehicle.device_spec import DeviceSpec
from percorso.vehicle.devices import Battery, changed_device, new_device
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Device, Segment, Vehicle, default_source_v, next_designation, stations
from percorso.vehicle.segments import (
    SEGMENT_SPEC,
    Body,
    Fuse,
    SegmentSpec,
    Switch,
    Wire,
    Zone,
    is_switched,
)
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import Input, State


class LayingError(PercorsoError):
    """What is asked for cannot be laid."""


_Spec = TypeVar("_Spec", bound=DeviceSpec)
FIRST_SIZE: Mapping[Series, str] = {"awg": "14 AWG", "metric": "2.5 mm2"}  # until the route is sized
STRAP_SIZE: Mapping[Series, str] = {"awg": "4 AWG", "metric": "25 mm2"}  # a strap carries what others leave to it
STRAP_M, LEAD_M = 0.4, 0.15  # a battery's own strap and a short lead at a fuse holder, common practice
SUPPLY_COLOUR: Mapping[Family, str] = {"control": "YE", "exciter": "BU", "sense": "VT"}  # else RD; common practice
RETURN_COLOUR = "BK"
KEY_FUSE_A = 20.0  # of an ignition key's own feed, common practice
SMALL_FUSE_A = 5.0  # of coils and lamps, common practice
Path = tuple[str, ...]


class Layout:
    """A vehicle under construction. Pieces it adds are new; circuits it lays are sized when it is finished."""

    def __init__(self, vehicle: Vehicle, rules: HouseRules, new_id: Callable[[], str], series: Series) -> None:
        self.vehicle, self.rules, self.new_id, self.series = vehicle, rules, new_id, series
        self.circuits: list[str] = []
        self._was_mm2 = {wire.id: _mm2(spec.size) for wire, spec in vehicle.segments_of(Wire)}

    @property
    def nominal_v(self) -> float:
        """Nominal voltage, V."""
        return self.vehicle.nominal_v

    # what is there

    def existing(self, kind: type[_Spec]) -> Device | None:
        """The first wired device of a kind that stays."""
        kept = (each for each in self.vehicle.devices.values() if each.fate == "kept" and each.terminals)
        return next((each for each in kept if isinstance(each.spec, kind)), None)

    def battery(self) -> Device:
        """The battery; a usual one is laid where there is none."""
        found = self.existing(Battery)
        if found is not None:
            return found
        values = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}
        return self.device("Battery", values, {"+": self.point("B+ post"), "-": self.point("B− post")})

    def source(self) -> str:
        """Where feeds are taken from: the point at which most of them meet their fuse, else the battery's plus post."""
        feeds = [each for each in self.vehicle.circuits.values() if each.family == "feed"]
        common = Counter(point for each in feeds if (point := self._before_its_fuse(each))).most_common(1)
        return common[0][0] if common else self.battery().terminals["+"]

    def _before_its_fuse(self, circuit: Circuit) -> str | None:
        points = stations(self.vehicle, circuit, "supply")
        pieces = (self.vehicle.segments[each].spec for each in circuit.supply)
        return next((at for at, spec in zip(points, pieces, strict=False) if isinstance(spec, Fuse)), None)

    def way(self, start: str, goal: str, through: Iterable[str] = ()) -> Path | None:
        """The shortest way between two points over what nothing switches, and over ``through``; None without one."""
        also = set(through)
        reached: dict[str, Path] = {start: ()}
        waiting = deque([start])
        while waiting:
            at = waiting.popleft()
            if at == goal:
                return reached[at]
            for segment in self.vehicle.segments.values():
                end = segment.other_end(at)
                passable = segment.fate == "kept" and (segment.id in also or not is_switched(segment.spec))
                if end is not None and end not in reached and passable:
                    reached[end] = (*reached[at], segment.id)
                    waiting.append(end)
        return None

    # pieces

    def point(self, name: str) -> str:
        """The point of a name, made if there is none."""
        self.vehicle, point = named_point(self.vehicle, name, self.new_id)
        return point

    def new_point(self, name: str) -> str:
        """A point of its own, numbered where the name is taken."""
        taken = {each.name for each in self.vehicle.points.values()}
        numbered = (name if number == 1 else f"{name} {number}" for number in range(1, len(taken) + 2))
        return self.point(next(free for free in numbered if free not in taken))

    def segment(self, spec: Mapping[str, Any] | SegmentSpec, start: str, end: str, designation: str = "") -> str:
        """A new piece between two points."""
        made = SEGMENT_SPEC.validate_python(spec)
        name = designation or next_designation(self.vehicle, made.LETTER)
        piece = Segment(self.new_id(), name, start, end, made, origin="new")
        self.vehicle = with_segments(self.vehicle, [piece])
        return piece.id

    def wire(self, start: str, end: str, length: float | str, zone: Zone = "cabin", **more: Any) -> str:
        """A new wire; its size comes when the route is finished."""
        values = {"kind": "wire", "size": FIRST_SIZE[self.series], "length_m": length, "zone": zone}
        return self.segment(values | more, start, end)

    def strap(self, start: str, end: str, length: float | str) -> str:
        """A new ground strap, as thick as straps are."""
        return self.wire(start, end, length, "engine bay", size=STRAP_SIZE[self.series], moves=True)

    def fuse(self, start: str, end: str, rating_a: float = 10) -> str:
        """A new fuse of the smallest family that has its rating; sized when the route is finished."""
        family = "blade" if rating_a <= 40 else "bolt-down" if rating_a <= 100 else "strip"
        ratings = {"kind": "fuse", "family": family, "rating_a": rating_a}
        return self.segment(ratings, start, end)

    def device(self, name: str, values: Mapping[str, Any], terminals: Mapping[str, str]) -> Device:
        """A new device under a free name, or the one that the load ledger has and nobody wired yet."""
        spec = new_device(values, self.nominal_v)
        waiting = next((each for each in self.vehicle.devices.values() if _waits_as(each, name, spec)), None)
        if waiting is not None:
            return self.with_terminals(waiting, terminals)
        designation = next_designation(self.vehicle, spec.LETTER)
        made = Device(self.new_id(), designation, self.free_name(name), terminals, spec, origin="new")
        self.vehicle = with_device(self.vehicle, made)
        return made

    def with_terminals(self, device: Device, terminals: Mapping[str, str]) -> Device:
        """A device with further terminals wired."""
        changed = replace(device, terminals={**device.terminals, **terminals})
        self.vehicle = with_device(self.vehicle, changed)
        return changed

    def changed(self, device: Device, values: Mapping[str, Any]) -> Device:
        """A device with other values."""
        after = replace(device, spec=changed_device(device.spec, values))
        self.vehicle = with_device(self.vehicle, after)
        return after

    def free_name(self, name: str) -> str:
        """The name, numbered where a device or circuit has it already."""
        taken = {each.name for parts in (self.vehicle.devices, self.vehicle.circuits) for each in parts.values()}
        numbered = (name if number == 1 else f"{name} {number}" for number in range(1, len(taken) + 2))
        return next(free for free in numbered if free not in taken)

    def input(self, name: str, on_in: Sequence[State]) -> str:
        """The input of a name, made with positions off and on if there is none; on in the states listed."""
        for each in self.vehicle.inputs.values():
            if each.name.casefold() == name.casefold():
                return each.id
        key = "".join(letter if letter.isalnum() else "_" for letter in name.lower())
        made = Input(key, name, by_state=dict.fromkeys(on_in, "on"))
        self.vehicle = with_input(self.vehicle, made)
        return made.id

    # ways

    def ground(self) -> tuple[str, Path]:
        """A place on the body and the way from there to the battery's minus post; both made if there is none."""
        minus = self.battery().terminals["-"]
        bodies = [each for each in self.vehicle.segments.values() if isinstance(each.spec, Body)]
        metal = [each for each in bodies if isinstance(each.spec, Body) and each.spec.condition == "seam path"]
        ways = [way for each in metal for end in (each.from_point, each.to_point) if (way := self.way(end, minus))]
        if ways:
            longest = max(ways, key=len)
            return self._start_of(longest, minus), longest
        at_battery, body = self.point("Body at battery"), self.point("Body")
        seam = self.segment({"kind": "body"}, body, at_battery)
        strap = self.strap(at_battery, minus, STRAP_M)
        return body, (seam, strap)

    def _start_of(self, way: Path, goal: str) -> str:
        """The point a way starts at, followed back from its goal."""
        at = goal
        for each in reversed(way):
            at = self.vehicle.segments[each].other_end(at) or at
        return at

    def engine_ground(self, block: str, length: float | str) -> Path:
        """The way from the engine block to the battery's minus post; a cable of that length if there is none."""
        minus = self.battery().terminals["-"]
        way = self.way(block, minus)
        return way if way is not None else (self.wire(block, minus, length, "engine bay", moves=True),)

    def ignition(self) -> tuple[str, Path]:
        """The ignition's output, live with the key on and while cranking, and the way to it from the battery."""
        plus = self.battery().terminals["+"]
        for each in self.vehicle.segments.values():
            spec = each.spec
            if isinstance(spec, Switch) and spec.input == "key" and {"on", "start"} <= set(spec.closed_in):
                for near, far in ((each.from_point, each.to_point), (each.to_point, each.from_point)):
                    way = self.way(plus, near)
                    if way is not None and each.id not in way and each.fate == "kept":
                        return far, (*way, each.id)
        return self.key_output("Ignition 15", ("on", "start"))

    def start_output(self) -> tuple[str, Path]:
        """The key's start output, live only while cranking, and the way to it from the battery."""
        plus = self.battery().terminals["+"]
        for each in self.vehicle.segments.values():
            if isinstance(each.spec, Switch) and each.spec.input == "key" and each.spec.closed_in == ("start",):
                for near, far in ((each.from_point, each.to_point), (each.to_point, each.from_point)):
                    way = self.way(plus, near)
                    if way is not None and each.id not in way and each.fate == "kept":
                        return far, (*way, each.id)
        return self.key_output("Ignition 50", ("start",))

    def fused(self, output: tuple[str, Path], name: str) -> tuple[str, Path]:
        """Behind a small fuse at an output of the key, for coils and lamps together, and the way there."""
        at, to_it = output
        fed = self.point(name)
        way = self.way(at, fed)
        return fed, (*to_it, *(way if way is not None else (self.fuse(at, fed, SMALL_FUSE_A),)))

    def small_ignition(self) -> tuple[str, Path]:
        """The ignition's output for coils and lamps: behind a small fuse."""
        return self.fused(self.ignition(), "Ignition 15 fused")

    def small_start(self) -> tuple[str, Path]:
        """The key's start output for coils: behind a small fuse."""
        return self.fused(self.start_output(), "Ignition 50 fused")

    def key_output(self, name: str, closed_in: tuple[str, ...]) -> tuple[str, Path]:
        """A new contact of the ignition key, fed from the source over the key's own fuse."""
        source, plus = self.source(), self.battery().terminals["+"]
        feed, output = self.point("Ignition 30"), self.point(name)
        way = self.way(plus, feed)
        if way is None:
            fused = self.new_point("Ignition fuse out")
            guard = self.fuse(source, fused, KEY_FUSE_A)
            way = (*(self.way(plus, source) or ()), guard, self.wire(fused, feed, 1.5))
        contact = self.segment({"kind": "switch", "input": "key", "closed_in": closed_in}, feed, output)
        return output, (*way, contact)

    # circuits

    def circuit(
        self,
        name: str,
        family: Family,
        device: Device | str,
        amps: float,
        supply: Path,
        return_point: str,
        return_path: Path,
        *,
        source: str | None = None,
        state: State = "idle",
        target: Target | None = None,
        source_v: float | None = None,
    ) -> str:
        """A new circuit, judged as its family usually is; its source defaults to the battery's plus post."""
        start = source or (self.battery().terminals["+"] if supply else None)
        made = Circuit(
            id=self.new_id(),
            name=self.free_name(name),
            family=family,
            device=device if isinstance(device, str) else device.name,
            design_current_a=amps,
            source_v=source_v or default_source_v(family, self.nominal_v),
            target=target
            or self.rules.target(purpose_of(family, None if isinstance(device, str) else device.spec.kind)),
            source_point=start,
            supply=supply,
            return_point=return_point,
            return_path=return_path,
            state=state,
            device_id=None if isinstance(device, str) else device.id,
        )
        self.vehicle = with_circuit(self._coloured(made), made)
        self.circuits.append(made.id)
        return made.id

    def _coloured(self, circuit: Circuit) -> Vehicle:
        """The vehicle with a colour for each new wire of a circuit that has none yet."""
        coloured = []
        for path, colour in (
            (circuit.supply, SUPPLY_COLOUR.get(circuit.family, "RD")),
            (circuit.return_path, RETURN_COLOUR),
        ):
            for each in path:
                segment = self.vehicle.segments[each]
                if segment.origin == "new" and isinstance(segment.spec, Wire) and segment.spec.colour is None:
                    coloured.append(replace(segment, spec=segment.spec.model_copy(update={"colour": colour})))
        return with_segments(self.vehicle, coloured)

    def hand_over(self, old: Device, new: Device, amps: float, return_point: str, return_path: Path) -> None:
        """Control circuits of one device feed another from now on, which returns its own way."""
        for each in list(self.vehicle.circuits.values()):
            if each.device_id == old.id and each.family == "control":
                after = replace(
                    each,
                    device=new.name,
                    device_id=new.id,
                    design_current_a=amps,
                    return_point=return_point,
                    return_path=return_path,
                    typed={},
                )
                self.vehicle = with_circuit(self.vehicle, after)

    def finished(self) -> Vehicle:
        """The vehicle with every new piece sized together; of what was there before new wires may get thicker alone."""
        planned = vehicle_at(self.vehicle, "planned")
        old = {each.id for each in planned.segments.values() if each.origin == "existing"}
        found = recommend(planned, self.rules, self.circuits, keep=frozenset(old))
        for each in found.fuses:
            if each.choice.rating_a is None and each.segment_id not in old:
                raise LayingError(each.choice.reason)
        sizes = {wire: values["size"] for wire, values in found.changes.items() if wire in self._was_mm2}
        thinner = {wire for wire, size in sizes.items() if _mm2(size) < self._was_mm2[wire]}
        return with_values(self.vehicle, {piece: one for piece, one in found.changes.items() if piece not in thinner})


def _mm2(size: Any) -> float:
    return find_size(size).area_mm2


def _waits_as(device: Device, name: str, spec: DeviceSpec) -> bool:
    """Whether a device nobody wired yet is the one meant: a load of that name, or a source of that kind."""
    if device.terminals or device.fate != "kept":
        return False
    if isinstance(spec, Load):
        return isinstance(device.spec, Load) and device.name == name
    return device.spec.kind == getattr(spec, "kind", None)
