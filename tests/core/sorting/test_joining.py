"""One shop in several spellings is one; two that share a word or a town are two."""

import random
import unittest

from bolsa.core.ledger.payees import tidy_payee
from bolsa.core.sorting.joining import join

WAYS = (
    "{SHOP} {town}", "CARD PURCHASE {SHOP} {number:04} {town} 12.05", "{SHOP}//{town}/EX", "QUICKPAY *{SHOP}",
    "{shop}, Invoice {number}{number}", "{SHOP} GMBH", "SEPA DIRECT DEBIT {SHOP} MANDATE {number}A", "{SHOP} {number:03} {town}",
    "POS 12.05 {SHOP} {town} NLD", "{shop} Ltd.", "Kartenzahlung {SHOP} {town}", "{SHOP} {town} CARD 4411",
    "{SHOP} RECHNUNG NR {number}", "DIRECT DEBIT - {SHOP}", "Payment to {shop} 12.05",
)  # fmt: skip


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

    def test_what_a_bank_writes_before_names_is_learned(self):
        shops = ("Grebe Grocer", "Tern Tools", "Plover Books")
        written = [f"{head} {shop}".strip() for head in ("", "Kartenzahlung", "Standing Order For") for shop in shops]
        self.assertEqual(len(groups(*written)), 3)
        self.assertEqual(len(groups(*written[:5], "Plover Books")), 5)  # two shops are not enough

    def test_a_family_is_no_shop_with_something_before_it(self):
        names = ("Berg", "Anna Berg", "Bo Berg", "Berg Saltby", "Anna Berg Saltby", "Berg Corvane", "Anna Berg Corvane")
        self.assertIn(
            ["Anna Berg", "Anna Berg Saltby", "Anna Berg Corvane"],
            groups(*names, "Tern Tools", "Tern Tools Saltby", "Tern Tools Corvane"),
        )
        self.assertEqual(len(groups("Anchor", "Heron", "Sorrel", "Cafe Anchor", "Cafe Heron", "Cafe Sorrel")), 6)

    def test_fifteen_ways_of_writing_are_one_name_and_no_two_shops_are(self):
        shops = (
            "Grebe Street Grocer", "Tern Tools", "Tern Books", "Plover Pharmacy", "Plover Books", "Halden Bakery",
            "Saltby Bakery", "Halden Ferries", "Kelp and Barley", "Heron School", "Skerry Energy", "Skerry", "Anna Berg",
            "Bo Berg", "Berg",
            "Müller Söhne", "City Library", "City of Halden", "Quay Market", "Quay Garage", "Market Garage", "Corvane Water",
        )  # fmt: skip
        dice, of_shop = random.Random(3), {}
        for _ in range(600):
            shop, town, number = (
                dice.choice(shops),
                dice.choice(("PT HALDEN", "NORTHSHORE", "CORVANE", "ST BRACKEN")),
                dice.randrange(10**4),
            )
            raw = dice.choice(WAYS).format(shop=shop, SHOP=shop.upper(), town=town, number=number)
            of_shop.setdefault(tidy_payee(raw).casefold(), shop)
        joined = join(dict(enumerate(of_shop)))
        names_of = {shop: {joined[at] for at, one in enumerate(of_shop.values()) if one == shop} for shop in shops}
        self.assertLess(sum(map(len, names_of.values())) / len(shops), 1.2)
        self.assertEqual(len(set.union(*names_of.values())), sum(map(len, names_of.values())), "two shops are one")

    def test_a_name_that_is_nothing_but_a_form_stays(self):
        self.assertEqual(len(groups("Ltd", "Gmbh", "")), 3)


if __name__ == "__main__":
    unittest.main()
