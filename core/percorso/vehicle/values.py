"""What a person says of a circuit, apart from its path."""

from typing import Annotated

from pydantic import BeforeValidator, ValidationInfo

from percorso.names import Name
from percorso.quantities import CURRENT, PERCENT, VOLTAGE
from percorso.targets import Family, Target, TargetKind
from percorso.vehicle.model import Circuit
from percorso.vehicle.states import State
from percorso.vehicle.typed_fields import KeepsTyped, Typed, typed

DesignCurrent = Annotated[float, typed(CURRENT)]
SourceVoltage = Annotated[float, typed(VOLTAGE)]


def _target_value(value: object, info: ValidationInfo) -> object:
    percent = info.data.get("target_kind") == "max_drop_percent"
    return Typed(PERCENT if percent else VOLTAGE).read(value)


class CircuitValues(KeepsTyped):
    """What a person says of a circuit, apart from its path; ``target_value`` is V, or % of nominal."""

    name: Name
    family: Family
    device: Name
    design_current_a: DesignCurrent
    source_v: SourceVoltage
    state: State = "idle"
    target_kind: TargetKind
    target_value: Annotated[float, BeforeValidator(_target_value, json_schema_input_type=float | str)]


def circuit_from(
    values: CircuitValues,
    *,
    id: str,
    source_point: str | None,
    supply: tuple[str, ...],
    return_point: str,
    return_path: tuple[str, ...],
    device_id: str | None,
) -> Circuit:
    """The model's circuit from its values and its path."""
    return Circuit(
        id=id,
        name=values.name,
        family=values.family,
        device=values.device,
        design_current_a=values.design_current_a,
        source_v=values.source_v,
        target=Target(values.target_kind, values.target_value),
        source_point=source_point,
        supply=supply,
        return_point=return_point,
        return_path=return_path,
        state=values.state,
        device_id=device_id,
        typed=values.typed,
    )
