"""Differences and growth: worked by hand, and as identities."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.answers.cut import Part
from bolsa.core.answers.questions import differences, growth, halves, same_days
from bolsa.core.months import Month, months_between

JAN = Month(2026, 1)


class Questions(unittest.TestCase):
    @given(
        st.dictionaries(st.sampled_from("abcdef"), st.integers(-999, 999)),
        st.dictionaries(st.sampled_from("abcdef"), st.integers(-999, 999)),
    )
    def test_differences_add_up_exactly(self, before, after):
        parts = [[Part(key, {JAN: amount}) for key, amount in side.items()] for side in (before, after)]
        found = differences(*parts)
        self.assertEqual(sum(one.made_minor for one in found), sum(after.values()) - sum(before.values()))
        self.assertEqual(len(found), len({*before, *after}))

    def test_growth_is_by_month_and_half(self):
        year = months_between(JAN, Month(2026, 5))
        eating = Part("1", dict(zip(year, (80, 90, 1_000, 150, 170), strict=True)))
        self.assertEqual(halves(year), (year[:2], year[3:]))
        one = growth([eating, Part("2", {JAN: 10})], year)
        self.assertEqual(
            [(g.key, g.before_minor, g.after_minor, g.made_minor) for g in one], [("1", 85, 160, 75), ("2", 5, 0, -5)]
        )

    def test_the_days_to_compare_with(self):
        for first, last, back, days in (
            (date(2026, 5, 1), date(2026, 5, 14), 1, (date(2026, 4, 1), date(2026, 4, 14))),
            (date(2026, 3, 1), date(2026, 3, 30), 1, (date(2026, 2, 1), date(2026, 2, 28))),
            (date(2026, 3, 1), date(2026, 3, 31), 12, (date(2025, 3, 1), date(2025, 3, 31))),
            (date(2024, 2, 1), date(2024, 2, 29), 12, (date(2023, 2, 1), date(2023, 2, 28))),
            (date(2026, 1, 1), date(2026, 3, 31), 3, (date(2025, 10, 1), date(2025, 12, 31))),
        ):  # fmt: skip
            with self.subTest(first=first, last=last, back=back):
                self.assertEqual(same_days(first, last, back), days)


if __name__ == "__main__":
    unittest.main()
