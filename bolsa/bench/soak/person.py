"""Someone who does at random what a household does: each verb picks what it needs from what is there, and may say what must come
of it. What cannot be done is refused by the services in words, and nothing is changed then."""

import random
import sqlite3
from dataclasses import replace
from datetime import date, timedelta

from bolsa.bench.soak import planner, sorter
from bolsa.bench.soak.files import Row, as_camt, as_csv, as_ofx
from bolsa.bench.soak.model import Figures
from bolsa.bench.soak.promises import ALL, Promise, moved, same
from bolsa.core.due.rhythm import Rhythm
from bolsa.core.holdings.trades import Trade
from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.core.pay.payslip import PayLine
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, openings, valuing
from bolsa.services.ahead import plans
from bolsa.services.bringing import bringing_in, connections, matching_by_hand, previewing, taking_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import expecting, placing, shifting
from bolsa.services.checking import checking, curing
from bolsa.services.clock import By
from bolsa.services.due import dues, keeping
from bolsa.services.holdings import securities, trading
from bolsa.services.ledger import entries, registers
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.ledger.registers import ManyChange
from bolsa.services.pay import keeping as pay_keeping
from bolsa.services.pay import paydays
from bolsa.services.sorting import categories, sorting, transferring
from bolsa.store.accounts import values
from bolsa.store.checking import statements

TODAY = date(2026, 5, 14)
REMOTE = "NCurrent"  # the number of the account there is a connection to
BY = By(TODAY, "2026-05-14T10:00:00Z", 1)


class Person:
    """Someone in a household; `step` is what the last verb did, for verbs that look at what a step before did."""

    def __init__(self, db: sqlite3.Connection, dice: random.Random):
        self.db, self.dice = db, dice
        self.categories = [c.id for _, members in categories.list_by_group(db) for c in members][:5]
        self.files: list[tuple[bytes, int]] = []
        self.sent: list[Row] = []  # what the bank has of the current account

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

    def one_of(self, sql: str) -> int:
        """Any id a query gives, 0 if it gives none."""
        return self.dice.choice([row["id"] for row in self.db.execute(sql)] or [0])

    def spends(self) -> Promise | None:
        amount, account_id, day = -self.dice.randint(1, 5000), self.account(), self.day()
        entries.record_entry(self.db, BY, account_id, TypedEntry(day, f"Shop {self.dice.choice('ABC')}", amount))
        known = openings.find_known(self.db, account_id)
        noted = self.db.execute("SELECT 1 FROM value_note WHERE account_id = ?", (account_id,)).fetchone()
        if noted or (known and day < known.day):  # what was said of a day stands
            return None
        return moved({account_id: amount})

    def splits(self) -> Promise | None:
        account_id, one, other = self.account(valued=False), self.dice.randint(1, 900), self.dice.randint(1, 900)
        parts = tuple(Part(category, amount) for category, amount in zip(self.categories, (one, other), strict=False))
        entries.record_entry(self.db, BY, account_id, TypedEntry(self.day(), "Split", -one - other, parts))
        return None

    def transfers(self):
        typed = TypedEntry(self.day(), "Transfer", -self.dice.randint(1, 5000), other_account_id=self.account())
        entries.record_entry(self.db, BY, self.account(), typed)

    def edits(self):
        entry = entries.get_entry(self.db, self.entry())
        typed = TypedEntry(self.day(), "Shop D", -self.dice.randint(1, 900), state="cleared")
        entries.change_entry(self.db, BY, entry.id, entry.account_lines[0].on_account_id, typed)

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

    def budgets(self) -> Promise | None:
        one, other = self.dice.sample(self.categories, 2)
        amount, month, act = self.dice.randint(1, 3000), self.month(), self.dice.randrange(4)
        if act == 0:
            placing.place(self.db, BY, one, month, amount)

            def placed(before: Figures, after: Figures) -> str:
                left, was = after.left.get((one, month)), before.left.get((one, month), 0)
                return "" if left in (None, was + amount) else "left did not grow by what was placed"

            return placed
        if act == 1:
            placing.fill(self.db, BY, month, self.categories)

            def kept(before: Figures, after: Figures) -> str:
                asked = [m for m in after.unplaced if m == month or m <= Month.of(TODAY)]  # of those ahead no money is there yet
                promised = [m for m in asked if after.unplaced[m] < min(0, before.unplaced[m])]
                return f"filling promised what is not there in {promised[0]}" if promised else ""

            return kept
        if act == 2:
            shifting.shift(self.db, BY, month, one, other, amount)
            return same("balances", "worth")
        expecting.set_expected(self.db, BY, one, month, amount)
        return same(*ALL)

    def plans(self) -> Promise | None:
        """Aims, orders, rules, baselines, trials, months that are closed and opened: none of them moves any money."""
        return planner.plan(self.db, BY, self.dice, self.categories, self.month())

    def decides(self) -> Promise | None:
        return sorter.sort_out(self.db, BY, self.dice, self.categories, self.entry())

    def gathers(self) -> Promise | None:
        return planner.gather(self.db, BY, self.dice, self.categories, self.month())

    def turns(self) -> Promise | None:
        accounts.set_flags(self.db, BY, self.account(), everyday=self.dice.random() < 0.5)
        return same("balances", "worth")

    def hides(self) -> Promise | None:
        accounts.set_shown(self.db, BY, self.account(), self.dice.random() < 0.4)
        return same(*ALL)

    def imports_again(self) -> Promise | None:
        content, account_id = self.dice.choice(self.files or [(b"", 0)])
        bringing_in.import_file(self.db, BY, "x", content, Answers(account_id, others="new"))
        again = bringing_in.import_file(self.db, BY, "x", content, Answers(account_id, others="new"))
        return None if not again.new else lambda _before, _after: f"brought in twice, {again.new} rows were new"

    def takes_out(self):
        brought = [row["id"] for row in self.db.execute("SELECT id FROM batch WHERE state = 'brought'")]
        undoing.undo_batch(self.db, BY, self.dice.choice(brought or [0]))

    def imports(self) -> Promise | None:
        """The same few days as a table, as OFX, or as camt (booked, or pending first)."""
        account_id = self.account(valued=False)
        rows = [(self.day(), f"Shop {self.dice.choice('ABC')}", -self.dice.randint(1, 60) * 10) for _ in range(4)]
        if self.files and self.dice.random() < 0.3:
            return self.imports_again()
        number = accounts.get_account(self.db, account_id).number or f"X{account_id}"
        ways = [as_csv(rows), as_ofx(rows, number), as_camt(rows, number), as_camt(rows, number, "PDNG")]
        for content in self.dice.sample(ways, self.dice.randint(1, 2)):
            self.files.append((content, account_id))
            bringing_in.import_file(self.db, BY, "x", content, Answers(account_id, others="new"))
        return None

    def downloads(self) -> None:
        """What a connection brings of the current account: some days anew, some as they came before."""
        if not self.sent or self.dice.random() < 0.7:
            self.sent += [(self.day(), f"Shop {self.dice.choice('ABC')}", -self.dice.randint(1, 60) * 10) for _ in range(3)]
        reply = as_ofx(self.sent[-6:], REMOTE)
        found = connections.download(self.db, BY, 1, lambda _: reply)
        if found.batch_id and self.dice.random() < 0.9:
            bringing_in.bring_in(self.db, BY, found.batch_id)

    def brings_by_hand(self) -> None:
        """A preview of which one row is overruled, brought in, or put aside."""
        content, account_id = self.dice.choice(self.files or [(b"", 0)])
        batch_id = taking_in.take_in(self.db, BY, "y", content, Answers(account_id, others="new")).batch_id
        rows = previewing.get_preview(self.db, batch_id).rows
        if rows and self.dice.random() < 0.7:
            row = self.dice.choice(rows)
            lines = previewing.list_candidates(self.db, row.id)
            if lines and self.dice.random() < 0.5:
                previewing.match_by_hand(self.db, batch_id, row.id, self.dice.choice(lines).line_id)
            else:
                previewing.overrule(self.db, batch_id, row.id, self.dice.choice(["bring", "leave", "match", "correct"]))
        if self.dice.random() < 0.8:
            bringing_in.bring_in(self.db, BY, batch_id)
        else:
            previewing.discard(self.db, batch_id)

    def says_what_it_held(self) -> Promise | None:
        account_id, amount = self.account(valued=False), self.dice.randint(-500, 120_000)
        openings.set_known(self.db, BY, account_id, self.day(), amount)
        return None

    def sorts(self) -> Promise | None:
        ids = [row["entry_id"] for row in self.db.execute("SELECT DISTINCT entry_id FROM line WHERE category_id = 1")]
        chosen = self.dice.sample(ids, min(len(ids), 3))
        if self.dice.random() < 0.6:
            sorting.file_entries(self.db, BY, chosen, self.dice.choice(self.categories))
            return same("balances", "worth")
        transferring.file_as_transfer(self.db, BY, chosen[:1], self.account(), self.dice.choice([None, *self.categories]))
        return None

    def expects_what_comes(self) -> Promise | None:
        """A series begun, ended, forgotten, or one of its dues skipped, matched or kept out."""
        act, series_id = self.dice.randrange(6), self.one_of("SELECT id FROM series")
        if act == 0 or not series_id:
            amount = self.dice.choice([-1, 1]) * self.dice.randint(100, 9_000)
            rhythm = Rhythm("FREQ=MONTHLY", self.day())
            typed = keeping.TypedSeries("Shop A", self.account(valued=False), rhythm, amount, category_id=self.categories[0])
            keeping.add_series(self.db, BY, typed)
        elif act == 1:
            keeping.end_series(self.db, BY, series_id, self.day())
        elif act == 2:
            keeping.forget_series(self.db, BY, series_id)
        else:
            kept = dues.list_kept(self.db, BY, TODAY + timedelta(days=40))
            due = self.dice.choice([due for one in kept for due in one.dues if one.series.id == series_id] or [None])
            line_id = self.one_of("SELECT id FROM line WHERE account_id IS NOT NULL")
            if due is not None and act == 3:
                keeping.skip_due(self.db, BY, series_id, due.day)
            elif due is not None and act == 4:
                keeping.match_due(self.db, BY, series_id, due.day, line_id)
            else:
                keeping.keep_out(self.db, BY, series_id, line_id)
        return same(*ALL)

    def is_paid(self) -> None:
        """A pay taken apart, a payday confirmed with its deposit, or taken back."""
        found = paydays.list_pays(self.db)
        if not found:
            account_id = self.one_of("SELECT id FROM account WHERE everyday = 1 AND closed_on IS NULL")
            pay_category = next(c.id for _, members in categories.list_by_group(self.db) for c in members if c.type == "income")
            typed = keeping.TypedSeries(
                "Ferry", account_id, Rhythm("FREQ=MONTHLY", date(2026, 1, 15)), 200_000, "last", pay_category
            )
            series_id = keeping.add_series(self.db, BY, typed).made
            lines = [
                PayLine(0, "earned", "Wages", 250_000, category_id=pay_category),
                PayLine(0, "tax", "Tax", 40_000, category_id=self.categories[1]),
                PayLine(0, "after", "Dues", 10_000, category_id=self.categories[2]),
            ]
            pay_keeping.keep_pay(self.db, BY, series_id, 1, date(2026, 1, 1), lines)
            return
        pay, _ = self.dice.choice(found)
        days = paydays.list_days(self.db, BY, pay)
        state = self.dice.choice(days or [None])
        if state is None:
            return
        if state.state == "confirmed":
            pay_keeping.take_back(self.db, BY, pay.id, state.day)
            return
        amounts = {line.id: line.amount_minor or 0 for line in pay.lines}
        if state.deposit:
            off = state.deposit.amount_minor - 200_000
            amounts[pay.lines[0].id] += off
        pay_keeping.confirm(self.db, BY, pay.id, state.day, amounts)

    def trades(self) -> None:
        """A trade entered, or taken out; a price set or forgotten."""
        act, trade_id = self.dice.randrange(5), self.one_of("SELECT id FROM trade")
        security_id = self.one_of("SELECT id FROM security")
        if act == 0 and trade_id:
            trading.remove_trade(self.db, BY, trade_id)
        elif act == 1:
            securities.set_price(self.db, BY, security_id, self.day(), self.dice.randint(1, 300) * 10**7)
        elif act == 2:
            row = self.db.execute("SELECT security_id, day FROM price_note LIMIT 1").fetchone()
            if row:
                securities.forget_price(self.db, BY, row["security_id"], date.fromisoformat(row["day"]))
        else:
            kind = self.dice.choice(["buy", "buy", "sell", "dividend", "opening", "fee"])
            shares = self.dice.randint(1, 40) * 10**8
            total = self.dice.randint(100, 90_000)
            typed = {
                "buy": Trade(self.day(), kind, shares, security_id, -total),
                "sell": Trade(self.day(), kind, -shares, security_id, total),
                "dividend": Trade(self.day(), kind, 0, security_id, total, taxed_minor=total),
                "opening": Trade(self.day(), kind, shares, security_id, -total, basis_day=date(2025, 5, 5)),
                "fee": Trade(self.day(), kind, 0, security_id, -total),
            }[kind]
            trading.enter_trade(
                self.db, BY, replace(typed, account_id=self.one_of("SELECT id FROM account WHERE kind = 'brokerage'"))
            )

    def looks_ahead(self) -> Promise | None:
        """A case of the long view begun, kept, or dropped."""
        case_id = self.one_of("SELECT id FROM plan_case")
        if not case_id:
            plans.begin(self.db, BY, {1: 1984})
        elif self.dice.random() < 0.5:
            plans.add_case(self.db, BY, f"Case {self.dice.randrange(10**6)}", plans.get_case(self.db, case_id).plan)
        else:
            plans.remove_case(self.db, BY, case_id)
        return same(*ALL)

    def notes_a_value(self) -> Promise | None:
        account_id, amount = self.account(valued=True), self.dice.randint(0, 999_999)
        valuing.note_value(self.db, BY, account_id, TODAY if self.dice.random() < 0.3 else self.day(), amount)
        return None

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

    def closes(self) -> Promise | None:
        account_id, rest_to = self.account(), self.account(valued=False)
        ending.close_account(self.db, BY, account_id, TODAY, rest_to=rest_to, happened=self.dice.random() < 0.7)

        def kept(before: Figures, after: Figures) -> str:
            if after.balances[account_id]:
                return f"a closed account holds {after.balances[account_id]}"
            if any(noted.day >= TODAY for noted in values.list_values(self.db, rest_to)):
                return ""  # what it is noted to be worth that evening holds what came in during the day
            return "" if after.worth[TODAY] == before.worth[TODAY] else "closing moved net worth"

        return kept

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


OFTEN = (
    Person.spends, Person.changes_many, Person.undoes, Person.checks, Person.notes_a_value, Person.imports, Person.transfers,
    Person.budgets, Person.plans, Person.gathers, Person.sorts,
    Person.decides,
)  # fmt: skip
SELDOM = (
    Person.edits, Person.splits, Person.deletes, Person.puts_back, Person.forgets_a_value, Person.reopens, Person.closes,
    Person.parts, Person.opens_again, Person.redoes, Person.carries, Person.takes_out, Person.imports_again, Person.turns,
    Person.sets_by, Person.hides, Person.brings_by_hand, Person.says_what_it_held, Person.expects_what_comes, Person.is_paid,
    Person.trades, Person.trades, Person.looks_ahead, Person.downloads,
)  # fmt: skip
RARELY = (Person.deletes_an_account,)
