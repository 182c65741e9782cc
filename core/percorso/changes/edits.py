"""Changes to a job's network as data: each can be shown, tried and carried out, alone or in a list.

A new part may be given its ``id``; without one it gets the next. What an edit leaves out stays as it is.
"""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from percorso.components.conductors import Series
from percorso.names import Designation, Identifier, Name
from percorso.quantities import CURRENT, LENGTH
from percorso.vehicle.access import Access
from percorso.vehicle.model import Fate, Known, Origin
from percorso.vehicle.typed_fields import typed
from percorso.vehicle.values import CircuitValues, DriveValues, InputValues, NewRoute, ScenarioValues

SpecValues = Annotated[dict[str, Any], Field(description="Values of a segment or a device by name.")]
PointNames = Annotated[dict[str, Name], Field(description="Names of points, existing or new, by terminal mark.")]


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class NewPart(_Edit):
    """An edit that makes a part, which may be told its id."""

    id: Identifier | None = None


class AddPoint(NewPart):
    """A point nothing ends on yet."""

    do: Literal["add point"] = "add point"
    name: Name


class RenamePoint(_Edit):
    """Another name for a point."""

    do: Literal["rename point"] = "rename point"
    point_id: Identifier
    name: Name


class RemovePoint(_Edit):
    """A point taken out that nothing ends on."""

    do: Literal["remove point"] = "remove point"
    point_id: Identifier


class AddSegment(NewPart):
    """A new piece between two points."""

    do: Literal["add segment"] = "add segment"
    designation: Designation | None = None
    from_point: Identifier
    to_point: Identifier
    origin: Origin = "new"
    fate: Fate = "kept"
    spec: SpecValues


class InsertSegment(NewPart):
    """A new piece in series, after or before one that a circuit passes, joined to it at a new point."""

    do: Literal["insert segment"] = "insert segment"
    circuit_id: Identifier
    beside: Identifier
    after: bool
    designation: Designation | None = None
    origin: Origin = "new"
    fate: Fate = "kept"
    spec: SpecValues
    point_name: Name | None = None


class _ChangePart(_Edit):
    """Other values of a part; ``known`` alone confirms it as it is."""

    change: SpecValues = {}
    designation: Designation | None = None
    origin: Origin | None = None
    fate: Fate | None = None
    known: Known | None = None

    def known_after(self, before: Known) -> Known:
        """How it is known then: who says what a part is has looked at it, where nothing else is said."""
        return self.known or ("seen" if before == "assumed" and self.change else before)


class ChangeSegment(_ChangePart):
    """Other values of a segment, or other points at its ends."""

    do: Literal["change segment"] = "change segment"
    segment_id: Identifier
    from_point: Identifier | None = None
    to_point: Identifier | None = None


class RemoveSegment(_Edit):
    """A segment taken out, and what it connected joined."""

    do: Literal["remove segment"] = "remove segment"
    segment_id: Identifier


class MoveSegment(_Edit):
    """A segment exchanged with its neighbours, so many places along a circuit."""

    do: Literal["move segment"] = "move segment"
    circuit_id: Identifier
    segment_id: Identifier
    steps: Annotated[int, Field(ge=-20, le=20)]


class MoveEnd(_Edit):
    """One end of a segment taken off one point and put on another."""

    do: Literal["move end"] = "move end"
    segment_id: Identifier
    from_point: Identifier
    to_point: Identifier


class SplitWire(_Edit):
    """A wire cut in two at a new point, ``first_m`` from its first point."""

    do: Literal["split wire"] = "split wire"
    segment_id: Identifier
    first_m: Annotated[float, typed(LENGTH)]
    point_name: Name | None = None


class SetFate(_Edit):
    """What becomes of a segment."""

    do: Literal["set fate"] = "set fate"
    segment_id: Identifier
    fate: Fate


class SetAccess(_Edit):
    """How one gets at a point, a segment or a device; None: as is usual for it."""

    do: Literal["set access"] = "set access"
    of: Literal["point", "segment", "device"]
    id: Identifier
    access: Access | None


class AddDevice(NewPart):
    """A new device; without terminals it is known and not wired yet."""

    do: Literal["add device"] = "add device"
    designation: Designation | None = None
    name: Name
    terminals: PointNames = {}
    origin: Origin = "existing"
    fate: Fate = "kept"
    spec: SpecValues


class ChangeDevice(_ChangePart):
    """Other values of a device, or other points at its terminals."""

    do: Literal["change device"] = "change device"
    device_id: Identifier
    name: Name | None = None
    terminals: PointNames | None = None


class RemoveDevice(_Edit):
    """A device taken out; its points and circuits stay."""

    do: Literal["remove device"] = "remove device"
    device_id: Identifier


class MoveTerminals(_Edit):
    """Terminals of a device put on other points."""

    do: Literal["move terminals"] = "move terminals"
    device_id: Identifier
    terminals: dict[str, Identifier]


class ScaleAlternator(_Edit):
    """An alternator of the same kind and another output; its marking at 1 800 rpm and its curve go with it."""

    do: Literal["scale alternator"] = "scale alternator"
    device_id: Identifier
    at_6000_a: Annotated[float, typed(CURRENT)]


class AddInput(InputValues, _Edit):
    """A new named condition; switches name it by its id."""

    do: Literal["add input"] = "add input"
    id: Identifier


class ChangeInput(InputValues, _Edit):
    """Other values of a named condition."""

    do: Literal["change input"] = "change input"
    input_id: Identifier


class RemoveInput(_Edit):
    """A named condition taken out that nothing is driven by."""

    do: Literal["remove input"] = "remove input"
    input_id: Identifier


class LayCircuit(NewRoute, NewPart):
    """A new circuit in its simplest whole form: one wire out and one back, sized for its target."""

    do: Literal["lay circuit"] = "lay circuit"


class StartRoute(NewPart):
    """A starter's route, laid and sized; ``id`` is what the circuit to look at first shall have.

    What is left out of its questions' answers is answered as usual.
    """

    do: Literal["start route"] = "start route"
    starter: Identifier
    answers: Annotated[dict[str, str], Field(max_length=10)] = {}
    series: Series = "metric"


class ChangeCircuit(CircuitValues, _Edit):
    """What a circuit is for and must meet, and the device it feeds."""

    do: Literal["change circuit"] = "change circuit"
    circuit_id: Identifier
    device_id: Identifier | None = None


class LeadOver(_Edit):
    """A circuit led over pieces that lie beside its route; what only it used before goes."""

    do: Literal["lead over"] = "lead over"
    circuit_id: Identifier
    segment_ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=50)]


class RouteCircuit(_Edit):
    """A circuit led over other segments of the job, by their ids in order."""

    do: Literal["route circuit"] = "route circuit"
    circuit_id: Identifier
    source_point: Identifier | None
    supply: Annotated[tuple[Identifier, ...], Field(max_length=200)]
    return_point: Identifier
    return_path: Annotated[tuple[Identifier, ...], Field(max_length=200)]


class SetDesignCurrent(_Edit):
    """The current a circuit is designed for."""

    do: Literal["set design current"] = "set design current"
    circuit_id: Identifier
    current_a: Annotated[float, typed(CURRENT)]


class ResizeCircuit(_Edit):
    """Every wire and fuse of a circuit as recommended."""

    do: Literal["resize circuit"] = "resize circuit"
    circuit_id: Identifier


class RemoveCircuit(_Edit):
    """A circuit taken out, with what only it uses."""

    do: Literal["remove circuit"] = "remove circuit"
    circuit_id: Identifier


class SetScenario(ScenarioValues, _Edit):
    """A scenario of the job's own, new or changed."""

    do: Literal["set scenario"] = "set scenario"
    scenario_id: Identifier


class RemoveScenario(_Edit):
    """A scenario taken out that no drive passes."""

    do: Literal["remove scenario"] = "remove scenario"
    scenario_id: Identifier


class SetDrive(DriveValues, _Edit):
    """A drive of the job's own, new or changed."""

    do: Literal["set drive"] = "set drive"
    drive_id: Identifier


class RemoveDrive(_Edit):
    """A drive taken out."""

    do: Literal["remove drive"] = "remove drive"
    drive_id: Identifier


Edit = Annotated[
    AddPoint
    | RenamePoint
    | RemovePoint
    | AddSegment
    | InsertSegment
    | ChangeSegment
    | RemoveSegment
    | MoveSegment
    | MoveEnd
    | SplitWire
    | SetFate
    | SetAccess
    | AddDevice
    | ChangeDevice
    | RemoveDevice
    | MoveTerminals
    | ScaleAlternator
    | AddInput
    | ChangeInput
    | RemoveInput
    | LayCircuit
    | StartRoute
    | ChangeCircuit
    | LeadOver
    | RouteCircuit
    | SetDesignCurrent
    | ResizeCircuit
    | RemoveCircuit
    | SetScenario
    | RemoveScenario
    | SetDrive
    | RemoveDrive,
    Field(discriminator="do"),
]
