"""A value that must be there."""

import unittest

from bolsa.core.known import known


class Known(unittest.TestCase):
    def test_nothing_is_refused_and_nothing_else(self):
        self.assertEqual([known(value) for value in (0, "", False)], [0, "", False])
        with self.assertRaises(ValueError):
            known(None)


if __name__ == "__main__":
    unittest.main()
