"""What a plan asks one to do: amounts that are there when their year begins, on top of what is expected; days to think of."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ahead.doing import PlannedAim, aims_of, carried, fits, next_year, reminders_of, with_aim
from bolsa.core.ahead.plan import Event, Pension, Person, Plan, Pot
from bolsa.core.months import Month

MAY = Month(2026, 5)
TODAY = date(2026, 5, 14)
NOOR = Person(1, "Noor", 1984, Month(2049, 6))


def plan(*events, **more):
    return Plan(people=(NOOR,), events=events, **more)


class Aims(unittest.TestCase):
    def test_a_cost_is_put_by_until_its_year_begins_and_rounding_lets_nothing_lack(self):
        (aim,) = aims_of(plan(Event(3, "Re-plating", 2029, 1_400_000)), MAY)
        self.assertEqual((aim.key, aim.first, aim.last, aim.monthly_minor), ("event.3", Month(2026, 6), Month(2028, 12), 45_162))
        self.assertEqual(aim.whole_minor, 1_400_022)

    def test_what_is_put_by_and_what_is_not(self):
        for event, aims in (
            (Event(1, "Kiln", 2036, 100), 1),
            (Event(1, "Kiln", 2037, 100), 0),  # more than ten years ahead
            (Event(1, "Kiln", 2026, 100), 1),  # within this year: next month
            (Event(1, "Kiln", 2025, 100), 0),  # past
            (Event(1, "Survey", 2025, 100, every=2), 1),  # comes again in 2027
            (Event(1, "Survey", 2021, 100, every=2, until=2025), 0),
            (Event(1, "Left out", 2028, 100, is_out=True), 0),
            (Event(1, "Inheritance", 2028, -100), 0),
        ):
            with self.subTest(event):
                self.assertEqual(len(aims_of(plan(event), MAY)), aims)
        self.assertEqual(next_year(Event(1, "Survey", 2025, 100, every=2), MAY), 2027)

    def test_saving_more_lasts_while_anyone_works(self):
        (aim,) = aims_of(plan(save_minor=12_000), MAY)
        self.assertEqual((aim.monthly_minor, aim.last), (12_000, Month(2049, 6)))
        self.assertEqual(aims_of(plan(save_minor=12_000), Month(2049, 6)), [])

    @given(
        st.dictionaries(st.integers(0, 40), st.integers(0, 9_000), max_size=6),
        st.integers(1, 30),
        st.one_of(st.none(), st.integers(0, 20)),
        st.integers(1, 5_000),
    )
    def test_each_month_expects_the_amount_more_while_it_lasts_and_as_before_outside(self, figures, first, lasts, monthly):
        figures = {MAY + at: amount for at, amount in figures.items()}
        aim = PlannedAim("x", "x", monthly, MAY + first, MAY + first + lasts if lasts is not None else None)
        after = figures | {one.month: one.amount_minor for one in with_aim(figures, {}, aim)}
        for at in range(60):
            month = MAY + at
            more = monthly if month >= aim.first and (aim.last is None or month <= aim.last) else 0
            self.assertEqual(carried(after, month), carried(figures, month) + more, month)

    def test_a_figure_that_comes_by_a_rhythm_does_not_fit_unless_it_comes_later(self):
        aim = PlannedAim("x", "x", 100, MAY + 1, MAY + 6)
        for at, every, does_fit in ((0, 6, False), (6, 6, False), (7, 6, True), (3, 0, False), (3, 1, True)):
            self.assertEqual(fits({MAY + at: every}, aim), does_fit, (at, every))
        with self.assertRaises(ValueError):
            with_aim({}, {MAY: 6}, aim)


class Reminders(unittest.TestCase):
    def test_every_day_the_plan_turns_on_in_order(self):
        found = reminders_of(
            plan(
                Event(3, "Re-plating", 2029, 1_400_000),
                Event(4, "Left out", 2029, 5, is_out=True),
                pensions=(Pension("Harbour pension", 1, 100, 67), Pension("Nobody", 9, 100, 67)),
                pots=(Pot(2, "Deposit", free_from=2027), Pot(3, "Free")),
                less_minor=100,
            ),
            TODAY,
        )
        self.assertEqual(
            [(one.day.isoformat(), one.key) for one in found],
            [
                ("2027-01-01", "look"),
                ("2027-01-01", "pot.2"),
                ("2029-01-01", "event.3"),
                ("2049-06-30", "less"),
                ("2049-06-30", "work.1"),
                ("2051-01-01", "pension.0"),
            ],
        )

    def test_what_is_past_is_not_told(self):
        retired = Plan(people=(Person(1, "Noor", 1940, Month(2026, 4)),))
        self.assertEqual([one.key for one in reminders_of(retired, TODAY)], ["look"])


if __name__ == "__main__":
    unittest.main()
