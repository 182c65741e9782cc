"""How a vehicle may be wired that came in: what open questions leave, each possibility with its weight."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from itertools import product
from typing import TypeVar

from percorso.errors import PathError
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import OF_WIRING, Question, complete
from percorso.vehicle.ids import Ids, same_ids, with_ids
from percorso.vehicle.model import Circuit, Device, Segment, Vehicle
from percorso.vehicle.validity import check_circuit

MOST_WIRINGS = 4
MISSAID = 0.03  # of answers: somebody looked at something else, or took it for usual; from memory
NOTHING_LOOKED_AT: Mapping[str, str] = {}
_Part = TypeVar("_Part", Segment, Device)


@dataclass(frozen=True)
class Wiring:
    """A vehicle as it may be wired, how often vehicles are, and the answers to all questions of wiring.

    ``told`` are those answers that tell it from others: to what was open or looked at, or against what was said.
    """

    answers: Mapping[str, str]
    told: Mapping[str, str]
    weight: float
    vehicle: Vehicle

    @staticmethod
    def of(vehicle: Vehicle, answers: Mapping[str, str], told: Mapping[str, str], weight: float) -> "Wiring":
        """With what is usual where there is no answer."""
        every = complete(answers)
        return Wiring({each.key: every[each.key] for each in OF_WIRING}, told, weight, vehicle)


def open_questions(answers: Mapping[str, str]) -> tuple[Question, ...]:
    """The questions of how a vehicle is wired that have no answer."""
    return tuple(each for each in OF_WIRING if each.key not in answers)


def wirings(
    vehicle: Vehicle, answers: Mapping[str, str] | None, looked: Mapping[str, str] = NOTHING_LOOKED_AT
) -> tuple[Wiring, ...]:
    """At most ``MOST_WIRINGS``, the most usual first, whose weights come to one; ``looked`` are answers since.

    The vehicle was laid from ``answers`` and may have been changed since: what somebody saw or added stays in all of
    them, and a wiring that has it otherwise is none. Without ``answers`` nothing is open. Raises UnknownNameError for
    what is no question or no answer.
    """
    found = list[Wiring]()
    complete(looked)
    if answers is None:
        return (Wiring.of(vehicle, {}, {}, 1.0),)
    for weight, left in _likeliest(open_questions({**answers, **looked})):
        chosen = {**left, **looked}
        said = {**answers, **chosen}
        there = rewired(vehicle, answers, said) if chosen else vehicle
        if there is not None:
            found.append(Wiring.of(there, said, chosen, weight))
        if len(found) == MOST_WIRINGS:
            break
    if not found:
        return (Wiring.of(vehicle, answers, {}, 1.0),)
    whole = sum(each.weight for each in found)
    return tuple(replace(each, weight=each.weight / whole) for each in found)


def otherwise(
    vehicle: Vehicle, answers: Mapping[str, str] | None, looked: Mapping[str, str] = NOTHING_LOOKED_AT
) -> tuple[Wiring, ...]:
    """The wirings in which one thing that was said is not so, with what is usual where nothing was said.

    Their weights are beside those of ``wirings``, which come to one. Of a vehicle that was not laid from answers none
    is known. Raises UnknownNameError as ``wirings``.
    """
    if answers is None:
        return ()
    said, found = {**answers, **looked}, list[Wiring]()
    complete(said)
    for question in OF_WIRING:
        if question.key not in said:
            continue
        shares = dict(zip(question.choices, question.shares, strict=True))
        rest = 1 - shares.pop(said[question.key])
        for choice, share in shares.items():
            other = {**said, question.key: choice}
            there = rewired(vehicle, answers, other)
            if there is not None:
                found.append(Wiring.of(there, other, {question.key: choice}, MISSAID * share / rest))
    return tuple(found)


def _likeliest(asked: Sequence[Question]) -> Iterator[tuple[float, dict[str, str]]]:
    """Every way to answer some questions, the most usual first."""
    choices = [list(zip(each.choices, each.shares, strict=True)) for each in asked]
    every = [(math.prod(share for _, share in each), [choice for choice, _ in each]) for each in product(*choices)]
    for weight, chosen in sorted(every, key=lambda each: -each[0]):
        yield weight, {question.key: choice for question, choice in zip(asked, chosen, strict=True)}


def rewired(vehicle: Vehicle, laid_from: Mapping[str, str], answers: Mapping[str, str]) -> Vehicle | None:
    """A vehicle as it is with other answers than those it was laid from; None where somebody saw it otherwise."""
    before, after = (_called_as_in(vehicle, usual_vehicle(each)) for each in (laid_from, answers))
    segments = _exchanged(vehicle.segments, before.segments, after.segments)
    devices = _exchanged(vehicle.devices, before.devices, after.devices)
    if segments is None or devices is None:
        return None
    changed = replace(
        vehicle,
        points={**after.points, **vehicle.points},
        segments=segments,
        devices=devices,
        inputs={**after.inputs, **vehicle.inputs},
    )
    every = {**after.circuits, **{each.id: each for each in vehicle.circuits.values() if _is_whole(changed, each)}}
    whole = {key: each for key, each in every.items() if _is_whole(changed, each)}
    return replace(changed, circuits=whole)


def _exchanged(
    now: Mapping[str, _Part], before: Mapping[str, _Part], after: Mapping[str, _Part]
) -> dict[str, _Part] | None:
    """Parts with those exchanged that differ with other answers; None where somebody saw one of them as it is."""
    found = dict(now)
    for key in before.keys() | after.keys():
        was, becomes, here = before.get(key), after.get(key), now.get(key)
        if was == becomes or (here is None and was is not None):  # what somebody took out stays out
            continue
        if here is not None and here.known != "assumed":
            return None
        if becomes is None:
            found.pop(key)
        else:
            found[key] = becomes
    return found


def _called_as_in(vehicle: Vehicle, usual: Vehicle) -> Vehicle:
    """A usual vehicle under the ids of a vehicle: points and circuits by their names, parts by their designations."""
    known = [
        {each.name: each.id for each in vehicle.points.values()},
        {each.designation: each.id for each in vehicle.segments.values()},
        {each.designation: each.id for each in vehicle.devices.values()},
        {each.name: each.id for each in vehicle.circuits.values()},
    ]
    own = [
        {each.id: each.name for each in usual.points.values()},
        {each.id: each.designation for each in usual.segments.values()},
        {each.id: each.designation for each in usual.devices.values()},
        {each.id: each.name for each in usual.circuits.values()},
    ]
    taken = {*vehicle.points, *vehicle.segments, *vehicle.devices, *vehicle.circuits}
    new = [
        {key: ids.get(name) or (f"usual-{key}" if key in taken else key) for key, name in named.items()}
        for ids, named in zip(known, own, strict=True)
    ]
    rest = [getattr(same_ids(usual), each.name) for each in fields(Ids)[len(new) :]]
    return with_ids(usual, Ids(*new, *rest))


def _is_whole(vehicle: Vehicle, circuit: Circuit) -> bool:
    try:
        check_circuit(vehicle, circuit)
    except PathError:
        return False
    return True
