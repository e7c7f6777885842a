"""Cuts as text, and that parts add up to their whole."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.answers.cut import CONDITIONS, Condition, Cut, Piece, parts_of, whole_of
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

JAN = Month(2026, 1)
CONDITION = st.builds(
    Condition, st.sampled_from(sorted(set(CONDITIONS) - {"tags"})), st.integers(0, 10**17).map(str), st.booleans()
)
DAYS = st.dates(date(1900, 1, 1), date(1999, 12, 31))
PIECES = st.lists(
    st.builds(Piece, st.sampled_from("abcde"), st.integers(0, 20).map(lambda n: JAN + n), st.integers(-(10**9), 10**9))
)


class Cuts(unittest.TestCase):
    @given(st.sampled_from(["spent", "received"]), DAYS, DAYS, st.lists(CONDITION, max_size=5))
    def test_a_cut_is_read_back_as_it_was_written(self, measure, one, other, conditions):
        cut = Cut(measure, min(one, other), max(one, other), tuple(conditions))
        self.assertEqual(Cut.parse(str(cut)), cut)

    def test_nonsense_is_refused(self):
        for text in (
            "", "spent", "spent~2026-01-01", "eaten~2026-01-01~2026-01-31", "spent~2026-02-01~2026-01-31", "spent~2026-01-01~x",
            "spent~2026-01-01~2026-01-31~category.x", "spent~2026-01-01~2026-01-31~colour.1",
            "spent~0001-01-01~9999-12-31", "spent~1899-12-31~1900-01-31", "spent~2200-12-01~2201-01-01",
            "spent~2000-01-01~2100-01-01",
            "spent~2026-01-01~2026-01-31~payee.1+2", "spent~2026-01-01~2026-01-31~category.1 OR 1=1",
        ):  # fmt: skip
            with self.subTest(text), self.assertRaises(InvalidInput):
                Cut.parse(text)

    def test_the_longest_question_is_of_a_hundred_years(self):
        self.assertEqual(len(Cut.parse("spent~2000-01-01~2099-12-31").months), 1200)

    def test_whole_months_are_told_from_others(self):
        for first, last, whole in (
            (date(2026, 2, 1), date(2026, 2, 28), True), (date(2026, 2, 1), date(2026, 2, 27), False),
            (date(2026, 1, 2), date(2026, 2, 28), False), (date(2024, 2, 1), date(2024, 2, 28), False),
        ):  # fmt: skip
            self.assertEqual(Cut("spent", first, last).is_whole, whole)

    @given(PIECES)
    def test_parts_add_up_to_their_pieces_and_the_whole_to_its_parts(self, pieces):
        parts = parts_of(pieces)
        self.assertEqual(sum(part.amount_minor for part in parts), sum(piece.amount_minor for piece in pieces))
        self.assertEqual(whole_of(parts).amount_minor, sum(piece.amount_minor for piece in pieces))
        amounts = [part.amount_minor for part in parts]
        self.assertEqual(amounts, sorted(amounts, reverse=True))


if __name__ == "__main__":
    unittest.main()
