"""Rates of return: published examples, put back into their equations."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.returns import Point, a_year, by_stretch, dietz, large_flows, linked, money_weighted, time_weighted

START = date(2024, 1, 1)


def points(*parts):
    """(days after the start, value, put in) each."""
    return [Point(START + timedelta(days=day), value, flow) for day, value, flow in parts]


class MoneyWeighted(unittest.TestCase):
    def test_a_year_at_ten_per_cent(self):
        self.assertAlmostEqual(money_weighted(points((0, 100000, 0), (365, 110000, 0))), 0.10, 9)

    def test_put_back_the_flows_are_worth_nothing(self):
        known = points((0, 0, 0), (1, 50000, 50000), (100, 81000, 30000), (200, 64000, -20000), (500, 70000, 0))
        rate = money_weighted(known)
        worth = sum(-p.flow_minor * (1 + rate) ** (-(p.day - START).days / 365) for p in known)
        worth += known[-1].value_minor * (1 + rate) ** (-500 / 365)
        self.assertAlmostEqual(worth, 0, 1)

    def test_where_there_is_no_such_rate(self):
        for known in ([], points((0, 100, 0)), points((0, 0, 0), (9, 0, 0)), points((0, 0, 0), (9, 500, 0))):
            self.assertIsNone(money_weighted(known))

    def test_nothing_gained_is_nothing(self):
        self.assertAlmostEqual(money_weighted(points((0, 100000, 0), (730, 100000, 0))), 0, 9)


class TimeWeighted(unittest.TestCase):
    def test_what_is_put_in_at_a_bad_time_does_not_count(self):
        """100 falls to 50, 50 more are put in, 100 grows to 200: half times twice is nothing gained."""
        known = points((0, 10000, 10000), (100, 10000, 5000), (200, 20000, 0))
        self.assertAlmostEqual(time_weighted(known), 0.0, 9)
        self.assertGreater(money_weighted(known), 0)

    def test_a_distribution_taken_out_counts_as_gain(self):
        self.assertAlmostEqual(time_weighted(points((0, 10000, 10000), (100, 10000, -500), (365, 10500, 0))), 1.05 * 1.05 - 1, 9)

    def test_a_stretch_that_begins_with_nothing_counts_from_its_flow(self):
        known = points((0, 0, 0), (10, 9900, 10000), (300, 0, -10890), (400, 5000, 5000), (500, 5500, 0))
        self.assertAlmostEqual(time_weighted(known), 0.99 * 1.1 * 1.1 - 1, 9)
        self.assertIsNone(time_weighted(points((0, 0, 0), (10, 0, 0))))

    @given(st.lists(st.tuples(st.integers(-40, 60), st.integers(0, 5000)), min_size=1, max_size=8))
    def test_it_is_what_one_unit_would_have_grown_by(self, steps):
        value, unit, known = 10000.0, 1.0, [Point(START, 10000, 10000)]
        for at, (percent, put_in) in enumerate(steps, 1):
            value, unit = value * (1 + percent / 100), unit * (1 + percent / 100)
            value = round(value) + put_in
            known.append(Point(START + timedelta(days=30 * at), value, put_in))
        self.assertAlmostEqual(time_weighted(known), unit - 1, 2)


class Linked(unittest.TestCase):
    def test_modified_dietz_weighs_a_flow_by_its_days(self):
        """10,000 grow to 12,000 with 1,000 put in after 10 of 30 days: 1,000 / (10,000 + 1,000 × 20/30)."""
        start, end = points((0, 1000000, 0), (30, 1200000, 0))
        self.assertAlmostEqual(dietz(start, end, [(START + timedelta(days=10), 100000)]), 1000 / (10000 + 1000 * 20 / 30), 9)
        self.assertIsNone(dietz(start, start, []))
        self.assertIsNone(dietz(*points((0, 0, 0), (30, 0, 0)), []))

    @given(st.lists(st.tuples(st.integers(-9, 12), st.integers(-200, 400)), min_size=1, max_size=20))
    def test_by_stretches_from_flow_to_flow_it_is_the_exact_one(self, steps):
        known, value = points((0, 100000, 0)), 100000
        for at, (percent, flow) in enumerate(steps):
            value = value + value * percent // 100 + flow * 100
            known.append(Point(START + timedelta(days=30 * at + 30), value, flow * 100))
        if min(point.value_minor for point in known) > 0:
            found = linked(by_stretch(known, [(point.day, point.flow_minor) for point in known[1:]]))
            self.assertAlmostEqual(found, time_weighted(known), 9)

    def test_a_stretch_that_begins_with_nothing_counts_from_the_flow_that_ends_it(self):
        (found,) = by_stretch(points((0, 0, 0), (9, 9500, 10000)), [(START + timedelta(days=9), 10000)])
        self.assertAlmostEqual(found, -0.05, 9)
        self.assertEqual(by_stretch(points((0, 0, 0), (9, 0, 0)), []), [None])

    def test_a_flow_above_two_per_cent_of_what_is_there_is_large(self):
        days = [START + timedelta(days=n) for n in range(5)]
        found = large_flows(list(zip(days, (10000, 200, 205, -9000, -1500), strict=True)))
        self.assertEqual(found, [days[0], days[2], days[3], days[4]])

    def test_stretches_follow_each_other(self):
        self.assertAlmostEqual(linked([0.1, None, -0.1]), -0.01, 9)
        self.assertIsNone(linked([None]))

    def test_a_year_and_less(self):
        self.assertAlmostEqual(a_year(0.21, 730), 0.1, 9)
        self.assertAlmostEqual(a_year(0.05, 365), 0.05, 9)
        self.assertEqual((a_year(0.05, 364), a_year(None, 900)), (0.05, None))


if __name__ == "__main__":
    unittest.main()
