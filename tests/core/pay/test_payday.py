"""The year so far: start figures in the year of the first payday kept, then what each payslip told."""

import unittest
from datetime import date

from bolsa.core.pay.payday import Pay, Payday, Told, start_of, year_so_far
from bolsa.core.pay.payslip import PayLine

BASE = PayLine(1, "earned", "Base", 200_000, category_id=40, start_minor=600_000)
TAX = PayLine(2, "tax", "Tax", 40_000)
PAY = Pay(1, 1, None, date(2026, 4, 10), (BASE, TAX))


def payday(id_, day, *amounts):
    told = tuple(Told(line.id, 100 * id_ + line.id, id_, day, amount) for line, amount in zip((BASE, TAX), amounts, strict=False))
    return Payday(id_, 1, day, id_, told)


class TheYear(unittest.TestCase):
    def test_it_adds_what_was_told_since_the_start(self):
        days = [payday(1, date(2026, 4, 10), 200_000, 40_000), payday(2, date(2026, 4, 24), 200_000, 40_003)]
        self.assertEqual([one.total_minor for one in year_so_far(PAY, days, date(2026, 4, 24))], [1_000_000, 80_003])
        self.assertEqual([one.total_minor for one in year_so_far(PAY, days, date(2026, 4, 23))], [800_000, 40_000])

    def test_a_new_year_begins_with_nothing(self):
        days = [payday(1, date(2026, 12, 31), 200_000), payday(2, date(2027, 1, 1), 210_000)]
        self.assertEqual([one.total_minor for one in year_so_far(PAY, days, date(2026, 12, 31))], [800_000, 0])
        self.assertEqual([one.total_minor for one in year_so_far(PAY, days, date(2027, 1, 1))], [210_000, 0])
        self.assertEqual([start_of(PAY, BASE, year) for year in (2025, 2026, 2027)], [0, 600_000, 0])


if __name__ == "__main__":
    unittest.main()
