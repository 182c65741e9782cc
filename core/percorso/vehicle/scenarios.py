"""Under what conditions a vehicle runs, and its drives: spells of time, each under one of them."""

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from percorso.errors import PercorsoError
from percorso.vehicle.states import STATES, State

Time = Literal["day", "night"]
Season = Literal["summer", "winter", "rain"]
TIMES: tuple[Time, ...] = get_args(Time)
SEASONS: tuple[Season, ...] = get_args(Season)
OUTSIDE_C: Mapping[Season, float] = {"summer": 30.0, "winter": -5.0, "rain": 12.0}  # typical, from memory


@dataclass(frozen=True)
class Scenario:
    """An operating state by day or night, in a season; a person's own one may say how much of the time a load runs.

    ``duty_percent`` is by device id, 0 for one that is switched off; what it does not name runs as its ledger says.
    """

    id: str
    name: str
    state: State
    time: Time
    season: Season
    outside_c: float
    duty_percent: Mapping[str, float] = dataclasses.field(default_factory=dict)


def standard_scenario(state: State, time: Time, season: Season) -> Scenario:
    """A state under usual conditions, under an id such as ``idle-night-winter``."""
    return Scenario(f"{state}-{time}-{season}", f"{state}, {season} {time}", state, time, season, OUTSIDE_C[season])


STANDARD: Mapping[str, Scenario] = {
    each.id: each
    for each in (standard_scenario(state, time, season) for state in STATES for season in SEASONS for time in TIMES)
}
BALANCED: tuple[str, ...] = tuple(each for each in STANDARD if STANDARD[each].state in ("idle", "road"))


@dataclass(frozen=True)
class Spell:
    """So many minutes under one scenario: a standard one of any state by its id, or one of the job's own."""

    name: str
    minutes: float
    scenario: str


@dataclass(frozen=True)
class Drive:
    """Spells one after the other, from the battery's charge at its beginning; None: as the battery says."""

    id: str
    name: str
    spells: tuple[Spell, ...]
    from_percent: float | None = None


PRESETS: Mapping[str, Drive] = {  # what an ordinary day asks of a vehicle, invented; a job adds its own
    each.id: each
    for each in (
        Drive(
            "town-winter-night",
            "Short town trips on a winter night",
            (
                Spell("to town", 10, "road-night-winter"),
                Spell("in traffic", 10, "idle-night-winter"),
                Spell("parked", 30, "off-night-winter"),
                Spell("in traffic", 10, "idle-night-winter"),
                Spell("home", 10, "road-night-winter"),
            ),
        ),
        Drive("motorway", "Two hours of motorway", (Spell("motorway", 120, "road-day-summer"),)),
        Drive(
            "market-day",
            "Market day, engine off",
            (
                Spell("to the market", 30, "road-day-summer"),
                Spell("stand", 300, "accessory-day-summer"),
                Spell("home", 30, "road-day-summer"),
            ),
        ),
        Drive("workshop-idle", "Idling in the workshop", (Spell("idling", 30, "idle-day-winter"),)),
    )
}


def find_scenario(
    scenario_id: str, own: Mapping[str, Scenario], field: tuple[str | int, ...] = ("scenario",)
) -> Scenario:
    """A job's own scenario, or a standard one. Raises PercorsoError at ``field`` where there is no such one."""
    found = own.get(scenario_id) or STANDARD.get(scenario_id)
    if found is None:
        mine = ", ".join(own) or "none of its own"
        message = f'there is no scenario "{scenario_id}"; write for example "idle-night-winter"; this job has {mine}'
        raise PercorsoError(message, field=field)
    return found
