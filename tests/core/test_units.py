"""Values of different kinds do not add up by mistake."""

import unittest

from bolsa.core.units import Money, Shares


class Units(unittest.TestCase):
    def test_what_does_not_mix_is_refused(self):
        for one, other in ((Money(1, "EUR"), Money(1, "JPY")), (Money(1, "EUR"), Shares(1)), (Shares(1), Money(1, "EUR"))):
            with self.subTest(one=one, other=other):
                for act in (lambda a, b: a + b, lambda a, b: a - b):
                    with self.assertRaises(TypeError):
                        act(one, other)


if __name__ == "__main__":
    unittest.main()
