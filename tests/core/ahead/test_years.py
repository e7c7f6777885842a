"""The years of a plan: worked figures, tax put back, and that money in is money out and change in every year and pot."""

import unittest
from dataclasses import replace
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ahead.plan import Event, Income, Pension, Person, Plan, Pot, TaxStep
from bolsa.core.ahead.years import Start, first_below, gross_for, months_worked, real_rate_e8, run, tax_on
from bolsa.core.months import Month

JANUARY = Month(2030, 1)
ANA = Person(1, "Ana", 1970, Month(2031, 12))
TAX = (TaxStep(0, Decimal(0)), TaxStep(1_000_000, Decimal(20)), TaxStep(3_000_000, Decimal(40)))
PLAN = Plan((ANA,), (Income("Pay", 3_000_000, None, 1),), pots=(Pot(0, "Everyday"),), inflation_percent=Decimal(0), until_age=66)


def start(*pots, income=(3_000_000,), spending=2_400_000, debts=None, month=JANUARY):
    return Start(month, list(pots), list(income), spending, debts or {})


class Years(unittest.TestCase):
    def test_work_ends_and_money_runs_out(self):
        """Six thousand stay in each of two years; then twenty-four are spent a year, of twelve and eight there were before."""
        years = run(PLAN, start(1_200_000 + 800_000))
        self.assertEqual(
            [one.total_minor for one in years], [2_600_000, 3_200_000, 800_000, -1_600_000, -4_000_000, -6_400_000, -8_800_000]
        )
        below = first_below(years)
        self.assertEqual((below.year, below.missing_minor, below.drawn), (2033, 1_600_000, (800_000,)))

    def test_a_year_begun_counts_its_months_alone(self):
        years = run(PLAN, start(0, month=Month(2030, 10)))
        self.assertEqual((years[0].income[0], years[0].spending_minor), (750_000, 600_000))

    def test_what_is_missing_is_paid_back_before_anything_is_put_by(self):
        bad = replace(PLAN, events=(Event(1, "Roof", 2030, 900_000),))
        years = run(bad, start(0))
        self.assertEqual([one.owing_minor for one in years[:3]], [300_000, 0, 2_100_000])
        self.assertEqual(years[1].held, (300_000,))

    def test_returns_are_above_inflation(self):
        self.assertEqual(real_rate_e8(Decimal("5.06"), Decimal(2)), 3_000_000)
        grows = replace(PLAN, pots=(Pot(0, "Fund", Decimal("5.06")),), inflation_percent=Decimal(2))
        years = run(grows, start(1_000_000, spending=3_000_000))
        self.assertEqual([one.held[0] for one in years[:2]], [1_030_000, 1_060_900])

    def test_pots_are_drawn_in_their_order_once_they_are_free_and_a_taxed_one_by_more(self):
        pots = (Pot(0, "Everyday"), Pot(2, "Pension", is_taxed=True, free_from=2033), Pot(1, "Funds"))
        plan = replace(PLAN, pots=pots, tax=TAX)
        years = run(plan, start(600_000, 9_000_000, 500_000, income=(2_400_000,)))
        self.assertEqual(years[2].drawn, (600_000, 0, 500_000))
        self.assertEqual(years[2].missing_minor, 1_300_000)
        self.assertEqual((years[3].drawn[1], years[3].tax_minor), (2_750_000, 350_000))

    def test_debts_weigh_less_as_money_does(self):
        plan = replace(PLAN, inflation_percent=Decimal(10))
        years = run(plan, start(0, debts={2030: (90_000, 10_000), 2031: (110_000, 0)}))
        self.assertEqual([one.debts_minor for one in years[:3]], [100_000, 100_000, 0])

    def test_pensions_from_their_age_and_spending_after_work(self):
        plan = replace(
            PLAN,
            pensions=(Pension("P", 1, 1_500_000, 63),),
            tax=TAX,
            after_percent=Decimal("87.5"),
            less_minor=10_000,
            save_minor=5_000,
        )
        years = run(plan, start(0))
        self.assertEqual([one.pensions[0] for one in years[:4]], [0, 0, 0, 1_500_000])
        self.assertEqual([one.spending_minor for one in years[1:3]], [2_400_000 - 60_000, 2_100_000 - 120_000])
        self.assertEqual(years[3].tax_minor, 100_000)

    def test_the_last_month_of_work_counts_and_the_one_after_does_not(self):
        person = replace(ANA, works_until=Month(2031, 5))
        self.assertEqual([months_worked(person, year, JANUARY) for year in (2029, 2030, 2031, 2032)], [0, 12, 5, 0])


class Tax(unittest.TestCase):
    def test_worked_figures_at_each_step(self):
        for taxable, tax in (
            (0, 0),
            (1_000_000, 0),
            (1_000_005, 1),
            (1_500_000, 100_000),
            (3_000_000, 400_000),
            (3_500_000, 600_000),
        ):
            self.assertEqual(tax_on(taxable, TAX), tax, taxable)
        self.assertEqual(tax_on(5, ()), 0)

    @given(
        st.integers(0, 10**7),
        st.integers(0, 6 * 10**6),
        st.lists(st.tuples(st.integers(0, 10**7), st.integers(0, 95)), max_size=4),
    )
    def test_put_back_it_leaves_what_was_wanted_and_one_unit_less_does_not(self, net, taxable, some):
        steps = tuple(TaxStep(above, Decimal(percent)) for above, percent in sorted(dict(some).items()))
        gross = gross_for(net, taxable, steps)
        after = [one - tax_on(taxable + one, steps) + tax_on(taxable, steps) for one in (gross, gross - 1)]
        self.assertGreaterEqual(after[0], net)
        if gross:
            self.assertLess(after[1], net)


@st.composite
def some_plans(draw):
    pots = tuple(
        Pot(i, str(i), Decimal(draw(st.integers(-3, 9))), Decimal(0), draw(st.booleans()), draw(st.integers(0, 10**6)),
            draw(st.sampled_from([0, 2033])))
        for i in range(draw(st.integers(1, 4)))
    )  # fmt: skip
    events = tuple(
        Event(i, str(i), draw(st.integers(2030, 2038)), draw(st.integers(-(10**6), 5 * 10**6)), draw(st.integers(0, 3)))
        for i in range(2)
    )
    pensions = (Pension("P", 1, draw(st.integers(0, 2 * 10**6)), draw(st.integers(58, 66))),)
    plan = replace(
        PLAN, pots=pots, events=events, pensions=pensions, tax=draw(st.sampled_from([(), TAX])), inflation_percent=Decimal(2)
    )
    held = [draw(st.integers(-(10**6), 10**7)) for _ in pots]
    return plan, start(
        *held,
        income=(draw(st.integers(0, 6 * 10**6)),),
        spending=draw(st.integers(0, 6 * 10**6)),
        month=Month(2030, draw(st.integers(1, 12))),
    )


class Always(unittest.TestCase):
    @given(some_plans())
    def test_money_in_is_money_out_and_change_in_every_year_and_pot(self, given_plan):
        plan, begins = given_plan
        held, owing = tuple(begins.pots), 0
        for one in run(plan, begins):
            for before, earned, put, drawn, after in zip(held, one.earned, one.put_in, one.drawn, one.held, strict=True):
                self.assertEqual(before + earned + put - drawn, after)
            worked = months_worked(ANA, one.year, begins.month)
            paid = sum((pot.paid_in_minor * worked * 2 + 12) // 24 for pot in plan.pots)
            settled = owing + one.missing_minor - one.owing_minor
            self.assertEqual(one.in_minor - one.out_minor, sum(one.put_in) - paid - sum(one.drawn) - one.missing_minor + settled)
            self.assertTrue(one.missing_minor >= 0 and settled >= 0)
            held, owing = one.held, one.owing_minor


if __name__ == "__main__":
    unittest.main()
