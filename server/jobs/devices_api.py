"""HTTP API of what makes and uses power in a job, and of the named conditions that drive its switches."""

from dataclasses import replace
from uuid import UUID, uuid4

from ninja import Router
from pydantic import Field

from jobs import models
from jobs.carrying_out import carry_out, job_of
from jobs.editing import Draft
from jobs.schemas import Body, Key, Saved, SpecIn
from percorso.changes.parts import remove_device, remove_input, with_device, with_input
from percorso.changes.routes import named_point
from percorso.errors import PathError
from percorso.files.job_file import FileInput, input_of
from percorso.names import Designation, Name
from percorso.vehicle.devices import DEVICE_LETTER, changed_device, new_device
from percorso.vehicle.model import Device, Fate, Origin, Vehicle, next_designation
from workshop.signed_in import SignedInRequest

router = Router(tags=["devices"])


class DeviceValues(Body):
    """A new device; ``terminals`` are names of points by terminal mark, existing or new ones; none: not wired yet."""

    id: UUID = Field(default_factory=uuid4)
    designation: Designation | None = None
    name: Name
    terminals: dict[str, Name] = {}
    origin: Origin = "existing"
    fate: Fate = "kept"
    spec: SpecIn


class DeviceChange(Body):
    """Values of a device to change, and the version that was seen."""

    version: int
    designation: Designation | None = None
    name: Name | None = None
    terminals: dict[str, Name] | None = None
    origin: Origin | None = None
    fate: Fate | None = None
    spec: SpecIn = {}


def _with_terminals(vehicle: Vehicle, names: dict[str, str]) -> tuple[Vehicle, dict[str, str]]:
    """The vehicle with every named point, and point ids by terminal mark."""
    terminals = {}
    for mark, name in names.items():
        vehicle, terminals[mark] = named_point(vehicle, name, lambda: str(uuid4()))
    return vehicle, terminals


@router.post("/jobs/{job_id}/devices", response=Saved)
def add_device(request: SignedInRequest, job_id: UUID, values: DeviceValues, key: Key) -> Saved:
    """Add a device between points."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        spec = new_device(values.spec, held.vehicle.nominal_v)
        vehicle, terminals = _with_terminals(held.vehicle, values.terminals)
        designation = values.designation or next_designation(vehicle, DEVICE_LETTER[spec.kind])
        made = Device(str(values.id), designation, values.name, terminals, spec, origin=values.origin, fate=values.fate)
        return f"add {made.name}", with_device(vehicle, made)

    return carry_out(request, job_id, key, change, values.id)


@router.patch("/devices/{device_id}", response=Saved)
def change_device(request: SignedInRequest, device_id: UUID, values: DeviceChange, key: Key) -> Saved:
    """Change a device's values, or move its terminals to other points."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("device", str(device_id), values.version)
        before = held.vehicle.devices[str(device_id)]
        vehicle, terminals = held.vehicle, dict(before.terminals)
        if values.terminals is not None:
            vehicle, terminals = _with_terminals(vehicle, values.terminals)
        after = replace(
            before,
            designation=values.designation or before.designation,
            name=values.name or before.name,
            terminals=terminals,
            origin=values.origin or before.origin,
            fate=values.fate or before.fate,
            spec=changed_device(before.spec, values.spec),
        )
        return f"change {after.name}", with_device(vehicle, after)

    return carry_out(request, job_of(request, models.Device, device_id).pk, key, change)


@router.delete("/devices/{device_id}", response=Saved)
def delete_device(request: SignedInRequest, device_id: UUID, version: int, key: Key) -> Saved:
    """Delete a device; its points and circuits stay."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("device", str(device_id), version)
        name = held.vehicle.devices[str(device_id)].name
        return f"delete {name}", remove_device(held.vehicle, str(device_id))

    return carry_out(request, job_of(request, models.Device, device_id).pk, key, change)


class InputChange(FileInput):
    """All values of an input, and the version that was seen; its id stays."""

    version: int


@router.post("/jobs/{job_id}/inputs", response=Saved)
def add_input(request: SignedInRequest, job_id: UUID, values: FileInput, key: Key) -> Saved:
    """Add a named condition."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        if values.id in held.vehicle.inputs:
            raise PathError(f'there is already an input "{values.id}"', field=("id",))
        return f"add input {values.name}", with_input(held.vehicle, input_of(values))

    return carry_out(request, job_id, key, change)


@router.patch("/jobs/{job_id}/inputs/{input_id}", response=Saved)
def change_input(request: SignedInRequest, job_id: UUID, input_id: str, values: InputChange, key: Key) -> Saved:
    """Change a named condition."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("input", input_id, values.version)
        return f"change input {values.name}", with_input(held.vehicle, replace(input_of(values), id=input_id))

    return carry_out(request, job_id, key, change)


@router.delete("/jobs/{job_id}/inputs/{input_id}", response=Saved)
def delete_input(request: SignedInRequest, job_id: UUID, input_id: str, version: int, key: Key) -> Saved:
    """Delete a named condition nothing is driven by."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("input", input_id, version)
        return f"delete input {held.vehicle.inputs[input_id].name}", remove_input(held.vehicle, input_id)

    return carry_out(request, job_id, key, change)
