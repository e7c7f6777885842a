"""What every condition meets."""

import unittest
from datetime import date

from bolsa.core.sorting.rules import Action, Condition, Filed, Seen, Told, Words, folded, holds, what_of

THURSDAY = date(2026, 5, 14)
TOLD = Told("Heron School", Filed("file", 7), member_id=None)
SEEN = Seen(1, "DIRECT DEBIT HERON SCHOOL 0093", -13_386, "EUR", 2, THURSDAY, TOLD, owner_id=3)


class Conditions(unittest.TestCase):
    def meets(self, seen=SEEN, **said):
        return holds(Condition(**said), seen, seen.told)

    def test_words_are_found_whatever_their_case_and_marks_composed(self):
        for how, texts, met in (
            ("contains", ("heron",), True), ("contains", ("SCHOOL",), True), ("contains", ("tern", "ron sch"), True),
            ("contains", ("tern",), False), ("is", ("heron school",), True), ("is", ("heron",), False),
            ("starts", ("Heron",), True), ("starts", ("School",), False), ("starts", ("x", "her"), True),
        ):  # fmt: skip
            with self.subTest(how=how, texts=texts):
                self.assertEqual(self.meets(kind="payee", how=how, texts=texts), met)
        self.assertTrue(self.meets(kind="text", how="contains", texts=("0093",)))
        self.assertFalse(self.meets(kind="text", how="is", texts=("heron school",)))
        cafe = SEEN._replace(told=TOLD._replace(payee="Cafe\u0301 am Quai"))
        self.assertTrue(self.meets(cafe, kind="payee", how="contains", texts=("CAFÉ",)))
        self.assertEqual(folded("  STRASSE  x"), folded("straße x"))

    def test_amounts_are_sizes_in_their_currency(self):
        for how, least, most, met in (
            ("equal", 13_386, None, True), ("equal", 13_385, None, False), ("above", 13_385, None, True),
            ("above", 13_386, None, False), ("below", 13_387, None, True), ("below", 13_386, None, False),
            ("between", 13_386, 13_386, True), ("between", 100, 13_385, False), ("between", 13_387, 20_000, False),
        ):  # fmt: skip
            with self.subTest(how=how, least=least, most=most):
                said = {"kind": "amount", "how": how, "least": least, "most": most}
                self.assertEqual(self.meets(currency="EUR", **said), met)
                self.assertFalse(self.meets(currency="SEK", **said))

    def test_direction_account_member_and_category(self):
        self.assertTrue(self.meets(kind="direction", how="out"))
        self.assertFalse(self.meets(kind="direction", how="in"))
        self.assertFalse(self.meets(SEEN._replace(amount_minor=0), kind="direction", how="in"))
        for kind, ids, met in (
            ("account", (1, 2), True), ("account", (1,), False), ("member", (3,), True), ("member", (4,), False),
            ("category", (6, 7), True), ("category", (6,), False),
        ):  # fmt: skip
            with self.subTest(kind, ids=ids):
                self.assertEqual(self.meets(kind=kind, ids=ids), met)
        for_another = SEEN._replace(told=TOLD._replace(member_id=4))
        self.assertFalse(self.meets(for_another, kind="member", ids=(3,)))  # who it is for goes before whose account it is
        transfer = SEEN._replace(told=TOLD._replace(filed=Filed("transfer", 7)))
        self.assertFalse(self.meets(transfer, kind="category", ids=(7,)))

    def test_days_of_the_week_and_of_the_month_round_its_end(self):
        self.assertTrue(self.meets(kind="weekday", ids=(3,)))
        self.assertFalse(self.meets(kind="weekday", ids=(0, 4)))
        for least, most, met in ((14, 14, True), (13, 15, True), (15, 31, False), (28, 14, True), (28, 13, False), (1, 31, True)):
            with self.subTest(least=least, most=most):
                self.assertEqual(self.meets(kind="day", least=least, most=most), met)

    def test_what_is_no_condition_is_a_mistake_of_ours(self):
        with self.assertRaises(ValueError):
            self.meets(kind="weather")

    def test_what_an_action_says(self):
        for kind, what in (
            ("file", "filed"), ("transfer", "filed"), ("split", "filed"), ("rename", "payee"), ("tag", "#x"),
            ("member", "member_id"), ("ask", "ask"), ("series", "series_id"), ("keep_out", "kept_out"),
        ):  # fmt: skip
            self.assertEqual(what_of(Action(kind, text="x")), what)
        self.assertTrue(Words(Condition("payee", "is", ("A", "b"))).hold("b"))


if __name__ == "__main__":
    unittest.main()
