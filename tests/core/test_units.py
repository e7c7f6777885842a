"""Values of different kinds do not add up by mistake."""

import unittest

from bolsa.core.reader import READERS
from bolsa.core.units import Money, Shares
from bolsa.core.working import Working, total_of


class Units(unittest.TestCase):
    def test_what_does_not_mix_is_refused(self):
        for one, other in ((Money(1, "EUR"), Money(1, "JPY")), (Money(1, "EUR"), Shares(1)), (Shares(1), Money(1, "EUR"))):
            with self.subTest(one=one, other=other):
                for act in (lambda a, b: a + b, lambda a, b: a - b):
                    with self.assertRaises(TypeError):
                        act(one, other)

    def test_a_working_is_the_sum_of_its_parts_all_the_way_down(self):
        inner = total_of("inner", [Working("a", Money(3, "EUR")), Working("b", Money(-1, "EUR"))], Money(0, "EUR"))
        whole = total_of("whole", [inner, Working("c", Money(5, "EUR"))], Money(0, "EUR"))
        self.assertEqual((whole.figure, whole.adds_up), (Money(7, "EUR"), True))
        self.assertFalse(Working("wrong", Money(8, "EUR"), parts=(inner,)).adds_up)

    def test_a_reader_with_a_day_first_shows_it_first(self):
        for reader in READERS.values():
            with self.subTest(reader.locale):
                before = reader.day_pattern.index("%d") < reader.day_pattern.index("%m")
                self.assertEqual(before, reader.day_first and not reader.day_pattern.startswith("%Y"))


if __name__ == "__main__":
    unittest.main()
