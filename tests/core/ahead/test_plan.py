"""Plans: what is kept reads as what it was, and what makes no sense is said at its field."""

import unittest
from dataclasses import replace
from decimal import Decimal

from bolsa.core.ahead.plan import (
    FIRST_AGE,
    LAST_AGE,
    Event,
    Income,
    Pension,
    Person,
    Plan,
    Pot,
    TaxStep,
    as_text,
    check_plan,
    read_plan,
    with_event,
)
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

NOOR = Person(1, "Noor", 1984, Month(2049, 6))
PLAN = Plan(
    (NOOR,), (Income("Pay", None, 7, 1), Income("Sublet", 220_000)), (Pension("Harbour", 1, 840_000, 67),), None, Decimal("90"),
    (Event(1, "A house", 2038, 15_000_000), Event(2, "Studies", 2034, 650_000, 1, 2037, True)),
    (Pot(0, "Everyday"), Pot(13, "Funds", Decimal("5.5"), Decimal(15), True, 416_000, 2051)),
    (TaxStep(0, Decimal(0)), TaxStep(1_200_000, Decimal("22.5"))),
)  # fmt: skip


class Plans(unittest.TestCase):
    def test_what_is_kept_reads_as_what_it_was(self):
        self.assertEqual(read_plan(as_text(PLAN)), PLAN)
        for text in ("", "[]", "{}x", '{"people": [{"name": 3}]}', '{"until_age": "old", "shoes": 2}'):
            with self.subTest(text), self.assertRaises(InvalidInput):
                read_plan(text)

    def test_what_makes_no_sense_is_said_at_its_field(self):
        self.assertEqual(check_plan(PLAN, 2026), PLAN)
        for field, plan in (
            ("people", replace(PLAN, people=())),
            ("until_age", replace(PLAN, until_age=FIRST_AGE - 1)),
            ("until_age", replace(PLAN, until_age=LAST_AGE + 1)),
            ("birth_year", replace(PLAN, people=(replace(NOOR, birth_year=2030),))),
            ("inflation", replace(PLAN, inflation_percent=Decimal(-6))),
            ("pots", replace(PLAN, pots=(Pot(0, "Everyday", Decimal(31)),))),
            ("events", replace(PLAN, events=(Event(1, " ", 2030, 5),))),
            ("events", replace(PLAN, events=(Event(1, "Early", 1990, 5),))),
            ("tax", replace(PLAN, tax=(TaxStep(100, Decimal(5)), TaxStep(100, Decimal(6))))),
        ):
            with self.subTest(field), self.assertRaises(InvalidInput) as caught:
                check_plan(plan, 2026)
            self.assertEqual(caught.exception.field, field)
        for age in (FIRST_AGE, LAST_AGE):
            check_plan(replace(PLAN, until_age=age), 2026)

    def test_when_a_thing_happens(self):
        roof = Event(1, "Roof", 2030, 5, 10, 2050)
        self.assertEqual([year for year in range(2026, 2070) if roof.is_in(year)], [2030, 2040, 2050])
        self.assertEqual([year for year in range(2026, 2070) if replace(roof, every=0).is_in(year)], [2030])
        self.assertFalse(any(replace(roof, is_out=True).is_in(year) for year in range(2026, 2070)))

    def test_the_last_year_and_the_end_of_work(self):
        two = replace(PLAN, people=(NOOR, Person(2, "Itziar", 1986, Month(2051, 12))))
        self.assertEqual((two.last_year, two.work_ends), (2081, Month(2051, 12)))
        changed = with_event(PLAN, replace(PLAN.events[0], cost_minor=1))
        self.assertEqual([one.cost_minor for one in changed.events], [1, 650_000])


if __name__ == "__main__":
    unittest.main()
