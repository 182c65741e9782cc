"""Vehicles that nobody described are traced as truly as the others."""

from unittest import TestCase

from bench.came_in import followed


class CameIn(TestCase):
    def test_with_a_question_left_open_the_right_part_is_named(self) -> None:
        """Those of ``bench.came_in`` by a seed of their own; too few to tell 90 of 100 from 80."""
        found = followed("one is open", 6, "fixed")
        self.assertGreaterEqual(sum(each.is_right for each in found), 5)
        self.assertEqual(sum(each.is_wrong for each in found), 0)
