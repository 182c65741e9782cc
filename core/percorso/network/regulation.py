"""Finds what each alternator does: regulates, gives all it can, or is cut off, so that all of them agree."""

from collections.abc import Hashable, Iterator
from contextlib import suppress
from copy import copy
from itertools import product

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Numbers
from percorso.kept import kept
from percorso.network.branches import TURNING, Assembly, Generator, Modes
from percorso.network.newton import Circuitry, NotSettledError, OhmicPart, Regulation, Solved

REGULATION_MARGIN = 1e-9  # V or A a regulator may be off before it changes its mode
MOST_SEARCHED = 4  # alternators of which every combination of modes is tried where the usual way finds none
FIRST_RAISE, LEAST_RAISE = 0.25, 0.001  # shares of their limits that alternators are raised by
MOST_KNOWN = 20_000  # solutions that are kept

MODES: tuple[Regulation, ...] = ("regulating", "at its limit", "cut off")


class Regulators:
    """The alternators of an assembly, and the network solved with them."""

    def __init__(self, assembly: Assembly) -> None:
        self.assembly, self.circuitry = assembly, Circuitry(assembly)
        self._known: dict[Hashable, Solved] = {}

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

        return kept(self._known, key, solve, MOST_KNOWN)

    def warmed(self, branches: Numbers, added_ohm: Array) -> "Regulators":
        """The same where some plain branches have so much more resistance, Ω."""
        other = copy(self)
        other.circuitry, other._known = self.circuitry.with_resistance(branches, added_ohm), {}
        return other

    def _as_before(self, near: Solved, turning: tuple[bool, ...], limits: tuple[float, ...]) -> bool:
        """Whether the copper is as warm as in another solution, and the alternators turn as they do in it."""
        regulated = zip(near.part.regulated, turning, limits, strict=True)
        return near.part.circuitry is self.circuitry and all(
            (mode != "still", was) == (turns, limit) for (mode, was), turns, limit in regulated
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
        for regulation in (each for each in combinations if "at its limit" in each):
            with suppress(NotSettledError):
                solved = self._raised(modes, regulation)
                if self._regulation_after(modes, solved) is None:
                    return solved
        raise NotSettledError

    def _raised(self, modes: Modes, regulation: tuple[Regulation, ...]) -> Solved:
        """Solve with what alternators give at their limit raised from nothing, in steps. Raises NotSettledError.

        One that senses nothing lifts a vehicle whose battery takes nothing by many volts, too far for a single step.
        """
        share, step, guess = 0.0, FIRST_RAISE, None
        while True:
            wanted = min(share + step, 1.0)
            try:
                solved = self.circuitry.ohmic_part(modes, regulation, wanted).solve(guess)
            except NotSettledError:
                step /= 2
                if step < LEAST_RAISE:
                    raise
                continue
            if wanted == 1.0:
                return solved
            share, step, guess = wanted, 1.5 * step, solved.element_v

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
        return self.assumed(modes, tuple(mode for mode, _ in near.part.regulated) if near else tuple(usual))

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

    def _regulation_after(self, modes: Modes, solved: Solved) -> tuple[Regulation, ...] | None:
        """How the alternators would change what was assumed of them; None when it agrees."""
        assumed = tuple(mode for mode, _ in solved.part.regulated)
        holds = [
            bool(self.holds(solved.part, place, solved.potential, solved.generated_a[place]))
            for place in range(len(assumed))
        ]
        if all(holds):
            return None
        return tuple(
            mode if held else self.other(mode, float(given))
            for mode, held, given in zip(assumed, holds, solved.generated_a, strict=True)
        )

    def holds(self, part: OhmicPart, place: int, potential: Array, given_a: Array) -> NDArray[np.bool_]:
        """Whether an alternator's assumed regulation agrees with what comes out, shape (…,)."""
        mode, limit_a = part.regulated[place]
        if mode == "regulating":
            return (given_a <= limit_a + REGULATION_MARGIN) & (given_a >= -REGULATION_MARGIN)
        generator = self.assembly.generators[place]
        minus = self.assembly.numbers[generator.minus]
        over_v = potential[..., part.sensed(generator)] - potential[..., minus] - generator.setpoint_v
        if mode == "at its limit":
            return np.asarray(over_v <= REGULATION_MARGIN)
        return np.asarray((mode == "still") | (over_v >= -REGULATION_MARGIN))

    @staticmethod
    def other(mode: Regulation, given_a: float) -> Regulation:
        """What to assume of an alternator instead."""
        if mode != "regulating":
            return "regulating"
        return "at its limit" if given_a > 0 else "cut off"
