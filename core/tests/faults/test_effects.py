"""What each fault of a small vehicle does to it, by hand: 12.65 V behind 10 mΩ feed a load of 1 Ω through a relay."""

from typing import Any
from unittest import TestCase

from core.tests.support.small import IDEAL_BATTERY, Piece, joint, small_vehicle, solved
from percorso.faults.model import FAULTS, with_faults
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import State

BATTERY = IDEAL_BATTERY | {"state_of_charge_percent": 100}
LOAD = {"kind": "resistive", "rated_v": 12, "rated_a": 12}
EMF_V = 12.65  # of a full lead battery at rest: common practice


def vehicle() -> Vehicle:
    """A relay whose coil is always fed, its contact before the load, and a wire past it."""
    segments: dict[str, Piece] = {
        "F1": ("plus", "fed", {"kind": "fuse", "rating_a": 20, "resistance_ohm": 0.005}),
        "K1": ("fed", "out", {"kind": "relay contact", "coil": "C1", "resistance_ohm": 0.005}),
        "W1": ("out", "load", joint(0.01)),
        "W2": ("load-minus", "minus", joint(0.02)),
    }
    devices: dict[str, tuple[dict[str, str], dict[str, Any]]] = {
        "G1": ({"+": "plus", "-": "minus"}, BATTERY),
        "C1": ({"86": "plus", "85": "minus"}, {"kind": "relay coil", "resistance_ohm": 90, "pull_in_v": 8}),
        "E1": ({"+": "load", "-": "load-minus"}, LOAD),
    }
    return small_vehicle(segments, devices)


def at_load_v(*faults: dict[str, Any], state: State = "on") -> float:
    """Across the load."""
    bad = with_faults(vehicle(), FAULTS.validate_python(list(faults)))
    return solved(bad, state).voltage_v("load", "load-minus") or 0.0


def behind(series_ohm: float, load_ohm: float = 1.0, emf_v: float = EMF_V, coil_ohm: float | None = 90.0) -> float:
    """What is left for the load behind the battery's 10 mΩ, which the coil loads too, and what lies in series."""
    source_ohm = 0.01
    if coil_ohm is not None:
        emf_v, source_ohm = emf_v * coil_ohm / (coil_ohm + source_ohm), source_ohm * coil_ohm / (coil_ohm + source_ohm)
    return emf_v * load_ohm / (source_ohm + series_ohm + load_ohm)


class ByHand(TestCase):
    def test_what_a_load_is_left(self) -> None:
        in_series = 0.005 + 0.005 + 0.01 + 0.02
        for left, *faults in (
            (behind(in_series),),
            (behind(in_series + 0.3), {"part": "W1", "fault": "resistance"}),
            (behind(in_series + 2.0), {"part": "W2", "fault": "resistance", "ohm": 2}),
            (behind(in_series + 0.3), {"part": "K1", "fault": "burnt"}),
            (0.0, {"part": "W1", "fault": "open"}),
            (0.0, {"part": "F1", "fault": "no contact"}),
            (0.0, {"part": "K1", "fault": "does not close"}),
            (behind(in_series, 0.02), {"part": "E1", "fault": "shorted"}),  # and the fuse has not blown yet
            (behind(in_series, 1 / 1.6), {"part": "E1", "fault": "draws too much"}),
            (behind(in_series, 1 / 0.5), {"part": "E1", "fault": "draws too little"}),
            (0.0, {"part": "C1", "fault": "open"}),
            (0.0, {"part": "C1", "fault": "needs too much to pull in", "times": 1.1}),  # 13.2 V; there are 12.5
            (behind(in_series, emf_v=EMF_V * 5 / 6), {"part": "G1", "fault": "dead cell"}),
            (behind(in_series + 0.4), *({"part": part, "fault": "resistance", "ohm": 0.2} for part in ("W1", "W2"))),
        ):
            with self.subTest(faults):
                self.assertAlmostEqual(at_load_v(*faults), left, delta=2e-3)

    def test_a_battery_three_times_as_weak_has_three_times_the_resistance(self) -> None:
        weak = {"part": "G1", "fault": "weak", "times": 3}
        self.assertAlmostEqual(at_load_v(weak), behind(0.04 + 0.02), delta=3e-3)

    def test_a_welded_contact_feeds_its_load_without_its_coil(self) -> None:
        """Welded metal of 2 mΩ in the place of a contact of 5."""
        welded, open_coil = {"part": "K1", "fault": "welded"}, {"part": "C1", "fault": "open"}
        self.assertAlmostEqual(at_load_v(welded, open_coil), behind(0.037, coil_ohm=None), delta=2e-3)
