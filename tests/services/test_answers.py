"""Answers through the services: every dimension adds up to the same whole, kept totals equal lines, what counts and what does
not."""

import random
from collections import Counter
from datetime import date, timedelta

from bolsa.core.answers.cut import DIMENSIONS, Condition, Cut
from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.core.working import Working
from bolsa.services.accounts import market
from bolsa.services.answers import answers, workings
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.answers import lines
from tests.services.household import BY, TODAY, HouseholdCase

APRIL, MAY = Month(2026, 4), Month(2026, 5)


def over(measure="spent", first=date(2026, 1, 1), last=date(2026, 5, 31), *conditions):
    return Cut(measure, first, last, conditions)


class Answers(HouseholdCase):
    def line(self, text, account=None):
        return entries.record_quick_line(self.db, BY, account or self.current, text)

    def parts(self, cut, by="category"):
        return {named.name: named.amount_minor for named in answers.answer(self.db, cut, by).parts}

    def test_transfers_never_count_and_refunds_are_taken_off(self):
        self.spends(5_000)
        self.spends(-1_200)
        self.line("reserve 300 > Reserve")
        self.assertEqual(self.parts(over()), {"Groceries": 3_800})
        self.assertEqual(self.parts(over("received")), {})

    def test_what_is_not_sorted_is_a_part_of_its_own_on_its_side(self):
        self.line("Grebe 12.50 2026-05-03")
        self.line("Aunt +80 2026-05-04")
        self.assertEqual(self.parts(over(), "group"), {"Not sorted yet": 1_250})
        self.assertEqual(self.parts(over("received"), "group"), {"Not sorted yet": 8_000})

    def test_a_split_counts_by_line_and_several_tags_are_one_part(self):
        parts = (Part(self.category("Groceries"), 3_000, 1, ("van",)), Part(self.category("Clothes"), 2_000, 2, ("van", "bike")))
        entries.record_entry(self.db, BY, self.current, TypedEntry(TODAY, "Quay Store", -5_000, parts))
        self.spends(700)
        self.assertEqual(self.parts(over(), "tags"), {"van": 3_000, "bike and van": 2_000, "No tag": 700})
        self.assertEqual(self.parts(over(), "member"), {"Ana": 3_000, "Bo": 2_000, "Nobody in particular": 700})
        table = answers.tag_costs(self.db, over(), [id_ for id_, _ in answers.tags_in_use(self.db)], "category")
        self.assertEqual([(name, total) for _, name, total in table.columns], [("bike", 2_000), ("van", 5_000)])

    def test_every_dimension_adds_up_to_the_same_whole_by_kept_totals_and_by_lines(self):
        dice = random.Random(7)
        abroad = self.an_account("Abroad", currency="SEK", opening_minor=90_000)
        for number in range(1, 6):
            market.note_rate(self.db, BY, "SEK", date(2026, number, 2), 8_700_000 + number * 31_337)
        names = ["Groceries", "Clothes", "Holidays", "Pay", "Interest received"]
        for _ in range(120):
            day = date(2026, 1, 1) + timedelta(days=dice.randrange(140))
            account = dice.choice((self.current, self.reserve, abroad))
            tags = tuple(dice.sample(("van", "bike"), dice.randrange(3)))
            amount = dice.randrange(-4_000, 9_000) or 1
            part = Part(self.category(dice.choice(names)), amount, dice.choice((None, 1, 2)), tags)
            parts = (part,) if dice.random() < 0.8 else ()
            entries.record_entry(self.db, BY, account, TypedEntry(day, f"Shop {dice.randrange(5)}", -amount, parts))
        for measure in ("spent", "received"):
            for first, last in ((date(2026, 1, 1), date(2026, 5, 31)), (date(2026, 2, 11), date(2026, 4, 3)), (TODAY, TODAY)):
                for conditions in (
                    (),
                    (Condition("category", str(self.category("Groceries")), True),),
                    (Condition("member", "1"),),
                ):
                    cut = Cut(measure, first, last, conditions)
                    whole = sum(one.amount_minor for one in answers.list_entries(self.db, cut))
                    for by in (*DIMENSIONS, ""):
                        found = answers.answer(self.db, cut, by)
                        self.assertEqual(found.total_minor, whole, (str(cut), by))
                        self.assertEqual(answers.answer(self.db, cut, by, by_month=False).total_minor, whole, (str(cut), by))
                        for named in found.parts[:3] if by else ():
                            own = sum(one.amount_minor for one in answers.list_entries(self.db, found.cut_of(named)))
                            self.assertEqual(named.amount_minor, own, (str(cut), by, named.name))
        for by in ("category", "group", "payee", "member", "account", ""):
            kept, counted = Counter(), Counter()
            for one in lines.sum_parts(self.db, over(), by, "EUR"):
                kept[one[:-1]] += one.amount_minor
            for one in (
                *lines._sum_lines(self.db, over(), by, "EUR", lines._BY_MONTH, ""),
                *lines._list_foreign(self.db, over(), by, "EUR"),
            ):
                counted[one[:-1]] += one.amount_minor
            self.assertEqual({k: v for k, v in kept.items() if v}, {k: v for k, v in counted.items() if v}, by)

    def test_a_line_in_a_currency_without_a_rate_is_said_to_be_missing(self):
        abroad = self.an_account("Abroad", currency="SEK")
        self.line("Grebe 12.50 groceries", abroad)
        found = answers.answer(self.db, over(), "category")
        self.assertEqual((found.total_minor, found.without_rate), (0, ("SEK",)))

    def test_half_a_month_and_a_month_left_out_spoil_no_mean(self):
        for month, amount in ((2, 10_000), (3, 20_000), (4, 60_000), (5, 99_999)):
            self.spends(amount, day=date(2026, month, 1))
        normal = answers.normal_month(self.db, BY, "category", 12, [])
        self.assertEqual([str(m) for m in normal.months], ["2026-02", "2026-03", "2026-04"])
        self.assertEqual((normal.mean(normal.answer.whole), normal.median(normal.answer.whole)), (30_000, 20_000))
        without = answers.normal_month(self.db, BY, "category", 12, [APRIL])
        self.assertEqual((without.mean(without.answer.whole), without.skipped), (15_000, (APRIL,)))

    def test_rounding_of_parts_is_said(self):
        for month in (2, 3, 4):
            for name in ("Groceries", "Clothes"):
                self.spends(1 if month == 2 else 2, name, date(2026, month, 1))
        normal = answers.normal_month(self.db, BY, "category", 12, [])
        self.assertEqual([normal.mean(one.part) for one in normal.answer.parts], [2, 2])  # 1.67 each
        self.assertEqual((normal.mean(normal.answer.whole), normal.rounding_minor), (3, -1))

    def test_what_changed_adds_up_and_its_slips_do(self):
        self.spends(10_000, day=date(2026, 3, 5))
        self.spends(14_000, day=date(2026, 4, 5))
        self.spends(3_000, "Clothes", date(2026, 3, 9))
        before, after = over("spent", date(2026, 3, 1), date(2026, 3, 31)), over("spent", date(2026, 4, 1), date(2026, 4, 30))
        change = answers.what_changed(self.db, before, after, "category")
        self.assertEqual([(name, one.made_minor) for name, one in change.parts], [("Groceries", 4_000), ("Clothes", -3_000)])
        slip = workings.made(self.db, BY, f"{after}@{before}", MAY)
        self.assertEqual((slip.figure.minor, slip.adds_up), (1_000, True))

    def test_the_reason_goes_the_way_of_the_whole_and_its_largest_entry_is_the_largest(self):
        for day, amount, name in ((5, 90_000, "Groceries"), (6, 2_000, "Clothes")):
            self.spends(amount, name, date(2026, 3, day))
        for day, amount, name in (
            (5, 20_000, "Groceries"),
            (6, 60_000, "Clothes"),
            (9, 30_000, "Clothes"),
            (10, 12_000, "Holidays"),
        ):
            self.spends(amount, name, date(2026, 4, day))
        march, april = over("spent", date(2026, 3, 1), date(2026, 3, 31)), over("spent", date(2026, 4, 1), date(2026, 4, 30))
        change = answers.what_changed(self.db, march, april, "category")
        self.assertEqual((change.made_minor, change.parts[0][0], change.reason), (30_000, "Clothes", "Clothes"))
        self.assertEqual(answers.what_changed(self.db, april, march, "category").reason, "Clothes")
        self.spends(50_000, "Groceries", date(2026, 3, 20))
        change = answers.what_changed(self.db, march, april, "category")
        self.assertEqual((change.made_minor, change.reason), (-20_000, "Groceries"))
        self.assertEqual(answers.find_largest(self.db, april).amount_minor, 60_000)
        self.assertIsNone(answers.find_largest(self.db, over("spent", TODAY, TODAY)))

    def test_what_grew_is_of_the_whole_and_its_slips_add_up(self):
        for month, amount in ((1, 100), (2, 101), (3, 300), (4, 302)):
            self.spends(amount, day=date(2026, month, 1))
            self.spends(amount + 1, "Clothes", date(2026, month, 1))
        growth = answers.what_grew(self.db, BY, over(), "category")
        # Halves of 2.01 and 6.02 a month; the parts alone are 1.01, 1.02 and 3.01, 3.02.
        self.assertEqual((growth.whole.before_minor, growth.whole.after_minor), (202, 603))
        self.assertEqual((growth.whole.made_minor, growth.rounding_minor), (401, 1))
        slip = workings.grew(self.db, BY, f"{over()}@2026-01..2026-02@2026-03..2026-04", MAY)
        self.assertEqual((slip.figure.minor, slip.adds_up), (401, True))
        mean = workings.mean(self.db, BY, str(slip.parts[0].ref[1]), MAY)
        self.assertEqual(mean.figure.minor, 603)

    def test_the_month_in_the_middle_or_half_of_the_two_there(self):
        for month, amount in ((1, 100), (2, 900), (3, 205)):
            self.spends(amount, day=date(2026, month, 1))
        odd = workings.median(self.db, BY, f"{over()}@2026-01..2026-03", MAY)
        self.assertEqual((odd.figure.minor, [part.label for part in odd.parts]), (205, ["In 2026-03"]))
        even = workings.median(self.db, BY, f"{over()}@2026-01,2026-03", MAY)
        self.assertEqual((even.figure.minor, len(even.parts), even.adds_up), (153, 3, True))

    def test_a_long_slip_ends_in_a_part_that_opens_to_the_rest(self):
        for i in range(155):
            self.spends(100 + i, day=date(2026, 4, 1 + i % 30))
        key = str(over("spent", date(2026, 4, 1), date(2026, 4, 30)))
        slip = workings.whole(self.db, BY, key, APRIL)
        self.assertEqual(slip.figure.minor, sum(100 + i for i in range(155)))
        last: Working = slip.parts[-1]
        self.assertEqual(last.label, "5 more entries")
        further = workings.whole(self.db, BY, str(last.ref[1]), APRIL)
        self.assertEqual((further.figure, len(further.parts)), (last.figure, 5))

    def test_in_and_out_and_what_stayed(self):
        self.spends(-250_000, "Pay", date(2026, 4, 8))
        self.spends(40_000, day=date(2026, 4, 9))
        flow = answers.in_and_out(self.db, date(2026, 4, 1), date(2026, 5, 31))
        self.assertEqual(
            [(flow.came(m), flow.went(m), flow.stayed(m)) for m in flow.months], [(250_000, 40_000, 210_000), (0, 0, 0)]
        )
        slip = workings.stayed(self.db, BY, str(flow.received.cut), MAY)
        self.assertEqual((slip.figure.minor, slip.adds_up), (210_000, True))
