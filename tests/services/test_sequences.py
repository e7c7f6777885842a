"""Whatever is done in whatever order, every promise of the ledger holds after each step, and what cannot be done says so."""

import random
import unittest
from datetime import date, timedelta
from decimal import Decimal

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month
from bolsa.errors import BolsaError
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, valuing
from bolsa.services.bringing import bringing_in, matching_by_hand, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import budgeting
from bolsa.services.checking import checking, curing
from bolsa.services.ledger import entries, listing, registers
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.ledger.registers import ManyChange
from bolsa.services.sorting import categories
from bolsa.store.checking import statements
from tests.services.household import BY, TODAY, HouseholdCase


class Person:
    """Someone who does things at random: each verb picks what it needs from what is there."""

    def __init__(self, db, dice: random.Random):
        self.db, self.dice = db, dice
        self.categories = [c.id for _, members in categories.list_by_group(db) for c in members][:5]
        self.files: list[tuple[bytes, int]] = []

    def day(self) -> date:
        return date(2026, 1, 1) + timedelta(days=self.dice.randrange(133))

    def month(self) -> Month:
        return Month(2026, self.dice.randint(1, 7))

    def account(self, *, valued: bool | None = None) -> int:
        fitting = [a.id for a in accounts.list_accounts(self.db) if valued is None or a.is_valued == valued]
        return self.dice.choice(fitting or [0])

    def entry(self) -> int:
        ids = [row["id"] for row in self.db.execute("SELECT id FROM entry")]
        return self.dice.choice(ids or [0])

    def spends(self):
        typed = TypedEntry(self.day(), f"Shop {self.dice.choice('ABC')}", -self.dice.randint(1, 5000))
        entries.record_entry(self.db, BY, self.account(), typed)

    def transfers(self):
        typed = TypedEntry(self.day(), "Transfer", -self.dice.randint(1, 5000), other_account_id=self.account())
        entries.record_entry(self.db, BY, self.account(), typed)

    def edits(self):
        entry = entries.get_entry(self.db, self.entry())
        typed = TypedEntry(self.day(), "Shop D", -self.dice.randint(1, 900), state="cleared")
        entries.change_entry(self.db, BY, entry.id, entry.account_lines[0].account_id, typed)

    def deletes(self):
        entries.delete_entry(self.db, BY, self.entry())

    def puts_back(self):
        trash = changes.list_trash(self.db)
        changes.restore_entry(self.db, BY, self.dice.choice(trash).id if trash else 0)

    def changes_many(self):
        asked = self.dice.choice(
            [
                ManyChange("shift", days=-3), ManyChange("tag", text="kiln"), ManyChange("untag", text="kiln"),
                ManyChange("payee", text="Shop Z"), ManyChange("member", member_id=1), ManyChange("cleared"), ManyChange("match"),
                ManyChange("file", category_id=self.dice.choice(self.categories)),
            ]
        )  # fmt: skip
        registers.change_many(self.db, BY, self.account(), [self.entry(), self.entry()], asked)

    def sets_by(self):
        to = accounts.get_account(self.db, self.account())
        other = self.dice.randint(1, 90_000) if to.currency != "EUR" else None
        category = self.dice.choice(self.categories)
        typed = TypedEntry(
            self.day(), "By", -self.dice.randint(1, 5000), other_account_id=to.id, other_amount_minor=other, set_by_id=category
        )
        entries.record_entry(self.db, BY, self.account(), typed)

    def budgets(self):
        one, other = self.dice.sample(self.categories, 2)
        amount = self.dice.randint(1, 3000)
        act = self.dice.randrange(4)
        if act == 0:
            budgeting.place(self.db, BY, one, self.month(), amount)
        elif act == 1:
            budgeting.fill(self.db, BY, self.month(), self.categories)
        elif act == 2:
            budgeting.shift(self.db, BY, self.month(), one, other, amount)
        else:
            budgeting.set_expected(self.db, BY, one, self.month(), amount)

    def turns(self):
        accounts.set_flags(self.db, BY, self.account(), everyday=self.dice.random() < 0.5)

    def imports_again(self):
        content, account_id = self.dice.choice(self.files or [(b"", 0)])
        bringing_in.import_file(self.db, BY, "x.csv", content, Answers(account_id, others="new"))

    def takes_out(self):
        brought = [row["id"] for row in self.db.execute("SELECT id FROM batch WHERE state = 'brought'")]
        undoing.undo_batch(self.db, BY, self.dice.choice(brought or [0]))

    def imports(self):
        rows = [f"{self.day()},Shop {self.dice.choice('ABC')},-{self.dice.randint(1, 60) / 10:.2f}" for _ in range(4)]
        content = "\n".join(["Date,Payee,Amount", *rows]).encode()
        self.files.append((content, self.account(valued=False)))
        bringing_in.import_file(self.db, BY, "x.csv", content, Answers(self.files[-1][1], others="new"))

    def notes_a_value(self):
        valuing.note_value(self.db, BY, self.account(valued=True), self.day(), self.dice.randint(0, 999_999))

    def forgets_a_value(self):
        account_id = self.account(valued=True)
        steps = valuing.values_page(self.db, BY, account_id).steps
        valuing.forget_value(self.db, BY, account_id, self.dice.choice(steps).note.day if steps else TODAY)

    def carries(self):
        valuing.fill_holes(self.db, BY, self.account(valued=True), "carried")

    def checks(self):
        account_id = self.account(valued=False)
        open_one = next((s for s in statements.list_statements(self.db, account_id) if s.state == "open"), None)
        if open_one is None:
            checking.begin_statement(self.db, BY, account_id, self.day(), self.dice.randint(-5000, 120_000))
            return
        cured = [s for s in curing.find_findings(self.db, open_one).suspects if s.cures]
        if cured and self.dice.random() < 0.6:
            curing.cure(self.db, BY, open_one.id, self.dice.choice(cured).key)
        elif self.dice.random() < 0.6:
            checking.write_off(self.db, BY, open_one.id, self.categories[0])
            checking.reconcile(self.db, BY, open_one.id)
        else:
            checking.abandon_statement(self.db, BY, open_one.id)

    def reopens(self):
        past = [s for s in statements.list_statements(self.db, self.account(valued=False)) if s.state == "reconciled"]
        checking.reopen(self.db, BY, self.dice.choice(past).id if past else 0)

    def closes(self):
        ending.close_account(self.db, BY, self.account(), TODAY, rest_to=self.account(), happened=self.dice.random() < 0.7)

    def opens_again(self):
        ending.open_again(self.db, BY, self.account())

    def deletes_an_account(self):
        account = accounts.get_account(self.db, self.account())
        ending.delete_account(self.db, BY, account.id, account.name)

    def parts(self):
        matched = self.db.execute("SELECT line_id FROM brought_row WHERE line_before IS NOT NULL").fetchall()
        matching_by_hand.unmatch(self.db, BY, self.dice.choice(matched)["line_id"] if matched else 0)

    def redoes(self):
        undone = [step.undone_by for step in changes.list_steps(self.db) if step.undone_by][:6]
        changes.undo_step(self.db, BY, self.dice.choice(undone or [0]))

    def undoes(self):
        steps = [step for step in changes.list_steps(self.db) if not step.undone_by][:12]
        changes.undo_step(self.db, BY, self.dice.choice(steps).id if steps else 0)


OFTEN = (Person.spends, Person.changes_many, Person.undoes, Person.checks, Person.notes_a_value, Person.imports, Person.transfers)
SELDOM = (
    Person.edits, Person.deletes, Person.puts_back, Person.forgets_a_value, Person.reopens, Person.closes, Person.parts,
    Person.deletes_an_account, Person.opens_again, Person.redoes, Person.carries, Person.takes_out, Person.imports_again,
    Person.turns, Person.sets_by, Person.budgets,
)  # fmt: skip


class AnyOrder(HouseholdCase):
    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.lists(st.sampled_from(OFTEN + OFTEN + SELDOM), min_size=25, max_size=45), st.integers(0, 10**6))
    def test_every_promise_holds_after_every_step(self, verbs, seed):
        self.doCleanups()  # a household of its own for each example
        self.setUp()
        self.an_account("Van", "vehicle", opening_minor=900_000)
        self.an_account("Fund", "pension", opening_minor=50_000)
        self.an_account("Kronor", "savings", currency="SEK")
        self.an_account("Yen", "savings", currency="JPY")
        terms = Terms(rate=Decimal("0.06"), payment_minor=20_000, interest_category_id=self.category("Household"))
        self.an_account("Loan", "loan", opening_minor=-1_200_000, terms=terms)
        person = Person(self.db, random.Random(seed))
        for verb in verbs:
            try:
                verb(person)
            except BolsaError as refusal:
                self.assertTrue(refusal.sentence)
            self.assertFalse(self.db.in_transaction, verb.__name__)
            self.assertEqual(listing.check(self.db), [], verb.__name__)


if __name__ == "__main__":
    unittest.main()
