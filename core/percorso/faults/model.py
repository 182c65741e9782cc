"""Faults of the metal as data, and the vehicle with them in it."""

from collections.abc import Iterable
from typing import Annotated, Any, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter

from percorso.errors import FaultError, UnknownNameError
from percorso.faults.at_devices import AT_DEVICES, DeviceFault, swapped_leads
from percorso.faults.at_segments import AT_SEGMENTS, SegmentFault
from percorso.faults.beyond import BeyondFault, bypass_of, point_of
from percorso.faults.changes import FaultChange, with_change
from percorso.faults.wording import fault_name, stored_fault
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.naming import named, segment_called


def _stored(called: Any) -> Any:
    return stored_fault(called) if isinstance(called, str) else called


class Fault(BaseModel):
    """One way a part is bad.

    ``ohm`` is what a thin place or a bad contact adds, or what is left between a chafed wire and what it touches;
    ``times`` how much a device has of what it should: a battery of its charge or its resistance, an alternator of its
    output or the voltage it holds, a starter or a load of its current, a coil that pulls in of the nominal voltage.
    ``other`` is the wire it touches, the point where it lands, the way of a plug it is swapped with, or the two
    terminals whose leads are: ``D+ W``.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    part: str
    fault: Annotated[SegmentFault | DeviceFault | BeyondFault, BeforeValidator(_stored)]
    ohm: Annotated[float, Field(ge=0, le=1e9)] | None = None
    times: Annotated[float, Field(gt=0, le=100)] | None = None
    other: str | None = None


def _listed(value: Any) -> Any:
    return value if isinstance(value, list) else [value]


FAULTS: TypeAdapter[list[Fault]] = TypeAdapter(Annotated[list[Fault], BeforeValidator(_listed)])


def with_faults(vehicle: Vehicle, faults: Iterable[Fault]) -> Vehicle:
    """The vehicle with faults in it. Raises FaultError, whose ``field`` names the fault's place in the list."""
    for place, each in enumerate(faults):
        try:
            vehicle = with_change(vehicle, change_of(vehicle, each))
        except UnknownNameError as error:
            raise FaultError(str(error), field=(place, "part")) from error
        except FaultError as error:
            raise FaultError(str(error), field=(place, *error.field)) from error
    return vehicle


def change_of(vehicle: Vehicle, fault: Fault) -> FaultChange:
    """What a fault is in the metal of a vehicle. Raises FaultError and UnknownNameError."""
    if fault.fault in get_args(BeyondFault) and point_of(fault.part) is not None:
        return bypass_of(vehicle, fault.part, fault.fault, fault.ohm, fault.other)
    devices = named(vehicle.devices.values(), fault.part)
    if devices:
        return _of_device(vehicle, devices[0], fault)
    segment = segment_called(vehicle, fault.part)
    change = AT_SEGMENTS.get((fault.fault, segment.spec.kind))
    if change is None:
        raise FaultError(f'a {segment.spec.kind} is never "{fault_name(fault.fault)}"', field=("fault",))
    return change(vehicle, segment, fault.ohm, fault.other)


def _of_device(vehicle: Vehicle, device: Device, fault: Fault) -> FaultChange:
    if fault.fault == "two leads swapped":
        return swapped_leads(device, fault.other or "")
    change = next(
        (AT_DEVICES[fault.fault, kind] for kind in type(device.spec).__mro__ if (fault.fault, kind) in AT_DEVICES), None
    )
    if change is None:
        raise FaultError(f'a {device.spec.kind} is never "{fault_name(fault.fault)}"', field=("fault",))
    return change(vehicle, device, fault.times if fault.ohm is None else fault.ohm)
