"""When fuses, breakers and links open, and which contact a load asks for: against published gates and trade rules."""

from unittest import TestCase

from percorso.components.conductors import find_size
from percorso.components.contacts import choose_contact
from percorso.components.fuses import (
    Inrush,
    choose_fuse,
    clearing_share,
    fuse_ratings_a,
    let_through_a2s,
    link_clears_at_a,
    link_for,
    opens_between_s,
)
from percorso.house_rules import HouseRules

RULES = HouseRules()
GATES = (  # percent of rating, opens after and within, s: ISO 8820-3, from memory
    (110, 360_000, None), (135, 0.75, 600), (160, 0.25, 50), (200, 0.15, 5), (350, 0.04, 0.5), (600, 0.02, 0.1),
)  # fmt: skip


class TimeCurrent(TestCase):
    def test_every_rating_opens_within_the_gates_at_twenty_currents(self) -> None:
        """Between two gates: not before the faster one's earliest, not after the slower one's latest."""
        for rating in fuse_ratings_a("blade"):
            for step in range(20):
                percent = 100 + step * 500 / 19
                opening = opens_between_s(rating, rating * percent / 100)
                passed = [gate for gate in GATES if gate[0] <= percent + 1e-9]
                ahead = [gate for gate in GATES if gate[0] >= percent - 1e-9]
                with self.subTest(rating=rating, percent=percent):
                    self.assertGreaterEqual(opening.earliest_s, ahead[0][1] * 0.999)
                    if passed and passed[-1][2] is not None:
                        assert opening.latest_s is not None
                        self.assertLessEqual(opening.latest_s, passed[-1][2] * 1.001)
                        self.assertLessEqual(opening.earliest_s, opening.latest_s)
                    else:
                        self.assertIsNone(opening.latest_s)

    def test_at_the_gates_themselves_they_are_the_standards(self) -> None:
        for percent, after, within in GATES[1:]:
            opening = opens_between_s(20, 0.2 * percent)
            self.assertAlmostEqual(opening.earliest_s / after, 1)
            self.assertAlmostEqual((opening.latest_s or 0) / (within or 1), 1)
        self.assertAlmostEqual(clearing_share(), 2.0)  # 200 % opens within 5 s
        self.assertAlmostEqual(let_through_a2s(20, 400), 120**2 * 0.1)  # beyond 600 % the same heat
        self.assertGreater(clearing_share("breaker"), clearing_share("fuse"))

    def test_an_inrush_asks_for_a_bigger_fuse_and_says_so_when_the_wire_forbids_it(self) -> None:
        """60 A for 0.1 s: 300 % of 20 A may open from 0.056 s on, 240 % of 25 A from 0.1 s; 30 A holds 0.15 s."""
        start = Inrush(60, 0.1)
        self.assertEqual(choose_fuse(10, 60, RULES, "blade").rating_a, 15)
        self.assertEqual(choose_fuse(10, 60, RULES, "blade", start).rating_a, 30)
        blocked = choose_fuse(10, 20, RULES, "blade", start)
        self.assertIsNone(blocked.rating_a)
        self.assertIn("inrush of 60 A needs 30 A", blocked.reason)
        self.assertIn("take a wire for 30 A", blocked.reason)


class Links(TestCase):
    def test_four_awg_numbers_below(self) -> None:
        """Common practice: 10 AWG takes a 14 AWG link, 6 takes 10, 1/0 takes 4; 10 mm² the next below 3.96."""
        for wire, link in (("10 AWG", "14 AWG"), ("6 AWG", "10 AWG"), ("1/0", "4 AWG"), ("10 mm2", "2.5 mm2")):
            fits = link_for(find_size(wire))
            self.assertEqual(fits and fits.name, link)
        self.assertIsNone(link_for(find_size("24 AWG")))

    def test_a_link_melts_where_the_formula_says(self) -> None:
        """Onderdonk from 30 °C: 14 AWG, 4 107 circular mils, in 5 s: 4107 · √(log₁₀(1 + 1053 ÷ 264) ÷ 165) = 267 A."""
        self.assertAlmostEqual(link_clears_at_a(find_size("14 AWG")), 267, delta=2)


class Contacts(TestCase):
    def test_motors_and_lamps_ask_for_more(self) -> None:
        """70 % of its rating for a motor, 60 % for lamps (from memory): 15 A ask for 21.4 and 25 A."""
        rated = {kind: choose_contact(15, kind).rated_a for kind in ("resistive", "motor", "filament lamp")}
        self.assertEqual(rated, {"resistive": 20, "motor": 30, "filament lamp": 30})
        self.assertIsNone(choose_contact(500, "motor").rated_a)
