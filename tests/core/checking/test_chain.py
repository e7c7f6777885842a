import unittest
from dataclasses import replace
from datetime import date

from bolsa.core.checking.chain import require_chained
from bolsa.core.checking.statement import Statement
from bolsa.errors import Conflict

APRIL = Statement(1, 1, date(2026, 4, 30), 0, 500, "reconciled", "2026-05-01T10:00:00Z")
MAY = Statement(2, 1, date(2026, 5, 31), 500, 700, "reconciled", "2026-06-01T10:00:00Z")


class Chains(unittest.TestCase):
    def assert_refused(self, was, chain, words):
        with self.assertRaisesRegex(Conflict, words):
            require_chained("Current", was, chain)

    def test_two_open_ones(self):
        both = [replace(APRIL, state="open"), replace(MAY, state="open")]
        self.assert_refused(both[:1], both, "Another statement of Current")

    def test_what_a_reconciled_one_builds_on_stays(self):
        whole = [APRIL, MAY]
        self.assert_refused(whole, [MAY], "The statement to 2026-05-31 builds on this one")
        self.assert_refused(whole, [replace(APRIL, closing_minor=501, state="open"), MAY], "builds on this one")
        require_chained("Current", whole, [replace(APRIL, state="open"), MAY])

    def test_one_that_adjoins_opens_with_what_was_closed_with(self):
        for begins, is_refused in ((None, True), (date(2026, 5, 1), True), (date(2026, 5, 2), False), (date(2026, 4, 30), False)):
            other = replace(MAY, opening_minor=499, opening_day=begins)
            with self.subTest(begins):
                if is_refused:
                    self.assert_refused([APRIL, replace(other, state="open")], [APRIL, other], "does not open with what")
                else:
                    require_chained("Current", [APRIL, replace(other, state="open")], [APRIL, other])

    def test_a_false_opening_of_an_earlier_version_may_stay_or_be_mended(self):
        false = replace(MAY, opening_minor=499)
        require_chained("Current", [APRIL, false], [APRIL, replace(false, closing_minor=701)])
        require_chained("Current", [APRIL, false], [replace(APRIL, closing_minor=499), false])


if __name__ == "__main__":
    unittest.main()
