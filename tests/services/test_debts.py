"""Debts out of the books: by the plan and tried, in an order by hand, undone; what is not known is said."""

from datetime import date
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.accounts import market
from bolsa.services.ahead import debts
from tests.services.household import BY, HouseholdCase


class Debts(HouseholdCase):
    def setUp(self):
        super().setUp()
        loan = Terms(rate=Decimal("0.04"), payment_minor=20_000)
        self.loan = self.an_account("Barge", "loan", opening_minor=-500_000, terms=loan)
        card = Terms(rate=Decimal("0.18"), payment_minor=6_000)
        self.card = self.an_account("Card", "card", opening_minor=-900_00, terms=card)

    def view(self, **tried):
        return debts.debt_view(self.db, BY, **tried)

    def test_the_books_make_the_debts_and_a_plan_that_is_tried_changes_nothing(self):
        self.assertEqual(
            (self.view().owed_minor, [c.debt.name for c in self.view().planned.courses]), (590_000, ["Card", "Barge"])
        )
        tried = self.view(more_minor=50_000, order="balance")
        self.assertLess(tried.planned.done, self.view().planned.done)
        self.assertGreater(tried.saved_minor, 0)
        self.assertEqual(self.view().plan.more_minor, 0)

    def test_a_kept_plan_an_order_by_hand_and_a_single_payment_are_undone(self):
        debts.change_plan(self.db, BY, 10_000, "balance")
        done = debts.move_debt(self.db, BY, self.loan, -1)
        self.assertEqual(
            ([c.debt.name for c in self.view().planned.courses], self.view().plan.order), (["Barge", "Card"], "hand")
        )
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.view().plan.order, "balance")
        before = self.view().planned.interest_minor
        done = debts.pay_once(self.db, BY, Month(2026, 9), 30_000)
        self.assertLess(self.view().planned.interest_minor, before)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.view().planned.interest_minor, before)
        for act in (lambda: debts.pay_once(self.db, BY, Month(2026, 5), 1), lambda: debts.change_plan(self.db, BY, -1, "rate"),
                    lambda: debts.change_plan(self.db, BY, 1, "luck")):  # fmt: skip
            with self.assertRaises(InvalidInput):
                act()
        with self.assertRaises(NotFound):
            debts.move_debt(self.db, BY, 999, 1)

    def test_what_is_not_known_is_asked_for_and_what_is_too_little_said(self):
        bare = self.an_account("Kiln", "liability", opening_minor=-80_000)
        self.assertEqual([one.name for one in self.view().lacking], ["Kiln"])
        self.assertIsNone(self.view().least.done)
        debts.say_terms(self.db, BY, bare, Decimal("0.12"), 800)
        self.assertEqual(([one.name for one in self.view().too_little], self.view().lacking), (["Kiln"], ()))
        with self.assertRaises(InvalidInput):
            debts.say_terms(self.db, BY, bare, Decimal("1.2"), 800)
        with self.assertRaises(NotFound):
            debts.say_terms(self.db, BY, self.current, Decimal("0.1"), 800)

    def test_a_debt_abroad_counts_at_todays_rate_and_without_one_is_left_out(self):
        self.an_account(
            "Kronor loan", "loan", currency="SEK", opening_minor=-100_000, terms=Terms(rate=Decimal("0.02"), payment_minor=9_000)
        )
        self.assertEqual([one.name for one in self.view().without_rate], ["Kronor loan"])
        market.note_rate(self.db, BY, "SEK", date(2026, 5, 1), 9_000_000)
        self.assertEqual(self.view().owed_minor, 590_000 + 9_000)
