"""Rules as sentences."""

import unittest

from bolsa.core.sorting.rule_words import GONE, Names, per_cent, pieces_of, sentence_of
from bolsa.core.sorting.rules import Action, Condition, Rule, SharePart

NAMES = Names({5: "School", 6: "Presents"}, {1: "Corvane card", 2: "Reserve"}, {2: "Itziar"}, {3: "Heron School"})


class Sentences(unittest.TestCase):
    def test_every_condition_and_action(self):
        for condition, words in (
            (Condition("payee", "contains", ("heron",)), "the payee contains “heron”"),
            (Condition("text", "starts", ("a", "b")), "the text of the bank starts with “a” or “b”"),
            (Condition("amount", "between", least=10_000, most=15_000, currency="EUR"),
            "the amount is between 100.00 and 150.00"),
            (Condition("amount", "equal", least=900, currency="SEK"), "the amount is 9.00 SEK"),
            (Condition("direction", "in"), "money comes in"), (Condition("account", ids=(1, 2)),
            "the account is Corvane card or Reserve"),
            (Condition("member", ids=(2,)), "it is for Itziar"),
            (Condition("category", ids=(6, 99)), f"the category is Presents or {GONE}"),
            (Condition("weekday", ids=(5, 6)), "it is a Saturday or Sunday"), (Condition("day", least=1, most=1),
            "it is day 1 of the month"),
            (Condition("day", least=28, most=3), "the day of the month is from 28 to 3"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertEqual(
                    sentence_of(Rule(1, (condition,), (Action("file", 5),)), NAMES), f"When {words}, file under School."
                )
        parts = (SharePart(5, share_e6=500_000), SharePart(6, 250), SharePart(5))
        for action, words in (
            (Action("rename", text="Heron"), "call the payee Heron"), (Action("tag", text="heron"), "tag #heron"),
            (Action("member", 2), "say it is for Itziar"), (Action("ask", 2, "why?"), "put it to Itziar, asking “why?”"),
            (Action("transfer", 2), "make it a transfer with Reserve"),
            (Action("transfer", 2, "", 6), "make it a transfer with Reserve, set by from Presents"),
            (Action("split", parts=parts), "split it: 50 % to School, 2.50 to Presents and the rest to School"),
            (Action("series", 3), "link it to Heron School"), (Action("keep_out"), "keep it out of the answers"),
        ):  # fmt: skip
            with self.subTest(words):
                rule = Rule(1, (Condition("direction", "out"),), (action,))
                self.assertEqual(sentence_of(rule, NAMES), f"When money goes out, {words}.")

    def test_several_are_joined_and_values_marked(self):
        rule = Rule(
            1, (Condition("payee", "is", ("x",)), Condition("direction", "out")), (Action("file", 5), Action("tag", text="a"))
        )
        self.assertEqual(sentence_of(rule, NAMES), "When the payee is “x” and money goes out, file under School and tag #a.")
        self.assertEqual([p.words for p in pieces_of(rule, NAMES) if p.is_value], ["“x”", "goes out", "School", "#a"])

    def test_per_cent_without_zeros_at_the_end(self):
        self.assertEqual([per_cent(share) for share in (1_000_000, 125_000, 1)], ["100", "12.5", "0.0001"])


if __name__ == "__main__":
    unittest.main()
