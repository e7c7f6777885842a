"""Pay through the services: a payday claims its deposit once, whoever asks and in whatever order; ceilings; taken back whole."""

import threading
from contextlib import closing
from dataclasses import replace
from datetime import date
from decimal import Decimal

from bolsa.bench.identity.layouts import LAYOUTS, Window
from bolsa.bench.identity.truth import Booking
from bolsa.core.accounts.terms import Terms
from bolsa.core.due.rhythm import Rhythm
from bolsa.core.months import Month
from bolsa.core.pay.payslip import PayLine
from bolsa.core.units import Percent
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, valuing
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.answers import answers
from bolsa.services.bringing import bringing_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import budgeting, year
from bolsa.services.due import dues
from bolsa.services.due import keeping as series_keeping
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house import files
from bolsa.services.ledger import correcting, entries, listing
from bolsa.services.pay import keeping, paydays
from bolsa.services.sorting import categories, category_moves
from bolsa.services.worth import worth
from bolsa.store.sorting.categories import UNSORTED
from tests.services.household import BY, TODAY, HouseholdCase
from tests.services.test_answers import over

APRIL_24, MAY_8, MAY_22 = date(2026, 4, 24), date(2026, 5, 8), date(2026, 5, 22)
NET = 116013


class PayCase(HouseholdCase):
    """A pay every second Friday from 24 April on, of which the bank brought the first deposit, three cents short."""

    def setUp(self):
        super().setUp()
        self.pension = self.an_account("Ferry pension", "pension", opening_minor=500_000)
        new = NewAccount("Health", "benefit", opened_on=date(2026, 1, 1), terms=Terms(ceiling_minor=100_000))
        self.health = accounts.add_account(self.db, BY, new).made
        rhythm = Rhythm("FREQ=WEEKLY;INTERVAL=2", APRIL_24)
        typed = TypedSeries("Port Halden Ferry Company", self.current, rhythm, 110_000, category_id=self.category("Pay"))
        self.series = series_keeping.add_series(self.db, BY, typed).made
        self.pay = keeping.keep_pay(self.db, BY, self.series, 1, APRIL_24, self.lines()).made

    def lines(self, **more):
        return [
            PayLine(0, "earned", "Base", 199_804, category_id=self.category("Pay"), start_minor=600_000),
            PayLine(0, "before", "Pension", percent=Percent(Decimal("6")), account_id=self.pension),
            PayLine(0, "before", "Health", 3_500, account_id=self.health, start_minor=10_000),
            PayLine(0, "tax", "Income tax", 41_230), PayLine(0, "tax", "Social dues", 25_623),
            PayLine(0, "after", "Union", 1_450),
            PayLine(0, "employer", "Health", 2_665, account_id=self.health),
        ]  # fmt: skip

    def bring(self, amount="1160.10", day="2026-04-24", account=None):
        text = f"Date,Payee,Amount\n{day},PORT HALDEN FERRY COMPANY,{amount}\n2026-05-12,GREBE,-1.00\n"
        return bringing_in.import_file(self.db, BY, "bank.csv", text.encode(), Answers(account or self.current, others="new"))

    def view(self, day=None):
        pay = paydays.get_pay(self.db, self.pay)
        return paydays.pay_view(self.db, BY, pay, paydays.choose_day(paydays.list_days(self.db, BY, pay), day), {})

    def amounts(self, **changed):
        by_name = {(line.kind, line.name): line.id for line in paydays.get_pay(self.db, self.pay).lines}
        usual = self.view().usual.by_line
        return usual | {by_name["tax", "Income tax"]: changed.get("tax", 41_230)}

    def confirm(self, day=APRIL_24, tax=41_233, **more):
        return keeping.confirm(self.db, BY, self.pay, day, self.amounts(tax=tax), **more)


class Categories(PayCase):
    def test_what_a_payslip_stands_under_is_merged_and_not_deleted(self):
        pay = self.category("Pay")
        with self.assertRaisesRegex(InvalidInput, "A payslip has lines under Pay"):
            category_moves.delete_category(self.db, BY, pay)
        self.assertEqual(categories.get_category(self.db, pay).name, "Pay")
        other = categories.add_category(self.db, BY, "Earned", "Wages", "income").made
        category_moves.merge_category(self.db, BY, pay, other)
        self.assertEqual(paydays.get_pay(self.db, self.pay).lines[0].category_id, other)
        keeping.confirm(self.db, BY, self.pay, APRIL_24, self.amounts())
        self.db.execute("BEGIN")
        self.db.execute("UPDATE pay_line SET category_id = NULL WHERE kind = 'earned'")
        self.assertEqual([one.promise for one in listing.check(self.db)], ["what is earned on a payslip has a category"])
        self.db.execute("ROLLBACK")


class Paydays(PayCase):
    def test_the_series_expects_the_net(self):
        self.assertEqual(dues.get_kept(self.db, BY, self.series, 70).series.amount_minor, NET)

    def test_a_payday_claims_its_deposit_and_the_difference_is_said(self):
        self.bring()
        self.assertEqual((self.view().chosen.state, self.view().difference_minor), ("came", -3))
        with self.assertRaisesRegex(InvalidInput, r"comes to 1160\.13 EUR, the bank brought 1160\.10 EUR: 0\.03 EUR is not told"):
            self.confirm(tax=41_230)
        before = self.balance()
        entry = entries.get_entry(self.db, self.confirm().made)
        self.assertEqual(
            (self.balance(), len(entry.account_lines), entry.account_lines[0].raw_text), (before, 4, "PORT HALDEN FERRY COMPANY")
        )
        self.assertEqual(self.balance(self.health), 6_165)
        self.assertEqual([(d.state, d.deposit.amount_minor) for d in self.view().days if d.deposit], [("confirmed", 116_010)])
        self.assertEqual(self.view(APRIL_24).slip.net_minor, 116_010)

    def test_the_budget_sees_what_arrived_and_answers_what_was_earned_and_set_by(self):
        self.bring()
        before = budgeting.budget_view(self.db, BY, Month(2026, 4)).budget.unplaced_minor
        self.confirm()
        self.assertEqual(budgeting.budget_view(self.db, BY, Month(2026, 4)).budget.unplaced_minor, before)
        (pay,) = [
            row for row in year.year_view(self.db, BY, Month(2026, 1)).year.incomes if row.category_id == self.category("Pay")
        ]
        self.assertEqual(pay.cells[3].actual_minor, 116_010)
        received = answers.answer(self.db, over("received", APRIL_24, APRIL_24), "category")
        # Gross and the employer's part, less taxes and union dues: what came into the house, pension and health savings included.
        self.assertEqual(received.total_minor, 199_804 + 2_665 - 41_233 - 25_623 - 1_450)
        self.assertEqual(worth.what_changed(self.db, date(2026, 4, 23), APRIL_24).of("saved"), received.total_minor)

    def test_asked_twice_it_is_done_once_and_a_stale_page_is_refused(self):
        self.bring()
        seen = changes.version_now(self.db)
        self.confirm(seen=seen)
        for stale in (None, seen):
            with self.assertRaises(Conflict):
                self.confirm(seen=stale)
        self.confirm(seen=changes.version_now(self.db))
        self.assertEqual(self.balance(self.health), 6_165)
        keeping.change_pay(self.db, BY, self.pay, 1, APRIL_24, [self.lines()[0]])
        with self.assertRaises(Conflict):
            self.confirm(seen=seen)

    def test_two_at_the_same_instant_confirm_once(self):
        self.bring()
        seen, amounts, told = changes.version_now(self.db), self.amounts(tax=41_233), []

        def confirm():
            with closing(files.open_household(self.path)) as db:
                try:
                    told.append(keeping.confirm(db, BY, self.pay, APRIL_24, amounts, seen=seen).step)
                except Conflict as error:
                    told.append(error)

        both = [threading.Thread(target=confirm) for _ in range(2)]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join()
        self.assertEqual(sorted(isinstance(one, Conflict) for one in told), [False, True])
        self.assertEqual(self.balance(self.health), 6_165)

    def test_its_accounts_may_turn_everyday_and_apart_again(self):
        self.bring()
        self.confirm()
        unplaced = budgeting.budget_view(self.db, BY, Month(2026, 5)).budget.unplaced_minor
        for everyday in (True, False):
            accounts.change_account(self.db, BY, self.health, everyday=everyday)
            self.assertEqual(listing.check(self.db), [])
        self.assertEqual(budgeting.budget_view(self.db, BY, Month(2026, 5)).budget.unplaced_minor, unplaced)

    def test_undone_and_done_again_and_taken_back(self):
        self.bring()
        plain = self.balance(), self.balance(self.pension), self.balance(self.health)
        done = self.confirm()
        changes.undo_step(self.db, BY, done.step)
        self.assertEqual((self.balance(), self.balance(self.pension), self.balance(self.health)), plain)
        self.assertEqual(self.view().chosen.state, "came")
        self.confirm()
        back = keeping.take_back(self.db, BY, self.pay, APRIL_24)
        entry = entries.get_entry(self.db, done.made)
        self.assertEqual((len(entry.lines), self.balance(self.pension), self.view().chosen.state), (2, 500_000, "came"))
        changes.undo_step(self.db, BY, back.step)
        self.assertEqual((self.balance(self.health), self.view(APRIL_24).chosen.state), (6_165, "confirmed"))
        with self.assertRaises(Conflict):
            keeping.take_back(self.db, BY, self.pay, MAY_8)

    def test_its_entry_is_changed_on_the_payslip_alone(self):
        self.bring()
        entry_id = self.confirm().made
        line = entries.get_entry(self.db, entry_id).account_lines[0]
        with self.assertRaisesRegex(NotAllowed, "payday of 2026-04-24"):
            entries.delete_entry(self.db, BY, entry_id)
        with self.assertRaises(NotAllowed):
            correcting.correct_amount(self.db, BY, line.stored_id, 1)
        with self.assertRaises(NotAllowed):
            entries.change_entry(
                self.db, BY, entry_id, self.current, entries.TypedEntry(TODAY, "x", 5, other_account_id=self.reserve)
            )
        with self.assertRaisesRegex(NotAllowed, "taken apart as pay"):
            series_keeping.forget_series(self.db, BY, self.series)
        with self.assertRaisesRegex(NotAllowed, "A payday of it is confirmed"):
            keeping.forget_pay(self.db, BY, self.pay)

    def test_confirmed_before_it_came_the_bank_s_row_finds_it(self):
        entry_id = self.confirm(MAY_8, tax=41_230).made
        self.assertEqual(self.balance(), 100_000 + NET)
        done = self.bring("1160.13", "2026-05-09")
        self.assertEqual((done.matched, self.balance()), (1, 100_000 + NET - 100))
        self.assertEqual(entries.get_entry(self.db, entry_id).account_lines[0].state, "cleared")
        self.assertEqual(self.view(MAY_8).chosen.state, "confirmed")

    def deposit_in(self, minor, layout="purchases.csv", announced=False):
        came = Booking(1, MAY_8, MAY_8, minor, "Port Halden Ferry Company", is_card=False)
        shown = Window(MAY_8, date(2026, 5, 12), () if announced else [came], [came] if announced else (), 0, 1)
        return bringing_in.import_file(self.db, BY, f"pay.{layout}", LAYOUTS[layout](shown), Answers(self.current))

    def test_a_deposit_that_is_not_what_the_payslip_said_is_claimed_and_the_payslip_stands(self):
        before = self.balance()
        self.confirm(MAY_8, tax=41_230)
        told = self.view(MAY_8).chosen.payday.by_line
        done = self.deposit_in(NET - 1_000)
        self.assertEqual((done.new, done.matched), (0, 1))
        view = self.view(MAY_8)
        self.assertEqual((view.chosen.payday.by_line, view.difference_minor), (told, -1_000))
        self.assertEqual(self.balance() - before, NET - 1_000)
        undoing.undo_batch(self.db, BY, done.batch_id)
        self.assertEqual((self.view(MAY_8).difference_minor, self.balance() - before), (0, NET))

    def test_how_far_a_deposit_may_be_from_its_payslip(self):
        self.confirm(MAY_8, tax=41_230)
        for off, claimed in ((NET * 2 // 100, 1), (NET * 2 // 100 + 1, 0)):
            done = self.deposit_in(NET - off)
            self.assertEqual(done.matched, claimed)
            undoing.undo_batch(self.db, BY, done.batch_id)

    def test_an_announced_deposit_that_vanishes_leaves_the_payslip(self):
        before = self.balance()
        self.deposit_in(NET, "ofx", announced=True)
        self.confirm(MAY_8, tax=41_230)
        shown = Window(MAY_8, date(2026, 5, 12), (), (), 0, 1)
        gone = bringing_in.import_file(self.db, BY, "b.ofx", LAYOUTS["ofx"](shown), Answers(self.current))
        self.assertEqual((gone.vanished, self.view(MAY_8).chosen.state), (1, "confirmed"))
        self.assertEqual(self.balance() - before, NET)
        undoing.undo_batch(self.db, BY, gone.batch_id)
        self.assertEqual(self.deposit_in(NET).matched, 1)
        self.assertEqual(self.balance() - before, NET)

    def test_taken_back_before_it_came_nothing_is_left_of_it(self):
        before = self.balance(), self.balance(self.health)
        self.confirm(MAY_22, tax=41_230)
        back = keeping.take_back(self.db, BY, self.pay, MAY_22)
        self.assertEqual((self.balance(), self.balance(self.health)), before)
        self.assertEqual(self.view(MAY_22).chosen.state, "awaited")
        changes.undo_step(self.db, BY, back.step)
        self.assertEqual(self.view(MAY_22).chosen.state, "confirmed")

    def test_a_batch_taken_out_and_brought_in_again_doubles_nothing(self):
        batch = self.bring("1160.13")
        self.confirm(tax=41_230)
        undoing.undo_batch(self.db, BY, batch.batch_id)
        held = self.balance(self.health)
        self.bring("1160.13")
        self.assertEqual((self.balance(), self.balance(self.health), held), (100_000 + NET - 100, 6_165, 6_165))

    def test_a_second_deposit_that_is_there_already_is_claimed_and_let_go_again(self):
        lines = [*self.lines(), PayLine(0, "after", "To the reserve", 10_000, account_id=self.reserve)]
        keeping.change_pay(self.db, BY, self.pay, 1, APRIL_24, self.with_ids(lines))
        self.bring("1060.13")
        self.bring("100.00", "2026-04-25", self.reserve)
        self.confirm(tax=41_230)
        self.assertEqual(self.balance(self.reserve), 10_000 - 100)
        keeping.take_back(self.db, BY, self.pay, APRIL_24)
        self.assertEqual((self.balance(self.reserve), self.balance()), (10_000 - 100, 100_000 + 106_013 - 100))

    def with_ids(self, lines):
        ids = {(line.kind, line.name): line.id for line in paydays.get_pay(self.db, self.pay).lines}
        return [replace(line, id=ids.get((line.kind, line.name), 0)) for line in lines]

    def test_reconciled_money_elsewhere_holds_and_a_later_value_settles(self):
        self.bring()
        valuing.note_value(self.db, BY, self.pension, date(2026, 4, 30), 520_000)
        self.confirm()
        self.assertEqual(self.balance(self.pension), 520_000)
        (step,) = valuing.values_page(self.db, BY, self.pension).steps[-1:]
        self.assertEqual((step.paid_minor, step.gain_minor), (500_000 + 11_988, 8_012))

    def test_a_rhythm_that_moved_makes_no_second_payday_of_a_confirmed_one(self):
        self.bring("1160.13")
        self.confirm(tax=41_230)
        kept = dues.get_kept(self.db, BY, self.series, 70).series
        rhythm = Rhythm("FREQ=WEEKLY;INTERVAL=2", date(2026, 4, 23))
        typed = TypedSeries(kept.payee, kept.account_id, rhythm, kept.amount_minor, category_id=kept.category_id)
        series_keeping.change_series(self.db, BY, self.series, typed)
        self.assertEqual(
            [(one.day.day, one.state) for one in self.view().days], [(24, "confirmed"), (7, "late"), (21, "awaited")]
        )
        self.assertEqual(paydays.ceiling_of(self.db, BY, self.health).to_come[0][0], date(2026, 5, 7))

    def test_how_it_is_taken_apart_is_not_undone_under_a_confirmed_payday(self):
        self.bring()
        steps = changes.list_steps(self.db)
        self.confirm()
        kept = next(step for step in steps if step.sentence.startswith("Took the pay"))
        with self.assertRaisesRegex(Conflict, "builds on this"):
            changes.undo_step(self.db, BY, kept.id)
        self.assertEqual(self.view(APRIL_24).chosen.state, "confirmed")

    def test_a_line_of_one_payslip_alone_counts_in_its_year(self):
        self.bring("1165.13")
        extra = [PayLine(0, "earned", "Bonus", 500, category_id=self.category("Pay"))]
        self.confirm(tax=41_230, extra=extra)
        self.assertEqual({one.line.name: one.total_minor for one in self.view().year}["Bonus"], 500)
        self.assertEqual({one.line.name: one.total_minor for one in self.view().year}["Base"], 799_804)
        self.assertNotIn("Bonus", [line.name for line, _ in self.view(MAY_22).slip.items])


class OfOthers(PayCase):
    def test_what_cannot_be_a_pay_is_refused_in_words(self):
        pay = self.category("Pay")
        abroad = self.an_account("Abroad", currency="SEK")
        for lines, words in (
            ([PayLine(0, "tax", "Tax", 5)], "a line that is earned"),
            ([PayLine(0, "earned", "Base", 5)], "under which category of income"),
            ([PayLine(0, "earned", "Base", 5, category_id=self.category("Groceries"))], "no category of income"),
            ([PayLine(0, "earned", "Base", 5, category_id=pay), PayLine(0, "tax", "Tax", 5)], "More is taken off"),
            ([PayLine(0, "earned", "Base", 5, category_id=pay)] * 2, "the same name"),
            ([PayLine(0, "earned", "Base", 5, category_id=pay), PayLine(0, "after", "x", 1, account_id=abroad)], "is in SEK"),
            (
                [PayLine(0, "earned", "Base", 5, category_id=pay), PayLine(0, "after", "x", 1, account_id=self.current)],
                "cannot go to",
            ),
            ([PayLine(0, "earned", "Base", percent=Percent(Decimal(5)), category_id=pay)], "so many per cent"),
        ):
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                keeping.change_pay(self.db, BY, self.pay, 1, APRIL_24, lines)
        with self.assertRaises(Conflict):
            keeping.keep_pay(self.db, BY, self.series, 1, APRIL_24, self.lines())
        bill = series_keeping.add_series(
            self.db, BY, TypedSeries("Rent", self.current, Rhythm("FREQ=MONTHLY", APRIL_24), -500)
        ).made
        with self.assertRaisesRegex(InvalidInput, "Only what comes in"):
            keeping.keep_pay(self.db, BY, bill, None, APRIL_24, self.lines())
        with self.assertRaisesRegex(InvalidInput, "is no payday"):
            self.confirm(date(2026, 5, 9))

    def test_an_account_of_it_is_closed_or_deleted(self):
        self.bring()
        ending.close_account(self.db, BY, self.health, TODAY)
        with self.assertRaisesRegex(NotAllowed, "Health is closed"):
            self.confirm()
        ending.delete_account(self.db, BY, self.current, "Current")
        self.assertEqual((paydays.list_pays(self.db), listing.check(self.db)), ([], []))

    def test_the_deposits_account_is_deleted_after_a_payday_and_that_is_undone(self):
        self.bring()
        self.confirm()
        done = ending.delete_account(self.db, BY, self.current, "Current")
        self.assertEqual(listing.check(self.db), [])
        changes.undo_step(self.db, BY, done.step)
        self.assertEqual((self.view(APRIL_24).chosen.state, self.balance(self.health)), ("confirmed", 6_165))

    def test_the_ceiling_counts_everything_and_says_what_reaches_it(self):
        entries.record_entry(
            self.db, BY, self.current, entries.TypedEntry(date(2026, 2, 3), "By hand", -5_000, other_account_id=self.health)
        )
        self.bring()
        self.confirm()
        one = paydays.ceiling_of(self.db, BY, self.health)
        self.assertEqual((one.own_minor, one.employer_minor, one.other_minor), (10_000 + 3_500, 2_665, 5_000))
        self.assertEqual((len(one.to_come), one.to_come[0][0], one.to_come[-1][0]), (17, MAY_8, date(2026, 12, 18)))
        self.assertEqual(one.end_minor, 21_165 + 17 * 6_165)
        self.assertEqual(one.passed_on, date(2026, 10, 23))  # 21,165 + 12 × 6,165 is 95,145; one more is over 100,000
        each, last = one.exact
        self.assertEqual(one.used_minor + 16 * each + last + 17 * 2_665, 100_000)

    def test_a_deposit_that_is_part_of_a_transfer_is_not_taken(self):
        self.bring("1160.13")
        entry = self.view().chosen.deposit.entry_id
        typed = entries.TypedEntry(APRIL_24, "Port Halden Ferry Company", NET, other_account_id=self.reserve)
        entries.change_entry(self.db, BY, entry, self.current, typed)
        with self.assertRaisesRegex(NotAllowed, "part of a transfer"):
            self.confirm(tax=41_230)

    def test_what_is_not_confirmed_waits(self):
        self.bring()
        ((_, series, state),) = paydays.list_waiting(self.db, BY)
        self.assertEqual((series.payee, state.day), ("Port Halden Ferry Company", APRIL_24))
        self.assertIn(UNSORTED, [line.category_id for line in entries.get_entry(self.db, state.deposit.entry_id).lines])
