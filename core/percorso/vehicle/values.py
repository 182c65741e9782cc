"""What a person says of what has no spec: of circuits, inputs, scenarios and drives."""

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationInfo

from percorso.components.conductors import Series
from percorso.names import Identifier, Name
from percorso.quantities import CURRENT, LENGTH, PERCENT, TEMPERATURE, VOLTAGE
from percorso.targets import Family, Target, TargetKind
from percorso.vehicle.form_fields import Asked
from percorso.vehicle.model import Circuit, Origin
from percorso.vehicle.scenarios import Drive, Scenario, Season, Spell, Time
from percorso.vehicle.segments import Zone
from percorso.vehicle.states import Input, State
from percorso.vehicle.typed_fields import KeepsTyped, Typed, typed

DesignCurrent = Annotated[float, typed(CURRENT)]
SourceVoltage = Annotated[float, typed(VOLTAGE)]


def _target_value(value: object, info: ValidationInfo) -> object:
    percent = info.data.get("target_kind") == "max_drop_percent"
    return Typed(PERCENT if percent else VOLTAGE).read(value)


FAMILY_NAMES: Mapping[Family, str] = {
    "charging": "Charging",
    "starting": "Starting",
    "ground": "Ground",
    "feed": "Power feeds",
    "control": "Control",
    "exciter": "Exciter",
    "sense": "Sense",
}
STATE_NAMES: Mapping[State, str] = {
    "off": "off",
    "accessory": "accessory",
    "on": "key on",
    "cranking": "cranking",
    "idle": "idling",
    "road": "on the road",
}
TARGET_NAMES: Mapping[TargetKind, str] = {
    "max_drop_v": "lose at most … V",
    "max_drop_percent": "lose at most … % of nominal",
    "min_device_v": "device gets at least … V",
}


class CircuitValues(KeepsTyped):
    """What a person says of a circuit, apart from its path; ``target_value`` is V, or % of nominal."""

    name: Annotated[Name, Asked("Circuit", "Cold box feed")]
    family: Annotated[Family, Asked("Family", names=FAMILY_NAMES)]
    device: Annotated[Name, Asked("Device", "Cold box")]
    design_current_a: Annotated[DesignCurrent, Asked("Design current", "18 A")]
    source_v: Annotated[SourceVoltage, Asked("Voltage at the source")]
    state: Annotated[State, Asked("Judged while", names=STATE_NAMES)] = "idle"
    target_kind: Annotated[TargetKind, Asked("It must", names=TARGET_NAMES)]
    target_value: Annotated[
        float, BeforeValidator(_target_value, json_schema_input_type=float | str), Asked("Target", quantity="voltage")
    ]


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


LoadKind = Literal["resistive", "motor", "pump", "filament lamp", "constant power", "constant current"]
LOAD_NAMES: Mapping[LoadKind, str] = {
    "resistive": "a heater, a coil: resistive",
    "motor": "a motor: fan, blower, lift",
    "pump": "a pump",
    "filament lamp": "a filament bulb",
    "constant power": "electronics: constant power",
    "constant current": "electronics: constant current",
}
ORIGIN_NAMES: Mapping[Origin, str] = {"new": "new, to be added", "existing": "there already"}
SERIES_NAMES: Mapping[Series, str] = {"metric": "mm²", "awg": "AWG"}
RouteLength = Annotated[float | None, typed(LENGTH)]


class NewRoute(CircuitValues):
    """A circuit as first described. ``source`` and ``ground`` name points, existing ones or new.

    ``device`` names a device the job has, or what is laid as a new one of ``device_kind``. A ground circuit has no
    source and no length out.
    """

    source: Annotated[Name | None, Asked("Takes its current from", "Main stud")] = None
    ground: Annotated[Name, Asked("Returns to", "B− post")]
    supply_length_m: Annotated[RouteLength, Asked("Wire out to the device", "13 ft")] = None
    return_length_m: Annotated[float, typed(LENGTH), Asked("Wire back", "0.8 m")]
    zone: Annotated[Zone, Asked("Mostly through")] = "cabin"
    series: Annotated[Series, Asked("Sizes in", names=SERIES_NAMES)] = "awg"
    device_kind: Annotated[LoadKind | None, Asked("It is", names=LOAD_NAMES)] = None
    # of its wires and its device
    origin: Annotated[Origin, Asked("Its wires are", names=ORIGIN_NAMES)] = "existing"


class Values(BaseModel):
    """Values of something; unknown ones are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class InputValues(Values):
    """A named condition that drives switches, its positions (the resting one first) and where it stands by state.

    In the states of ``fixed_in`` it cannot stand elsewhere.
    """

    name: Name
    positions: Annotated[list[Identifier], Field(min_length=2, max_length=12)] = ["off", "on"]
    by_state: dict[State, Identifier] = {}
    fixed_in: list[State] = []


class ScenarioValues(Values):
    """Conditions of a job's own; ``duty_percent`` is by device, 0 for one that is switched off."""

    name: Name
    state: State
    time: Time = "day"
    season: Season = "summer"
    outside_c: Annotated[float, typed(TEMPERATURE), Field(ge=-50, le=60)]
    duty_percent: Annotated[dict[Identifier, Annotated[float, Field(ge=0, le=100)]], Field(max_length=500)] = {}


class SpellValues(Values):
    """A spell of time under one of the job's scenarios, or a standard one such as ``idle-night-winter``."""

    name: Name
    minutes: Annotated[float, Field(gt=0, le=2880)]
    scenario: Identifier


class DriveValues(Values):
    """Spells one after the other; ``from_percent`` is the battery's charge at the beginning, if not its own."""

    name: Name
    spells: Annotated[list[SpellValues], Field(min_length=1, max_length=50)]
    from_percent: Annotated[float, Field(ge=0, le=100)] | None = None


def input_from(values: InputValues, input_id: str) -> Input:
    """The model's input."""
    return Input(input_id, values.name, tuple(values.positions), values.by_state, tuple(values.fixed_in))


def scenario_from(values: ScenarioValues, scenario_id: str) -> Scenario:
    """The model's scenario."""
    return Scenario(id=scenario_id, **values.model_dump(include=set(ScenarioValues.model_fields)))


def drive_from(values: DriveValues, drive_id: str) -> Drive:
    """The model's drive."""
    spells = tuple(Spell(each.name, each.minutes, each.scenario) for each in values.spells)
    return Drive(drive_id, values.name, spells, values.from_percent)
