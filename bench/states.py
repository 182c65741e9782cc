"""Measures what the design promises about states: matrix, proof and pulled parts; nothing is asserted."""

from dataclasses import replace

from bench.timing import median_ms
from core.tests.support.demo import demo
from core.tests.support.generated import large_vehicle
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.states.matrix import matrix
from percorso.states.proof import prove
from percorso.study import Study
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC, SensorSwitch, Switch
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import Input

TURNS = 5


def main() -> None:
    """Print every figure."""
    vehicle = with_inputs(large_vehicle(), 4)
    ours = median_ms(TURNS, lambda: matrix(Network(vehicle), {}))
    print(f"matrix of {len(vehicle.devices)} devices, 4 inputs, 6 states, from nothing: {ours:.0f} ms (aim: 100)")
    proved = eight_switches()
    seconds = median_ms(TURNS, lambda: prove(Network(proved))) / 1000
    count = prove(Network(proved)).situations
    print(f"proof of the minibus with 8 switches, {count} situations: {seconds:.1f} s (aim: 2)")
    print(
        f"  of {len(vehicle.devices)} devices with 4: {median_ms(TURNS, lambda: prove(Network(vehicle))) / 1000:.1f} s"
    )
    study = Study(demo("market-van"), HouseRules())
    study.proof("planned")
    print(f"all pulls of the van, 6 states: {median_ms(TURNS, lambda: study.pulled('planned', {})):.0f} ms (aim: 300)")


def with_inputs(vehicle: Vehicle, count: int) -> Vehicle:
    """A vehicle whose hand switches are driven by so many inputs in turn."""
    inputs = {f"i{each}": Input(f"i{each}", f"Switch {each}") for each in range(count)}
    segments, place = dict(vehicle.segments), 0
    for segment in vehicle.segments.values():
        if isinstance(segment.spec, Switch | SensorSwitch) and segment.spec.input in vehicle.inputs:
            spec = segment.spec.model_copy(update={"input": f"i{place % count}"})
            segments[segment.id] = replace(segment, spec=spec)
            place += 1
    return replace(vehicle, segments=segments, inputs=inputs)


def eight_switches() -> Vehicle:
    """The school minibus as planned with four more lamps, each on a switch of its own, and no switch fixed."""
    vehicle = vehicle_at(demo("school-minibus"), "planned")
    points, segments, devices = dict(vehicle.points), dict(vehicle.segments), dict(vehicle.devices)
    inputs = {each: replace(one, fixed_in=()) for each, one in vehicle.inputs.items()}
    lamp = DEVICE_SPEC.validate_python({"kind": "filament lamp", "rated_v": 12, "rated_a": 4})
    for each in ("a", "b", "c", "d"):
        switch = SEGMENT_SPEC.validate_python({"kind": "switch", "input": each, "closed_in": ["on"]})
        points[each] = Point(each, each)
        segments[f"s-{each}"] = Segment(f"s-{each}", f"S-{each}", "main", each, switch)
        devices[f"e-{each}"] = Device(f"e-{each}", f"E-{each}", each, {"+": each, "-": "body-f"}, lamp)
        inputs[each] = Input(each, each)
    return replace(vehicle, points=points, segments=segments, devices=devices, inputs=inputs)


if __name__ == "__main__":
    main()
