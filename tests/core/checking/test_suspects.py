"""Suspects: every kind found and cured, mixtures, and the bounds of the search."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from bolsa.core.checking.check import Check, OpenItem
from bolsa.core.checking.sums import MOST_LINES_IN_SUM
from bolsa.core.checking.suspects import (
    DAYS_TWICE,
    DAYS_TWICE_EVIDENT,
    MOST_OF_A_KIND,
    BankRow,
    ChangedLine,
    Evidence,
    Usual,
    find_suspects,
)

DAY = date(2026, 5, 14)


def item(line_id, amount, *, ticked=True, days=0, payee="Shop", bank=None, can_change=True):
    return OpenItem(line_id, line_id * 10, DAY + timedelta(days=days), amount, payee, ticked, bank, can_change)


def look(closing, *items, opening=0, **evidence):
    return find_suspects(Check(opening, closing, items), Evidence(**evidence), "EUR").suspects


class EachKind(unittest.TestCase):
    def assert_first(self, found, kind, verb, effect):
        self.assertEqual((found[0].kind, found[0].cures[0].verb, found[0].effect_minor), (kind, verb, effect), found[0])
        return found[0]

    def test_nothing_is_suspected_when_all_agrees(self):
        self.assertEqual(look(-500, item(1, -500, bank=-499)), ())

    def test_the_banks_own_amount_explains_27_cents(self):
        found = look(-558, item(1, -585, bank=-558), item(2, -27, ticked=False))
        first = self.assert_first(found, "digits", "correct", 27)
        self.assertIn("5.85 EUR here", first.reason)
        self.assertEqual(first.cures[0].amount_minor, -558)

    def test_the_banks_own_amount_shows_a_wrong_sign_and_any_other_amount(self):
        self.assert_first(look(-700, item(1, 700, bank=-700)), "sign", "correct", -1400)
        self.assert_first(look(-700, item(1, -650, bank=-700)), "amount", "correct", -50)

    def test_a_split_is_named_but_not_corrected_in_one_stroke(self):
        self.assertEqual(look(-700, item(1, -650, bank=-700, can_change=False))[0].cures, ())

    def test_a_line_not_ticked(self):
        self.assert_first(look(-700, item(1, -700, ticked=False), item(2, -90, ticked=False)), "line", "tick", -700)

    def test_a_ticked_line_the_bank_never_sent(self):
        found = look(-700, item(1, -700, bank=-700), item(2, -410))
        self.assert_first(found, "line", "untick", 410)

    def test_half_the_difference_is_a_wrong_sign(self):
        self.assert_first(look(-1200, item(1, -700), item(2, 500)), "sign", "correct", -1000)

    def test_swapped_digits_without_the_banks_word(self):
        found = look(-6322, item(1, -3621), item(2, -1))
        first = self.assert_first(found, "digits", "correct", -2700)
        self.assertIn("-36.21 EUR for -63.21 EUR", first.reason)

    def test_there_twice_asks_to_delete_the_one_the_bank_does_not_know(self):
        for order in ((1, 2), (2, 1)):
            known, typed = (
                item(order[0], -1995, bank=-1995, payee="ANCHOR CHANDLERY 0019"),
                item(order[1], -1995, payee="Anchor Chandlery", days=2),
            )
            first = self.assert_first(look(-1995, known, typed), "twice", "delete", 1995)
            self.assertEqual(first.cures[0].entry_id, typed.entry_id)

    def test_two_true_purchases_are_no_suspects(self):
        found = look(-4100, item(1, -2000, bank=-2000), item(2, -2000, bank=-2000), item(3, -100, ticked=False))
        self.assertEqual([s.kind for s in found], ["line"])

    def test_there_twice_is_named_though_it_explains_a_part(self):
        found = look(-2300, item(1, -1995, bank=-1995), item(2, -1995, days=1), item(3, -777, ticked=False))
        self.assertIn("twice", [s.kind for s in found])

    def test_dated_just_outside(self):
        self.assert_first(look(-300, outside=(item(5, -300, days=2, ticked=False),)), "outside", "move", -300)

    def test_missing_here(self):
        self.assert_first(look(-300, missing=(BankRow(8, DAY, -300, "FERRY 9"),)), "missing", "bring", -300)

    def test_a_reconciled_line_changed_or_deleted_later(self):
        changed = ChangedLine(1, 10, "Heron School", DAY, -12250, -12520)
        self.assert_first(look(-12250, item(1, -12520, bank=None), changed=(changed,)), "changed", "correct", 270)
        gone = replace(changed, entry_id=None, now_minor=0)
        self.assert_first(look(-12250, changed=(gone,)), "changed", "put back", -12250)

    def test_interest_not_yet_entered_takes_this_months_amount(self):
        usual = Usual("Halden Mutual", 4, DAY, 312)
        first = self.assert_first(look(312, usual=(usual,)), "usual", "enter", 312)
        self.assertEqual(first.cures[0].amount_minor, 312)
        (other,) = look(329, usual=(usual,))
        self.assertEqual((other.is_sure, other.cures), (False, ()))
        self.assertIn("perhaps with another amount", other.reason)
        self.assertEqual(look(900, usual=(usual,)), ())
        self.assertEqual(look(-312, usual=(usual,)), ())

    def test_an_opening_that_does_not_follow(self):
        self.assert_first(look(500, opening=480, before_minor=500), "opening", "open", 20)

    def test_a_few_lines_that_sum_to_it(self):
        lines = [item(n, a, ticked=False, days=-n) for n, a in enumerate((-1234, -4321, -777, -1050, -9990), 1)]
        first = self.assert_first(look(-1234 - 777 - 1050, *lines), "sum", "tick", -3061)
        self.assertEqual(first.cures[0].line_ids, (1, 3, 4))


class Thresholds(unittest.TestCase):
    """The last that counts, and the first that does not."""

    def kinds(self, *found):
        return {suspect.kind for suspect in look(*found)}

    def test_days_between_two_that_are_one(self):
        self.assertEqual((DAYS_TWICE, DAYS_TWICE_EVIDENT), (4, 10))
        for days, bank, is_twice in ((4, None, True), (5, None, False), (10, -1995, True), (11, -1995, False)):
            with self.subTest(days=days, bank=bank):
                found = self.kinds(-1995, item(1, -1995, bank=bank), item(2, -1995, days=days))
                self.assertEqual("twice" in found, is_twice)

    def test_a_usual_amount_may_move_by_a_fifth(self):
        usual = Usual("Halden Mutual", 4, DAY, 500)
        for amount, is_it in ((400, True), (399, False), (600, True), (601, False), (-500, False)):
            with self.subTest(amount):
                self.assertEqual("usual" in {s.kind for s in look(amount, usual=(usual,))}, is_it)

    def test_a_sum_of_four_lines_but_not_of_five_unless_it_is_all_that_are_not_ticked(self):
        lines = [item(n, -(10**n), ticked=False) for n in range(1, 7)]
        self.assertEqual(MOST_LINES_IN_SUM, 4)
        self.assertIn("sum", self.kinds(sum(line.amount_minor for line in lines[:4]), *lines))
        self.assertNotIn("sum", self.kinds(sum(line.amount_minor for line in lines[:5]), *lines))
        whole = look(sum(line.amount_minor for line in lines), *lines)[0]
        self.assertEqual((whole.title, len(whole.cures[0].line_ids)), ("All 6 lines that are not ticked", 6))

    def test_three_of_a_kind_are_shown(self):
        lines = [item(n, -100 - n, ticked=False) for n in range(10)]
        sums = [s for s in look(-209, *lines) if s.kind == "sum"]
        self.assertEqual(len(sums), MOST_OF_A_KIND)
        self.assertIn("one of 5 sums", sums[0].reason)


class Mixtures(unittest.TestCase):
    def test_two_proofs_that_only_together_explain_it(self):
        found = look(-558 - 1995, item(1, -585, bank=-558), item(2, -1995, bank=-1995), item(3, -1995, days=1))
        self.assertEqual((found[0].kind, [c.verb for c in found[0].cures]), ("together", ["correct", "delete"]))
        self.assertEqual({s.kind for s in found[1:]}, {"digits", "twice"})

    def test_swapped_digits_among_twenty_lines_are_named(self):
        lines = [item(n, -1000 - 37 * n, bank=-1000 - 37 * n) for n in range(2, 21)]
        opening = -sum(line.amount_minor for line in lines)
        for bank in (None, -8398):
            found = look(-3898, item(1, -8398, bank=bank), *lines, opening=opening)
            self.assertEqual((found[0].kind, found[0].cures[0].amount_minor), ("digits", -3898))
        waits = look(-3898, item(1, -8398, ticked=False), *lines, opening=opening)
        self.assertEqual([c.verb for c in waits[0].cures], ["correct", "tick"])

    def test_a_double_is_named_among_three_faults_and_the_three_are_found(self):
        lines = [item(n, -1000 - 137 * n, bank=-1000 - 137 * n) for n in range(5, 12)]
        opening = -sum(line.amount_minor for line in lines)
        twice = item(1, -1995), item(2, -1995, days=1)
        found = look(-1995 - 3621 - 847, *twice, item(3, -6321), item(4, -847, ticked=False), *lines, opening=opening)
        self.assertEqual({c.verb for c in found[0].cures}, {"delete", "correct", "tick"})
        self.assertEqual(sum(s.kind == "twice" and not s.is_sure for s in found), 1)

    def test_a_forgotten_tick_beside_swapped_digits(self):
        found = look(-6321 - 847, item(1, -3621), item(2, -847, ticked=False), item(3, -15000, bank=-15000), opening=15000)
        self.assertEqual(found[0].kind, "together")
        self.assertEqual({c.verb for c in found[0].cures}, {"tick", "correct"})


AMOUNTS = st.integers(-50_000, 50_000).filter(bool)


@settings(max_examples=60, deadline=None)
@given(st.lists(AMOUNTS, min_size=2, max_size=12), st.data())
def every_cure_of_the_whole_closes_the_gap(self, amounts, data):
    items = tuple(item(n, a, ticked=data.draw(st.booleans()), days=-n, payee=f"Shop {n}") for n, a in enumerate(amounts, 1))
    closing = data.draw(st.sampled_from([sum(i.amount_minor for i in items), -sum(amounts), amounts[0] * 2]))
    check = Check(0, closing, items)
    for suspect in find_suspects(check, Evidence(), "EUR").suspects:
        after = {i.line_id: i for i in items}
        for cure in suspect.cures:
            for line_id in cure.line_ids:
                one = after[line_id]
                if cure.verb == "delete":
                    del after[line_id]
                elif cure.verb == "correct":
                    after[line_id] = replace(one, amount_minor=cure.amount_minor)
                else:
                    after[line_id] = replace(one, ticked=cure.verb == "tick")
        left = Check(0, closing, tuple(after.values())).difference_minor
        self.assertEqual(left, check.difference_minor - suspect.effect_minor, suspect)


class Properties(unittest.TestCase):
    test_every_cure_moves_the_gap_by_its_effect = every_cure_of_the_whole_closes_the_gap
