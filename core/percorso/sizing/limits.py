"""What a round of sizing shares out: the sizes each wire may have, and what each circuit's wires may use together."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.components.conductors import ConductorSize, copper_mass_kg, resistance_ohm
from percorso.kept import cached_property
from percorso.sizing.least_copper import CopperLimit
from percorso.sizing.wire_size import Criterion, Duty
from percorso.vehicle.copper import lasts_s
from percorso.vehicle.model import Circuit
from percorso.vehicle.resistance import ends_resistance_ohm
from percorso.vehicle.segments import Wire


@dataclass(frozen=True)
class WireSizes:
    """The sizes a wire may have for all it must stand; ``blocked`` says why there is really none.

    ``narrow``: a thicker one would do but for what its ends go into. ``alike`` are the wires of its route that get
    the same size, itself among them. ``warms``: whether its copper is warmed by its current.
    """

    spec: Wire
    duty: Duty
    warms: bool
    fitting: tuple[ConductorSize, ...]
    blocked: str
    narrow: bool = False
    alike: tuple[str, ...] = ()

    def ohm(self, size: ConductorSize, current_a: float, seconds: float) -> float:
        """Resistance of the wire with a size where it lies, while a current flows for so long, Ω."""
        copper_c = self.duty.copper_c(size, current_a, seconds) if self.warms else self.duty.air_c
        copper = resistance_ohm(self.duty.cable(size).size, self.spec.length_m, copper_c)
        return copper + ends_resistance_ohm(self.spec)

    def mass_kg(self, size: ConductorSize) -> float:
        """Copper of the wire with a size, kg."""
        return copper_mass_kg(self.duty.cable(size).size, self.spec.length_m)

    @cached_property
    def masses_kg(self) -> Array:
        """Copper with each of the fitting sizes, kg, shape (sizes,)."""
        return np.array([self.mass_kg(size) for size in self.fitting])


@dataclass(frozen=True)
class CircuitRule:
    """A limit on resistances with what it is about; ``fixed`` is the part of ``most`` that no size changes.

    ``most`` is what the house aims at, ``allowed`` what may be.
    """

    criterion: Criterion
    circuit: Circuit
    weight: Mapping[str, float]
    most: float
    allowed: float
    fixed: float

    def limit(self, wires: Mapping[str, WireSizes]) -> CopperLimit:
        """The limit for the search, in which wires that are alike stand under the name of the first of them."""
        use: dict[str, Array] = {}
        for each, weight in self.weight.items():
            first = wires[each].alike[0]
            ohm = np.array([self._ohm(wires, each, size) for size in wires[each].fitting])
            use[first] = use.get(first, 0.0) + weight * ohm
        return CopperLimit(self.circuit.id, use, self.most - self.fixed)

    def used(self, wires: Mapping[str, WireSizes], sizes: Mapping[str, ConductorSize]) -> float:
        """What its wires with sizes use of ``most``."""
        return self.fixed + sum(weight * self._ohm(wires, each, sizes[each]) for each, weight in self.weight.items())

    def _ohm(self, wires: Mapping[str, WireSizes], wire_id: str, size: ConductorSize) -> float:
        """Resistance of a wire with a size at what flows through it for this rule, Ω: a short finds it cool."""
        amps = 0.0 if self.criterion == "short circuit" else self.weight[wire_id]
        return wires[wire_id].ohm(size, amps, lasts_s(self.circuit.state))

    def exceeded(self, used: float) -> str:
        """What a size that uses so much is refused for."""
        if self.criterion == "short circuit":
            return f"a short at the far end of {self.circuit.name} would not open its fuse in time"
        if used <= self.allowed:
            return f"{self.circuit.name} with only {(self.allowed - used) * 1000:.0f} mV left"
        return f"{self.circuit.name} over by {used - self.allowed:.2g} V"
