"""First guesses by general words, in several languages."""

import unittest

from bolsa.core.sorting.vocabulary import fold, guess, kind_of, list_kinds

OWN = {
    1: "Groceries",
    2: "Eating out",
    3: "Health",
    4: "Power and water",
    5: "Rent or mortgage",
    6: "Insurance",
    7: "Transport",
    8: "Car or bike",
}


class Vocabulary(unittest.TestCase):
    def test_general_words_tell_the_kind(self):
        for name, kind in (
            ("Bäckerei Sturm", "bakery"), ("Boulangerie du Quai", "bakery"), ("Grebe Street Grocer", "groceries"),
            ("Miete Mai", "rent"), ("Strom Nord", "power"), ("Stadtapotheke", "pharmacy"), ("Pharmacie centrale", "pharmacy"),
            ("Quayside Diesel", "fuel"), ("Versicherung Süd", "insurance"), ("Ristorante Faro", "eating out"), ("Hyra juni",
            "rent"),
            ("Zahnarzt Dr. Möller", "doctor"), ("Kelp and Barley", None), ("Quist", None), ("", None),
        ):  # fmt: skip
            with self.subTest(name):
                found = kind_of(name)
                self.assertEqual(found.name if found else None, kind)

    def test_a_guess_needs_a_category_of_the_household_that_goes_with_it(self):
        self.assertEqual(guess("Apotheke am Markt", OWN, OWN), (3, "pharmacy"))
        self.assertEqual(guess("Miete", OWN, OWN), (5, "rent"))
        self.assertEqual(guess("Miete", {9: "Wohnen"}, [9]), (9, "rent"))
        self.assertIsNone(guess("Miete", {1: "Groceries"}, [1]))
        self.assertIsNone(guess("Miete", OWN, [1, 2]))  # not among those that are offered

    def test_the_data_is_sound(self):
        names = [kind.name for kind in list_kinds()]
        self.assertEqual(len(set(names)), len(names))
        for kind in list_kinds():
            self.assertTrue(kind.categories and (kind.words or kind.beginnings), kind.name)
            for word in (*kind.words, *kind.beginnings, *kind.endings, *kind.categories):
                self.assertEqual(word, fold(word), f"{kind.name}: {word}")


if __name__ == "__main__":
    unittest.main()
