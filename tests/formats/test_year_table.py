"""A year of expected amounts as a file: what counts of it, and what it says of what is wrong."""

import unittest
from decimal import Decimal

from bolsa.core.months import Month
from bolsa.errors import BolsaError, InvalidInput, UnreadableFile
from bolsa.formats.year_table import MOST_ROWS, read_year

HEAD = "group,category,type,figure,2026-01,2026-02\n"


class TheYearAsAFile(unittest.TestCase):
    def test_expected_rows_count_and_empty_cells_say_nothing(self):
        text = (
            HEAD
            + "Living,Groceries,spending,expected,640.00,\nLiving,Groceries,spending,actual,1,2\n,'=odd,spending,Expected,,5\n"
        )
        found = read_year(b"\xef\xbb\xbf" + text.replace("\n", "\r\n").encode())
        self.assertEqual([(one.line, one.category) for one in found], [(2, "Groceries"), (4, "=odd")])
        self.assertEqual(found[0].amounts, {Month(2026, 1): Decimal("640.00")})
        self.assertEqual(found[1].amounts, {Month(2026, 2): Decimal(5)})

    def test_what_is_wrong_is_said_with_its_line(self):
        row = "Living,Groceries,spending,expected,{},1\n"
        for text, kind, words in (
            ("", UnreadableFile, "first line"), ("a,b\n1,2\n", UnreadableFile, "first line"), (HEAD, UnreadableFile, "expected"),
            (HEAD + row.format("lots"), InvalidInput, "Line 2: “lots”"), (HEAD + row.format("-1"), InvalidInput, "Line 2"),
            (HEAD.replace("2026-02", "2026-01") + row.format("1"), UnreadableFile, "two columns"),
            (HEAD.replace("2026-02", "May") + row.format("1"), InvalidInput, "month"),
            (HEAD + row.format("1") * MOST_ROWS, UnreadableFile, "2,000"),
        ):  # fmt: skip
            with self.subTest(text[:60]), self.assertRaises(kind) as caught:
                read_year(text.encode())
            self.assertIn(words, caught.exception.sentence)

    def test_what_is_no_text_is_refused(self):
        for content in (b"\xff\xfe\x00", b"group,category\xe9", b'"' + b"x" * 200_000):
            with self.assertRaises(BolsaError):
                read_year(content)


if __name__ == "__main__":
    unittest.main()
