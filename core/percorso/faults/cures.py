"""What cures each fault, with its work and its copper; a bypass with its condition."""

from dataclasses import dataclass
from functools import cache
from typing import Any

from percorso import tables
from percorso.changes.edits import AddDevice, AddSegment, ChangeDevice, SetFate
from percorso.components.conductors import COPPER_DENSITY_KG_M3, find_size
from percorso.faults.at_segments import CHAFED
from percorso.faults.library import kind_of
from percorso.vehicle.access import minutes as access_min
from percorso.vehicle.device_spec import DeviceSpec
from percorso.vehicle.model import Device, Fate, Segment, Vehicle
from percorso.vehicle.segments import Connector, Joint, Resistor, SegmentSpec, Shunt, Splice, Wire
from percorso.vehicle.typed_fields import merged

RENEWED_MIN, RENEWED_MIN_PER_M = 15.0, 8.0  # to lead a new wire: its two ends, and each metre; from memory
RUN = ("open", "thin place", *CHAFED, "touching its neighbour")  # that a new run cures too
VALUES = (Resistor, Shunt)  # whose resistance is what they are
BYPASS = "only where the old run is cut free at both ends and marked, and the new one is as thick and fused as it was"

Renewal = SetFate | AddSegment | ChangeDevice | AddDevice  # what it is in the plan that a part is a new one


@dataclass(frozen=True)
class Cure:
    """One way to mend a part: what is done, in how many minutes with getting at it, with how much copper (g), what must
    hold for it, and what it is in the plan: none where the same metal is put right.
    """

    does: str
    work_min: float
    copper_g: float = 0.0
    condition: str = ""
    edits: tuple[Renewal, ...] = ()


def cures_of(vehicle: Vehicle, part: str, fault: str) -> tuple[Cure, ...]:
    """What cures a fault of a part, the usual first."""
    segment = vehicle.segments.get(part)
    one: Segment | Device = vehicle.devices[part] if segment is None else segment
    reach = 0.0 if segment is None else access_min(vehicle.access_to_segment(segment))
    does, work, renews = _usual()[kind_of(one), fault]
    usual = Cure(does, work + reach, edits=renewed(vehicle, one) if renews else ())
    if segment is None or not isinstance(segment.spec, Wire) or fault not in RUN:
        return (usual,)
    leads = RENEWED_MIN + RENEWED_MIN_PER_M * segment.spec.length_m
    copper = 1e-3 * COPPER_DENSITY_KG_M3 * find_size(segment.spec.size).area_mm2 * segment.spec.length_m
    renew = Cure(
        "replace the whole run with one of the same size", leads + reach, copper, edits=renewed(vehicle, segment)
    )
    beside = renewed(vehicle, segment, "stowed")
    return usual, renew, Cure("bypass it with a new run beside it", leads, copper, BYPASS, beside)


def renewed(vehicle: Vehicle, part: Segment | Device, fate: Fate = "removed") -> tuple[Renewal, ...]:
    """The plan with a new part of the same kind in the place of an old one; none where the plan does not keep that."""
    if part.origin == "new" or part.fate != "kept":
        return ()
    if isinstance(part, Segment):
        ends = {"from_point": part.from_point, "to_point": part.to_point}
        added = AddSegment(**ends, origin="new", spec=_as_new(part.spec))
        return SetFate(segment_id=part.id, fate=fate), added
    names = {mark: vehicle.points[point].name for mark, point in part.terminals.items()}
    device = AddDevice(name=part.name, terminals=names, origin="new", spec=_as_new(part.spec))
    return ChangeDevice(device_id=part.id, fate=fate), device


def _as_new(spec: SegmentSpec | DeviceSpec) -> dict[str, Any]:
    """The values of a part with nothing of its age: as usual for its kind where a bad one was said or measured."""
    usual = {} if isinstance(spec, VALUES) else {"resistance_ohm": None}
    if isinstance(spec, Connector | Joint | Splice):
        usual["condition"] = type(spec).model_fields["condition"].default
    return merged(spec, {name: value for name, value in usual.items() if name in type(spec).model_fields})


def renew_min(part: Segment | Device) -> float:
    """How long it takes to renew a part once one is at it, minutes: as long as the most work at any of its faults."""
    return max((work for (of, _), (_, work, _) in _usual().items() if of == kind_of(part)), default=0.0)


@cache
def _usual() -> dict[tuple[str, str], tuple[str, float, bool]]:
    """What cures each fault of each kind of part, the minutes of work, and whether the part is a new one then."""
    return {
        (row["of"], row["fault"]): (row["cure"], float(row["work_min"]), row["renews"] == "yes")
        for row in tables.rows("fault_cures")
    }
