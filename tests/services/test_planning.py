"""Aims, trials, baselines, files of a year and closed months through the services."""

import unittest
from datetime import date
from decimal import Decimal

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.closed import Since
from bolsa.core.budget.expecting import Expectation
from bolsa.core.budget.progress import progress_in
from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.budget import aims, budgeting, closing, expecting, placing, trials, year
from bolsa.services.clock import By
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.sorting import categories
from tests.services.household import BY, HouseholdCase, picture

JANUARY, APRIL, MAY, JUNE = Month(2026, 1), Month(2026, 4), Month(2026, 5), Month(2026, 6)


class PlanCase(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.groceries, self.holidays = self.category("Groceries"), self.category("Holidays")

    def view(self, month=MAY):
        return budgeting.budget_view(self.db, BY, month)

    def row(self, category_id, month=MAY):
        return self.view(month).budget.row_of(category_id)


class Aims(PlanCase):
    def test_a_savings_account_to_grow_and_a_debt_to_pay_down_read_their_progress_from_it(self):
        saved = self.an_account("Saved", kind="savings", everyday=False, opening_minor=240_000)
        loan = self.an_account("Boat loan", kind="loan", opening_minor=-120_000)
        aims.set_aim(self.db, BY, self.holidays, Aim("build", 300_000), date(2026, 10, 1), [saved])
        aims.set_aim(self.db, BY, self.groceries, Aim("build", 0), date(2026, 12, 31), [loan])
        self.assertEqual((self.row(self.holidays).need_minor, self.row(self.groceries).need_minor), (10_000, 15_000))
        placing.place(self.db, BY, self.holidays, MAY, 10_000)
        entries.record_entry(self.db, BY, self.current, TypedEntry(
            date(2026, 5, 9), "To saved", -10_000, other_account_id=saved, set_by_id=self.holidays))  # fmt: skip
        view = self.view()
        self.assertEqual((view.budget.row_of(self.holidays).left_minor, view.flow.set_by_minor), (0, 10_000))
        found = progress_in(view.plan(self.holidays), MAY)
        self.assertEqual((found.there_minor, found.reached_in), (250_000, Month(2026, 10)))
        self.assertEqual(self.row(self.holidays, JUNE).need_minor, 10_000, "what was moved counts from the next month on")

    def test_what_cannot_be_aimed_changes_nothing(self):
        abroad = self.an_account("Kronor", currency="SEK")
        pay = self.category("Pay")
        for category_id, aim, day, on, field in (
            (self.holidays, Aim("build", 100), date(2026, 4, 30), [], "by"), (self.holidays, Aim("steady", 100), None,
            [self.current], "account_id"), (self.holidays, Aim("keep", 100), None, [abroad], "account_id"), (self.holidays,
            Aim("keep", 0), None, [], "amount"), (pay, Aim("keep", 100), None, [], None), (self.holidays, Aim("keep", 100), None,
            [self.current], "account_id"), (self.holidays, Aim("build", 100), date(9999, 12, 31), [], "by"),
        ):  # fmt: skip
            with self.assertRaises(InvalidInput) as caught:
                aims.set_aim(self.db, BY, category_id, aim, day, on)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(aims.list_aims(self.db), {})

    def test_what_is_built_up_carries_on_and_an_undo_takes_both_back(self):
        categories.change_category(self.db, BY, self.holidays, "Extras", carries=False)
        seen = changes.version_now(self.db)
        done = aims.set_aim(self.db, BY, self.holidays, Aim("keep", 5_000))
        self.assertTrue(categories.get_category(self.db, self.holidays).carries)
        with self.assertRaises(Conflict):
            aims.set_aim(self.db, BY, self.holidays, Aim("keep", 6_000), seen=seen)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertFalse(categories.get_category(self.db, self.holidays).carries)
        self.assertEqual(aims.list_aims(self.db), {})

    def test_an_account_that_is_turned_everyday_counts_no_more_for_its_aim_and_again_when_turned_back(self):
        saved = self.an_account("Saved", kind="savings", everyday=False, opening_minor=240_000)
        aims.set_aim(self.db, BY, self.holidays, Aim("keep", 300_000), None, [saved])
        for everyday, need in ((True, 300_000), (False, 60_000)):
            accounts.set_flags(self.db, BY, saved, everyday=everyday)
            self.assertEqual(self.row(self.holidays).need_minor, need)

    def test_trying_an_aim_draws_its_needs_and_keeps_nothing(self):
        course = aims.try_aim(self.db, BY, self.view(), self.holidays, Aim("build", 120_000), date(2026, 8, 31), [])
        self.assertEqual([row.need_minor for row in course[:5]], [30_000] * 4 + [0])
        self.assertEqual(aims.list_aims(self.db), {})

    def test_goals_stand_in_order_with_a_sign_or_a_picture(self):
        for category_id, amount in ((self.groceries, 1_000), (self.holidays, 2_000)):
            aims.set_aim(self.db, BY, category_id, Aim("build", amount), date(2026, 12, 31))
        aims.set_priorities(self.db, BY, [self.holidays, self.groceries])
        self.assertEqual([goal.category.id for goal in aims.list_goals(self.db, BY, MAY)], [self.holidays, self.groceries])
        aims.set_sign(self.db, BY, self.holidays, "☀")
        aims.set_sign(self.db, BY, self.groceries, "", picture())
        self.assertEqual([goal.kept.mark for goal in aims.list_goals(self.db, BY, MAY)], ["☀", ""])
        self.assertTrue(aims.get_sign_picture(self.db, self.groceries).startswith(b"\x89PNG"))
        changes.empty_trash(self.db, BY)
        self.assertTrue(aims.get_sign_picture(self.db, self.groceries), "emptying the trash leaves it")
        for mark, content in (("12345", None), ("", b"no picture")):
            with self.assertRaises(InvalidInput):
                aims.set_sign(self.db, BY, self.holidays, mark, content)
        with self.assertRaises(NotFound):
            aims.get_sign_picture(self.db, self.holidays)

    def test_money_goes_by_priority_across_groups_and_new_categories_come_last(self):
        for category_id in (self.groceries, self.holidays):
            expecting.set_expected(self.db, BY, category_id, MAY, 80_000)
        aims.set_priorities(self.db, BY, [self.holidays])
        new = categories.add_category(self.db, BY, "Everyday", "Newest").made
        self.assertEqual([c.id for c, _, _ in self.view().by_priority][:: len(self.view().plans) - 1], [self.holidays, new])
        self.assertEqual(placing.fill(self.db, BY, MAY, []).made.amounts, {self.holidays: 80_000, self.groceries: 20_000})
        for wrong in ([self.holidays, self.holidays], [9_999]):
            with self.assertRaises(InvalidInput):
                aims.set_priorities(self.db, BY, wrong)


class Expecting(PlanCase):
    def test_a_baseline_of_full_months_is_shown_and_taken_as_one_step(self):
        for month, amount in ((2, 30_000), (3, 50_000), (4, 10_000)):
            self.spends(amount, day=date(2026, month, 5))
        shown = expecting.baseline_view(self.db, BY, "mean", 3)
        self.assertEqual({c.name: row.amount_minor for c, row in shown.changing}, {"Groceries": 30_000})
        done = expecting.take_baseline(self.db, BY, "median", 2, JUNE, [])
        self.assertEqual(self.row(self.groceries, JUNE).expected_minor, 30_000)
        self.assertEqual(self.row(self.groceries).expected_minor, 0)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.row(self.groceries, JUNE).expected_minor, 0)
        self.assertIsNone(expecting.take_baseline(self.db, BY, "last", 1, JUNE, [self.holidays]).step_id)

    def test_a_row_and_a_percentage_are_one_step_each(self):
        self.spends(1_000, day=date(2026, 2, 5))
        done = expecting.set_row(self.db, BY, self.groceries, MAY, [100, 100, None, 300])
        self.assertEqual(done.made, 2)
        expecting.change_by_percent(self.db, BY, self.groceries, JUNE, Decimal("10"))
        months = [self.row(self.groceries, MAY + n).expected_minor for n in range(4)]
        self.assertEqual(months, [100, 110, 110, 330])
        with self.assertRaises(InvalidInput):  # again and again it would become more than a file can hold
            for _ in range(30):
                expecting.change_by_percent(self.db, BY, self.groceries, JUNE, Decimal(1000))
        seen = changes.version_now(self.db)
        expecting.set_expected(self.db, BY, self.groceries, JUNE, 5)
        for stale in (
            lambda: expecting.set_row(self.db, BY, self.groceries, MAY, [1], seen=seen),
            lambda: expecting.change_by_percent(self.db, BY, self.groceries, MAY, Decimal(1), seen=seen),
            lambda: expecting.take_baseline(self.db, BY, "mean", 1, MAY, [self.groceries], seen=seen),
        ):
            with self.assertRaises(Conflict):
                stale()

    def test_a_year_that_was_saved_and_changed_is_brought_in_whole_or_not_at_all(self):
        head = "group,category,type,figure,2026-05,2026-06,2026-08\n"
        row = "Everyday,{},spending,expected,{}\n"
        with self.assertRaises(InvalidInput) as caught:
            expecting.bring_year_in(
                self.db, BY, (head + row.format("Groceries", "5,5,7") + row.format("Yachts", "1,1,1")).encode()
            )
        self.assertIn("Line 3: there is no category “Yachts”", caught.exception.sentence)
        self.assertEqual(self.row(self.groceries).expected_minor, 0)
        with self.assertRaises(InvalidInput) as caught:
            expecting.bring_year_in(self.db, BY, (head + row.format("Groceries", "5,5,999999999999999")).encode())
        self.assertIn("Line 2: ", caught.exception.sentence)
        done = expecting.bring_year_in(self.db, BY, (head + row.format("groceries", "5,5,7.50")).encode())
        self.assertEqual(done.made, (1, 2))
        self.assertEqual([self.row(self.groceries, MAY + n).expected_minor for n in (0, 1, 2, 3, 4)], [500, 500, 500, 750, 750])
        again = expecting.bring_year_in(self.db, BY, (head + row.format("Groceries", "5,5,7.50")).encode())
        self.assertIsNone(again.step_id)


class Trials(PlanCase):
    def setUp(self):
        super().setUp()
        expecting.set_expected(self.db, BY, self.groceries, JANUARY, 60_000)
        expecting.set_expected(self.db, BY, self.holidays, JANUARY, 9_000)
        self.trial = trials.begin(self.db, BY).made

    def test_the_year_stands_beside_the_kept_one_and_nothing_is_kept(self):
        trials.try_expected(self.db, BY, self.trial, self.groceries, JUNE, Expectation(70_000))
        trials.try_without(self.db, BY, self.trial, self.holidays, Month(2026, 9))
        trials.try_without(self.db, BY, self.trial, self.holidays, Month(2026, 10))
        view = year.year_view(self.db, BY, JANUARY, trials.get_trial(self.db, self.trial))
        self.assertEqual(view.kept.went_out[5:], (69_000,) * 7)
        self.assertEqual(view.year.went_out[4:], (69_000, 79_000, 79_000, 79_000, 79_000, 70_000, 70_000, 70_000))
        self.assertEqual(self.row(self.groceries, JUNE).expected_minor, 60_000)
        trials.let_be(self.db, BY, self.trial, self.holidays)
        self.assertEqual(trials.get_trial(self.db, self.trial).category_ids, {self.groceries})

    def test_a_percentage_is_tried_on_what_is_tried_already(self):
        trials.try_expected(self.db, BY, self.trial, self.groceries, JUNE, Expectation(70_000))
        trials.try_without(self.db, BY, self.trial, self.groceries, Month(2026, 10))
        trials.try_percent(self.db, BY, self.trial, self.groceries, MAY, Decimal(10))
        view = year.year_view(self.db, BY, JANUARY, trials.get_trial(self.db, self.trial))
        row = view.year.row_of(self.groceries)
        self.assertEqual([cell.expected_minor for cell in row.cells[3:10]], [60_000, 66_000, *[77_000] * 4, 0])
        self.assertEqual(self.row(self.groceries, JUNE).expected_minor, 60_000)
        with self.assertRaisesRegex(InvalidInput, "Nothing is expected"):
            trials.try_percent(self.db, BY, self.trial, self.groceries, Month(2026, 11), Decimal(10))
        before, seen = trials.get_trial(self.db, self.trial), changes.version_now(self.db)
        done = trials.try_percent(self.db, BY, self.trial, self.groceries, MAY, Decimal(-50), seen=seen)
        with self.assertRaises(Conflict):  # the same again, as by a second click
            trials.try_percent(self.db, BY, self.trial, self.groceries, MAY, Decimal(-50), seen=seen)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(trials.get_trial(self.db, self.trial), before)
        expecting.set_expected(self.db, BY, self.groceries, JANUARY, 10_000)
        with self.assertRaises(Conflict):
            trials.try_percent(self.db, BY, self.trial, self.groceries, MAY, Decimal(-50), seen=seen)

    def test_it_is_kept_as_one_step_and_undone_whole(self):
        expecting.set_expected(self.db, BY, self.holidays, Month(2026, 11), 12_000)
        trials.try_expected(self.db, BY, self.trial, self.groceries, JUNE, Expectation(70_000, 6))
        trials.try_without(self.db, BY, self.trial, self.holidays, JUNE)
        trials.try_aim(self.db, BY, self.trial, self.holidays, Aim("build", 50_000), date(2026, 12, 1))
        done = trials.keep(self.db, BY, self.trial)
        rows = [
            [self.row(id_, month).expected_minor for id_ in (self.groceries, self.holidays)]
            for month in (MAY, JUNE, Month(2026, 12))
        ]
        self.assertEqual(rows, [[60_000, 9_000], [70_000, 0], [70_000, 0]])
        self.assertEqual(aims.get_aim(self.db, self.holidays).aim.kind, "build")
        self.assertEqual(trials.list_trials(self.db), [])
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.row(self.holidays, Month(2026, 11)).expected_minor, 12_000)
        self.assertEqual((aims.list_aims(self.db), trials.list_trials(self.db)), ({}, [(self.trial, "")]))

    def test_another_aim_changes_the_year_by_what_is_put_by(self):
        trials.try_aim(self.db, BY, self.trial, self.category("Presents"), Aim("build", 80_000), date(2026, 12, 31))
        view = year.year_view(self.db, BY, JANUARY, trials.get_trial(self.db, self.trial))
        self.assertEqual(view.year.row_of(self.category("Presents")).goes_minor, 80_000)
        self.assertEqual(view.kept.added_up[-1] - view.year.added_up[-1], 80_000)

    def test_put_by_under_a_name_another_begins_and_dropped_it_is_gone(self):
        trials.put_by(self.db, BY, self.trial, " Less  of it ")
        other = trials.begin(self.db, BY).made
        self.assertNotEqual(other, self.trial)
        self.assertEqual(trials.begin(self.db, BY).made, other, "one without a name is gone on with")
        for name in ("", "less of it", "x" * 61):
            with self.assertRaises(InvalidInput):
                trials.put_by(self.db, BY, other, name)
        with self.assertRaises(InvalidInput):
            trials.keep(self.db, BY, other)
        for day in (date(2026, 5, 13), date(9999, 1, 1)):
            with self.assertRaises(InvalidInput):
                trials.try_aim(self.db, BY, other, self.holidays, Aim("build", 5), day)
        trials.drop(self.db, BY, self.trial)
        for act in (trials.drop, trials.keep):
            with self.assertRaises(NotFound):
                act(self.db, BY, self.trial)


class Closing(PlanCase):
    def test_it_is_closed_with_what_was_open_and_shows_what_changed_since(self):
        self.spends(4_000, day=date(2026, 4, 20))
        done = closing.close_month(self.db, BY, APRIL)
        self.assertIn("check", [point.key for point in done.made.open_points])
        self.assertFalse(closing.closing_of(self.db, BY, self.view(APRIL)).is_changed)
        later = entries.record_entry(
            self.db, BY, self.current, TypedEntry(date(2026, 4, 2), "Late", -500, (Part(self.groceries, 500),))
        )
        self.assertEqual(closing.months_touched(self.db, later.step_id), [APRIL])
        found = closing.closing_of(self.db, BY, self.view(APRIL))
        self.assertEqual(found.since, (Since(self.groceries, "spent", 4_000, 4_500),))
        with self.assertRaises(Conflict):
            closing.close_month(self.db, BY, APRIL)
        closing.close_anew(self.db, BY, APRIL)
        self.assertFalse(closing.closing_of(self.db, BY, self.view(APRIL)).is_changed)
        closing.open_month(self.db, BY, APRIL)
        self.assertEqual(closing.list_closed(self.db), set())
        with self.assertRaises(Conflict):
            closing.open_month(self.db, BY, APRIL)

    def test_a_month_is_closed_on_its_last_day_and_not_before(self):
        with self.assertRaises(InvalidInput):
            closing.close_month(self.db, By(date(2026, 5, 30), "2026-05-30T10:00:00Z", 1), MAY)
        closing.close_month(self.db, By(date(2026, 5, 31), "2026-05-31T10:00:00Z", 1), MAY)
        self.assertEqual(closing.list_closed(self.db), {MAY})

    def test_the_checklist_names_what_is_open(self):
        self.spends(200_000, day=date(2026, 4, 20))
        entries.record_entry(self.db, BY, self.current, TypedEntry(date(2026, 4, 3), "Somebody", -700))
        valued = self.an_account("Barge", kind="vehicle", opened_on=date(2025, 1, 1))
        self.assertTrue(valued)
        points = {point.key: point for point in closing.closing_of(self.db, BY, self.view(APRIL)).points}
        self.assertEqual({key: point.is_done for key, point in points.items()}, {
            "bring": False, "sort": False, "check": False, "below": False, "place": False, "values": False})  # fmt: skip
        self.assertEqual(points["below"].open_words, "Groceries")
        self.assertEqual(points["sort"].open_words, "one line unsorted")


if __name__ == "__main__":
    unittest.main()
