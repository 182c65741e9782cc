"""What edits do, in the few words of an undo list."""

from collections.abc import Iterable, Mapping, Sequence

from percorso.changes.edits import ChangeDevice, ChangeSegment, Edit, NewPart
from percorso.names import MAX_NAME_LENGTH
from percorso.vehicle.model import Vehicle

VERBS: Mapping[str, str] = {  # of edits that are not said as their first word
    "start route": "lay",
    "resize circuit": "size",
    "route circuit": "reroute",
    "lead over": "lead over",
    "scale alternator": "change",
    "set fate": "change",
    "set design current": "change",
    "set access": "way to",
    "set scenario": "scenario",
    "set drive": "drive",
    "rename point": "rename point",
}
WITH_KIND = ("point", "input", "scenario", "drive")  # what is said with its name, which alone says too little
SUBJECTS = ("segment_id", "device_id", "point_id", "input_id", "circuit_id", "scenario_id", "drive_id", "id")


def label(edits: Sequence[Edit], before: Vehicle, after: Vehicle) -> str:
    """What some edits do: ``change W9``, ``add point GND6``, ``change W9 and 3 more``."""
    if not edits:
        return "nothing"
    more = f" and {len(edits) - 1} more" if len(edits) > 1 else ""
    return f"{_verb(edits[0])} {_name(edits[0], before, after)}"[: MAX_NAME_LENGTH - len(more)] + more


def _verb(edit: Edit) -> str:
    if isinstance(edit, ChangeSegment | ChangeDevice) and edit.known and not edit.change:
        return "confirm" if edit.known == "seen" else "change"
    do = edit.do
    first, _, kind = do.partition(" ")
    verb = VERBS.get(do) or {"remove": "delete"}.get(first, first)
    return f"{verb} {kind}" if kind in WITH_KIND and do not in VERBS else verb


def _name(edit: Edit, before: Vehicle, after: Vehicle) -> str:
    """What people call the thing an edit is about; a new one is what is there after and was not before."""
    told = (
        edit.id if isinstance(edit, NewPart) else next(filter(None, (getattr(edit, each, None) for each in SUBJECTS)))
    )
    names = _names(before) | _names(after)
    if told in names:
        return names[told]
    return next((names[each] for each in _ids(after) if each not in set(_ids(before))), "")


def _ids(vehicle: Vehicle) -> Iterable[str]:
    """Every id, those of circuits first: a new circuit is what its pieces were laid for."""
    return (*vehicle.circuits, *vehicle.devices, *vehicle.segments, *vehicle.points, *vehicle.inputs)


def _names(vehicle: Vehicle) -> dict[str, str]:
    named = (vehicle.points, vehicle.devices, vehicle.circuits, vehicle.inputs, vehicle.scenarios, vehicle.drives)
    names = {key: each.name for table in named for key, each in table.items()}
    return names | {each.id: each.designation for each in vehicle.segments.values()}
