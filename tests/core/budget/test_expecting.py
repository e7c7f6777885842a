"""Expected amounts as they are typed, and their rhythms."""

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.expecting import MOST_MINOR, Expectation, check_expectation, parse_expectation, parse_raise
from bolsa.core.budget.month import MOST_EVERY, ONCE, expected_by_month
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

JAN = Month(2026, 1)


class Expecting(unittest.TestCase):
    def test_what_is_typed(self):
        for text, mark, meant in (
            ("430", ".", Expectation(43_000)),
            ("1290 every 6", ".", Expectation(129_000, 6)),
            ("1.290,50 EVERY 6 months", ",", Expectation(129_050, 6)),
            ("700 once", ".", Expectation(70_000, ONCE)),
            ("1200/12 every 1", ".", Expectation(10_000)),
            ("0", ".", Expectation(0)),
            ("5 every 120", ".", Expectation(500, MOST_EVERY)),
            ("  ", ".", None),
        ):
            with self.subTest(text):
                self.assertEqual(parse_expectation(text, "EUR", mark), meant)

    def test_what_cannot_be_meant(self):
        for text in ("every 6", "12 every", "12 every 0", "12 every 121", "12 every x", "12 every -3", "-5", "once", "12 twice"):
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                parse_expectation(text, "EUR")
            self.assertEqual(caught.exception.field, "expected")
        for beyond in (Expectation(100, -1), Expectation(MOST_MINOR + 1)):
            with self.assertRaises(InvalidInput):
                check_expectation(beyond)
        self.assertEqual(check_expectation(Expectation(MOST_MINOR)).amount_minor, MOST_MINOR)

    def test_a_change_by_per_cent_says_its_sign(self):
        for text, percent in (("+3 %", "3"), ("−2,5%", "-2.5"), ("- 99.99 %", "-99.99"), ("+1000%", "1000")):
            self.assertEqual(parse_raise(text), Decimal(percent))
        for text in ("3 %", "+3", "430", "", "+3 % every 2"):
            self.assertIsNone(parse_raise(text))
        for text in ("-100 %", "+1000.1 %", "+x %"):
            with self.assertRaises(InvalidInput) as caught:
                parse_raise(text)
            self.assertEqual(caught.exception.field, "expected")

    def test_a_rhythm_counts_from_its_month_and_once_lets_the_former_go_on(self):
        expected = {JAN: 100, Month(2026, 3): 1290, Month(2026, 9): 50}
        every = {Month(2026, 3): 6, Month(2026, 9): ONCE}
        found = [expected_by_month(expected, every)(JAN + n)[0] for n in range(15)]
        self.assertEqual(found, [100, 100, 1290, 0, 0, 0, 0, 0, 50, 0, 0, 0, 0, 0, 1290])

    @given(st.integers(1, MOST_EVERY), st.integers(0, 400))
    def test_a_rhythm_never_loses_its_phase(self, every, ahead):
        amount, since = expected_by_month({JAN: 7}, {JAN: every})(JAN + ahead)
        self.assertEqual((amount, since), (7 if ahead % every == 0 else 0, JAN))


if __name__ == "__main__":
    unittest.main()
