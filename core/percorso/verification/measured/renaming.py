"""The same measurement with everything in it under other ids: for a job file, or for the rows of a new job."""

from collections.abc import Mapping
from typing import TypeVar

from percorso.vehicle.ids import Ids
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Preparation

_Measurement = TypeVar("_Measurement", bound=Measurement)


def with_new_ids(measurement: _Measurement, new: Ids) -> _Measurement:
    """A measurement under new ids."""
    links = {
        "red_point": new.points.get(measurement.red_point or ""),
        "black_point": new.points.get(measurement.black_point or ""),
        "segment": new.segments.get(measurement.segment or ""),
        "device": new.devices.get(measurement.device or ""),
    }
    return measurement.model_copy(update={**links, "situation": renamed(measurement.situation, new)})


def renamed(situation: Situation, new: Ids) -> Situation:
    """A situation whose preparations name parts and points by their new ids; what goes by name stays."""
    parts = {**new.segments, **new.devices}
    done = tuple(_renamed(each, parts, new.points) for each in situation.preparations)
    return situation.model_copy(update={"preparations": done})


def _renamed(preparation: Preparation, parts: Mapping[str, str], points: Mapping[str, str]) -> Preparation:
    of = {"part": parts, "point": points, "from_point": points, "to_point": points}
    said = preparation.model_dump(exclude={"do"})
    return preparation.model_copy(update={name: of[name].get(text, text) for name, text in said.items() if name in of})
