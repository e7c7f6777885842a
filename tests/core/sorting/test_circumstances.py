"""What tells the categories of a payee apart: each kind of circumstance, where nothing is known, and what tells nothing."""

import unittest
from datetime import date, timedelta

from bolsa.core.sorting.circumstances import MOST_WORDS, Case, Decision
from bolsa.core.sorting.suggestions import learn, suggest

DAY = date(2026, 3, 2)  # a Monday


class Words(unittest.TestCase):
    def test_a_card_in_the_banks_words_tells_two_holders_apart(self):
        decisions = [
            Decision(
                4 if n % 3 else 5, -500 - 37 * (n * 7 % 11), 1, DAY + timedelta(days=n), f"QUAY {n} XX{4411 if n % 3 else 7702}"
            )
            for n in range(18)
        ]
        for card, category_id, words in (("xx7702", 5, "without"), ("XX4411", 4, "with")):
            found = suggest(decisions, Case(-640, 1, DAY + timedelta(days=40), f"Quay 99 {card}"), "EUR")
            with self.subTest(card):
                self.assertEqual(found.choices[0].category_id, category_id)
                self.assertGreater(found.choices[0].certainty, 0.9)
                self.assertIn(f" {words} “XX4411”", found.reason)

    def test_a_word_that_comes_once_or_always_tells_nothing(self):
        decisions = [Decision(4 + n % 2, -500, 1, DAY + timedelta(days=n), f"QUAY {'A' if n % 2 else 'B'}{n}") for n in range(12)]
        self.assertIsNone(learn(decisions).split)

    def test_an_entry_split_between_two_is_one_case_of_its_amount_and_its_words(self):
        steady = [Decision(4, -500 - 7 * n, 1, DAY + timedelta(days=n), f"QUAY {n}") for n in range(40)]
        split = [Decision(id_, -4_000, 1, DAY + timedelta(days=20), "QUAY REF77") for id_ in (4, 5)]
        self.assertIsNone(learn([*steady, *split]).split)

    def test_the_most_frequent_words_are_tried(self):
        many = " ".join(f"w{n}" for n in range(MOST_WORDS))
        for text, is_told in ((many[:-4], True), (many, False)):
            decisions = [
                Decision(4 + n % 2, -500, 1, DAY + timedelta(days=n), f"{text if n else ''} {'odd' if n % 2 else ''}")
                for n in range(12)
            ]
            with self.subTest(is_told=is_told):
                self.assertEqual(learn(decisions).split is not None, is_told)


class Cuts(unittest.TestCase):
    def test_between_the_two_known_values_both_sides_count_by_how_near_they_are(self):
        decisions = [Decision(4, -100 * n, 1, DAY) for n in range(1, 9)] + [Decision(5, -100 * n, 1, DAY) for n in range(12, 20)]
        cut = learn(decisions).split
        self.assertEqual((cut.kind, cut.low, cut.high), ("below", 800, 1_200))
        for amount, share in ((-800, 1), (-900, 0.75), (-1_000, 0.5), (-1_100, 0.25), (-1_200, 0)):
            self.assertEqual(cut.share(Case(amount, 1, DAY)), share)

    def test_a_day_since_which_it_is_another_has_no_between(self):
        decisions = [Decision(4 if n < 8 else 5, -500, 1, DAY + timedelta(days=9 * n)) for n in range(16)]
        cut = learn(decisions).split
        self.assertEqual(cut.kind, "before")
        self.assertEqual([cut.share(Case(-500, 1, DAY + timedelta(days=n))) for n in (63, 70, 72)], [1, 1, 0])


if __name__ == "__main__":
    unittest.main()
