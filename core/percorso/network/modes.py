"""Everything discrete in one moment of a network, and what of it is carried along to the next state."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from percorso.vehicle.states import Engine

TURNING: tuple[Engine, ...] = ("idle", "road")  # in which an alternator turns fast enough to give


class LatchState(NamedTuple):
    """What is carried along to the next state: coils and solenoids that have pulled in, and excited alternators."""

    pulled_in: frozenset[str] = frozenset()
    excited: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Modes:
    """Everything discrete in one moment: inputs, engine, what has pulled in, what is excited."""

    positions: Mapping[str, str]
    engine: Engine
    pulled_in: frozenset[str] = frozenset()  # relay coils and starter solenoids
    excited: frozenset[str] = frozenset()  # alternators

    @property
    def latched(self) -> LatchState:
        """What is carried along to the next state."""
        return LatchState(self.pulled_in, self.excited)
