"""What is held, what is owed and whether it lasts, from the command line."""

import unittest

from tests.cli.command_case import CommandCase


class Holdings(CommandCase):
    def setUp(self):
        super().setUp()
        self.ok("account", "add", "Depot", "--kind", "brokerage", "--opening", "1000", "--on", "2026-01-01")
        self.ok("security", "add", "Tern Robotics", "--currency", "EUR", "--kind", "share")
        self.ok("holdings", "count", "Depot", "shares", "--cash", "1000")
        trade = ("Tern Robotics", "--account", "Depot")
        self.ok("trade", "buy", *trade, "--shares", "10", "--total", "400", "--on", "2026-02-02")
        self.ok("trade", "sell", *trade, "--shares", "4", "--total", "200", "--on", "2026-04-01")
        self.ok("security", "price", "Tern Robotics", "50", "--on", "2026-05-14")

    def test_shares_are_valued_with_their_lots_and_their_gains(self):
        held = self.json("holdings")
        row = next(row for row in held["holdings"] if row["name"] == "Tern Robotics")
        self.assertEqual((row["shares"], row["value"], row["cost"]), ("6", "300.00", "240.00"))
        self.assertEqual([lot["shares"] for lot in row["lots"]], ["6"])
        gains = self.json("gains", "--year", "2026")
        self.assertEqual((gains["gain"], [one["gain"] for one in gains["sold"]]), ("40.00", ["40.00"]))

    def test_returns_are_of_all_or_of_one_place(self):
        did = self.json("performance")
        self.assertEqual((did["earned"], did["put_in"], did["linked_by"]), ("100.00", "200.00", "day"))
        self.assertEqual(self.json("performance", "--only", "account=Depot"), did)
        self.assertEqual(self.run_("performance", "--only", "account=Elsewhere")[0], 1)
        self.assertIn("such as owner=Noor", self.run_("performance", "--only", "colour=red")[2])

    def test_the_mix_and_the_bands_hold_all_of_it(self):
        mix = self.json("mix")
        self.assertEqual(mix["total"], "1100.00")
        self.assertEqual({one["class"]: one["value"] for one in mix["classes"]}["Shares"], "300.00")
        self.assertEqual(len(self.json("bands")["bands"]), 3)


class Ahead(CommandCase):
    def test_a_debt_without_terms_is_named(self):
        self.ok("account", "add", "Bike loan", "--kind", "loan", "--opening", "-1200", "--on", "2026-01-01")
        found = self.json("debts", "--extra", "50", "--order", "balance")
        self.assertEqual((found["owed"], found["extra"], found["order"]), ("1200.00", "50.00", "balance"))
        self.assertEqual((found["done"], found["lacking"]), ("2028-05", ["Bike loan"]))

    def test_a_long_view_is_begun_and_mended(self):
        self.assertIn("There is no long view yet", self.run_("ahead")[2])
        self.ok("enter", "grebe 23.40 groceries 2026-04-03", "--account", "Current")
        self.ok("ahead", "begin", "--born", "Ana=1980")
        view = self.json("ahead")
        self.assertEqual((view["years"][0]["year"], view["paths"]), (2026, 1000))
        self.assertIsInstance(self.json("ahead", "mend"), list)


if __name__ == "__main__":
    unittest.main()
