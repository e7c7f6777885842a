"""The figures of Sort and their workings: what a payee comes to, a pile, what is certain."""

from datetime import date, timedelta

from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.accounts.workings import group
from bolsa.services.sorting import keeping_out, payees, sorting
from bolsa.services.sorting.workings import certain, payee, pile
from tests.services.household import BY, TODAY
from tests.services.test_dividing import PartlyCase

MAY = Month(2026, 5)


class SortWorkings(PartlyCase):
    def opens(self, make, key):
        found = make(self.db, BY, key, MAY)
        self.assertTrue(found.adds_up)
        return found

    def test_a_payee_comes_to_its_years_these_to_months_and_these_to_entries(self):
        ids = [self.spends(100 + n, "Clothes", payee="Quay", day=date(2023 + n // 12, n % 12 + 1, 9)) for n in range(40)]
        keeping_out.keep_out(self.db, BY, [ids[0]], out=True)
        (row,) = [row for row in payees.list_rows(self.db) if row.name == "Quay"]
        whole = self.opens(payee, str(row.id))
        self.assertEqual((row.amount_minor, whole.figure.minor), (whole.figure.minor, -sum(101 + n for n in range(39))))
        self.assertEqual([part.label for part in whole.parts], ["In 2023", "In 2024", "In 2025", "In 2026"])
        for year in whole.parts:
            opened = self.opens(payee, year.ref[1])
            self.assertEqual(opened.figure, year.figure)
            for month in opened.parts:
                of_month = self.opens(payee, month.ref[1])
                self.assertEqual(of_month.figure, month.figure)
                self.assertTrue(all(part.ref[0] == "entry" for part in of_month.parts))
        page = payees.page_of(self.db, row.id, TODAY)
        stretch = self.opens(payee, f"{row.id}.{page.year[0]}:{page.year[1]}")
        self.assertEqual((page.total_minor, page.year_minor), (whole.figure.minor, stretch.figure.minor))
        self.assertEqual(len(stretch.parts), 12)

    def test_a_long_month_opens_further(self):
        for n in range(160):
            self.spends(100 + n, "Clothes", payee="Quay", day=date(2026, 5, 2))
        (row,) = [row for row in payees.list_rows(self.db) if row.name == "Quay"]
        first = self.opens(payee, f"{row.id}.2026-05")
        rest = self.opens(payee, first.parts[-1].ref[1])
        self.assertEqual((len(first.parts), len(rest.parts)), (151, 10))
        self.assertEqual((first.figure.minor, rest.figure), (row.amount_minor, first.parts[-1].figure))

    def test_a_pile_and_what_is_certain_come_to_what_waits(self):
        for n in range(6):
            self.spends(1_000, "Clothes", payee="Boatyard", day=TODAY - timedelta(days=40 - n))
        self.waits("Boatyard", -1_000)
        self.partly()
        (one,) = sorting.what_to_sort(self.db).piles
        found = self.opens(pile, one.key)
        self.assertEqual((found.figure.minor, sorted(part.figure.minor for part in found.parts)), (-1_300, [-1_000, -300]))
        self.assertIn("a part of -10.00 EUR", " ".join(part.note for part in found.parts))
        (sure,) = sorting.what_to_sort(self.db).certain_at(0.9)
        self.assertEqual(self.opens(certain, f"90.{sure.category_id}.EUR").figure.minor, sure.amount_minor)
        sorting.file_sure(self.db, BY, 0.5)
        for make, key in ((pile, one.key), (certain, f"90.{sure.category_id}.EUR")):
            with self.assertRaises(NotFound):
                make(self.db, BY, key, MAY)

    def test_a_group_of_accounts_comes_to_what_they_are_worth(self):
        self.spends(500, "Clothes")
        found = self.opens(group, "1.Everyday")
        self.assertIn(("Current", self.balance()), [(p.label, p.figure.minor) for p in found.parts])
        with self.assertRaises(NotFound):
            group(self.db, BY, "1.Nowhere", MAY)

    def test_what_is_no_key_is_no_figure(self):
        for key in ("x", "1.2026-13", "99999"):
            with self.assertRaises((NotFound, InvalidInput)):
                payee(self.db, BY, key, MAY)
