"""Ways beside a circuit's path, and how its current shares itself between them by conductance."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from percorso.network.nodal import conductance_matrix
from percorso.vehicle.copper import flow_ohms, lasts_s
from percorso.vehicle.model import SIDES, Circuit, Segment, Side, Vehicle, stations

_Join = tuple[str, str, str]  # a segment and the two points it joins


@dataclass(frozen=True)
class ForkPiece:
    """One segment of a way beside a path: size of its current (A), the voltage it loses (V) and its heat (W)."""

    segment_id: str
    current_a: float
    drop_v: float
    power_w: float


@dataclass(frozen=True)
class Fork:
    """Segments that lead past a stretch of a circuit's path, from one of its stations to a later one."""

    side: Side
    start_point: str
    end_point: str
    segment_ids: tuple[str, ...]
    beside_a: float = 0.0  # what takes this way, counted where it leaves the path
    share: float = 0.0  # of everything that passes there
    pieces: tuple[ForkPiece, ...] = ()

    def with_currents(
        self, vehicle: Vehicle, flow: Mapping[str, float], ohm: Mapping[str, float], path_a: float
    ) -> "Fork":
        """The fork with its share; ``flow`` is A from first to second point by segment, ``path_a`` what stays."""
        leaving = sum(
            flow[each] if segment.from_point == self.start_point else -flow[each]
            for each in self.segment_ids
            if (segment := vehicle.segments[each]).other_end(self.start_point)
        )
        total = abs(leaving) + abs(path_a)
        pieces = tuple(_piece(each, abs(flow[each]), ohm[each]) for each in self.segment_ids)
        return replace(self, beside_a=leaving, share=abs(leaving) / total if total > 0 else 0.0, pieces=pieces)


def _piece(segment_id: str, current_a: float, ohm: float) -> ForkPiece:
    return ForkPiece(segment_id, current_a, current_a * ohm, current_a**2 * ohm)


def forks(vehicle: Vehicle, circuit: Circuit, conducting: Iterable[str]) -> tuple[Fork, ...]:
    """Every way beside the path through segments that conduct; what also touches the other side is none."""
    on_path = {*circuit.supply, *circuit.return_path}
    others = [vehicle.segments[each] for each in conducting if each not in on_path and each in vehicle.segments]
    joins = frozenset((each.id, each.from_point, each.to_point) for each in others)
    return _ways(stations(vehicle, circuit, "supply"), stations(vehicle, circuit, "return"), joins)


@lru_cache(maxsize=2000)  # a value that changes leaves every way where it was
def _ways(supply: tuple[str, ...], back: tuple[str, ...], joins: frozenset[_Join]) -> tuple[Fork, ...]:
    """The ways beside a path, by its stations, through segments that join two points."""
    route: dict[Side, tuple[str, ...]] = {"supply": supply, "return": back}
    on_route = {*supply, *back}
    found = []
    for group in _groups(_without_dead_ends(joins, on_route), on_route):
        ends = {end for _, *both in group for end in both}
        touched = {side: [point for point in route[side] if point in ends] for side in SIDES}
        for side in SIDES:
            if len(touched[side]) > 1 and not any(touched[other] for other in SIDES if other != side):
                ids = tuple(sorted(segment_id for segment_id, *_ in group))
                found.append(Fork(side, touched[side][0], touched[side][-1], ids))
    return tuple(sorted(found, key=lambda fork: (fork.side == "return", fork.segment_ids)))


def _without_dead_ends(joins: Iterable[_Join], stations_of_path: set[str]) -> list[_Join]:
    """Segments that lead on at both ends, to another segment or to a station."""
    left = {join[0]: join for join in joins}
    at: dict[str, set[str]] = {}
    for segment_id, *ends in left.values():
        for end in ends:
            at.setdefault(end, set()).add(segment_id)
    loose = [end for end, met in at.items() if len(met) == 1 and end not in stations_of_path]
    while loose:
        end = loose.pop()
        for last in at[end]:
            _, one, other = left.pop(last)
            far = other if end == one else one
            at[far].discard(last)
            if len(at[far]) == 1 and far not in stations_of_path:
                loose.append(far)
        at[end] = set()
    return list(left.values())


def _groups(joins: Iterable[_Join], stations_of_path: set[str]) -> list[list[_Join]]:
    """Segments that hang together without passing a station of the path."""
    groups: list[list[_Join]] = []
    at: dict[str, list[_Join]] = {}
    for join in joins:
        group = [join]
        for end in set(join[1:]) - stations_of_path:
            met = at.get(end)
            if met is not None and met is not group:
                group = [*met, *group]
        for member in group:
            for end in set(member[1:]) - stations_of_path:
                at[end] = group
        groups = [each for each in groups if not any(member in group for member in each)] + [group]
    return groups


def shared_flow(vehicle: Vehicle, circuit: Circuit, ways: Sequence[Fork]) -> tuple[dict[str, float], dict[str, float]]:
    """Current from first to second point of every segment on the path and beside it, A, at the design current.

    And the resistance that each has as it warms by that, Ω.
    """
    cold = flow_ohms(
        vehicle, dict.fromkeys((*circuit.whole_path, *(each for way in ways for each in way.segment_ids)), 0.0)
    )
    flow = _shared(vehicle, circuit, ways, cold)
    ohm = flow_ohms(vehicle, flow, lasts_s(circuit.state))
    return (_shared(vehicle, circuit, ways, ohm) if ways else flow), ohm


def _shared(vehicle: Vehicle, circuit: Circuit, ways: Iterable[Fork], ohm: Mapping[str, float]) -> dict[str, float]:
    """Current from first to second point of every segment on the path and beside it, A, by their resistances."""
    flow: dict[str, float] = {}
    for side in SIDES:
        points = stations(vehicle, circuit, side)
        beside = [each for fork in ways if fork.side == side for each in fork.segment_ids]
        if points and not beside:
            flow |= _along(vehicle, circuit, side, points)
        elif points:
            segments = [vehicle.segments[each] for each in (*circuit.path(side), *beside)]
            flow |= _flow_a(segments, ohm, points[0], points[-1], circuit.design_current_a)
    return flow


def _along(vehicle: Vehicle, circuit: Circuit, side: Side, points: tuple[str, ...]) -> dict[str, float]:
    """The design current through one segment after the other."""
    amps = circuit.design_current_a
    starts = zip(circuit.path(side), points, strict=False)
    return {each: amps if vehicle.segments[each].from_point == start else -amps for each, start in starts}


def _flow_a(
    segments: list[Segment], ohm: Mapping[str, float], start: str, end: str, current_a: float
) -> dict[str, float]:
    """Nodal analysis of a few resistances with one current through all of them."""
    names = sorted({point for segment in segments for point in (segment.from_point, segment.to_point)})
    number = {point: place for place, point in enumerate(names)}
    first = np.array([number[segment.from_point] for segment in segments])
    second = np.array([number[segment.to_point] for segment in segments])
    conductance = np.array([1 / ohm[segment.id] for segment in segments])
    matrix = conductance_matrix(len(names), first, second, conductance)
    driven = np.zeros(len(names))
    driven[number[start]] = current_a
    matrix[number[end]] = 0
    matrix[number[end], number[end]] = 1
    potential = np.linalg.solve(matrix, driven)
    currents = conductance * (potential[first] - potential[second])
    return {segment.id: float(amps) for segment, amps in zip(segments, currents, strict=True)}
