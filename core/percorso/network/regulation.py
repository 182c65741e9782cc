"""Finds what each alternator does: regulates, gives all it can, or is cut off, so that all of them agree."""

from collections.abc import Hashable, Iterator
from contextlib import suppress
from copy import copy
from itertools import product

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Numbers
from percorso.kept import BoundedCache
from percorso.network.branches import Assembly, Generator
from percorso.network.modes import TURNING, Modes
from percorso.network.newton import HOLDS, Circuitry, NotSettledError, OhmicPart, Regulation, Solved

REGULATION_MARGIN = 1e-9  # V or A a regulator may be off before it changes its mode
MOST_SEARCHED = 4  # alternators of which every combination of modes is tried where the usual way finds none
MOST_KNOWN = 20_000  # solutions that are kept

MODES_AND_STILL: tuple[Regulation, ...] = ("still", "regulating", "at its limit", "cut off", "running away")
MODES = MODES_AND_STILL[1:]


class Regulators:
    """The alternators of an assembly, and the network solved with them."""

    def __init__(self, assembly: Assembly) -> None:
        self.assembly, self.circuitry = assembly, Circuitry(assembly)
        self._known = BoundedCache[Hashable, Solved](MOST_KNOWN)

    def solve(self, modes: Modes, near: Solved | None) -> Solved:
        """Solve with every alternator regulating, at its limit or cut off, whichever agrees with itself.

        From one assumption to what it asks for instead; where that leads nowhere every combination is tried. What is
        known already is not solved again: the same contacts and alternators, or contacts that in a solution ``near``
        this one carry nothing and have nothing across them. Raises NotSettledError.
        """
        closed = self.circuitry.gates.closed(modes)
        turning = tuple(self._turns(modes, each) for each in self.assembly.generators)
        limits = self.circuitry.limits_a(modes)
        key = closed, turning, limits

        def solve() -> Solved:
            same = near is not None and self._as_before(near, turning, limits)
            solved = near.with_contacts(self.circuitry.conducting(closed)) if near and same else None
            return (solved or self._solved(modes, near)).alone()

        return self._known.get_or(key, solve)

    def warmed(self, branches: Numbers, added_ohm: Array) -> "Regulators":
        """The same where some plain branches have so much more resistance, Ω."""
        other = copy(self)
        other.circuitry, other._known = self.circuitry.with_resistance(branches, added_ohm), BoundedCache(MOST_KNOWN)
        return other

    def _as_before(self, near: Solved, turning: tuple[bool, ...], limits: tuple[float, ...]) -> bool:
        """Whether the copper is as warm as in another solution, and the alternators turn as they do in it."""
        regulated = zip(near.part.regulated, turning, limits, strict=True)
        return near.part.circuitry is self.circuitry and all(
            (each.mode != "still", each.limit_a) == (turns, limit) for each, turns, limit in regulated
        )

    def _solved(self, modes: Modes, near: Solved | None) -> Solved:
        try:
            return self._followed(modes, near)
        except NotSettledError:
            return self._searched(modes)

    def _searched(self, modes: Modes) -> Solved:
        """The first combination of modes that agrees with itself. Raises NotSettledError."""
        turning = [self._turns(modes, each) for each in self.assembly.generators]
        if sum(turning) > MOST_SEARCHED:
            raise NotSettledError
        still: tuple[Regulation, ...] = ("still",)
        combinations = list(product(*(MODES if turns else still for turns in turning)))
        guesses: list[Array | None] = [None]  # from nothing, and from what the combination before it came to
        for regulation in combinations:
            for guess in guesses:
                with suppress(NotSettledError):
                    solved = self.circuitry.ohmic_part(modes, regulation).solve(guess)
                    if self._regulation_after(modes, solved) is None:
                        return solved
                    guesses[1:] = [solved.element_v]
                    break
        raise NotSettledError

    @staticmethod
    def _turns(modes: Modes, generator: Generator) -> bool:
        """Whether an alternator is awake and fast enough to give."""
        works = modes.engine in TURNING
        return works and generator.owner in modes.excited and generator.limit_a[modes.engine] > 0

    def _followed(self, modes: Modes, near: Solved | None) -> Solved:
        """Solve for the modes that follow from one another, from what they were near by where that is known.

        Raises NotSettledError where they go round.
        """
        regulation: tuple[Regulation, ...] | None = self._assumed(modes, near)
        guess = near.element_v if near else None
        tried: set[tuple[Regulation, ...]] = set()
        while regulation is not None and regulation not in tried:
            tried.add(regulation)
            try:
                solved = self.circuitry.ohmic_part(modes, regulation).solve(guess)
            except NotSettledError:
                regulation, guess = next((each for each in self._instead(regulation) if each not in tried), None), None
                if regulation is None:
                    raise
                continue
            guess = solved.element_v
            regulation = self._regulation_after(modes, solved)
        if regulation is not None:
            raise NotSettledError
        return solved

    def _assumed(self, modes: Modes, near: Solved | None) -> tuple[Regulation, ...]:
        """What to assume of the alternators at first."""
        usual: list[Regulation] = ["still"] * len(self.assembly.generators)
        return self.assumed(modes, tuple(each.mode for each in near.part.regulated) if near else tuple(usual))

    def assumed(self, modes: Modes, before: tuple[Regulation, ...]) -> tuple[Regulation, ...]:
        """What to assume of the alternators in these modes, after what they did before."""
        turning = (self._turns(modes, each) for each in self.assembly.generators)
        return tuple(
            ("regulating" if was == "still" else was) if turns else "still"
            for turns, was in zip(turning, before, strict=True)
        )

    def _instead(self, regulation: tuple[Regulation, ...]) -> Iterator[tuple[Regulation, ...]]:
        """What to assume where alternators cannot all regulate: the highest alone, as on one stud; or all give all."""
        regulating = [place for place, mode in enumerate(regulation) if mode == "regulating"]
        if regulating:
            highest = max(regulating, key=lambda place: self.assembly.generators[place].setpoint_v)
            others = set(regulating) - {highest}
            yield tuple("cut off" if place in others else mode for place, mode in enumerate(regulation))
            yield tuple("at its limit" if mode == "regulating" else mode for mode in regulation)
        yield tuple("running away" if mode == "at its limit" else mode for mode in regulation)

    def _regulation_after(self, modes: Modes, solved: Solved) -> tuple[Regulation, ...] | None:
        """How the alternators would change what was assumed of them; None when it agrees."""
        assumed = tuple(each.mode for each in solved.part.regulated)
        asked = tuple(
            MODES_AND_STILL[int(self.asks_for(solved.part, place, solved.potential, solved.generated_a[place]))]
            for place in range(len(assumed))
        )
        return None if asked == assumed else asked

    def asks_for(self, part: OhmicPart, place: int, potential: Array, given_a: Array) -> NDArray[np.int8]:
        """What an alternator does by what comes of what it was taken to do, as places in MODES_AND_STILL, shape (…,).

        One that gives too much for what it holds is at its limit, one that would take is cut off. One at its limit
        regulates once its regulator sees enough, and runs away where its post stands at all that its rotor induces.
        Where others hold its post above that it stays cut off.
        """
        mode, limit_a, most_v = part.regulated[place]
        generator, numbers = self.assembly.generators[place], self.assembly.numbers
        minus, sensed = potential[..., numbers[generator.minus]], part.sensed(generator)
        unseen = -generator.setpoint_v  # by a regulator that sees nothing
        over_v = unseen if sensed is None else potential[..., sensed] - minus - generator.setpoint_v
        enough, post_v = np.asarray(over_v), potential[..., numbers[generator.plus]] - minus
        conditions: list[tuple[NDArray[np.bool_], Regulation]] = []
        if mode in HOLDS:
            conditions += [(given_a > limit_a + REGULATION_MARGIN, "at its limit")]
            conditions += [(given_a < -REGULATION_MARGIN, "cut off")]
        if mode == "regulating" and sensed is None:
            conditions += [(np.asarray(True), "running away")]
        if mode in ("at its limit", "running away"):
            conditions += [(enough > REGULATION_MARGIN, "regulating")]
        if mode == "at its limit":
            conditions += [(post_v > most_v + REGULATION_MARGIN, "running away")]
        if mode == "cut off":
            could = post_v < most_v - REGULATION_MARGIN  # its diodes let something through
            conditions += [((enough < -REGULATION_MARGIN) & could, "regulating")]
        asked = np.full(np.shape(given_a), MODES_AND_STILL.index(mode), dtype=np.int8)
        for holds, instead in reversed(conditions):
            asked = np.where(holds, np.int8(MODES_AND_STILL.index(instead)), asked)
        return asked

    def holds(self, part: OhmicPart, place: int, potential: Array, given_a: Array) -> NDArray[np.bool_]:
        """Whether an alternator's assumed regulation agrees with what comes out, shape (…,)."""
        stays = MODES_AND_STILL.index(part.regulated[place].mode)
        return np.asarray(self.asks_for(part, place, potential, given_a) == stays)
