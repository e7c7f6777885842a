"""Rules that cannot be."""

import unittest

from bolsa.core.sorting.rule_checks import check_rule
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


if __name__ == "__main__":
    unittest.main()
