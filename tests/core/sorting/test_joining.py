"""One shop in several spellings is one; two that share a word or a town are two."""

import unittest

from bolsa.core.sorting.joining import join


def groups(*names):
    joined = join(dict(enumerate(names)))
    found = {}
    for at, first in joined.items():
        found.setdefault(first, []).append(names[at])
    return sorted(found.values())


class Joining(unittest.TestCase):
    def test_legal_forms_and_places_learned_from_the_names_are_taken_away(self):
        found = groups(
            "Grebe Grocer", "Grebe Grocer Pt Halden", "Grebe Grocer Ltd", "Lantern Hardware", "Lantern Hardware Pt Halden",
            "Lantern Hardware GmbH Saltby", "Grebe Grocer Saltby", "Tern Tools Pt Halden",
        )  # fmt: skip
        self.assertEqual(len(found), 3)
        self.assertEqual(found[2], ["Tern Tools Pt Halden"])

    def test_a_town_or_a_word_shared_by_two_shops_does_not_join_them(self):
        for names in (
            ("Grebe Grocer Saltby", "Tern Tools Saltby"), ("Heron Market", "Heron Books", "Tern Market", "Tern Books"),
            ("Grebe Grocer", "Grebe Grocer Diesel"), ("Ab", "Ab Saltby", "Co", "Co Saltby"),
        ):  # fmt: skip
            with self.subTest(names):
                self.assertEqual(len(groups(*names)), len(names))

    def test_a_place_follows_two_shops_that_are_there_without_it(self):
        self.assertEqual(len(groups("Grebe Grocer", "Grebe Grocer Saltby", "Tern Tools Saltby")), 3)
        self.assertEqual(len(groups("Grebe Grocer", "Grebe Grocer Saltby", "Tern Tools", "Tern Tools Saltby")), 2)

    def test_a_name_that_is_nothing_but_a_form_stays(self):
        self.assertEqual(len(groups("Ltd", "Gmbh", "")), 3)


if __name__ == "__main__":
    unittest.main()
