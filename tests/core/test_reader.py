"""How a household reads and writes."""

import unittest

from bolsa.core.reader import READERS, USUAL


class Readers(unittest.TestCase):
    def test_a_reader_with_a_day_first_shows_it_first(self):
        for reader in READERS.values():
            with self.subTest(reader.locale):
                before = reader.day_pattern.index("%d") < reader.day_pattern.index("%m")
                self.assertEqual(before, reader.day_first and not reader.day_pattern.startswith("%Y"))

    def test_the_usual_one_is_among_them_and_each_knows_itself(self):
        self.assertIs(READERS[USUAL.locale], USUAL)
        self.assertEqual([reader.locale for reader in READERS.values()], list(READERS))
        self.assertEqual({reader.decimal_mark for reader in READERS.values()}, {".", ","})


if __name__ == "__main__":
    unittest.main()
