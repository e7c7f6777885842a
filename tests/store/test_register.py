"""A register's pages: every line once, in any order, with the balance just after it."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.entries import Entry, Line
from bolsa.errors import InvalidInput
from bolsa.services import history
from bolsa.store.accounts import sum_balance
from bolsa.store.register import ORDERS, list_register
from bolsa.store.where import RegisterFilter
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

    def pages(self, account, most=4, **how):
        rows, after = [], None
        while True:
            page = list_register(self.db, account, how.pop("wanted", RegisterFilter()), after=after, most=most, **how)
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
        keys = {"day": lambda r: (r.day, r.line_id), "amount": lambda r: (r.amount_minor, r.line_id)}.get(order)
        if keys:
            self.assertEqual(rows, sorted(rows, key=keys, reverse=newest_first))
        running = 0
        for row in sorted(rows, key=lambda r: (r.day, r.line_id)):
            running += row.amount_minor
            self.assertEqual(row.balance_minor, running)
            self.assertEqual(sum_balance(self.db, account, row.day, row.line_id), running)

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
