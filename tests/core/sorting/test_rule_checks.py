"""Rules that cannot be, and splits by rule."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.rule_checks import check_rule, split_parts
from bolsa.core.sorting.rules import Action, Condition, Rule, SharePart
from bolsa.errors import InvalidInput

WHEN = (Condition("payee", "contains", ("heron",)),)
THEN = (Action("file", 5),)


class Checks(unittest.TestCase):
    def refuses(self, field, when=WHEN, then=THEN):
        with self.assertRaises(InvalidInput) as caught:
            check_rule(Rule(0, when, then))
        self.assertEqual(caught.exception.field, field)

    def test_a_rule_says_when_and_what(self):
        self.assertEqual(check_rule(Rule(0, WHEN, THEN)).actions, THEN)
        self.refuses("when", when=())
        self.refuses("then", then=())

    def test_conditions_without_sense(self):
        for condition in (
            Condition("payee", "contains", ()), Condition("payee", "contains", ("  ",)), Condition("payee", "is", ("x" * 121,)),
            Condition("payee", "like", ("x",)), Condition("weather"), Condition("amount", "equal", currency="EUR"),
            Condition("amount", "between", least=5, currency="EUR"), Condition("amount",
            "between", least=5, most=4, currency="EUR"),
            Condition("amount", "above", least=-1, currency="EUR"), Condition("account"), Condition("weekday"),
            Condition("day", least=0, most=5), Condition("day", least=1, most=32), Condition("direction", "up"),
        ):  # fmt: skip
            with self.subTest(condition):
                self.refuses("when-1", when=(*WHEN, condition))

    def test_actions_without_sense(self):
        for action in (
            Action("file"), Action("dance"), Action("tag", text=" "), Action("rename", text="x" * 121), Action("split"),
            Action("split", parts=(SharePart(1), SharePart(2))),
            Action("split", parts=(SharePart(1, share_e6=1_000_001), SharePart(2))),
            Action("split", parts=(SharePart(1, 100), SharePart(2, 200))),
            Action("split", parts=(SharePart(1, -1), SharePart(2))),
            Action("file", 6),
        ):  # fmt: skip
            with self.subTest(action):
                self.refuses("then-1", then=(*THEN, action))
        check_rule(Rule(0, WHEN, (Action("tag", text="a"), Action("tag", text="b"))))
        check_rule(Rule(0, WHEN, (Action("split", parts=(SharePart(1, share_e6=1_000_000), SharePart(2))),)))


class Splits(unittest.TestCase):
    def test_worked_figures(self):
        for parts, total, found in (
            ((SharePart(1, share_e6=500_000), SharePart(2, share_e6=500_000)), 101, [(1, 51), (2, 50)]),
            ((SharePart(1, 300), SharePart(2)), 1000, [(1, 300), (2, 700)]),
            ((SharePart(1, 300), SharePart(2, share_e6=250_000), SharePart(3)), -1000, [(1, -300), (2, -250), (3, -450)]),
            ((SharePart(1, 1000), SharePart(2)), 1000, [(1, 1000)]), ((SharePart(1, 1001), SharePart(2)), 1000, None),
        ):  # fmt: skip
            with self.subTest(parts, total=total):
                self.assertEqual(split_parts(parts, total), found)

    @given(st.lists(st.integers(0, 400_000), min_size=1, max_size=2), st.integers(-(10**9), 10**9))
    def test_parts_add_up(self, shares, total):
        found = split_parts([*(SharePart(i, share_e6=share) for i, share in enumerate(shares)), SharePart(9)], total)
        self.assertEqual(sum(amount for _, amount in found), total)


if __name__ == "__main__":
    unittest.main()
