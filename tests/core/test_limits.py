"""Every limit of a rule, as it is promised: a limit that moves is a decision, and shows here. What the last value that counts and
the first that does not do stands with each rule's own tests."""

import importlib
import re
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

from bolsa.core.bringing import likelihood, pending
from bolsa.core.bringing.bookings import Here, OpenLine, Source
from bolsa.core.bringing.matching import judge_rows
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.checking import suspects
from bolsa.core.checking.check import Check, OpenItem

CORE = Path(__file__).parent.parent.parent / "bolsa" / "core"
DAY = date(2026, 5, 14)
LIMITS = {
    "percents": {"PLACES": 4, "RATE_PLACES": 6},
    "whole_numbers": {"MOST_DIGITS": 18},
    "accounts.loan": {"MOST_PAYMENTS": 1200},
    "accounts.valuation": {"DAYS_KNOWN": 100},
    "ahead.beginning": {"WORKS_UNTIL": 67, "GROWN_UP": 18},
    "ahead.debts": {"MOST_MONTHS": 1200},
    "ahead.doing": {"YEARS_PUT_BY": 10, "YEARS_REMINDED": 40},
    "ahead.fan": {"PATHS": 1000, "SEED": 20260514},
    "ahead.mending": {"STEP_MINOR": 100, "MOST_MONTHLY": 2_000_000, "MOST_MONTHS_LONGER": 240, "MOST_YEARS_LATER": 20},
    "ahead.plan": {"MOST_PERCENT": 100, "MOST_AMOUNT": 10**13, "EVERYDAY": 0},
    "ahead.years": {"E8": 10**8, "MONTHS": 12, "PARTS": 10_000},
    "amounts": {"_GROUP": 3, "_MOST_DIGITS": 15, "MOST_UNITS": 10**12},
    "bringing.batch": {"DAYS_UNSAID": 4},
    "bringing.coverage": {
        "LAST_DAY": 0.7, "FORGOTTEN": 0.0003, "DAYS_MOVED": 7, "FRIDAY_IS_OVER": 5, "_PRIOR_SEEN": 2.0,
        "FIRST_DAYS": 90, "OVERLAP_DAYS": 10, "MOST_DAYS_BACK": 730,
    },
    "bringing.doubts": {"MOST_ASKED": 14},
    "bringing.proof": {"MOST_EXPLAINED": 5, "MOST_DOUBTFUL": 40},
    "bringing.likelihood": {
        "DAYS_APART": 6, "DAYS_APART_UNLIKE": 4, "DAYS_TO_BOOK": 10, "DAYS_SAME_ID": 10, "LIKE_ENOUGH": 60, "LIKE_SURELY": 85,
        "ROUND_MINOR": 500, "FEWEST_SEEN": 3, "PERCENT_OFF_PAYSLIP": 2, "NEAR": 7, "_OTHER_WORDS": 2.5, "_SOME_WORDS": 0.8,
        "_NEAR_WORDS": 0.3,
        "_OTHER_ID": 2.0, "_ONE_PAID_DAY": 0.3, "_OTHER_PAID_DAY": 1.5, "_MOVED_FAR": 6.0, "_TYPED_UNTOLD": 5.0,
        "_TYPED_DAY": 0.35,
        "_TYPED_OTHER_WORDS": 4.2, "_FAR_SIDE_WORDS": 0.3, "_ANNOUNCED_UNBOOKED": 6.0, "_ANNOUNCED_DAY": 0.25,
    },
    "bringing.matching": {"UNDECIDED": 2.5},
    "assignment": {"_NEVER": 1e9},
    "answers.cut": {"MOST_MONTHS": 1200},
    "budget.aims": {"SPREAD_OVER": 24, "MOST_REPEAT": 120},
    "budget.baseline": {"USUAL_MONTHS": 12, "MOST_MONTHS": 120},
    "budget.expecting": {"MOST_RAISE": 1000, "MOST_MINOR": 10**15},
    "budget.lasting": {"MOST_DAYS": 3650, "DAYS": 365, "MONTHS": 12},
    "budget.month": {"MOST_AHEAD": 24, "ONCE": 0, "MOST_EVERY": 120},
    "budget.progress": {"PACE_OVER": 6, "MOST_REACHED": 1200},
    "budget.year": {"MONTHS": 12, "MOST_FULL": 12, "CAUSES": 2},
    "checking.sums": {"MOST_PAIRS": 600_000, "MOST_LINES_IN_SUM": 4},
    "checking.suspects": {
        "LIKE_ENOUGH": 60, "DAYS_TWICE": 4, "DAYS_TWICE_EVIDENT": 10, "MOST_OF_A_KIND": 3, "DAYS_OPEN": 10, "MOST_LEFT_OPEN": 20,
    },
    "due.dues": {"TOLERANCE_DAYS": 3, "MOST_UNMET": 3, "PLAUSIBLE_TIMES": 3},
    "due.reminders": {"MOST_WORDS": 200, "DAYS_AHEAD": 30},
    "due.rhythm": {"MOST_MOVED": 14},
    "due.series": {"FEWEST": 3, "LOOKED_AT": 8, "TOLERANCE_DAYS": 4},
    "holdings.basis": {
        "TIMES_FAR": 3, "PERCENT_NEAR": 25, "DAYS_TOGETHER": 7, "DAYS_AFTER_SPLIT": 30, "DAYS_OF_SPLIT": 10,
    },
    "holdings.completing": {"PARTS_OFF": 200, "DAYS_OFFERED": 7},
    "holdings.mix": {"PARTS_A_PERCENT": 10_000, "MOST_MONTHS": 1200, "UNSAID": 0},
    "holdings.lots": {"LONG_TERM_MONTHS": 12},
    "holdings.prices": {"DAYS_FRESH": 14},
    "holdings.returns": {"DAYS_A_YEAR": 365, "LARGE_PERCENT": 2},
    "holdings.security": {"MOST_NAME": 80},
    "holdings.trades": {"MOST_RATIO": 1000},
    "holdings.shares": {"E8": 10**8, "MOST_SHARES": 10**9, "DAYS_TO_SETTLE": 4},
    "ledger.payees": {"_REMEMBERED": 20_000, "FEWEST_LETTERS": 3},
    "money": {"E8": 10**8},
    "pay.payslip": {"MOST_EXPLAINED": 3},
    "sorting.category": {"UNSORTED": 1},
    "sorting.category_lines": {"MOST_LINES": 300, "MOST_LETTERS": 60},
    "sorting.joining": {
        "FEWEST_SHOPS": 2, "FEWEST_ENDS": 2, "LONGEST_PLACE": 2, "FEWEST_AFTER": 3, "LONGEST_HEAD": 3,
        "FEWEST_LETTERS": 4, "NEAR": 86, "SAME_BEGINNING": 2,
    },
    "sorting.rule_book": {"_REMEMBERED": 50_000},
    "sorting.rule_words": {"_PER_CENT": 10_000},
    "sorting.rules": {"MOST_TEXT": 120, "WHOLE_SHARE": 1_000_000, "_REMEMBERED": 50_000},
    "sorting.circumstances": {"ALPHA": 0.3, "SATURDAY": 5, "KINDS": 8, "OFTEN": 4, "MOST_WORDS": 40, "_REMEMBERED": 5_000},
    "sorting.steadiness": {
        "MISTAKEN": 0.005, "TOGETHER": 3.0, "CHOOSABLE": 25, "USUALLY": 0.55, "PAYEES": 10, "ROUNDS": 8, "_MOST_LIKELY": 50.0,
    },
    "sorting.suggestions": {
        "SURE_ENOUGH": 0.7, "MOST_CHOICES": 5, "TOLD_APART": 0.95, "LIKE": 0.1, "DEEPEST": 3,
        "FEWEST_EACH": 2, "ONCE": 0.89, "LATELY": 0.895, "UNTRIED": 0.89, "MONTHS_OR_MORE": 4,
        "ABOUT": 3, "STEADILY": 0.9, "AT_MOST": 3, "FEWEST_TO_MEND": 20,
    },
    "sorting.transfers": {
        "DAYS_APART": 7, "PER_DAY": 0.04, "RIVALS": 0.75, "UNLIKE": 0.6, "MOST_FEE": 3, "RATE_OFF": 3, "DAYS_IN_PARTS": 3,
        "MOST_FITTING": 12,
    },
    "sorting.vocabulary": {"GUESSED": 0.5},
    "worth.holes": {"DAYS_TO_PAY": 10},
    "worth.rates": {"SAME_E8": 10**8},
}  # fmt: skip


class Limits(unittest.TestCase):
    def test_each_is_what_is_promised(self):
        for module, limits in LIMITS.items():
            for name, value in limits.items():
                with self.subTest(module, name=name):
                    self.assertEqual(getattr(importlib.import_module(f"bolsa.core.{module}"), name), value)

    def test_none_is_missing_from_the_table(self):
        for path in CORE.rglob("*.py"):
            module = ".".join(path.relative_to(CORE).with_suffix("").parts)
            found = set(re.findall(r"^([A-Z0-9_]+) = \d", path.read_text(), re.MULTILINE))
            with self.subTest(module):
                self.assertEqual(found, set(LIMITS.get(module, {})))


class Likeness(unittest.TestCase):
    """The last likeness that counts, and the first that does not."""

    def test_of_a_typed_entry_and_a_row(self):
        for like, kind in ((60, "matched"), (59, "suspicious")):
            with self.subTest(like), mock.patch.object(likelihood, "likeness", return_value=like):
                (verdict,) = judge_rows([BroughtRow(DAY, -500, "A")], Here((), [OpenLine(1, DAY, -500, "B")]), Source("csv"))
                self.assertEqual(verdict.kind, kind)

    def test_of_an_announced_entry_and_its_booking(self):
        for like, same_amount, moved in ((85, 1, 1), (84, 1, 0), (60, 1, 0), (59, 0, 0)):
            patches = [mock.patch.object(module, "likeness", return_value=like) for module in (likelihood, pending)]
            with self.subTest(like), patches[0], patches[1]:
                here = Here((), [OpenLine(1, DAY, -6000, "B", is_announced=True)])
                for amount, found in ((-6000, same_amount), (-6100, moved)):
                    (verdict,) = judge_rows([BroughtRow(DAY, amount, "A")], here, Source("ofx"))
                    self.assertEqual(verdict.kind == "matched", bool(found))

    def test_of_two_entries_that_are_one(self):
        items = (OpenItem(1, 1, DAY, -500, "A", True, -500), OpenItem(2, 2, DAY, -500, "B", True))
        for like, is_twice in ((60, True), (59, False)):
            with self.subTest(like), mock.patch.object(suspects, "likeness", return_value=like):
                found = suspects.find_suspects(Check(0, -500, items), suspects.Evidence(), "EUR").suspects
                self.assertEqual("twice" in {one.kind for one in found}, is_twice)


if __name__ == "__main__":
    unittest.main()
