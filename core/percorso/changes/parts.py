"""Adds, exchanges and takes out what is no route: a vehicle's inputs, devices, scenarios and drives."""

from dataclasses import replace

from percorso.errors import PathError
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.scenarios import Drive, Scenario
from percorso.vehicle.segments import RelayContact, SensorSwitch, Switch
from percorso.vehicle.states import Input
from percorso.vehicle.validity import check_device, check_drive, check_input, check_scenario, check_segment


def with_input(vehicle: Vehicle, changed: Input) -> Vehicle:
    """The vehicle with an input added or exchanged, by id. Raises PathError when a switch asks for what it cannot."""
    check_input(changed)
    grown = replace(vehicle, inputs={**vehicle.inputs, changed.id: changed})
    for segment in grown.segments.values():
        check_segment(grown, segment)
    return grown


def remove_input(vehicle: Vehicle, input_id: str) -> Vehicle:
    """Take an input out. Raises PathError while switches are driven by it."""
    driven = [
        segment.designation
        for segment in vehicle.segments.values()
        if isinstance(segment.spec, Switch | SensorSwitch) and segment.spec.input == input_id
    ]
    if driven:
        raise PathError(f"{', '.join(sorted(driven))} is driven by it: change or delete that first")
    return replace(vehicle, inputs={each.id: each for each in vehicle.inputs.values() if each.id != input_id})


def with_scenario(vehicle: Vehicle, scenario: Scenario) -> Vehicle:
    """The vehicle with a scenario of its own added or exchanged, by id. Raises PathError for loads it does not have."""
    check_scenario(vehicle, scenario)
    return replace(vehicle, scenarios={**vehicle.scenarios, scenario.id: scenario})


def remove_scenario(vehicle: Vehicle, scenario_id: str) -> Vehicle:
    """Take a scenario out. Raises PathError while a drive passes it."""
    passed = [each.name for each in vehicle.drives.values() if scenario_id in {one.scenario for one in each.spells}]
    if passed:
        raise PathError(f"{', '.join(sorted(passed))} passes it: change or delete that first")
    return replace(vehicle, scenarios={each.id: each for each in vehicle.scenarios.values() if each.id != scenario_id})


def with_drive(vehicle: Vehicle, drive: Drive) -> Vehicle:
    """The vehicle with a drive added or exchanged, by id. Raises PathError for a scenario there is not."""
    check_drive(vehicle, drive)
    return replace(vehicle, drives={**vehicle.drives, drive.id: drive})


def remove_drive(vehicle: Vehicle, drive_id: str) -> Vehicle:
    """Take a drive out."""
    return replace(vehicle, drives={each.id: each for each in vehicle.drives.values() if each.id != drive_id})


def with_device(vehicle: Vehicle, device: Device) -> Vehicle:
    """The vehicle with a device added or exchanged, by id. Raises PathError when its terminals are not right."""
    check_device(vehicle, device)
    grown = replace(vehicle, devices={**vehicle.devices, device.id: device})
    for segment in grown.segments.values():
        check_segment(grown, segment)
    return grown


def remove_device(vehicle: Vehicle, device_id: str) -> Vehicle:
    """Take a device out; circuits keep its name. Raises PathError while contacts are moved by it."""
    moved = [
        segment.designation
        for segment in vehicle.segments.values()
        if isinstance(segment.spec, RelayContact) and segment.spec.coil == device_id
    ]
    if moved:
        raise PathError(f"{', '.join(sorted(moved))} is moved by this coil: change or delete that first")
    devices = {each.id: _outliving_none(each, device_id) for each in vehicle.devices.values() if each.id != device_id}
    circuits = {
        each.id: replace(each, device_id=None) if each.device_id == device_id else each
        for each in vehicle.circuits.values()
    }
    scenarios = {
        each.id: replace(each, duty_percent={one: of for one, of in each.duty_percent.items() if one != device_id})
        for each in vehicle.scenarios.values()
    }
    return replace(vehicle, devices=devices, circuits=circuits, scenarios=scenarios)


def _outliving_none(device: Device, gone: str) -> Device:
    """The device, no longer meant to fail independently of one that is gone."""
    if isinstance(device.spec, Load) and device.spec.independent_of == gone:
        return replace(device, spec=device.spec.model_copy(update={"independent_of": None}))
    return device
