"""Operating states: key position and engine, the way a vehicle gets from one to the next, and named inputs."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal, get_args

from percorso.errors import StateError
from percorso.kept import cached_property

State = Literal["off", "accessory", "on", "cranking", "idle", "road"]
STATES: tuple[State, ...] = get_args(State)
STATE_NAMES: Mapping[State, str] = {  # as said of a vehicle: "18.0 A idling"
    "off": "off",
    "accessory": "accessory",
    "on": "key on",
    "cranking": "cranking",
    "idle": "idling",
    "road": "on the road",
}
IN_STATE: Mapping[State, str] = {  # when something happens: "chatters while cranking"
    "off": "with the key off",
    "accessory": "with the key on accessory",
    "on": "with the key on",
    "cranking": "while cranking",
    "idle": "while idling",
    "road": "while driving",
}
KeyPosition = Literal["off", "accessory", "on", "start"]
KEY_POSITIONS: tuple[KeyPosition, ...] = get_args(KeyPosition)
Engine = Literal["stopped", "cranking", "idle", "road"]

KEY: Mapping[State, KeyPosition] = {
    "off": "off",
    "accessory": "accessory",
    "on": "on",
    "cranking": "start",
    "idle": "on",
    "road": "on",
}
ENGINE: Mapping[State, Engine] = {
    "off": "stopped",
    "accessory": "stopped",
    "on": "stopped",
    "cranking": "cranking",
    "idle": "idle",
    "road": "road",
}
WAY_TO: Mapping[State, tuple[State, ...]] = {  # a state is reached by turning the key, and what latched stays latched
    "off": ("off",),
    "accessory": ("off", "accessory"),
    "on": ("off", "on"),
    "cranking": ("off", "on", "cranking"),
    "idle": ("off", "on", "cranking", "idle"),
    "road": ("off", "on", "cranking", "idle", "road"),
}
A_DRIVE: tuple[State, ...] = ("off", "on", "cranking", "idle", "road", "off")
NEXT: Mapping[State, tuple[State, ...]] = {  # where key and engine can go from a state; an engine may fail to start
    "off": ("accessory", "on"),
    "accessory": ("on", "off"),
    "on": ("cranking", "accessory", "off"),
    "cranking": ("idle", "on"),
    "idle": ("road", "accessory", "off"),
    "road": ("idle", "accessory", "off"),
}
KEY_INPUT = "key"


@dataclass(frozen=True)
class Input:
    """A named condition that drives switches: a hand switch, a pressure, a level.

    ``positions`` lists what it can be, the resting one first; ``by_state`` says where it stands unless told otherwise.
    In the states of ``fixed_in`` it cannot stand elsewhere: nobody drives with the parking brake on.
    """

    id: str
    name: str
    positions: tuple[str, ...] = ("off", "on")
    by_state: Mapping[State, str] = field(default_factory=dict)
    fixed_in: tuple[State, ...] = ()

    def position(self, state: State) -> str:
        """Where it stands in a state if nobody says otherwise."""
        return self.by_state.get(state, self.positions[0])

    def possible(self, state: State) -> tuple[str, ...]:
        """Where it can stand in a state."""
        return (self.position(state),) if state in self.fixed_in else self.positions


@dataclass(frozen=True)
class Step:
    """One step of a way through the states: a state, and which inputs do not stand as usual in it."""

    state: State
    chosen: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def key(self) -> tuple[State, tuple[tuple[str, str], ...]]:
        """Tells steps apart."""
        return self.state, tuple(sorted(self.chosen.items()))


def steps(states: Iterable[State], chosen: Mapping[str, str] | None = None) -> tuple[Step, ...]:
    """States one after the other with the same inputs chosen in all of them."""
    return tuple(Step(state, chosen or {}) for state in states)


def read_way(text: str) -> tuple[Step, ...]:
    """A way as a person writes it: ``off, on, cranking, idle heater=on, road``. Raises StateError."""
    read = []
    for place, piece in enumerate(text.split(",")):
        name, *inputs = piece.split() or [""]
        if name not in STATES:
            raise StateError(f'"{name}" is no state; there is {", ".join(STATES)}', field=("way", place))
        chosen = dict(each.partition("=")[::2] for each in inputs)
        if not all(chosen.values()):
            raise StateError(f'"{piece.strip()}": write inputs as heater=on', field=("way", place))
        read.append(Step(name, chosen))
    return tuple(read)


def written_way(way: Iterable[Step]) -> str:
    """A way as ``read_way`` reads it."""
    return ", ".join(" ".join([step.state, *(f"{each}={at}" for each, at in step.chosen.items())]) for step in way)


def check_way(way: Sequence[Step]) -> None:
    """Raises StateError, with the step's place as its field, where key and engine cannot go from one to the next."""
    if not way:
        raise StateError("say at least one state", field=("way",))
    for place, (one, other) in enumerate(pairwise(way), start=1):
        if other.state != one.state and other.state not in NEXT[one.state]:
            can = " or ".join(NEXT[one.state])
            wrong = f"{other.state} does not come after {one.state}; from there it goes to {can}"
            raise StateError(wrong, field=("way", place))


def positions(inputs: Mapping[str, Input], state: State, chosen: Mapping[str, str]) -> dict[str, str]:
    """Position of the key and of every input in a state; ``chosen`` overrides what is usual.

    Raises StateError when an input or a position does not exist.
    """
    for name, position in chosen.items():
        if name not in inputs:
            known = ", ".join(inputs) or "none at all"
            raise StateError(f'there is no input "{name}"; this job has {known}', field=("inputs", name))
        if position not in inputs[name].positions:
            can = ", ".join(inputs[name].positions)
            raise StateError(f'{inputs[name].name} cannot be "{position}"; it can be {can}', field=("inputs", name))
    usual = {each.id: each.position(state) for each in inputs.values()}
    return {KEY_INPUT: KEY[state], **usual, **chosen}
