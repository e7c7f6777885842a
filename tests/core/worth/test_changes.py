"""What changed net worth: every line has one cause, and the causes add up to the change."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.accounts.account import Account
from bolsa.core.worth.changes import CAUSES, Flow, cause_of, worth_change


def account(id_, kind, side="asset", currency="EUR", *, everyday=False):
    return Account(id_, f"{kind} {id_}", kind, side, everyday, currency, "", "", "", date(2020, 1, 1), True, "")


CURRENT, CARD = account(1, "current", everyday=True), account(2, "card", "liability", everyday=True)
ABROAD, FUND = account(3, "savings", currency="SEK"), account(4, "pension")
HOME, LOAN = account(5, "property"), account(6, "loan", "liability")
ALL = (CURRENT, CARD, ABROAD, FUND, HOME, LOAN)


class Changes(unittest.TestCase):
    def test_a_line_counts_by_its_entry_and_its_account(self):
        told = {one: [cause_of(one, kind) for kind in ("plain", "value", "opening")] for one in ALL}
        self.assertEqual(told[CURRENT], ["saved", "market", "new"])
        self.assertEqual(told[CARD], ["saved", "revaluation", "new"])
        self.assertEqual(told[FUND], ["saved", "market", "new"])
        self.assertEqual(told[HOME], ["saved", "revaluation", "new"])
        self.assertEqual(told[LOAN], ["debt", "revaluation", "new"])

    def test_a_year_of_a_household_adds_up(self):
        before = {1: 100_000, 2: -5_000, 3: 9_000, 5: 20_000_000, 6: -1_000_000}
        after = {1: 130_000, 2: -2_000, 3: 9_400, 4: 515_000, 5: 20_500_000, 6: -950_000}
        flows = [
            Flow(1, "plain", 30_000), Flow(2, "plain", 3_000), Flow(3, "plain", 500), Flow(4, "opening", 500_000),
            Flow(4, "value", 15_000), Flow(5, "value", 500_000), Flow(6, "plain", 50_000), Flow(99, "plain", 77),
        ]  # fmt: skip
        change = worth_change(ALL, before, after, flows)
        self.assertEqual(
            {cause: change.of(cause) for cause in CAUSES},
            {"saved": 33_500, "debt": 50_000, "market": 15_000, "revaluation": 500_000, "currency": -100, "new": 500_000},
        )
        self.assertEqual(change.home_minor, sum(after.values()) - sum(before.values()))
        self.assertEqual([one.account_id for one in change.accounts], [1, 2, 3, 4, 5, 6])

    @given(
        st.dictionaries(st.integers(1, 6), st.integers(-(10**9), 10**9)),
        st.dictionaries(st.integers(1, 6), st.integers(-(10**9), 10**9)),
        st.lists(st.builds(Flow, st.integers(1, 6), st.sampled_from(["plain", "value", "opening"]), st.integers(-999, 999))),
    )
    def test_the_causes_always_add_up_to_the_change(self, before, after, flows):
        change = worth_change(ALL, before, after, flows)
        self.assertEqual(sum(change.of(cause) for cause in CAUSES), sum(after.values()) - sum(before.values()))


if __name__ == "__main__":
    unittest.main()
