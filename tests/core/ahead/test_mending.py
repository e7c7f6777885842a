"""Mending: each change is the smallest of its kind, one step less fails, and what is too little is told so."""

import unittest
from dataclasses import replace
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from bolsa.core.ahead.mending import (
    MOST_MONTHLY,
    MOST_MONTHS_LONGER,
    MOST_YEARS_LATER,
    STEP_MINOR,
    covered_until,
    describe_person,
    find_mends,
)
from bolsa.core.ahead.plan import Event, Income, Person, Plan, Pot, with_event
from bolsa.core.ahead.years import Start, holds, run
from bolsa.core.months import Month

ANA = Person(1, "Ana", 1980, Month(2040, 12))
PLAN = Plan(
    (ANA,), (Income("Pay", 3_600_000, None, 1),), events=(Event(1, "House", 2035, 6_000_000), Event(2, "Boat", 2033, 500_000)),
    pots=(Pot(0, "Everyday"),), inflation_percent=Decimal(0), until_age=66,
)  # fmt: skip
START = Start(Month(2030, 1), [2_000_000], [3_600_000], 2_400_000, {})


class Mending(unittest.TestCase):
    def setUp(self):
        self.found = {(mend.kind, mend.name): mend for mend in find_mends(PLAN, START)}

    def test_a_plan_that_holds_has_nothing_to_mend(self):
        self.assertEqual(find_mends(replace(PLAN, events=()), replace(START, spending_minor=1_000_000)), [])

    def test_each_that_is_enough_holds_and_one_step_less_fails(self):
        def less(mend):
            event = mend.event
            return {
                "save": lambda: replace(mend.plan, save_minor=mend.plan.save_minor - STEP_MINOR),
                "less": lambda: replace(mend.plan, less_minor=mend.plan.less_minor - STEP_MINOR),
                "longer": lambda: replace(mend.plan, people=(replace(ANA, works_until=describe_person(mend) + -1),)),
                "cheaper": lambda: with_event(
                    PLAN, replace(event, cost_minor=mend.amount + STEP_MINOR * max(1, event.cost_minor // (STEP_MINOR * 1000)))
                ),
                "later": lambda: with_event(PLAN, replace(event, year=mend.amount - 1)),
                "out": lambda: PLAN,
            }[mend.kind]()

        enough = [mend for mend in self.found.values() if mend.is_enough]
        self.assertGreaterEqual(len(enough), 3)
        for mend in enough:
            with self.subTest(mend.kind, of=mend.name):
                self.assertTrue(holds(run(mend.plan, START)))
                self.assertEqual(run(mend.plan, START)[-1].total_minor, mend.left_minor)
                self.assertFalse(holds(run(less(mend), START)))

    def test_what_is_too_little_says_what_is_missing_still(self):
        boat = self.found["out", "Boat"]
        self.assertFalse(boat.is_enough)
        self.assertGreater(boat.below.missing_minor, 0)
        self.assertNotIn(("cheaper", "Boat"), self.found, "where leaving it out is too little, no price is enough")

    def test_those_that_are_enough_come_first(self):
        order = [mend.is_enough for mend in find_mends(PLAN, START)]
        self.assertEqual(order, sorted(order, reverse=True))

    def test_the_most_that_is_tried(self):
        poor = replace(START, pots=[0], incomes=[100_000], spending_minor=12 * MOST_MONTHLY * 2)
        tried = {mend.kind: mend for mend in find_mends(PLAN, poor)}
        self.assertEqual((tried["save"].amount, tried["longer"].amount), (MOST_MONTHLY, MOST_MONTHS_LONGER))
        self.assertFalse(tried["save"].is_enough)
        late = replace(PLAN, events=(Event(1, "House", 2034, 6_000_000),), until_age=95)
        later = [
            mend for mend in find_mends(late, replace(START, spending_minor=3_500_000, pots=[4_000_000])) if mend.kind == "later"
        ]
        self.assertTrue(all(mend.amount <= 2034 + MOST_YEARS_LATER for mend in later))

    def test_the_last_year_that_is_covered(self):
        years = run(PLAN, START)
        below = next(one for one in years if one.missing_minor)
        self.assertEqual(covered_until(years), below.year - 1)
        self.assertEqual(covered_until(run(replace(PLAN, until_age=52), START)), 2032)

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1_500_000, 3_400_000), st.integers(0, 4_000_000), st.integers(500_000, 9_000_000))
    def test_saving_one_unit_less_a_month_always_fails(self, spending, there, house):
        plan = with_event(PLAN, replace(PLAN.events[0], cost_minor=house))
        begins = replace(START, spending_minor=spending, pots=[there])
        for mend in find_mends(plan, begins):
            if mend.kind == "save" and mend.is_enough:
                self.assertTrue(holds(run(mend.plan, begins)))
                self.assertFalse(holds(run(replace(mend.plan, save_minor=mend.plan.save_minor - STEP_MINOR), begins)))


if __name__ == "__main__":
    unittest.main()
