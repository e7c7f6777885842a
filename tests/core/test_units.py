"""Values of different kinds do not add up by mistake."""

import unittest

from bolsa.core.units import Money, Price, Shares


class Units(unittest.TestCase):
    def test_what_does_not_mix_is_refused(self):
        for one, other in ((Money(1, "EUR"), Money(1, "JPY")), (Money(1, "EUR"), Shares(1)), (Shares(1), Money(1, "EUR"))):
            with self.subTest(one=one, other=other):
                for act in (lambda a, b: a + b, lambda a, b: a - b):
                    with self.assertRaises(TypeError):
                        act(one, other)

    def test_a_price_is_of_shares_and_gives_money_of_its_currency(self):
        self.assertEqual(Price(33_333_333, "JPY").value_of(Shares(-450_000_000)), Money(-1, "JPY"))  # 1.4999… yen, half away
        with self.assertRaises(TypeError):
            Price(100, "EUR").value_of(Money(1, "EUR"))


if __name__ == "__main__":
    unittest.main()
