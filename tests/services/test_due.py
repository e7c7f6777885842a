"""Series kept, followed and undone through the services; the balances ahead; the calendar."""

import unittest
from datetime import date, timedelta
from unittest import mock

from bolsa.core.due.ahead import find_mending
from bolsa.core.due.rhythm import Rhythm
from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.errors import Conflict, InvalidInput, NotAllowed, NotFound
from bolsa.services import changes
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.clock import By
from bolsa.services.due import calendars, dues, finding, keeping, workings
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house import calendars as calendars_of_house
from bolsa.services.ledger import entries, listing
from bolsa.services.sorting import payees
from tests.services.household import BY, HouseholdCase

MAY = Month(2026, 5)


class Dues(HouseholdCase):
    def setUp(self):
        super().setUp()
        for month in (1, 2, 3, 4):
            self.pays(f"Tidewater 91.90 groceries 2026-{month:02d}-08")
        self.pays("Otter 5 groceries 2026-05-13")  # so far the books reach

    def pays(self, line):
        return entries.record_quick_line(self.db, BY, self.current, line).made

    def kept(self):
        return dues.list_kept(self.db, BY, BY.today + timedelta(days=42))

    def test_a_proposal_is_kept_refused_and_brought_back_by_undo(self):
        (one,) = finding.list_proposals(self.db, BY.today)
        self.assertEqual((one.found.payee, one.yearly_minor, one.found.rhythm.rrule), ("Tidewater", -110_280, "FREQ=MONTHLY"))
        refused = keeping.refuse(self.db, BY, [one.key])
        self.assertEqual(finding.list_proposals(self.db, BY.today), [])
        changes.undo_step(self.db, BY, refused.step)
        done = keeping.accept(self.db, BY, [one.key])
        with self.assertRaises(Conflict):
            keeping.accept(self.db, BY, [one.key])
        (kept,) = self.kept()
        self.assertEqual([due.state for due in kept.dues], ["arrived", "arrived", "late", "awaited"])
        changes.undo_step(self.db, BY, done.step)
        self.assertEqual((self.kept(), len(finding.list_proposals(self.db, BY.today))), ([], 1))
        self.assertEqual(listing.check(self.db), [])

    def test_what_is_said_of_a_due_and_its_undo(self):
        keeping.accept(self.db, BY, [finding.list_proposals(self.db, BY.today)[0].key])
        (kept,) = self.kept()
        series_id, late = kept.series.id, date(2026, 5, 8)
        entry = entries.get_entry(self.db, self.pays("Tidewater 95.00 groceries 2026-05-01"))
        (before,) = self.kept()
        self.assertEqual([line.entry_id for line in before.unclaimed], [entry.id], "a week off, it claims nothing by itself")
        keeping.match_due(self.db, BY, series_id, late, entry.account_lines[0].stored_id)
        (after,) = self.kept()
        state = {due.day: (due.state, due.differs_percent) for due in after.dues}
        self.assertEqual((state[late], after.unclaimed), (("different", 3), ()))
        out = keeping.keep_out(self.db, BY, series_id, entry.account_lines[0].stored_id)
        self.assertEqual({due.day: due.state for due in self.kept()[0].dues}[late], "late")
        changes.undo_step(self.db, BY, out.step)
        self.assertEqual({due.day: due.state for due in self.kept()[0].dues}[late], "different")
        keeping.skip_due(self.db, BY, series_id, date(2026, 6, 8))
        self.assertEqual({due.day: due.state for due in self.kept()[0].dues}[date(2026, 6, 8)], "skipped")
        keeping.await_due(self.db, BY, series_id, date(2026, 6, 8))
        self.assertEqual({due.day: due.state for due in self.kept()[0].dues}[date(2026, 6, 8)], "awaited")
        with self.assertRaises(InvalidInput):
            keeping.skip_due(self.db, BY, series_id, date(2026, 6, 9))
        self.assertEqual(listing.check(self.db), [])

    def test_a_series_ends_goes_on_and_is_forgotten(self):
        done = keeping.add_series(self.db, BY, self.typed())
        keeping.end_series(self.db, BY, done.made, date(2026, 6, 1))
        self.assertEqual([due.day for due in self.kept()[0].dues], [date(2026, 5, 20)])
        keeping.end_series(self.db, BY, done.made, None)
        self.assertEqual([due.day for due in self.kept()[0].dues], [date(2026, 5, 20), date(2026, 6, 20)])
        forgotten = keeping.forget_series(self.db, BY, done.made)
        with self.assertRaises(NotFound):
            dues.get_kept(self.db, BY, done.made, 30)
        changes.undo_step(self.db, BY, forgotten.step)
        self.assertEqual(len(self.kept()), 1)

    def typed(self, **more):
        rhythm = Rhythm("FREQ=MONTHLY", date(2026, 5, 20))
        words = {"payee": "Kiln Lane", "account_id": self.current, "rhythm": rhythm, "amount_minor": -30_000}
        return TypedSeries(**words | more)

    def test_what_is_typed_is_checked_at_its_field(self):
        for field, more in (
            ("payee", {"payee": " "}), ("amount", {"amount_minor": 0}), ("rrule", {"rhythm": Rhythm("FREQ=HOURLY", BY.today)}),
            ("tolerance", {"tolerance_days": 32}), ("amount_kind", {"amount_kind": "some"}),
        ):  # fmt: skip
            with self.subTest(field), self.assertRaises(InvalidInput) as caught:
                keeping.add_series(self.db, BY, self.typed(**more))
            self.assertEqual(caught.exception.field, field)

    def test_a_form_opened_before_another_changed_it_is_asked(self):
        series_id = keeping.add_series(self.db, BY, self.typed()).made
        seen = changes.version_of(self.db, "series", series_id)
        keeping.change_series(self.db, BY, series_id, self.typed(amount_minor=-31_000), seen=seen)
        with self.assertRaises(Conflict):
            keeping.change_series(self.db, BY, series_id, self.typed(amount_minor=-32_000), seen=seen)
        self.assertEqual(self.kept()[0].series.amount_minor, -31_000)

    def test_the_balance_ahead_is_its_working_and_what_mends_a_crossing(self):
        keeping.add_series(self.db, BY, self.typed(amount_minor=-90_000))
        self.pays("Otter 20 groceries 2026-05-25")
        view = dues.dues_view(self.db, BY)
        lane = view.lanes[0]
        self.assertEqual((lane.crossing.day, lane.lowest.balance_minor), (date(2026, 5, 20), -119_260))
        mending = find_mending(view.lanes, lane)
        self.assertIsNone(mending, "the reserve has not enough")
        pay = self.typed(payee="Pay", amount_minor=80_000, rhythm=Rhythm("FREQ=MONTHLY", date(2026, 6, 1)))
        keeping.add_series(self.db, BY, pay)
        for day in (date(2026, 5, 14), date(2026, 5, 20), date(2026, 5, 25), date(2026, 6, 25)):
            view = dues.dues_view(self.db, BY)
            held = next(point.balance_minor for point in view.lanes[0].curve if point.day == day)
            working = workings.balance_ahead(self.db, BY, f"{self.current}.{day}", MAY)
            with self.subTest(day):
                self.assertEqual((working.figure, working.adds_up), (Money(held, "EUR"), True))
        self.assertEqual(view.lanes[1].account.id, self.reserve)

    def test_a_holiday_moves_a_due_and_a_calendar_holds_it(self):
        typed = self.typed(rhythm=Rhythm("FREQ=MONTHLY", date(2026, 6, 1), weekend="after"))  # the first Monday of June is one
        keeping.add_series(self.db, BY, typed)
        self.assertEqual(self.kept()[0].next.day, date(2026, 6, 2))
        text = calendars.write_calendar(self.db, BY)
        self.assertIn("DTSTART;VALUE=DATE:20260602", text)
        self.assertIn("SUMMARY:Kiln Lane -300.00 EUR", text)

    def test_who_may_only_look_keeps_nothing(self):
        looker = By(BY.today, BY.at, None, may_change=False)
        with self.assertRaises(NotAllowed), mock.patch.object(keeping.series, "insert_series") as written:
            keeping.add_series(self.db, looker, self.typed())
        written.assert_not_called()


class WhatBanksTell(HouseholdCase):
    def rent(self, **more):
        typed = TypedSeries("Harbour Office", self.current, Rhythm("FREQ=MONTHLY", date(2026, 4, 8)), -64_000, **more)
        return keeping.add_series(self.db, BY, typed).made

    def bank_tells(self, until, *rows):
        text = "Date,Payee,Amount\n" + "".join(
            f"{day},{payee},{amount}\n" for day, payee, amount in (*rows, (until, "Kiosk", "-1.11"))
        )
        return bringing_in.import_file(self.db, BY, "a.csv", text.encode(), Answers(self.current))

    def state(self, series_id, day):
        (kept,) = [one for one in dues.list_kept(self.db, BY, date(2026, 6, 30)) if one.series.id == series_id]
        return next(due.state for due in kept.dues if due.day == day)

    def test_a_typed_entry_makes_nothing_late_that_the_bank_was_not_asked_about(self):
        rent = self.rent()
        self.bank_tells("2026-05-09")
        entries.record_quick_line(self.db, BY, self.current, "Kiosk 2 groceries 2026-05-14")
        self.assertEqual(self.state(rent, date(2026, 5, 8)), "awaited")
        self.bank_tells("2026-05-12")
        self.assertEqual(self.state(rent, date(2026, 5, 8)), "late")

    def test_an_account_no_bank_tells_of_is_known_as_far_as_it_is_kept(self):
        rent = self.rent()
        entries.record_quick_line(self.db, BY, self.current, "Kiosk 2 groceries 2026-05-12")
        self.assertEqual(self.state(rent, date(2026, 5, 8)), "late")

    def test_an_entry_of_another_payee_pays_the_due_it_was_matched_to_and_keeps_it_when_renamed(self):
        rent = self.rent()
        entry_id = entries.record_quick_line(self.db, BY, self.current, "Somebody 640 groceries 2026-05-01").made
        line = entries.get_entry(self.db, entry_id).account_lines[0]
        keeping.match_due(self.db, BY, rent, date(2026, 5, 8), line.stored_id)
        self.assertEqual(self.state(rent, date(2026, 5, 8)), "arrived")
        payees.rename(self.db, BY, self.payee_id("Somebody"), "Harbour Master")
        self.assertEqual(self.state(rent, date(2026, 5, 8)), "arrived")

    def payee_id(self, name):
        return next(row.id for row in payees.list_rows(self.db) if row.name == name)

    def test_an_entry_dated_far_ahead_counts_once_in_a_forecast(self):
        typed = TypedSeries("Harbour Office", self.current, Rhythm("FREQ=MONTHLY", date(2026, 6, 20)), -64_000)
        keeping.add_series(self.db, BY, typed)
        self.spends(64_000, day=date(2026, 6, 20), payee="Harbour Office")
        view = dues.dues_view(self.db, BY, 42)
        (lane,) = [lane for lane in view.lanes if lane.account.id == self.current]
        self.assertEqual(lane.curve[-1].balance_minor, 100_000 - 64_000)

    def test_a_payee_written_with_a_number_each_month_is_one_series(self):
        rows = [(f"2026-{month:02}-05", f"HERON NURSERY {month}", "-96.00") for month in (1, 2, 3, 4, 5)]
        self.bank_tells("2026-05-12", *rows)
        (proposal,) = finding.list_proposals(self.db, BY.today)
        self.assertEqual((proposal.found.payee, proposal.found.times), ("Heron Nursery", 5))
        before = changes.list_steps(self.db)[0].id
        done = keeping.accept(self.db, BY, [proposal.key])
        (kept,) = dues.list_kept(self.db, BY, date(2026, 6, 30))
        self.assertEqual([due.state for due in kept.dues], ["arrived"] * 3 + ["awaited"])
        self.bank_tells("2026-06-12", ("2026-06-05", "HERON NURSERY 6", "-96.00"))
        (kept,) = dues.list_kept(self.db, BY, date(2026, 6, 30))
        self.assertEqual([due.state for due in kept.dues], ["arrived"] * 4)
        self.assertGreater(done.step, before)

    def test_what_a_form_leaves_open_is_as_it_last_came(self):
        entries.record_quick_line(self.db, BY, self.current, "Ferry +2000 pay 2026-05-01")
        last = keeping.last_time(self.db, BY, "ferry", self.current)
        self.assertEqual((last.day, last.amount_minor), (date(2026, 5, 1), 200_000))
        self.assertIsNone(keeping.last_time(self.db, BY, "ferry", self.reserve))

    def test_whose_holidays_count_is_chosen(self):
        rhythm = Rhythm("FREQ=MONTHLY", date(2026, 6, 10), weekend="after")  # a holiday in Portugal
        for country, day in (("PT", 11), ("none", 10), ("pt", 11)):
            calendars_of_house.choose_country(self.db, country)
            is_holiday = calendars_of_house.holidays_of(self.db)
            self.assertEqual(rhythm.days(date(2026, 6, 1), date(2026, 6, 30), is_holiday), [date(2026, 6, day)])
        with self.assertRaises(InvalidInput):
            calendars_of_house.choose_country(self.db, "Atlantis")


if __name__ == "__main__":
    unittest.main()
