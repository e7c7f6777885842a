"""Suggestions learned from past decisions: what tells them apart, how sure they are, in which words."""

import unittest
from collections import Counter
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.circumstances import Case, Circumstance, Decision
from bolsa.core.sorting.steadiness import USUALLY, find_shares
from bolsa.core.sorting.suggestions import (
    DEEPEST,
    LATELY,
    LIKE,
    MOST_CHOICES,
    ONCE,
    SURE_ENOUGH,
    TOLD_APART,
    UNTRIED,
    Past,
    learn,
    suggest,
)

DAY = date(2026, 3, 2)  # a Monday


CASE = Case(-777, 1, DAY)


def past(*groups):
    """Decisions: groups of (category, times, amount, account), a day after the other."""
    made = []
    for category_id, times, amount, account in groups:
        made += [Decision(category_id, amount, account, DAY + timedelta(days=len(made) + i)) for i in range(times)]
    return made


def asked(decisions, amount=-777, account=1, day=DAY, **more):
    return suggest(decisions, CASE._replace(amount_minor=amount, account_id=account, day=day), "EUR", **more)


def mixed(tells, count=24):
    """Decisions on a shop that sells two things, told apart by `tells` of amount, account and day."""
    made = []
    for n in range(count):
        amount, account, day = -(300 + 137 * (n * 7 % 13)), 1 + n * 5 % 2, DAY + timedelta(days=n * 11)
        made.append(Decision(4 if tells(amount, account, day) else 5, amount, account, day))
    return made


class Suggestions(unittest.TestCase):
    def test_a_steady_payee_is_suggested_with_its_count(self):
        found = asked([Decision(4, -1000 - n, 1, DAY) for n in range(37)] + [Decision(5, -900, 1, DAY)])
        self.assertEqual((found.choices[0].category_id, found.reason, found.is_guess), (4, "37 of 38 times", True))

    def test_what_tells_two_things_apart_is_found_and_said(self):
        for tells, given_, words in (
            (lambda amount, account, day: amount > -1000, {"amount": -400}, "below 10"),
            (lambda amount, account, day: amount > -1000, {"amount": -1500}, "from 10"),
            (lambda amount, account, day: account == 1, {"account": 2}, "in other accounts"),
            (lambda amount, account, day: day.day <= 15, {"day": date(2026, 9, 3)}, "until the 1"),
            (lambda amount, account, day: day < date(2026, 7, 1), {"day": date(2027, 1, 1)}, "since 2026-0"),
        ):
            found = asked(mixed(tells), **given_)
            with self.subTest(words):
                self.assertIn(words, found.reason)
                self.assertTrue(found.is_guess)
                is_four = tells(given_.get("amount", -777), given_.get("account", 1), given_.get("day", DAY))
                self.assertEqual(found.choices[0].category_id, 4 if is_four else 5)

    def test_an_amount_that_comes_again_and_again_tells(self):
        decisions = past((4, 6, -1299, 1), (5, 3, -300, 1), (5, 3, -2_700, 1), (6, 4, -950, 1))
        self.assertEqual(asked(decisions, amount=-1299).choices[0].category_id, 4)

    def test_a_shop_nothing_tells_apart_is_asked_about(self):
        decisions = [Decision(4 + n % 2, -500 - 7 * n, 1, DAY + timedelta(days=n)) for n in range(12)]
        self.assertFalse(asked(decisions, amount=-530, day=DAY + timedelta(days=30)).is_guess)

    def test_a_split_is_tried_from_two_cases_a_category_on(self):
        for each, told in ((2, True), (1, False)):
            decisions = past(*((n, each, -1_000 * n, 1) for n in range(1, 5)), (1, 2 if told else 0, -1_000, 1))
            with self.subTest(each):
                self.assertEqual(learn(decisions).split is not None, told)

    def test_certainty_is_that_of_the_past_and_once_is_never_certain(self):
        once, two, three = (asked(past((4, times, -100, 1))).choices[0].certainty for times in (1, 2, 3))
        self.assertEqual([once, two, three], [find_shares({4: times}, USUALLY)[4] for times in (1, 2, 3)])
        self.assertTrue(two < 0.9 < three)
        self.assertEqual(suggest(past((4, 1, -100, 1)), CASE, "EUR", steady=0.97).choices[0].certainty, ONCE)
        self.assertGreater(suggest(past((4, 2, -100, 1)), CASE, "EUR", steady=0.97).choices[0].certainty, 0.98)
        self.assertEqual(asked(past((4, 1, -100, 1))).reason, "once before")

    def test_where_the_last_was_another_or_the_account_is_new_it_is_not_certain(self):
        steady = past((4, 30, -100, 1))
        self.assertGreater(asked(steady).choices[0].certainty, 0.98)
        self.assertEqual(asked(past((4, 30, -100, 1), (5, 1, -100, 1)), amount=-100).choices[0].certainty, LATELY)
        self.assertEqual(asked(steady, account=2).choices[0].certainty, UNTRIED)
        self.assertLess(max(LATELY, UNTRIED, ONCE), 0.9)

    def test_decisions_may_come_in_any_order(self):
        decisions = [*past((4, 30, -100, 1)), Decision(5, -100, 1, DAY + timedelta(days=99))]
        self.assertEqual(asked(decisions, amount=-100).choices[0].certainty, LATELY)
        self.assertEqual(asked(decisions, amount=-100), asked(decisions[::-1], amount=-100))

    def test_between_the_two_known_values_beside_a_cut_nothing_is_certain(self):
        decisions = [Decision(4 if n % 2 else 5, -900 if n % 2 else -2_000 - n, 1, DAY + timedelta(days=n)) for n in range(20)]
        decisions += [Decision(4, -800 - n, 1, DAY + timedelta(days=30 + n)) for n in range(9)]
        by_amount = {amount: asked(decisions, amount=-amount).choices[0] for amount in (908, 1_000, 1_450, 1_900, 2_000)}
        self.assertEqual([choice.category_id for choice in by_amount.values()], [4, 4, 4, 5, 5])
        sure = [choice.certainty for choice in by_amount.values()]
        self.assertTrue(sure[0] > sure[1] > sure[2] < sure[3] < sure[4], sure)
        self.assertLess(sure[2], 0.6)

    def test_an_amount_of_every_month_is_said(self):
        rent = [Decision(4, -80_000, 1, date(2025 + n // 12, n % 12 + 1, 2 + n % 3)) for n in range(15)]
        for decisions, amount, day, is_said in (
            (rent, -80_000, date(2026, 4, 6), True), (rent, -80_000, date(2026, 4, 8), False),
            (rent, -80_001, date(2026, 4, 5), False), (rent[-4:], -80_000, date(2026, 4, 3), True),
            (rent[-3:], -80_000, date(2026, 4, 3), False), (rent[::2], -80_000, date(2026, 4, 3), False),
        ):  # fmt: skip
            with self.subTest(amount=amount, day=day, many=len(decisions)):
                self.assertEqual(", every month" in asked(decisions, amount=amount, day=day).reason, is_said)

    def test_a_side_of_a_split_is_for_one_thing_but_for_mistakes(self):
        cut = [Decision(5, -9_000 - n, 1, DAY) for n in range(20)]
        for mine, others in ((9, 1), (9, 3), (8, 3)):
            cases, odd = mine + others, {2, 6, 8}.intersection(range(2, 4 * others - 1))
            side = [Decision(6 if n in odd else 4, -500 - 7 * n, 1, DAY) for n in range(cases)]
            with self.subTest(mine=mine, others=others):
                decisions = [*cut, *side]
                self.assertEqual(learn(decisions).split.kind, "below")
                wanted = find_shares({4: mine, 6: others}, TOLD_APART)[4]
                self.assertAlmostEqual(asked(decisions, amount=-500).choices[0].certainty, wanted, 4)

    def test_what_was_never_seen_deep_down_is_worth_nothing_there(self):
        both = Past(Counter({4: 30, 5: 30}))
        here = Past(Counter({4: 60, 5: 60}), Circumstance("weekend", 1, gain=9), both, both)
        other = Past(Counter({6: 60}))
        past_ = Past(Counter({4: 60, 5: 60, 6: 60}), Circumstance("account", 1, gain=9), here, other, accounts=frozenset({1}))
        for account, most in ((1, 0.01), (2, 1)):
            shares = {one.category_id: one.certainty for one in past_.suggest(CASE._replace(account_id=account)).choices}
            self.assertLessEqual(shares[6], most)

    def test_a_split_that_may_be_none_counts_as_far_as_it_is_likely(self):
        for each, most in ((4, 0.95), (12, 1)):  # below ten one thing, above another: after eight cases that may be chance
            decisions = [Decision(4 if n % 2 else 5, -500 - 11 * n if n % 2 else -2_000 - n, 1, DAY) for n in range(2 * each)]
            tree = learn(decisions)
            told, untold = find_shares(tree.yes.counts, TOLD_APART)[4], find_shares(tree.counts, USUALLY)[4]
            wanted = tree.split.trust * told + (1 - tree.split.trust) * untold
            with self.subTest(each):
                self.assertEqual(tree.split.kind, "below")
                self.assertAlmostEqual(asked(decisions, amount=-500).choices[0].certainty, wanted)
                self.assertLess(wanted, most)

    def test_what_is_for_two_things_and_nothing_tells_them_apart_is_undecided(self):
        for groups, undecided in (
            (((4, 14), (5, 6)), True), (((4, 13), (5, 6)), False),  # twenty cases
            (((4, 18), (5, 2)), False), (((4, 17), (5, 3)), True),  # nine tenths for one thing
            (((1, 8), (2, 8), (3, 2), (6, 2)), True), (((1, 8), (2, 6), (3, 3), (6, 3)), False), ((), False),  # three things
        ):  # fmt: skip
            decisions = [Decision(id_, -500, 1, DAY) for id_, times in groups for _ in range(times)]
            with self.subTest(groups):
                self.assertEqual(learn(decisions).is_undecided, undecided)

    def test_how_sure_is_sure_enough(self):
        self.assertEqual(SURE_ENOUGH, 0.7)
        for right, wrong, is_guess in ((1, 0, True), (4, 1, True), (3, 1, False), (1, 1, False)):
            found = asked(past((4, right, -100, 1), (5, wrong, -100, 1)), amount=-100)
            with self.subTest(right=right, wrong=wrong):
                self.assertEqual(found.is_guess, is_guess)

    def test_a_payee_that_is_only_like_another_gives_choices_and_no_guess(self):
        found = asked(past((4, 40, -100, 1)), like="Grebe Grocer")
        self.assertEqual((found.is_guess, found.reason), (False, "40 of 40 times, as for Grebe Grocer"))
        self.assertLessEqual(found.choices[0].certainty, LIKE)

    def test_nothing_is_suggested_from_nothing_and_five_choices_at_most(self):
        self.assertIsNone(asked([]))
        self.assertEqual(len(asked(past(*((n, 1, -1, 1) for n in range(9)))).choices), MOST_CHOICES)

    @given(st.lists(st.builds(
        Decision, st.integers(1, 4), st.integers(-3000, 3000), st.integers(1, 3),
        st.dates(date(2025, 1, 1), date(2026, 12, 31))), min_size=1, max_size=40))  # fmt: skip
    def test_every_decision_falls_on_one_side_of_every_split(self, decisions):
        tree, depth = learn(decisions), 0
        self.assertEqual(tree.cases, len(decisions))
        while tree.split:
            self.assertEqual(tree.yes.counts + tree.no.counts, tree.counts)
            tree, depth = tree.yes, depth + 1
        self.assertLessEqual(depth, DEEPEST)
        found = asked(decisions)
        self.assertTrue(all(0 <= choice.certainty <= 1 for choice in found.choices))


if __name__ == "__main__":
    unittest.main()
