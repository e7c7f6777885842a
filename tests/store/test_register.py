"""A register's pages: every line once, in any order, with the balance just after it."""

import unittest
from datetime import date, timedelta
from typing import ClassVar
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.ledger.register import RegisterFilter
from bolsa.errors import InvalidInput
from bolsa.services.house import past as history
from bolsa.store.accounts.accounts import sum_balance
from bolsa.store.ledger import register_order
from bolsa.store.ledger.register import list_register
from bolsa.store.ledger.register_order import ORDERS
from bolsa.store.ledger.where import SHORT
from tests.services.household import HouseholdCase

DAY = date(2026, 3, 28)
LINES = st.lists(
    st.tuples(
        st.integers(0, 9), st.integers(-500, 500), st.sampled_from(["Otter Books", "otter books", "Ål & Co", "100 % Wool_"])
    ),
    min_size=1,
    max_size=25,
)


class Paging(HouseholdCase):
    def write(self, account, drawn):
        history.record_history(
            self.db,
            [
                Entry(
                    DAY + timedelta(days=days),
                    payee,
                    (
                        Line(amount, "EUR", account_id=account, state="cleared"),
                        Line(-amount, "EUR", category_id=self.category("Groceries")),
                    ),
                )
                for days, amount, payee in drawn
            ],
        )

    def pages(self, account, most=4, wanted=None, **how):
        wanted = wanted or RegisterFilter()
        rows, after = [], None
        while True:
            page = list_register(self.db, account, wanted, after=after, most=most, **how)
            rows += page.rows
            after = page.next_key
            if after is None:
                return rows

    @given(LINES, st.sampled_from(sorted(ORDERS)), st.booleans())
    def test_every_line_once_in_order_with_its_balance(self, drawn, order, newest_first):
        account = self.an_account(f"Account {self.db.execute('SELECT count(*) FROM account').fetchone()[0]}")
        self.write(account, drawn)
        rows = self.pages(account, order=order, newest_first=newest_first)
        self.assertEqual(len({row.line_id for row in rows}), len(drawn))
        self.assert_ordered(rows, order, newest_first)
        running = 0
        for row in sorted(rows, key=lambda r: (r.day, r.line_id)):
            running += row.amount_minor
            self.assertEqual(row.balance_minor, running)
            self.assertEqual(sum_balance(self.db, account, row.day, row.line_id), running)

    WORDS: ClassVar = {
        "category": lambda r: r.others[0].name, "tags": lambda r: min(r.tags, default=""), "state": lambda r: r.state,
        "member": lambda r: next(iter(r.members), ""),
    }  # fmt: skip
    PLAIN: ClassVar = {
        "day": lambda r: r.day.isoformat(), "amount": lambda r: r.amount_minor, "payee": lambda r: r.payee.lower(),
        "memo": lambda r: r.memo, "bank": lambda r: r.raw_text, "balance": lambda r: r.balance_minor,
        "value_day": lambda r: r.value_day.isoformat() if r.value_day else "",
    }  # fmt: skip

    def assert_ordered(self, rows, order, newest_first):
        """The rows follow by the column, those of one word by day, and blank cells come last."""
        if order in self.WORDS:
            told = [(self.WORDS[order](r), r.day, r.line_id) for r in rows]
        else:
            told = [(self.PLAIN[order](r), r.line_id) for r in rows]
        expected = sorted((t for t in told if t[0] != ""), reverse=newest_first)
        self.assertEqual(told, expected + sorted((t for t in told if t[0] == ""), reverse=newest_first))

    @given(
        st.lists(
            st.tuples(
                st.integers(0, 5), st.integers(-9, 9), st.sampled_from(["Groceries", "Pay"]),
                st.sampled_from([(), ("a",), ("b", "c")]),
                st.sampled_from([None, 1, 2]), st.sampled_from(["", "kept", "odd"]), st.sampled_from([None, 3]),
            ),
            min_size=1,
            max_size=20,
        ),
        st.sampled_from(sorted(ORDERS)),
        st.booleans(),
        st.sampled_from([RegisterFilter(), RegisterFilter(text="otter"), RegisterFilter(least_minor=3), RegisterFilter(tag="c")]),
        st.sampled_from([0, SHORT]),
    )  # fmt: skip
    def test_every_column_sorts_and_blank_cells_come_last(self, drawn, order, newest_first, wanted, short):
        count = self.db.execute("SELECT count(*) FROM account").fetchone()[0]
        account = self.an_account(f"Account {count}")
        entries = []
        for days, amount, category, tags, member, words, value in drawn:
            day = DAY + timedelta(days=days)
            line = Line(
                amount, "EUR", account_id=account, state="cleared" if amount % 2 else "pending", raw_text=words,
                value_day=DAY + timedelta(days=value) if value else None,
            )  # fmt: skip
            other = Line(-amount, "EUR", category_id=self.category(category), tags=tags, member_id=member)
            entries.append(Entry(day, "Otter Books", (line, other), memo=words))
        history.record_history(self.db, entries)
        with mock.patch.object(register_order, "SHORT", short):  # 0: as if every word stood in thousands of lines
            pages = [self.pages(account, most, order=order, newest_first=newest_first, wanted=wanted) for most in (3, 50)]
        self.assertEqual(pages[0], pages[1])
        fitting = [
            1 for _, amount, _, tags, *_ in drawn
            if abs(amount) >= (wanted.least_minor or 0) and (not wanted.tag or wanted.tag in tags)
        ]  # fmt: skip
        self.assertEqual(len(pages[0]), len(fitting))
        self.assert_ordered(pages[0], order, newest_first)

    def test_words_are_found_by_their_beginnings_and_marks_mean_nothing(self):
        self.write(self.reserve, [(0, -100, "100 % Wool_"), (1, -200, "Otter Books"), (2, -300, "Woolx")])
        found = {
            text: len(self.pages(self.reserve, wanted=RegisterFilter(text=text)))
            for text in ("wool_", "100 % WO", "%", "otter boo", "tter", '" OR *', "zzz")
        }
        self.assertEqual(found, {"wool_": 2, "100 % WO": 1, "%": 0, "otter boo": 1, "tter": 0, '" OR *': 0, "zzz": 0})

    def test_an_amount_is_found_in_either_direction(self):
        self.write(self.reserve, [(i, amount, "Otter Books") for i, amount in enumerate((-8800, 8800, -8801, 120, -120))])
        for least, most, count in ((8800, 8800, 2), (None, 200, 2), (8801, None, 1), (100, 9000, 5)):
            with self.subTest(least=least, most=most):
                wanted = RegisterFilter(least_minor=least, most_minor=most)
                self.assertEqual(len(self.pages(self.reserve, wanted=wanted)), count)

    def test_a_split_twice_under_one_category_or_tag_is_one_row(self):
        groceries = self.category("Groceries")
        lines = (
            Line(-300, "EUR", account_id=self.reserve, state="cleared"), Line(100, "EUR", category_id=groceries, tags=("a",)),
            Line(200, "EUR", category_id=groceries, tags=("a",), member_id=1),
        )  # fmt: skip
        history.record_history(self.db, [Entry(DAY, "Otter Books", lines)])
        for wanted in (
            RegisterFilter(category_id=groceries),
            RegisterFilter(tag="a"),
            RegisterFilter(least_minor=0, most_minor=400),
        ):
            with self.subTest(wanted):
                self.assertEqual(len(self.pages(self.reserve, wanted=wanted)), 1)

    def test_states_and_days_narrow_the_list(self):
        self.write(self.reserve, [(i, -100, "Otter Books") for i in range(6)])
        between = RegisterFilter(first_day=DAY + timedelta(days=1), last_day=DAY + timedelta(days=3))
        self.assertEqual(len(self.pages(self.reserve, wanted=between)), 3)
        self.assertEqual(len(self.pages(self.reserve, wanted=RegisterFilter(state="pending"))), 0)

    def test_a_key_that_was_never_given_out_is_refused(self):
        for key in ("x", "[1]", "[1, 2]", '["2026-01-01", "a"]', "{}"):
            with self.subTest(key), self.assertRaises(InvalidInput):
                list_register(self.db, self.reserve, RegisterFilter(), after=key)


if __name__ == "__main__":
    unittest.main()
