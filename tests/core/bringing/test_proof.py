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
        self.assertEqual(find_explanations(0, [a_row(1, 0)], [], [Untold(3, DAY, 0, "Quay")]), [])

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
                self.assertEqual([one.cure for one in find_explanations(1_240, rows, changed, untold)], [cure])
                self.assertEqual(find_explanations(1_241, rows, changed, untold), [])

    def test_what_is_matched_or_here_is_left_alone_and_the_first_few_are_named(self):
        self.assertEqual(find_explanations(1_240, [a_row(1, -1_240, verdict="matched")], [], []), [])
        many = [a_row(n, -1_240) for n in range(MOST_EXPLAINED + 1)]
        self.assertEqual(len(find_explanations(1_240, many, [], [])), MOST_EXPLAINED)


if __name__ == "__main__":
    unittest.main()
