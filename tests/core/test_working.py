"""A figure is the sum of its parts."""

import unittest

from bolsa.core.units import Money, Shares
from bolsa.core.working import Working, sum_of, total_of


class Workings(unittest.TestCase):
    def test_a_working_is_the_sum_of_its_parts_all_the_way_down(self):
        inner = total_of("inner", [Working("a", Money(3, "EUR")), Working("b", Money(-1, "EUR"))], Money(0, "EUR"))
        whole = total_of("whole", [inner, Working("c", Money(5, "EUR"))], Money(0, "EUR"))
        self.assertEqual((whole.figure, whole.adds_up), (Money(7, "EUR"), True))
        self.assertFalse(Working("wrong", Money(8, "EUR"), parts=(inner,)).adds_up)

    def test_parts_of_two_kinds_are_no_sum(self):
        with self.assertRaises(TypeError):
            sum_of([Working("a", Money(3, "EUR")), Working("b", Shares(3))], Money(0, "EUR"))

    def test_nothing_sums_to_nothing_of_its_kind(self):
        self.assertEqual(total_of("none", [], Money(0, "JPY")).figure, Money(0, "JPY"))


if __name__ == "__main__":
    unittest.main()
