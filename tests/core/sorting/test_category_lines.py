"""Categories written as lines."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.category_lines import MOST_LINES, Written, read_lines
from bolsa.errors import InvalidInput


class Lines(unittest.TestCase):
    def test_headings_by_colon_sign_or_indent(self):
        wanted = [
            Written("Living", "Groceries", "spending"),
            Written("Living", "Rent", "spending"),
            Written("In", "Pay", "income"),
        ]
        for text in (
            "Living:\nGroceries\nRent\nIn (income):\nPay",
            "# Living\n- Groceries\n* Rent\n# In (Income)\n- Pay",
            "Living\n  Groceries\n  Rent\nIn (income)\n\tPay\n",
            "Living:\r\n\r\nGroceries\r\nRent\r\nGroceries\r\nIn:\r\nPay (income)",
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(read_lines(text), wanted)

    def test_a_group_that_is_chosen_takes_what_has_no_heading(self):
        self.assertEqual(
            read_lines("Groceries\nRent", "Living"), [Written("Living", name, "spending") for name in ("Groceries", "Rent")]
        )

    def test_what_makes_no_sense_is_named_by_its_line(self):
        for text, words in (
            ("Groceries", "Line 1"), ("Living:\nGroceries\n" + "x" * 61, "Line 3"),
            ("", "at least one"), ("Living:", "at least one"),
            ("a\n" * (MOST_LINES + 1), "300"),
        ):  # fmt: skip
            with self.subTest(text[:20]), self.assertRaisesRegex(InvalidInput, words):
                read_lines(text)

    @given(st.text(max_size=200))
    def test_any_text_is_read_or_refused(self, text):
        try:
            found = read_lines(text, "Group")
        except InvalidInput:
            return
        self.assertTrue(all(one.group and one.name for one in found))


if __name__ == "__main__":
    unittest.main()
