"""A payslip reckoned by hand, what explains a difference, and the lines of its entry."""

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ledger.entries import Line, sums_by_currency
from bolsa.core.pay.payslip import KINDS, PayLine, entry_lines, explain, income_category, reckon
from bolsa.core.units import Percent

DAY = date(2026, 5, 8)
BASE, OVERTIME = PayLine(1, "earned", "Base", 199804, category_id=40), PayLine(2, "earned", "Overtime", category_id=40)
PENSION = PayLine(3, "before", "Pension", percent=Percent(Decimal("6")), account_id=7)
HEALTH = PayLine(4, "before", "Health", 3500, account_id=8)
TAX, DUES = PayLine(5, "tax", "Income tax", 41230, category_id=41), PayLine(6, "tax", "Social dues", 25623)
UNION, MATCH = PayLine(7, "after", "Union", 1450), PayLine(8, "employer", "Health", 2665, account_id=8)
LINES = (BASE, OVERTIME, PENSION, HEALTH, TAX, DUES, UNION, MATCH)

GOES_TO = ((None, None), (7, None), (12, None), (None, 41))  # an account, or a category


class Reckoned(unittest.TestCase):
    def test_gross_taxable_and_net(self):
        slip = reckon(LINES)
        # 6 % of 1,998.04 is 119.8824; 1,998.04 − 119.88 − 35.00 = 1,843.16; − 412.30 − 256.23 − 14.50 = 1,160.13.
        self.assertEqual(slip.by_line[3], 11988)
        self.assertEqual((slip.gross_minor, slip.taxable_minor, slip.net_minor), (199804, 184316, 116013))

    def test_a_percentage_follows_gross_unless_it_is_given(self):
        self.assertEqual(reckon(LINES, {2: 10_000}).by_line[3], 12588)
        self.assertEqual(reckon(LINES, {2: 10_000, 3: 11988}).by_line[3], 11988)
        self.assertEqual(reckon([BASE, PayLine(9, "after", "Once", 500, is_usual=False)]).net_minor, 199804)

    def test_per_cent_is_rounded_half_away_from_zero_once(self):
        for percent, amount, part in (("6.5", 100, 7), ("6.49", 100, 6), ("6.5", -100, -7), ("0.0001", 10**9, 1000)):
            self.assertEqual(Percent(Decimal(percent)).of(amount), part)
        self.assertEqual([str(Percent(Decimal(text))) for text in ("6", "6.50", "10", "100")], ["6 %", "6.5 %", "10 %", "100 %"])


class Explained(unittest.TestCase):
    def test_by_what_an_earlier_payslip_had(self):
        slip = reckon(LINES)
        earlier = [(date(2026, 4, 10), {5: 41233, 2: 300}), (date(2026, 3, 27), {5: 41233})]
        self.assertEqual(
            [(one.line.id, one.amount_minor, one.day) for one in explain(slip, -3, earlier)], [(5, 41233, earlier[0][0])]
        )
        self.assertEqual([(one.line.id, one.amount_minor) for one in explain(slip, 300, earlier)], [(2, 300)])
        self.assertEqual(explain(slip, -4, earlier), [])
        self.assertEqual(explain(slip, 0, earlier), [])

    def test_by_a_line_that_was_left_out(self):
        (found,) = explain(reckon(LINES), 1450, [])
        self.assertEqual((found.line.name, found.amount_minor, found.day), ("Union", 0, None))
        self.assertEqual(explain(reckon(LINES), 2665, []), [])  # the employer's part changes no net

    def test_three_explanations_at_most(self):
        lines = [BASE, *(PayLine(n, "after", f"Due {n}", 500) for n in range(11, 16))]
        self.assertEqual(len(explain(reckon(lines), 500, [])), 3)


class OfAnEntry(unittest.TestCase):
    def lines(self, slip, kept=None, net=None):
        deposit = Line(slip.net_minor if net is None else net, "EUR", 1, None, DAY, "cleared", id=90)
        return entry_lines(slip, deposit, DAY, income_category(LINES), frozenset({7, 8}), kept or {}, 2)

    def test_they_sum_to_zero_and_each_goes_where_it_says(self):
        found = self.lines(reckon(LINES))
        self.assertEqual(sums_by_currency(tuple(line for _, line in found)), {"EUR": 0})
        told = [(item.id if item else 0, line.account_id, line.category_id, line.amount_minor) for item, line in found]
        self.assertEqual(
            told,
            [(0, 1, None, 116013), (1, None, 40, -199804), (3, 7, 40, 11988), (4, 8, 40, 3500), (5, None, 41, 41230),
             (6, None, 40, 25623), (7, None, 40, 1450), (8, 8, 40, 2665), (0, None, 40, -2665)],
        )  # fmt: skip
        # What arrived is what the budget sees of the income: its lines without those of other categories.
        self.assertEqual(sum(line.amount_minor for _, line in found if line.category_id == 40), -116013 - 41230)

    def test_lines_that_are_there_keep_what_the_bank_gave_them(self):
        kept = {4: Line(3400, "EUR", 8, None, date(2026, 5, 9), "cleared", "ref", id=91)}
        line = next(line for item, line in self.lines(reckon(LINES), kept) if item and item.id == 4)
        self.assertEqual(
            (line.id, line.amount_minor, line.bank_ref, line.day, line.category_id), (91, 3500, "ref", date(2026, 5, 9), 40)
        )

    @given(st.lists(st.tuples(st.sampled_from(KINDS), st.integers(-9_999, 999_999), st.sampled_from(GOES_TO)), max_size=12))
    def test_whatever_it_says_the_entry_is_in_balance(self, rows):
        lines = [BASE, *(PayLine(20 + i, kind, "x", amount, None, *to) for i, (kind, amount, to) in enumerate(rows)
                         if kind != "earned" or to[0] is None)]  # fmt: skip
        found = self.lines(reckon(lines))
        self.assertEqual(sum(line.amount_minor for _, line in found), 0)


if __name__ == "__main__":
    unittest.main()
