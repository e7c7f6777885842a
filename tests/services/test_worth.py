"""Net worth through the services: what changed adds up whatever moved, weeks meet months, holes are filled and undone."""

import random
from datetime import date, timedelta
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month
from bolsa.core.worth.changes import CAUSES
from bolsa.core.worth.periods import period_ends
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.accounts import accounts, market, valuing
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.worth import holes, worth
from tests.services.household import BY, TODAY, HouseholdCase

JANUARY = date(2026, 1, 31)


class WorthCase(HouseholdCase):
    def a_loan(self):
        terms = Terms(
            rate=Decimal("0.06"), payment_minor=61_200, interest_category_id=self.category("Bank charges"),
            first_payment_on=date(2026, 1, 2),
        )  # fmt: skip
        new = NewAccount("Boat loan", "loan", opening_minor=-2_000_000, opened_on=date(2026, 1, 1), terms=terms)
        return accounts.add_account(self.db, BY, new).made

    def pays(self, loan, day):
        return entries.record_entry(self.db, BY, self.current, TypedEntry(day, "Boat loan", -61_200, other_account_id=loan)).made


class Changed(WorthCase):
    def moves(self, from_id, to_id, amount, day, **more):
        typed = TypedEntry(day, "Moved", -amount, other_account_id=to_id, **more)
        return entries.record_entry(self.db, BY, from_id, typed).made

    def causes(self, first=JANUARY, last=TODAY, only=()):
        change = worth.what_changed(self.db, first, last, only)
        net = [worth.worth_on(self.db, day, only).now.net_minor for day in (first, last)]
        self.assertEqual(change.home_minor, net[1] - net[0])
        return {cause: change.of(cause) for cause in CAUSES if change.of(cause)}

    def test_what_is_saved_and_what_only_moved(self):
        self.spends(5_000, day=date(2026, 2, 3))
        self.moves(self.current, self.reserve, 20_000, date(2026, 2, 4))
        self.assertEqual(self.causes(), {"saved": -5_000})
        self.assertEqual(self.causes(only=(("kind", "Savings"),)), {"saved": 20_000})
        self.assertEqual(self.causes(first=date(2026, 2, 3)), {})  # the first day itself is before

    def test_values_gain_only_what_payments_do_not_explain(self):
        fund = self.an_account("Fund", "pension", opening_minor=500_000, opened_on=date(2026, 2, 1))
        home = self.an_account("Home", "property", opening_minor=9_000_000)
        self.moves(self.current, fund, 10_000, date(2026, 3, 1))
        valuing.note_value(self.db, BY, fund, date(2026, 3, 31), 525_000)
        valuing.note_value(self.db, BY, home, date(2026, 3, 31), 9_100_000)
        self.assertEqual(self.causes(), {"market": 15_000, "revaluation": 100_000, "new": 500_000})
        self.assertEqual(self.causes(only=(("class", "Invested"),)), {"saved": 10_000, "market": 15_000, "new": 500_000})

    def test_currency_is_what_rates_did_to_what_lay_there_and_to_what_came_since(self):
        abroad = self.an_account("Abroad", currency="SEK", opening_minor=100_000)
        for day, rate in ((date(2026, 1, 1), 9_000_000), (date(2026, 3, 1), 10_000_000), (date(2026, 5, 1), 8_000_000)):
            market.note_rate(self.db, BY, "SEK", day, rate)
        entries.record_quick_line(self.db, BY, abroad, "Grebe 200 2026-03-10")
        # 1,000.00 kronor at 0.09 become 800.00 at 0.08: 20.00 were spent at 0.10, the rest of the 26.00 is currency.
        self.assertEqual(self.causes(), {"saved": -2_000, "currency": -600})

    def test_a_loan_is_paid_back_and_its_interest_is_not(self):
        loan = self.a_loan()
        self.pays(loan, date(2026, 2, 2))
        self.assertEqual(self.causes(), {"saved": -61_200, "debt": 51_200})
        self.assertEqual(self.causes(only=(("class", "Debts"),)), {"debt": 51_200})

    def test_whatever_moves_the_causes_add_up_and_weeks_meet_months(self):
        dice = random.Random(11)
        abroad = self.an_account("Abroad", currency="SEK", opening_minor=900_000)
        fund, loan = self.an_account("Fund", "pension", opening_minor=500_000), self.a_loan()
        for number in range(1, 6):
            market.note_rate(self.db, BY, "SEK", date(2026, number, 3), 8_700_000 + number * 131_337)
        for _ in range(60):
            day = date(2026, 1, 5) + timedelta(days=dice.randrange(125))
            act = dice.randrange(5)
            if act == 0:
                self.spends(dice.randint(-900, 4_000), day=day)
            elif act == 1:
                self.moves(self.current, dice.choice([self.reserve, fund]), dice.randint(1, 5_000), day)
            elif act == 2:
                entries.record_quick_line(self.db, BY, abroad, f"Grebe {dice.randint(1, 90)}.{dice.randint(10, 99)} {day}")
            elif act == 3:
                valuing.note_value(self.db, BY, fund, day, dice.randint(400_000, 600_000))
            else:
                self.pays(loan, day)
        for only in ((), (("class", "Invested"),), (("currency", "SEK"),)):
            for first, last in ((JANUARY, TODAY), (date(2026, 2, 13), date(2026, 4, 2)), (date(2025, 6, 1), TODAY)):
                self.causes(first, last, only)
        weeks = worth.worth_course(self.db, [*period_ends(date(2026, 1, 1), JANUARY, "week"), date(2026, 4, 30)])
        months = {p.month: p for p in worth.worth_view(self.db, Month(2026, 5)).points}
        for point in weeks.points[-2:]:
            self.assertEqual(point, months[point.month])
        tree = worth.arranged(self.db, weeks.rows, ["owner", "class", "currency"])
        self.assertEqual(tree.home_minor, weeks.now.net_minor)


class Holes(WorthCase):
    def setUp(self):
        super().setUp()
        self.loan = self.a_loan()
        for number in (1, 4, 5):
            self.pays(self.loan, date(2026, number, 2))

    def found(self):
        return holes.list_all_holes(self.db, TODAY)

    def test_two_payments_filed_as_spending_are_found_and_made_payments_again(self):
        (hole,) = self.found()
        self.assertEqual(hole.days, (date(2026, 2, 2), date(2026, 3, 2)))
        owed = self.balance(self.loan)
        with self.assertRaisesRegex(InvalidInput, "No everyday account paid Boat loan then"):
            holes.fill_hole(self.db, BY, self.loan, hole.first, "payments")
        kept = [self.spends(61_200, day=date(2026, number, 4), payee="Boat loan") for number in (2, 3)]
        balance = self.balance()
        self.assertEqual([entry_id for _, entry_id in holes.find_payments(self.db, hole)], kept)
        done = holes.fill_hole(self.db, BY, self.loan, hole.first, "payments")
        self.assertEqual((done.made, self.found(), self.balance()), (2, [], balance))
        # The first splits off 9,744 of what was owed on its day, the second 9,487: later payments keep what they said.
        self.assertEqual(self.balance(self.loan) - owed, hole.step_minor)
        with self.assertRaisesRegex(InvalidInput, "no such hole any more"):
            holes.fill_hole(self.db, BY, self.loan, hole.first, "payments")
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.found(), [hole])
        self.assertEqual(self.balance(self.loan), owed)

    def test_a_value_not_noted_steps_and_is_drawn_as_a_line(self):
        fund = self.an_account("Fund", "pension", opening_minor=500_000, opened_on=date(2025, 6, 30))
        valuing.note_value(self.db, BY, fund, date(2025, 6, 30), 500_000)
        valuing.note_value(self.db, BY, fund, date(2026, 4, 30), 600_000)
        hole = next(one for one in self.found() if one.account_id == fund)
        self.assertEqual((hole.first, hole.last, hole.step_minor), (date(2025, 6, 30), date(2026, 4, 30), 100_000))
        for way in ("payments", "guessed"):
            with self.assertRaises(InvalidInput):
                holes.fill_hole(self.db, BY, fund, hole.first, way)
        done = holes.fill_hole(self.db, BY, fund, hole.first, "between")
        self.assertNotIn(fund, {one.account_id for one in self.found()})
        self.assertGreater(done.made, 3)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertIn(hole, self.found())
