"""The fan: without swing it is the line; with it the mean is the plan's; the same seed draws the same."""

import unittest
from dataclasses import replace
from decimal import Decimal

from bolsa.core.ahead.fan import PATHS, SEED, draw_fan
from bolsa.core.ahead.plan import Event, Income, Pension, Person, Plan, Pot, TaxStep
from bolsa.core.ahead.years import Start, run
from bolsa.core.months import Month

PLAN = Plan(
    (Person(1, "Ana", 1980, Month(2040, 6)),), (Income("Pay", 3_600_000, None, 1),), (Pension("P", 1, 900_000, 65),),
    events=(Event(1, "House", 2035, 3_000_000),),
    pots=(Pot(0, "Everyday"), Pot(1, "Funds", Decimal(5)), Pot(2, "Pension", Decimal(4), Decimal(0), True, 300_000, 2045)),
    tax=(TaxStep(0, Decimal(0)), TaxStep(1_000_000, Decimal(25))), until_age=90,
)  # fmt: skip
START = Start(Month(2030, 4), [1_500_000, 4_000_000, 6_000_000], [3_600_000], 2_600_000, {2031: (200_000, 20_000)})


class Fans(unittest.TestCase):
    def test_without_swing_every_path_is_the_line_to_a_few_units(self):
        for spending in (2_600_000, 3_900_000):
            begins = replace(START, spending_minor=spending)
            years = run(PLAN, begins)
            fan = draw_fan(PLAN, begins, years, paths=3)
            for one, low, middle, high in zip(years, fan.low, fan.middle, fan.high, strict=True):
                self.assertEqual((low, middle), (middle, high))
                self.assertLess(abs(middle - one.total_minor), 400, one.year)
            self.assertEqual(fan.held, 0 if any(one.missing_minor for one in years) else 3)

    def test_it_opens_with_the_years_and_the_same_seed_draws_the_same(self):
        swings = replace(
            PLAN, pots=tuple(replace(pot, swing_percent=Decimal(15)) if pot.account_id else pot for pot in PLAN.pots)
        )
        years = run(swings, START)
        fan = draw_fan(swings, START, years)
        self.assertEqual((fan.paths, fan, SEED), (PATHS, draw_fan(swings, START, years), 20260514))
        self.assertNotEqual(fan, draw_fan(swings, START, years, seed=1))
        self.assertLess(fan.low[5], years[5].total_minor)
        self.assertGreater(fan.high[5], years[5].total_minor)
        self.assertGreater(fan.high[20] - fan.low[20], fan.high[5] - fan.low[5])
        self.assertTrue(0 < fan.held < PATHS)


if __name__ == "__main__":
    unittest.main()
