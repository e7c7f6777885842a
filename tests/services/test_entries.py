"""Recording, changing and deleting entries; what is locked; undo of anything; every promise after any sequence."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.errors import BolsaError, Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting, placing, shifting
from bolsa.services.checking import checking
from bolsa.services.ledger import entries, listing
from bolsa.services.ledger.entries import TypedEntry
from tests.services.household import BY, TODAY, HouseholdCase


class Recording(HouseholdCase):
    def test_a_transfer_is_one_entry_and_no_spending(self):
        entry_id = entries.record_entry(
            self.db, BY, self.current, TypedEntry(TODAY, "", -25_000, other_account_id=self.reserve)
        ).made
        self.assertEqual((self.balance(), self.balance(self.reserve)), (75_000, 25_000))
        self.assertTrue(entries.get_entry(self.db, entry_id).is_transfer)
        ribbon = budgeting.ribbon(self.db, "EUR", Month(2026, 5), Month(2026, 5))
        self.assertEqual((ribbon[0].in_minor, ribbon[0].out_minor), (0, 0))

    def test_a_transfer_between_currencies_holds_both_amounts(self):
        kronor = self.an_account("Kronor", kind="savings", currency="SEK")
        with self.assertRaisesRegex(InvalidInput, "how much arrives, in SEK"):
            entries.record_entry(self.db, BY, self.current, TypedEntry(TODAY, "", -100, other_account_id=kronor))
        typed = TypedEntry(TODAY, "", -10_000, other_account_id=kronor, other_amount_minor=115_000)
        entries.record_entry(self.db, BY, self.current, typed)
        self.assertEqual((self.balance(), self.balance(kronor)), (90_000, 115_000))

    def test_a_loan_payment_splits_into_interest_and_what_is_set_by(self):
        loan = self.an_account("Loan", kind="loan", opening_minor=-500_000)
        parts = (Part(self.category("Bank charges"), 18_000),)
        typed = TypedEntry(TODAY, "", -61_200, parts, loan, set_by_id=self.category("Set by"))
        entries.record_entry(self.db, BY, self.current, typed)
        self.assertEqual((self.balance(), self.balance(loan)), (38_800, -456_800))
        view = budgeting.budget_view(self.db, BY, Month(2026, 5))
        self.assertEqual(view.budget.row_of(self.category("Set by")).spent_minor, 43_200)
        self.assertEqual(budgeting.ribbon(self.db, "EUR", Month(2026, 5), Month(2026, 5))[0].out_minor, 18_000)

    def test_parts_that_do_not_meet_are_refused_whole(self):
        typed = TypedEntry(TODAY, "Fair", -3000, (Part(self.category("Presents"), 1250),))
        with self.assertRaisesRegex(InvalidInput, "17.50 EUR remains"):
            entries.record_entry(self.db, BY, self.current, typed)
        self.assertEqual(self.balance(), 100_000)

    def test_a_card_debt_from_before_can_be_set_apart(self):
        for set_apart, unplaced in ((False, 60_000), (True, 100_000)):
            card = self.an_account(f"Card {set_apart}", kind="card", opening_minor=-40_000, set_apart=set_apart)
            with self.subTest(set_apart=set_apart):
                self.assertEqual(budgeting.budget_view(self.db, BY, Month(2026, 5)).budget.unplaced_minor, unplaced)
            accounts.change_account(self.db, BY, card, everyday=False)

    def test_money_in_another_currency_cannot_be_everyday(self):
        with self.assertRaisesRegex(InvalidInput, "keep this account apart"):
            self.an_account("Dollars", currency="USD", everyday=True)


class Locked(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.entry_id = self.spends(1250, day=date(2026, 5, 2), state="cleared")
        statement = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 10), 98_750).made
        checking.reconcile(self.db, BY, statement)
        self.statement = statement

    def test_a_reconciled_line_keeps_day_amount_and_account_but_not_its_category(self):
        typed = TypedEntry(date(2026, 5, 2), "Grebe Street Grocer", -1250, (Part(self.category("Household"), 1250),))
        entries.change_entry(self.db, BY, self.entry_id, self.current, typed)
        for changed in (
            {"amount_minor": -1200, "parts": ()},
            {"day": TODAY},
            {"other_account_id": self.reserve, "amount_minor": 5, "parts": ()},
        ):
            with self.subTest(changed), self.assertRaisesRegex(NotAllowed, "statement of Current of 2026-05-10"):
                entries.change_entry(self.db, BY, self.entry_id, self.current, replace(typed, **changed))
        with self.assertRaises(NotAllowed):
            entries.delete_entry(self.db, BY, self.entry_id)

    def test_a_difference_must_be_gone_before_it_locks(self):
        self.spends(500, day=date(2026, 5, 12), state="cleared")
        statement = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 12), 98_240).made
        with self.assertRaisesRegex(Conflict, "difference of 0.10 EUR"):
            checking.reconcile(self.db, BY, statement)
        checking.write_off(self.db, BY, statement, self.category("Unexplained"))
        checking.reconcile(self.db, BY, statement)
        self.assertEqual(self.balance(), 98_240)

    def test_reopening_names_what_it_touches_and_frees_the_lines(self):
        later = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 12), 98_750).made
        checking.reconcile(self.db, BY, later)
        self.assertEqual([s.id for s in checking.later_statements(self.db, self.statement)], [later])
        checking.reopen(self.db, BY, self.statement)
        entries.delete_entry(self.db, BY, self.entry_id)
        self.assertEqual(self.balance(), 100_000)

    def test_a_statement_may_not_close_before_the_last_one_or_ahead(self):
        for day in (date(2026, 5, 10), date(2026, 4, 1), TODAY + timedelta(days=1)):
            with self.subTest(day), self.assertRaises(InvalidInput):
                checking.begin_statement(self.db, BY, self.current, day, 0)


class AnySequence(RuleBasedStateMachine):
    """Any sequence of entries, placements, shifts, undo, checking and reopening keeps every promise."""

    @initialize()
    def begin(self):
        self.case = HouseholdCase()
        self.case.setUp()
        self.db, self.steps = self.case.db, []

    def teardown(self):
        if hasattr(self, "case"):
            self.case.doCleanups()

    def quietly(self, do):
        try:
            result = do()
        except BolsaError:
            return
        if getattr(result, "step_id", None):
            self.steps.append(result.step_id)

    days = st.integers(-60, 5).map(lambda i: TODAY + timedelta(days=i))
    names = st.sampled_from(["Groceries", "Household", "Set by"])

    @rule(
        day=days,
        amount=st.integers(-9000, 9000),
        name=names,
        transfer=st.booleans(),
        state=st.sampled_from(["pending", "cleared"]),
    )
    def enter(self, day, amount, name, transfer, state):
        shares = () if transfer else (Part(self.case.category(name), -amount),)
        other = self.case.reserve if transfer else None
        typed = TypedEntry(day, "Someone", amount, shares, other, state=state)
        self.quietly(lambda: entries.record_entry(self.db, BY, self.case.current, typed))

    def _some_entry(self, pick):
        ids = [row["id"] for row in self.db.execute("SELECT id FROM entry ORDER BY id")]
        return ids[pick % len(ids)] if ids else 0

    @rule(pick=st.integers(0, 99), day=days, amount=st.integers(-9000, 9000))
    def change(self, pick, day, amount):
        typed = TypedEntry(day, "Someone else", amount)
        self.quietly(lambda: entries.change_entry(self.db, BY, self._some_entry(pick), self.case.current, typed))

    @rule(pick=st.integers(0, 99))
    def delete(self, pick):
        self.quietly(lambda: entries.delete_entry(self.db, BY, self._some_entry(pick)))

    @rule(name=names, ahead=st.integers(0, 2), amount=st.integers(-5000, 5000))
    def place(self, name, ahead, amount):
        self.quietly(lambda: placing.place(self.db, BY, self.case.category(name), Month(2026, 5) + ahead, amount))

    @rule(one=names, other=names, amount=st.integers(1, 4000))
    def shift(self, one, other, amount):
        ids = self.case.category(one), self.case.category(other)
        self.quietly(lambda: shifting.shift(self.db, BY, Month(2026, 5), *ids, amount))

    @rule(day=days, off=st.sampled_from([0, 0, 100]))
    def check(self, day, off):
        def do():
            held = entries_balance(self.db, self.case.current, day)
            statement = checking.begin_statement(self.db, BY, self.case.current, day, held + off).made
            return checking.reconcile(self.db, BY, statement)

        self.quietly(do)

    @rule(pick=st.integers(0, 9))
    def reopen(self, pick):
        ids = [row["id"] for row in self.db.execute("SELECT id FROM statement")]
        if ids:
            self.quietly(lambda: checking.reopen(self.db, BY, ids[pick % len(ids)]))

    @precondition(lambda self: self.steps)
    @rule(pick=st.integers(0, 99))
    def undo(self, pick):
        self.quietly(lambda: changes.undo_step(self.db, BY, self.steps[pick % len(self.steps)]) and None)

    @invariant()
    def everything_holds(self):
        if not hasattr(self, "case"):
            return
        assert listing.check(self.db) == []
        figures = budgeting.budget_view(self.db, BY, Month(2026, 5)).budget
        everyday = sum(
            row["amount_minor"]
            for row in self.db.execute(
                "SELECT l.amount_minor FROM line l JOIN account a ON a.id = l.account_id "
                "WHERE a.everyday = 1 AND l.day < '2026-06'"
            )
        )
        assert figures.unplaced_minor + figures.lefts_minor + figures.placed_later_minor == everyday


def entries_balance(db, account_id, day):
    sql = "SELECT coalesce(sum(amount_minor), 0) FROM line WHERE account_id = ? AND day <= ? AND state <> 'pending'"
    return db.execute(sql, (account_id, day.isoformat())).fetchone()[0]


TestAnySequence = AnySequence.TestCase
TestAnySequence.settings = settings(max_examples=25, stateful_step_count=25, deadline=None, derandomize=True)


if __name__ == "__main__":
    unittest.main()
