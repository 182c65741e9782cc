"""Lays a new circuit in its simplest whole form: one wire out to the device and one back, already sized."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from percorso.changes.parts import with_device
from percorso.changes.routes import named_point, with_circuit, with_segments
from percorso.components.conductors import stocked_sizes
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.sizing.wire_size import Duty, WireTask, size_wire
from percorso.targets import Target
from percorso.vehicle.copper import lasts_s
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Origin, Segment, Vehicle, next_designation
from percorso.vehicle.segments import HOT_ZONES, Wire
from percorso.vehicle.values import CircuitValues, NewRoute, circuit_from


@dataclass(frozen=True)
class _Laid:
    """A vehicle under construction and the ids of the points found or made so far."""

    vehicle: Vehicle
    new_id: Callable[[], str]

    def with_point(self, name: str) -> "tuple[_Laid, str]":
        """The point of that name, made if there is none."""
        vehicle, point = named_point(self.vehicle, name, self.new_id)
        return replace(self, vehicle=vehicle), point

    def with_device(self, route: NewRoute, plus: str, minus: str) -> "tuple[_Laid, str | None]":
        """A new load between two points at its design current, where its kind is known."""
        if route.device_kind is None:
            return self, None
        kind = "motor" if route.device_kind == "pump" else route.device_kind
        values = {"kind": kind, "rated_v": route.source_v, "rated_a": route.design_current_a}
        spec = DEVICE_SPEC.validate_python(values)
        designation = next_designation(self.vehicle, spec.LETTER)
        terminals = {"+": plus, "-": minus}
        made = Device(self.new_id(), designation, route.device, terminals, spec, origin=route.origin)
        return replace(self, vehicle=with_device(self.vehicle, made)), made.id

    def with_wire(self, start: str, end: str, spec: Wire, origin: Origin) -> "tuple[_Laid, str]":
        """A new wire between two points."""
        wire = Segment(self.new_id(), next_designation(self.vehicle, "W"), start, end, spec, origin=origin)
        return replace(self, vehicle=with_segments(self.vehicle, [wire])), wire.id


def lay_circuit(
    vehicle: Vehicle, route: NewRoute, circuit_id: str, rules: HouseRules, new_id: Callable[[], str]
) -> Vehicle:
    """The vehicle with the circuit added. Raises PathError when a part of the route is missing or loops."""
    has_supply = route.source is not None and route.supply_length_m is not None
    if not has_supply and route.family != "ground":
        missing = "source" if route.source is None else "supply_length_m"
        raise PathError("say where the current comes from and how far it is to the device", field=(missing,))
    size = _size(vehicle, route, rules)
    laid = _Laid(vehicle, new_id)
    device = next((each for each in vehicle.devices.values() if each.name == route.device), None)
    wired = device is not None and bool(device.terminals)
    plus, minus = (device.terminals[each] for each in device.spec.TERMINALS) if device and wired else (None, None)
    start: str | None = None
    supply: tuple[str, ...] = ()
    if has_supply:
        laid, start = laid.with_point(route.source or "")
        if plus is None:
            laid, plus = laid.with_point(f"{route.device} +")
        laid, out = laid.with_wire(start, plus, _wire(size, route, "supply_length_m"), route.origin)
        supply = (out,)
    if minus is None:
        laid, minus = laid.with_point(f"{route.device} −" if has_supply else route.device)
    laid, end = laid.with_point(route.ground)
    laid, back = laid.with_wire(minus, end, _wire(size, route, "return_length_m"), route.origin)
    device_id = device.id if device else None
    if device is None and plus is not None:
        laid, device_id = laid.with_device(route, plus, minus)
    elif device is not None and not wired and plus is not None:
        placed = replace(device, terminals=dict(zip(device.spec.TERMINALS, (plus, minus), strict=True)))
        laid = replace(laid, vehicle=with_device(laid.vehicle, placed))
    circuit = circuit_from(
        CircuitValues.model_validate(route.model_dump(include=set(CircuitValues.model_fields))),
        id=circuit_id,
        source_point=start,
        supply=supply,
        return_point=minus,
        return_path=(back,),
        device_id=device_id,
    )
    return with_circuit(laid.vehicle, circuit)


def _wire(size: str, route: NewRoute, length_field: str) -> Wire:
    length = route.typed.get(length_field) or getattr(route, length_field)
    return Wire.model_validate({"size": size, "length_m": length, "zone": route.zone})


def _size(vehicle: Vehicle, route: NewRoute, rules: HouseRules) -> str:
    """One size for the whole length; the thickest made when none meets the target, so that the findings can say so."""
    is_short = route.state == "cranking"
    duty = Duty(
        continuous_a=0.0 if is_short else route.design_current_a,
        cranking_a=route.design_current_a if is_short else 0.0,
        air_c=vehicle.zone_temperature_c[route.zone],
        engine_space=route.zone in HOT_ZONES,
    )
    task = WireTask(
        current_a=route.design_current_a,
        length_m=(route.supply_length_m or 0.0) + route.return_length_m,
        source_v=route.source_v,
        allowed_drop_v=Target(route.target_kind, route.target_value).allowed_drop_v(route.source_v, vehicle.nominal_v),
        temperature_c=None if rules.copper == "own temperature" else vehicle.zone_temperature_c[route.zone],
        seconds=lasts_s(route.state),
        duty=duty,
        family=route.family,
        wants_fuse=route.family == "feed",
    )
    return size_wire(task, route.series, rules).size or stocked_sizes(route.series)[-1].name
