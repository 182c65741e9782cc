"""Changes to a job's network as data, so that a cure can be shown, tried and carried out."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from percorso.names import Identifier, Name
from percorso.quantities import CURRENT, LENGTH
from percorso.vehicle.model import Fate
from percorso.vehicle.typed_fields import typed


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class ChangeSegment(_Edit):
    """Other values of a segment."""

    do: Literal["change segment"] = "change segment"
    segment_id: Identifier
    change: dict[str, Any]


class ChangeDevice(_Edit):
    """Other values of a device."""

    do: Literal["change device"] = "change device"
    device_id: Identifier
    change: dict[str, Any]


class AddDevice(_Edit):
    """A new device that nobody wired yet."""

    do: Literal["add device"] = "add device"
    name: Name
    spec: dict[str, Any]


class RemoveDevice(_Edit):
    """A device taken out."""

    do: Literal["remove device"] = "remove device"
    device_id: Identifier


class ScaleAlternator(_Edit):
    """An alternator of the same kind and another output; its marking at 1 800 rpm and its curve go with it."""

    do: Literal["scale alternator"] = "scale alternator"
    device_id: Identifier
    at_6000_a: Annotated[float, typed(CURRENT)]


class InsertSegment(_Edit):
    """A new piece in series, after or before one that a circuit passes."""

    do: Literal["insert segment"] = "insert segment"
    circuit_id: Identifier
    beside: Identifier
    after: bool
    spec: dict[str, Any]


class AddSegment(_Edit):
    """A new piece between two points."""

    do: Literal["add segment"] = "add segment"
    from_point: Identifier
    to_point: Identifier
    spec: dict[str, Any]


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


class MoveTerminals(_Edit):
    """Terminals of a device put on other points."""

    do: Literal["move terminals"] = "move terminals"
    device_id: Identifier
    terminals: dict[str, Identifier]


class SplitWire(_Edit):
    """A wire cut in two at a new point, ``first_m`` from its first point."""

    do: Literal["split wire"] = "split wire"
    segment_id: Identifier
    first_m: Annotated[float, typed(LENGTH)]
    point_name: Name | None = None


class LeadOver(_Edit):
    """A circuit led over pieces that lie beside its route; what only it used before goes."""

    do: Literal["lead over"] = "lead over"
    circuit_id: Identifier
    segment_ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=50)]


class SetFate(_Edit):
    """What becomes of a segment."""

    do: Literal["set fate"] = "set fate"
    segment_id: Identifier
    fate: Fate


class SetDesignCurrent(_Edit):
    """The current a circuit is designed for."""

    do: Literal["set design current"] = "set design current"
    circuit_id: Identifier
    current_a: Annotated[float, typed(CURRENT)]


class ResizeCircuit(_Edit):
    """Every wire and fuse of a circuit as recommended."""

    do: Literal["resize circuit"] = "resize circuit"
    circuit_id: Identifier


Edit = Annotated[
    ChangeSegment
    | ChangeDevice
    | AddDevice
    | RemoveDevice
    | ScaleAlternator
    | InsertSegment
    | AddSegment
    | MoveSegment
    | MoveEnd
    | MoveTerminals
    | SplitWire
    | LeadOver
    | SetFate
    | SetDesignCurrent
    | ResizeCircuit,
    Field(discriminator="do"),
]
