"""The quick line: what thirty receipts are typed with."""

import unittest
from datetime import date

from bolsa.core.ledger.quick_line import LastEntry, Part, Vocabulary, complete, fill_from_last, understand
from bolsa.errors import InvalidInput

DAY = date(2026, 5, 14)
WORDS = Vocabulary(
    categories=[(1, "Groceries"), (2, "Household"), (3, "Fuel and gas")],
    accounts=[(7, "Reserve"), (8, "Cash tin")],
    payees=["Grebe Street Grocer", "Millstone Bakery", "Saturday Market"],
    members=[(1, "Noor"), (2, "Itziar"), (3, "Mika")],
    tags=["studio", "kiln"],
)


class QuickLines(unittest.TestCase):
    def test_lines_are_understood(self):
        known = [
            ("grebe 23.40 groceries yesterday", ("Grebe Street Grocer", -2340, 1, None, date(2026, 5, 13), "")),
            ("Mill 3,80", ("Millstone Bakery", -380, None, None, DAY, "")),
            ("diesel 62 fuel gas monday // full tank", ("Diesel", -6200, 3, None, date(2026, 5, 11), "full tank")),
            ("+12.50 found money", ("Found money", 1250, None, None, DAY, "")),
            ("250 to res 2026-05-02", ("", -25000, None, 7, date(2026, 5, 2), "")),
            ("baker 4 12 may house", ("Baker", -400, 2, None, date(2026, 5, 12), "")),
            ("choir 15.00 from cash", ("Choir", -1500, None, None, DAY, "")),
            ("shop 7 30 dec", ("Shop", -700, None, None, date(2025, 12, 30), "")),
        ]
        for text, (payee, amount, category, other, day, memo) in known:
            with self.subTest(text):
                said = understand(text, WORDS, "EUR", DAY)
                self.assertEqual(
                    (said.payee, said.amount_minor, said.category_id, said.to_account_id, said.day, said.memo),
                    (payee, amount, category, other, day, memo),
                )
                self.assertTrue(said.is_complete)

    def test_what_is_missing_is_named(self):
        self.assertEqual(understand("grebe", WORDS, "EUR", DAY).missing, ("an amount",))
        self.assertEqual(understand("", WORDS, "EUR", DAY).missing, ("a payee", "an amount"))

    def test_tags_members_and_the_account_it_was_paid_from(self):
        said = understand("grebe 23.40 groceries #Studio #moor @mika from cash", WORDS, "EUR", DAY)
        self.assertEqual((said.tags, said.member_id, said.from_account_id), (("studio", "moor"), 3, 8))

    def test_a_payee_named_like_a_day(self):
        for text, day in (
            ("saturday 12.40", DAY), ("saturday 12.40 yesterday", date(2026, 5, 13)), ("saturday grebe 4", date(2026, 5, 9)),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(understand(text, WORDS, "EUR", DAY).day, day)
        self.assertEqual(understand("saturday 12.40", WORDS, "EUR", DAY).payee, "Saturday Market")

    def test_days_in_figures_are_read_and_what_fits_nothing_is_named(self):
        for text in ("2.9.2025", "2/9/2025", "2-9-2025", "2025-09-02", "2.9.25"):
            said = understand(f"grebe 4.20 groceries {text}", WORDS, "EUR", DAY)
            self.assertEqual((said.day, said.amount_minor, said.unread), (date(2025, 9, 2), -420, ()), text)
        self.assertEqual(understand("grebe 4.20 groceries 2.9.", WORDS, "EUR", DAY).day, date(2025, 9, 2))
        said = understand("grebe 4.20 groceries 31.2.2026 oddly // kept", WORDS, "EUR", DAY)
        self.assertEqual((said.day, said.unread, said.memo), (DAY, ("31.2.2026", "oddly"), "31.2.2026 oddly kept"))

    def test_an_account_is_known_by_any_of_its_words(self):
        self.assertEqual(understand("grebe 4 with tin", WORDS, "EUR", DAY).from_account_id, 8)

    def test_a_split_gives_the_rest_to_the_part_without_an_amount(self):
        said = understand("grebe 23.40 groceries 15 household bulbs", WORDS, "EUR", DAY)
        self.assertEqual([(p.category_id, p.amount_minor) for p in said.filled_parts()], [(1, 1500), (2, 840)])
        self.assertEqual((said.memo, said.unread), ("bulbs", ("bulbs",)))
        self.assertEqual(understand("+10.00 groc 4 house", WORDS, "EUR", DAY).filled_parts()[0].amount_minor, -400)
        self.assertEqual(understand("+2.40 bottle deposit", WORDS, "EUR", DAY).filled_parts(), ())
        for wrong in ("grebe 23.40 groceries 15 household 8", "grebe 23.40 groceries 30 household"):
            with self.subTest(wrong), self.assertRaises(InvalidInput):
                understand(wrong, WORDS, "EUR", DAY).filled_parts()

    def test_the_last_entry_of_a_payee_fills_the_rest(self):
        last = LastEntry(-1500, (Part(2),), ("studio",), 2)
        said = fill_from_last(understand("mill", WORDS, "EUR", DAY), last)
        self.assertEqual((said.amount_minor, said.category_id, said.tags, said.member_id), (-1500, 2, ("studio",), 2))
        self.assertEqual((said.filled, said.is_complete), (("amount", "category", "tags", "member"), True))
        typed = fill_from_last(understand("mill 4.20 groceries #kiln", WORDS, "EUR", DAY), last)
        self.assertEqual((typed.amount_minor, typed.category_id, typed.tags, typed.filled), (-420, 1, ("kiln",), ("member",)))

    def test_a_split_is_repeated_with_its_own_amount_alone(self):
        last = LastEntry(-1500, (Part(1, 1000), Part(2, 500)), (), None)
        self.assertEqual(len(fill_from_last(understand("mill", WORDS, "EUR", DAY), last).parts), 2)
        self.assertEqual(fill_from_last(understand("mill 9", WORDS, "EUR", DAY), last).parts, ())

    def test_the_last_word_is_completed_to_what_its_place_asks_for(self):
        for typed, full in (
            ("greb", "Grebe Street Grocer"),
            ("grebe 23.40 gro", "grebe 23.40 Groceries"),
            ("grebe 23.40 #st", "grebe 23.40 #studio"),
            ("grebe 5 @mi", "grebe 5 @Mika"),
            ("250 to re", "250 to Reserve"),
            ("grebe 23.40", ""),
            ("grebe ", ""),
            ("zzz", ""),
            ("grebe 5 // gro", ""),
        ):
            with self.subTest(typed):
                self.assertEqual(complete(typed, WORDS), full)


if __name__ == "__main__":
    unittest.main()
