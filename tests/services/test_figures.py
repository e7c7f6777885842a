"""Accounts, net worth, workings, sittings, and the demo: the figures pages show, and that each shows its working."""

import tempfile
import unittest
from contextlib import closing
from datetime import date
from pathlib import Path

from bolsa.core.months import Month
from bolsa.demo.banks import write_scenario
from bolsa.demo.run import prepare_demo
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.accounts import accounts
from bolsa.services.accounts.workings import WORKINGS as OF_ACCOUNTS
from bolsa.services.budget import budgeting, placing
from bolsa.services.budget.workings import WORKINGS as OF_BUDGET
from bolsa.services.checking import checking
from bolsa.services.clock import By, by_now
from bolsa.services.house import files
from bolsa.services.house import past as history
from bolsa.services.ledger import entries, listing
from bolsa.services.sorting import categories
from bolsa.services.today import sittings
from bolsa.services.worth import worth
from bolsa.services.worth.workings import WORKINGS as OF_WORTH
from tests.demo_file import demo_file
from tests.services.household import BY, TODAY, HouseholdCase

MAY = Month(2026, 5)
WORKINGS = OF_ACCOUNTS | OF_BUDGET | OF_WORTH


class Accounts(HouseholdCase):
    def test_a_hidden_account_stays_in_every_total(self):
        before = worth.worth_view(self.db, MAY).now.net_minor
        accounts.set_shown(self.db, BY, self.current, False)
        self.assertEqual(worth.worth_view(self.db, MAY).now.net_minor, before)
        shown = [s.account.id for group in accounts.account_groups(self.db) for s in group.states]
        self.assertEqual(shown, [self.reserve])
        self.assertEqual(budgeting.budget_view(self.db, BY, MAY).budget.unplaced_minor, 100_000)

    def test_making_an_account_apart_takes_its_money_and_spending_out_of_the_budget(self):
        self.spends(5_000)
        accounts.change_account(self.db, BY, self.current, everyday=False)
        figures = budgeting.budget_view(self.db, BY, MAY).budget
        self.assertEqual((figures.balance_minor, figures.row_of(self.category("Groceries")).spent_minor), (0, 0))

    def test_names_are_unique_and_kinds_known(self):
        for name, kind, field in (("current", "cash", "name"), (" ", "cash", "name"), ("X", "sock", "kind")):
            with self.subTest(name), self.assertRaises(InvalidInput) as caught:
                self.an_account(name, kind=kind)
            self.assertEqual(caught.exception.field, field)

    def test_a_category_keeps_its_name_to_itself(self):
        for group, name in (("Living", "groceries"), ("Living", ""), ("", "New")):
            with self.subTest(name), self.assertRaises(InvalidInput):
                categories.add_category(self.db, BY, group, name)
        with self.assertRaises(InvalidInput):
            categories.change_category(self.db, BY, 1, "Living", name="Mine now")


class NetWorth(HouseholdCase):
    def test_foreign_money_counts_at_that_months_rate(self):
        self.an_account("Kronor", kind="savings", currency="SEK", opening_minor=1_000_000)
        self.assertEqual(worth.worth_view(self.db, MAY).without_rate, ("SEK",))
        history.record_rate(self.db, "SEK", date(2026, 2, 1), 9_000_000)
        history.record_rate(self.db, "SEK", date(2026, 5, 1), 8_000_000)
        points = {str(p.month): p.net_minor for p in worth.worth_view(self.db, MAY).points}
        self.assertEqual(
            points, {"2026-01": 190_000, "2026-02": 190_000, "2026-03": 190_000, "2026-04": 190_000, "2026-05": 180_000}
        )

    def test_debts_stand_below_and_an_overdrawn_account_stays_on_its_side(self):
        self.an_account("Loan", kind="loan", opening_minor=-40_000)
        self.spends(120_000)
        now = worth.worth_view(self.db, MAY).now
        self.assertEqual((now.owned_minor, now.owed_minor, now.net_minor), (-20_000, -40_000, -60_000))


class Sittings(HouseholdCase):
    def done(self):
        return [step for step, tied in sittings.today_view(self.db, BY, MAY).done.items() if tied]

    def test_each_knot_is_tied_by_what_is_true(self):
        # Never checked for over five weeks, and all of it unplaced.
        self.assertEqual(self.done(), ["bring", "sort", "look"])
        entry_id = entries.record_entry(self.db, BY, self.current, entries.TypedEntry(TODAY, "Otter Books", -900)).made
        self.assertNotIn("sort", self.done())
        entries.set_category(self.db, BY, entry_id, self.category("Presents"))
        placing.place(self.db, BY, self.category("Presents"), MAY, 100_000)
        for account, closing_minor in ((self.current, 100_000), (self.reserve, 0)):
            statement = checking.begin_statement(self.db, BY, account, TODAY, closing_minor).made
            checking.reconcile(self.db, BY, statement)
        self.assertEqual(self.done(), list(sittings.STEPS))

    def test_a_sitting_is_left_resumed_and_finished(self):
        first = sittings.begin_sitting(self.db, BY)
        sittings.leave_at(self.db, "check")
        self.assertEqual(sittings.begin_sitting(self.db, BY), first)
        self.assertEqual(sittings.today_view(self.db, BY, MAY).sitting.step, "check")
        sittings.finish_sitting(self.db, BY)
        view = sittings.today_view(self.db, BY, MAY)
        self.assertEqual((view.sitting, view.last_sitting.worth_minor), (None, 100_000))


class TheDemo(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.folder.cleanup)
        cls.paths = [Path(cls.folder.name) / name for name in ("a.bolsa", "b.bolsa")]
        cls.paths[0].write_bytes(demo_file())
        prepare_demo(cls.paths[1])

    def open(self, path=None):
        db = files.open_household(path or self.paths[0])
        self.addCleanup(db.close)
        return db

    def test_the_same_seed_gives_the_same_household_and_the_same_bank(self):
        dumps = [[line for line in self.open(path).iterdump() if "secret key" not in line] for path in self.paths]
        self.assertEqual(*map(sorted, dumps))  # a copy has its tables in another order
        texts = []
        for name in ("x.json", "y.json"):
            write_scenario(Path(self.folder.name) / name)
            texts.append((Path(self.folder.name) / name).read_text())
        self.assertEqual(*texts)

    def test_it_holds_and_is_as_large_and_as_late_as_it_says(self):
        db = self.open()
        self.assertEqual(listing.check(db), [])
        count, first, last = db.execute("SELECT count(*), min(day), max(day) FROM entry").fetchone()
        self.assertTrue(3_200 <= count <= 3_700)
        self.assertEqual((first, by_now(db).today), ("2022-12-14", date(2026, 5, 14)))
        self.assertLessEqual(last, "2026-05-14")

    def test_its_mess_is_there(self):
        view = sittings.today_view(db := self.open(), by_now(db), MAY)
        self.assertEqual({s.account.name: s.difference_minor for s in view.to_check}["Household current"], 27)
        self.assertGreaterEqual(view.to_sort.entry_count, 12)
        over = {view.budget.category(row.category_id).name for row in view.budget.budget.rows if row.over_minor}
        self.assertIn("Household", over)

    def test_no_month_of_the_past_promised_what_was_not_there(self):
        db = self.open()
        by = by_now(db)
        for months in range(2, 40):
            month = MAY + -months
            self.assertGreaterEqual(budgeting.budget_view(db, by, month).budget.unplaced_minor, 0, str(month))

    def test_every_working_adds_up_to_the_figure_it_explains(self):
        db = self.open()
        by: By = by_now(db)
        for month in (MAY, Month(2026, 3), Month(2024, 12)):
            view = budgeting.budget_view(db, by, month)
            figures = {("unplaced", "all"): view.budget.unplaced_minor, ("still-needed", "all"): view.budget.still_needs_minor}
            for row in view.budget.rows:
                figures["left", str(row.category_id)] = row.left_minor
                figures["need", str(row.category_id)] = row.need_minor
                figures["spent", str(row.category_id)] = row.spent_minor
            figures["net-worth", "all"] = worth.worth_view(db, month).now.net_minor
            if month == MAY:
                for group in accounts.account_groups(db):
                    for state in group.states:
                        figures["balance", str(state.account.id)] = state.balance_minor
                        if state.difference_minor is not None:
                            figures["bank-difference", str(state.account.id)] = state.difference_minor
            for (kind, key), amount in figures.items():
                with self.subTest(kind=kind, key=key, month=str(month)):
                    working = WORKINGS[kind](db, by, key, month)
                    self.assertTrue(working.adds_up)
                    self.assertEqual(working.figure.minor, amount)

    def test_a_figure_that_does_not_exist_has_no_working(self):
        db = self.open()
        for kind, key in (("left", "99999"), ("left", "x"), ("left", "²"), ("need", "9" * 19), ("balance", "0")):
            with self.subTest(kind), self.assertRaises(NotFound):
                WORKINGS[kind](db, by_now(db), key, MAY)

    def test_a_copy_opens_as_the_same_household(self):
        from bolsa.services.house import backups

        target = Path(self.folder.name) / "copy.bolsa"
        with closing(files.open_household(self.paths[0])) as db:
            self.assertEqual(backups.back_up(db, target), [])
            before = listing.balances_on(db, date(2026, 5, 14))
        with closing(files.open_household(target)) as db:
            self.assertEqual(listing.balances_on(db, date(2026, 5, 14)), before)


if __name__ == "__main__":
    unittest.main()
