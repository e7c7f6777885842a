"""What would explain that an account does not come to what its file declares."""

import unittest
from datetime import date

from bolsa.core.bringing.batch import ChangedHere, StoredRow
from bolsa.core.bringing.proof import MOST_EXPLAINED, Untold, find_explanations

DAY = date(2026, 3, 2)


def a_row(id_, amount, *, take=True, verdict="new"):
    return StoredRow(id_, 1, 1, DAY, amount, "Grebe", "", "", None, 0, False, verdict, take, "", None, None, None)


class Explaining(unittest.TestCase):
    def test_nothing_explains_no_difference(self):
        self.assertEqual(find_explanations(0, [a_row(1, 0)], [], [Untold(3, DAY, 0, "Quay")]), ([], False))

    def test_each_way_puts_the_difference_right(self):
        """Of 12.40 more at the bank: what is done about each leaves nothing of it."""
        for rows, changed, untold, cure in (
            ([a_row(1, 1_240, take=False, verdict="suspicious")], [], [], "bring"),
            ([a_row(1, -1_240)], [], [], "leave"),
            ([a_row(1, -620)], [], [], ""),
            ([], [ChangedHere(1, DAY, -500, 1, 2, 3, "Quay", DAY, -1_740, False)], [], "correct"),
            ([], [ChangedHere(1, DAY, -500, 1, 2, 3, "Quay", DAY, -1_740, True)], [], ""),
            ([], [], [Untold(3, DAY, -1_240, "Quay")], ""),
        ):
            with self.subTest(cure, rows=rows):
                self.assertEqual([one.cure for one in find_explanations(1_240, rows, changed, untold)[0]], [cure])
                self.assertEqual(find_explanations(1_241, rows, changed, untold)[0], [])

    def test_what_is_matched_or_here_is_left_alone_and_the_first_few_are_named(self):
        self.assertEqual(find_explanations(1_240, [a_row(1, -1_240, verdict="matched")], [], [])[0], [])
        many = [a_row(n, -1_240) for n in range(MOST_EXPLAINED + 1)]
        self.assertEqual(len(find_explanations(1_240, many, [], [])[0]), MOST_EXPLAINED)

    def test_two_doubtful_rows_explain_it_together_where_no_others_do(self):
        out, turned = a_row(1, -2_140, take=False, verdict="known"), a_row(2, 1_290, verdict="suspicious")
        found, takes_both = find_explanations(-2_140 - 2 * 1_290, [out, turned, a_row(3, -350)], [], [])
        self.assertEqual(([one.row_id for one in found], takes_both), ([1, 2], True))
        twins = [out, a_row(4, -2_140, take=False, verdict="known"), turned]
        self.assertEqual(find_explanations(-2_140 - 2 * 1_290, twins, [], []), ([], False))


if __name__ == "__main__":
    unittest.main()
