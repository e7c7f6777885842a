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
from bolsa.services.clock import By
from bolsa.services.due import calendars, dues, finding, keeping, workings
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.ledger import entries, listing
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


if __name__ == "__main__":
    unittest.main()
