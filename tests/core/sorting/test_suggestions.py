"""Suggestions learned from past decisions."""

import unittest

from bolsa.core.sorting.suggestions import MOST_CHOICES, SURE_ENOUGH, Decision, suggest


class Suggestions(unittest.TestCase):
    def test_a_steady_payee_is_suggested_with_its_count(self):
        found = suggest([Decision(4, -1000, 1, 2)] * 37 + [Decision(5, -900, 1, 2)], amount_minor=-1, account_id=9, weekday=0)
        self.assertEqual((found.choices[0].category_id, found.reason, found.is_guess), (4, "37 of 38 times", True))

    def test_a_mixed_shop_is_asked_about_unless_the_amount_tells(self):
        past = [Decision(4, -1200, 1, 0)] * 5 + [Decision(5, -300, 1, 1), Decision(5, -700, 1, 3), Decision(6, -50, 1, 5)] * 3
        self.assertFalse(suggest(past, amount_minor=-999, account_id=2, weekday=6).is_guess)
        told = suggest(past, amount_minor=-1200, account_id=2, weekday=6)
        self.assertEqual((told.choices[0].category_id, told.reason), (4, "5 of 5 times at this amount"))

    def test_nothing_is_suggested_from_nothing(self):
        self.assertIsNone(suggest([], amount_minor=1, account_id=1, weekday=1))

    def test_how_sure_is_sure_enough(self):
        self.assertEqual(SURE_ENOUGH, 0.6)
        for right, wrong, is_guess in ((2, 1, True), (1, 0, True), (1, 1, False), (5, 3, True), (4, 3, False)):
            past = [Decision(4, -1, 1, 0)] * right + [Decision(5, -1, 1, 0)] * wrong
            with self.subTest(right=right, wrong=wrong):
                self.assertEqual(suggest(past, amount_minor=-9, account_id=9, weekday=9).is_guess, is_guess)

    def test_a_narrower_circumstance_speaks_from_three_cases_on(self):
        for cases, words in ((2, "times"), (3, "times at this amount")):
            past = [Decision(4, -1, 1, 0)] * 4 + [Decision(5, -1, 1, 0)] * 4 + [Decision(6, -700, 1, 0)] * cases
            found = suggest(past, amount_minor=-700, account_id=9, weekday=9)
            with self.subTest(cases):
                self.assertTrue(found.reason.endswith(words), found.reason)

    def test_five_choices_at_most(self):
        past = [Decision(n, -1, 1, 0) for n in range(9)]
        self.assertEqual(len(suggest(past, amount_minor=-1, account_id=1, weekday=0).choices), MOST_CHOICES)


if __name__ == "__main__":
    unittest.main()
