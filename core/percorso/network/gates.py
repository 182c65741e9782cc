"""What conducts in which modes, told apart at once: the gates of an assembly as bits of one number."""

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from percorso.arrays import Numbers
from percorso.network.branches import Gate
from percorso.network.modes import Modes


class Gates:
    """The gates of an assembly, a bit each."""

    def __init__(self, gated: Sequence[tuple[int, Gate]]) -> None:
        self.branches = np.array([index for index, _ in gated], dtype=np.int64)
        self._bits = [1 << place for place in range(len(gated))]
        self._asked: tuple[Modes | None, int] = None, 0  # the modes last asked for, which are asked for several times
        self._by_input: dict[str, dict[str, int]] = {}
        self._by_latch: dict[tuple[str, str], list[int]] = {}  # bits that are closed when it is off, and when it is on
        for bit, (_, gate) in zip(self._bits, gated, strict=True):
            if gate.by == "input":
                positions = self._by_input.setdefault(gate.name, {})
                positions |= {each: positions.get(each, 0) | bit for each in gate.closed_in}
            else:
                off_on = self._by_latch.setdefault((gate.by, gate.name), [0, 0])
                off_on[0] |= bit if "off" in gate.closed_in else 0
                off_on[1] |= bit if "on" in gate.closed_in else 0

    def _by_inputs(self, at: Mapping[str, str]) -> int:
        bits = 0
        for name, positions in self._by_input.items():
            bits |= positions.get(at.get(name, ""), 0)
        return bits

    def closed(self, modes: Modes) -> int:
        """The gates that are closed, a bit each."""
        asked = self._asked  # another thread may ask of other modes meanwhile
        if asked[0] is not modes:
            self._asked = asked = modes, self._closed(modes)
        return asked[1]

    def _closed(self, modes: Modes) -> int:
        bits = self._by_inputs(modes.positions)
        for (by, name), off_on in self._by_latch.items():
            bits |= off_on[name in (modes.pulled_in if by == "coil" else modes.excited)]
        return bits

    def at_most_closed(self, at: Mapping[str, str]) -> int:
        """The gates that are closed where inputs stand so, and those that may be by what pulls in or wakes up."""
        bits = self._by_inputs(at)
        for off, on in self._by_latch.values():
            bits |= off | on
        return bits

    def open_branches(self, closed: int) -> Numbers:
        """The branches whose gates are open."""
        return self.branches[[not closed & bit for bit in self._bits]]

    def bits_of(self, branches: Iterable[int]) -> int:
        """The bits of some gated branches."""
        wanted = set(branches)
        return sum(bit for bit, branch in zip(self._bits, self.branches.tolist(), strict=True) if branch in wanted)
