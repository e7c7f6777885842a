"""Net worth: what is owned and what is owed, each account on its own side."""

import unittest
from datetime import date

from bolsa.core.worth.net_worth import CLASSES, WorthRow, tree_of, worth_point

ROWS = [
    WorthRow(1, "Current", "current", "asset", True, "EUR", 500, 500),
    WorthRow(2, "Pension", "pension", "asset", True, "EUR", 9_000, 9_000),
    WorthRow(3, "Barge", "vehicle", "asset", True, "EUR", 20_000, 20_000),
    WorthRow(4, "Barge loan", "loan", "liability", True, "EUR", -7_000, -7_000),
]


class NetWorth(unittest.TestCase):
    def test_an_account_counts_on_its_side_whichever_sign_it_has(self):
        rows = [
            WorthRow(1, "Current", "current", "asset", True, "EUR", -500, -500),
            WorthRow(2, "Kronor", "savings", "asset", True, "SEK", 10_000, 915),
            WorthRow(3, "Barge loan", "loan", "liability", True, "EUR", -7_000, -7_000),
            WorthRow(4, "Card", "card", "liability", False, "EUR", 300, 300),
        ]
        point = worth_point(date(2026, 5, 31), rows)
        self.assertEqual((point.owned_minor, point.owed_minor, point.net_minor), (415, -6_700, -6_285))
        self.assertEqual(worth_point(date(2026, 5, 31), []).net_minor, 0)

    def test_the_classes_add_up_to_the_net(self):
        point = worth_point(date(2026, 5, 31), ROWS)
        self.assertEqual(point.by_class, {"Money": 500, "Invested": 9_000, "Property": 20_000, "Debts": -7_000})
        self.assertEqual(tuple(point.by_class), CLASSES)
        self.assertEqual(point.net_minor, sum(point.by_class.values()))

    def test_a_tree_holds_every_account_once_in_any_order_of_facets(self):
        places = {1: {"class": "Money", "own1": "Kiln"}, 2: {"class": "Invested", "own1": "Kiln"}, 3: {"class": "Property"}}
        for order in (["class", "own1"], ["own1", "class"], ["own1"], []):
            tree = tree_of(ROWS, places, order)
            self.assertEqual(sorted(row.account_id for row in tree.all_rows), [1, 2, 3, 4])
            self.assertEqual(tree.home_minor, sum(row.home_minor for row in ROWS))
        tree = tree_of(ROWS, places, ["own1", "class"])
        self.assertEqual([(c.name, c.home_minor) for c in tree.children], [("Kiln", 9_500), ("Not said", 13_000)])
        self.assertEqual(
            [child.path for child in tree.children[1].children], [("Not said", "Property"), ("Not said", "Not said")]
        )


if __name__ == "__main__":
    unittest.main()
