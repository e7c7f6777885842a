"""The order of rules: the first decides, tags add up, what was decided is looked at again; applied twice is as applied once."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.rule_book import RuleBook
from bolsa.core.sorting.rules import Action, Condition, Filed, Rule, Seen, SharePart, Told

DAY = date(2026, 5, 14)
UNSORTED = Filed("file", 1)


def seen(payee="Heron School", amount=-10_000, filed=UNSORTED, **more):
    return Seen(1, payee.upper(), amount, "EUR", 1, DAY, Told(payee, filed, **more))


def payee(*texts, how="contains"):
    return Condition("payee", how, texts)


def rule(id_, conditions, *actions, is_on=True):
    return Rule(id_, tuple(conditions), actions, is_on)


def again(one, outcome):
    """The entry as it stands after rules were applied: a transfer or a split stays what it is."""
    told = outcome.told
    filed = told.filed if told.filed.how == "file" else Filed("kept")
    return one._replace(told=told._replace(filed=filed, ask=None), was_asked=one.was_asked or told.ask is not None)


class Order(unittest.TestCase):
    def test_the_first_rule_that_fits_decides_and_tags_add_up(self):
        book = RuleBook([
            rule(1, [payee("tern")], Action("file", 5)),
            rule(2, [payee("heron")], Action("file", 6), Action("tag", text="a")),
            rule(3, [payee("school")], Action("file", 7), Action("tag", text="b")),
        ])  # fmt: skip
        outcome = book.decide(seen())
        self.assertEqual(outcome.told.filed, Filed("file", 6))
        self.assertEqual(outcome.told.tags, {"a", "b"})
        self.assertEqual(outcome.by, {"filed": 2, "#a": 2, "#b": 3})
        self.assertEqual(outcome.met, (2, 3))
        self.assertEqual(outcome.overruled, {})  # the third had its tag to say

    def test_one_that_comes_too_late_is_named_with_the_one_before_it(self):
        book = RuleBook([rule(2, [payee("heron")], Action("file", 6)), rule(3, [payee("school")], Action("file", 7))])
        self.assertEqual(book.decide(seen()).overruled, {3: 2})

    def test_a_rule_that_is_off_says_nothing(self):
        self.assertEqual(RuleBook([rule(2, [payee("heron")], Action("file", 6), is_on=False)]).decide(seen()).met, ())

    def test_a_rule_builds_on_what_another_does_wherever_it_stands(self):
        rename = rule(1, [payee("hrn")], Action("rename", text="Heron"))
        file = rule(2, [payee("Heron", how="is")], Action("file", 6))
        asks = rule(3, [Condition("category", ids=(6,))], Action("ask", 2, "right?"))
        for order in ((rename, file, asks), (asks, file, rename), (file, asks, rename)):
            outcome = RuleBook(order).decide(seen("HRN 12"))
            self.assertEqual((outcome.told.payee, outcome.told.filed.id, outcome.told.ask), ("Heron", 6, (2, "right?")))
            self.assertEqual(outcome.by, {"payee": 1, "filed": 2, "ask": 3})

    def test_what_is_kept_as_it_is_is_not_filed_and_nobody_is_asked_twice(self):
        book = RuleBook([rule(1, [payee("heron")], Action("file", 6), Action("ask", 2), Action("tag", text="a"))])
        outcome = book.decide(seen(filed=Filed("kept")))
        self.assertEqual((outcome.told.filed, outcome.told.tags), (Filed("kept"), {"a"}))
        self.assertIsNone(book.decide(seen()._replace(was_asked=True)).told.ask)

    def test_rules_that_undo_each_other_are_named_and_end_in_the_same_place(self):
        book = RuleBook([
            rule(1, [Condition("category", ids=(6,))], Action("file", 7)),
            rule(2, [Condition("category", ids=(7,))], Action("file", 6)),
        ])  # fmt: skip
        ends = {book.decide(seen(filed=Filed("file", id_))).told.filed.id for id_ in (6, 7)}
        self.assertEqual(len(ends), 1)
        self.assertEqual(set(book.decide(seen(filed=Filed("file", 7))).circle), {1, 2})

    def test_every_action_says_its_own(self):
        parts = (SharePart(5, share_e6=500_000), SharePart(6))
        for action, name, value in (
            (Action("transfer", 4, "", 9), "filed", Filed("transfer", 4, 9)), (Action("split", parts=parts),
            "filed", Filed("split", parts=parts)),
            (Action("member", 2), "member_id", 2), (Action("series", 8), "series_id", 8), (Action("keep_out"),
            "kept_out", True),
            (Action("ask", 2, "why"), "ask", (2, "why")), (Action("rename", text="X"), "payee", "X"),
        ):  # fmt: skip
            with self.subTest(action.kind):
                self.assertEqual(getattr(RuleBook([rule(1, [payee("heron")], action)]).decide(seen()).told, name), value)


PAYEES = ("heron", "tern", "heron tern", "quay")
CONDITIONS = st.one_of(
    st.sampled_from(PAYEES).map(payee),
    st.lists(st.integers(1, 6), min_size=1, max_size=2).map(lambda ids: Condition("category", ids=tuple(ids))),
    st.integers(1, 3).map(lambda id_: Condition("member", ids=(id_,))),
    st.integers(1, 9).map(lambda least: Condition("amount", "above", least=least * 1000, currency="EUR")),
)
ACTIONS = st.one_of(
    st.integers(2, 6).map(lambda id_: Action("file", id_)),
    st.sampled_from(PAYEES).map(lambda name: Action("rename", text=name)),
    st.integers(1, 3).map(lambda id_: Action("member", id_)),
    st.sampled_from("ab").map(lambda name: Action("tag", text=name)),
    st.just(Action("ask", 1)),
    st.just(Action("transfer", 4)),
)
RULES = st.lists(
    st.tuples(st.lists(CONDITIONS, min_size=1, max_size=2), st.lists(ACTIONS, min_size=1, max_size=2)), max_size=5
).map(lambda rows: [rule(i, conditions, *actions) for i, (conditions, actions) in enumerate(rows, 1)])
ENTRIES = st.builds(
    lambda name, amount, category, member: seen(name, amount, Filed("file", category), member_id=member),
    st.sampled_from(PAYEES), st.integers(-10_000, 10_000), st.integers(1, 6), st.none() | st.integers(1, 3),
)  # fmt: skip


class Properties(unittest.TestCase):
    @given(RULES, ENTRIES)
    def test_applied_twice_is_as_applied_once(self, rules, one):
        book = RuleBook(rules)
        once = book.decide(one)
        twice = book.decide(again(one, once))
        self.assertEqual(twice.told._replace(ask=None), again(one, once).told)
        self.assertIsNone(twice.told.ask if once.told.ask else None)

    @given(RULES, st.lists(ENTRIES, max_size=6))
    def test_the_order_of_bringing_in_does_not_matter(self, rules, entries):
        book = RuleBook(rules)
        forward = [book.decide(one) for one in entries]
        self.assertEqual([book.decide(one) for one in reversed(entries)], forward[::-1])
        self.assertEqual([RuleBook(rules).decide(one) for one in entries], forward)

    @given(RULES, ENTRIES)
    def test_what_changed_was_decided_by_a_rule_that_met_it(self, rules, one):
        outcome = RuleBook(rules).decide(one)
        self.assertEqual(bool(outcome.by), outcome.told != one.told)
        self.assertLessEqual(set(outcome.by.values()), set(outcome.met))


if __name__ == "__main__":
    unittest.main()
