"""The long view out of the books: begun, changed, mended into a case, left out and back in, undone."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.ahead.plan import EVERYDAY, Event
from bolsa.core.ahead.years import first_below
from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.ahead import carrying_out, plans
from bolsa.services.budget import expecting
from bolsa.services.due import calendars, reminding
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.budget import budget
from tests.services.household import BY, HouseholdCase


class LongView(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.fund = self.an_account("Fund", "brokerage", opening_minor=5_000_000)
        loan = Terms(rate=Decimal("0.06"), payment_minor=20_000)
        self.an_account("Loan", "loan", opening_minor=-300_000, terms=loan)
        pay = self.db.execute("SELECT id FROM category WHERE type = 'income' AND role IS NULL LIMIT 1").fetchone()["id"]
        for month in (1, 2, 3, 4):
            typed = TypedEntry(date(2026, month, 20), "Ferry Company", 300_000, (Part(pay, -300_000),), state="cleared")
            entries.record_entry(self.db, BY, self.current, typed)
            self.spends(240_000, day=date(2026, month, 21))

    def begin(self):
        return plans.begin(self.db, BY, {1: 1984}).made

    def view(self, at=0):
        books = plans.read_books(self.db, BY)
        return plans.list_views(self.db, books)[at]

    def test_it_begins_with_what_the_books_say(self):
        case_id = self.begin()
        books, plan = plans.read_books(self.db, BY), plans.get_case(self.db, case_id).plan
        self.assertEqual([(one.name, one.birth_year) for one in plan.people], [("Ana", 1984)])
        self.assertEqual(sum(books.income.values()), 12 * 300_000)
        self.assertEqual(books.spending_minor + books.interest_minor, 12 * 240_000)
        self.assertGreater(books.interest_minor, 0)
        self.assertEqual([pot.account_id for pot in plan.pots], [EVERYDAY, self.fund])
        start = self.view().start
        self.assertEqual((start.pots[1], start.month), (5_000_000, Month(2026, 6)))
        self.assertEqual(sum(back for back, _ in start.debts.values()), 300_000)
        with self.assertRaises(Conflict):
            self.begin()

    def test_what_changes_in_the_books_changes_the_years_and_what_is_typed_stays(self):
        case_id = self.begin()
        before = self.view().years[0].spending_minor
        self.spends(240_000, day=date(2026, 4, 22))
        self.assertGreater(self.view().years[0].spending_minor, before)
        plan = plans.get_case(self.db, case_id).plan
        plans.change_plan(self.db, BY, case_id, replace(plan, spending_minor=1_200_000))
        self.assertEqual(self.view().years[0].spending_minor, 700_000)

    def test_a_plan_that_breaks_is_mended_into_a_case_and_undone(self):
        case_id = self.begin()
        plan = plans.get_case(self.db, case_id).plan
        house = Event(1, "A house ashore", 2040, 30_000_000)
        plans.change_plan(self.db, BY, case_id, replace(plan, events=(house,), until_age=68))
        self.assertIsNotNone(self.view().below)
        mends = {mend.kind: mend for mend in plans.list_mends(self.view()) if mend.is_enough}
        self.assertIn("cheaper", mends)
        done = plans.mend_case(self.db, BY, case_id, "cheaper", event_id=1, name="A cheaper house")
        self.assertIsNone(self.view(1).below)
        self.assertEqual((self.view(1).case.name, self.view(1).left_minor), ("A cheaper house", mends["cheaper"].left_minor))
        again = plans.mend_case(self.db, BY, case_id, "cheaper", event_id=1, name="A cheaper house").made
        self.assertEqual(plans.get_case(self.db, again).name, "A cheaper house 2")
        plans.put_first(self.db, BY, done.made)
        self.assertEqual(self.view().case.id, done.made)
        with self.assertRaises(Conflict):
            plans.mend_case(self.db, BY, done.made, "cheaper", event_id=1)
        with self.assertRaises(Conflict):
            changes.undo_step(self.db, BY, done.step_id)  # it was put first since
        plans.remove_case(self.db, BY, again)
        with self.assertRaises(NotFound):
            plans.get_case(self.db, again)

    def test_left_out_and_back_in_is_the_plan_it_was(self):
        case_id = self.begin()
        plan = replace(plans.get_case(self.db, case_id).plan, events=(Event(1, "Roof", 2030, 500_000),))
        plans.change_plan(self.db, BY, case_id, plan)
        before = self.view().left_minor
        for is_out in (True, False):
            plans.change_plan(self.db, BY, case_id, replace(plan, events=(replace(plan.events[0], is_out=is_out),)))
            self.assertEqual(self.view().left_minor == before, not is_out)

    def test_a_stale_form_and_what_makes_no_sense_are_refused(self):
        case_id = self.begin()
        plan, seen = plans.get_case(self.db, case_id).plan, changes.version_of(self.db, "plan_case", case_id)
        plans.change_plan(self.db, BY, case_id, replace(plan, save_minor=100), seen=seen)
        with self.assertRaises(Conflict):
            plans.change_plan(self.db, BY, case_id, replace(plan, save_minor=200), seen=seen)
        with self.assertRaises(InvalidInput):
            plans.change_plan(self.db, BY, case_id, replace(plan, until_age=40))
        with self.assertRaises(Conflict):
            plans.add_case(self.db, BY, "as it stands", plan)
        with self.assertRaises(InvalidInput):
            plans.add_case(self.db, BY, " ", plan)
        self.assertIsNone(first_below(self.view().years[:1]))
        with self.assertRaises(InvalidInput):
            plans.change_plan(self.db, BY, case_id, replace(plan, people=()))

    def carried(self, **events):
        """A case with things planned, and its id."""
        case_id = self.begin()
        plan = plans.get_case(self.db, case_id).plan
        kept = tuple(Event(i, name, year, cost) for i, (name, (year, cost)) in enumerate(events.items(), 1))
        plans.change_plan(self.db, BY, case_id, replace(plan, events=kept))
        return case_id

    def test_a_case_becomes_aims_and_reminders_in_one_step_which_is_undone_whole(self):
        case_id = self.carried(Groceries=(2027, 70_000), Roof=(2029, 310_000))
        groceries = self.category("Groceries")
        expecting.set_expected(self.db, BY, groceries, Month(2026, 3), 50_000)
        expecting.set_expected(self.db, BY, groceries, Month(2026, 10), 40_000)
        to_do = carrying_out.what_to_do(self.db, BY, case_id)
        self.assertEqual(
            [(step.aim.name, step.category_id, step.now_minor, step.then_minor) for step in to_do.aims],
            [("Groceries", groceries, 50_000, 60_000), ("Roof", None, 0, 10_000)],
        )
        keys = {step.reminder.key for step in to_do.reminders}
        before = len(reminding.list_open(self.db))
        done = carrying_out.carry_out(self.db, BY, case_id, {"event.1": str(groceries), "event.2": carrying_out.NEW}, keys)
        expected = {category.name: plan.expected for category, plan in budget.list_plans(self.db)[1]}
        self.assertEqual(expected["Groceries"], {Month(2026, 3): 50_000, Month(2026, 6): 60_000, Month(2026, 10): 50_000,
                                                 Month(2027, 1): 40_000})  # fmt: skip
        self.assertEqual(expected["Roof"], {Month(2026, 6): 10_000, Month(2029, 1): 0})
        self.assertEqual(len(reminding.list_open(self.db)), before + len(keys))
        self.assertTrue(all(step.is_here for step in carrying_out.what_to_do(self.db, BY, case_id).reminders))
        changes.undo_step(self.db, BY, done.step_id)
        expected = {category.name: plan.expected for category, plan in budget.list_plans(self.db)[1]}
        self.assertEqual(expected["Groceries"], {Month(2026, 3): 50_000, Month(2026, 10): 40_000})
        self.assertNotIn("Roof", expected)
        self.assertEqual(len(reminding.list_open(self.db)), before)

    def test_what_cannot_be_carried_out_changes_nothing(self):
        case_id = self.carried(Roof=(2029, 310_000))
        groceries = self.category("Groceries")
        expecting.set_expected(self.db, BY, groceries, Month(2026, 3), 50_000, every=6)
        steps = len(changes.list_steps(self.db, 99))
        income = self.db.execute("SELECT id FROM category WHERE type = 'income' LIMIT 1").fetchone()["id"]
        for choice, error in ((str(groceries), InvalidInput), (str(income), InvalidInput), ("rubbish", InvalidInput),
                              ("99999", NotFound), (carrying_out.LEAVE, Conflict)):  # fmt: skip
            with self.subTest(choice), self.assertRaises(error):
                carrying_out.carry_out(self.db, BY, case_id, {"event.1": choice}, set())
        self.assertEqual(len(reminding.list_open(self.db)), 0)
        self.assertEqual(len(changes.list_steps(self.db, 99)), steps)

    def test_reminders_are_made_done_forgotten_and_on_today(self):
        near = reminding.add_reminder(self.db, BY, date(2026, 6, 1), "call  the yard").made
        far = reminding.add_reminder(self.db, BY, date(2027, 1, 1), "look again").made
        self.assertEqual([one.words for one in reminding.list_near(self.db, BY.today)], ["call the yard"])
        done = reminding.do_reminder(self.db, BY, near)
        self.assertEqual([one.id for one in reminding.list_open(self.db)], [far])
        changes.undo_step(self.db, BY, done.step_id)
        reminding.forget_reminder(self.db, BY, far)
        self.assertEqual([one.id for one in reminding.list_open(self.db)], [near])
        self.assertIn("SUMMARY:call the yard", calendars.write_calendar(self.db, BY))
        for day, words in ((date(2026, 5, 13), "late"), (date(2026, 6, 1), " ")):
            with self.assertRaises(InvalidInput):
                reminding.add_reminder(self.db, BY, day, words)
