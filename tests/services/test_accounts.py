"""Accounts of every kind: values that settle, loans that split, closing, deleting, several at once, rates of the feed."""

import threading
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.account import KINDS
from bolsa.core.accounts.terms import Terms
from bolsa.errors import InvalidInput, NotAllowed, ServiceUnavailable
from bolsa.services import changes
from bolsa.services.accounts import account_facts, accounts, ending, market, valuing
from bolsa.services.accounts.accounts import AccountDetails, NewAccount
from bolsa.services.accounts.holes import list_holes
from bolsa.services.checking import checking
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.today import sittings
from bolsa.stand_ins.market.state import Market
from bolsa.stand_ins.market.wire import serve
from tests.services.household import BY, TODAY, HouseholdCase

DAY = date(2026, 3, 31)


class Values(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.fund = self.an_account("Fund", "pension", opening_minor=500_000)

    def pays_in(self, amount, day):
        return entries.record_entry(self.db, BY, self.current, TypedEntry(day, "Fund", -amount, other_account_id=self.fund)).made

    def gains(self):
        return [(step.paid_minor, step.gain_minor) for step in valuing.values_page(self.db, BY, self.fund).steps]

    def test_a_value_books_the_gain_that_payments_do_not_explain(self):
        self.pays_in(10_000, date(2026, 3, 5))
        valuing.note_value(self.db, BY, self.fund, DAY, 525_000)
        self.assertEqual(self.balance(self.fund), 525_000)
        self.assertEqual(self.gains(), [(510_000, 15_000)])
        valuing.note_value(self.db, BY, self.fund, date(2026, 4, 30), 520_000)
        self.assertEqual(self.gains(), [(0, -5_000), (510_000, 15_000)])

    def test_a_payment_found_later_leaves_the_value_and_lowers_the_gain(self):
        valuing.note_value(self.db, BY, self.fund, DAY, 525_000)
        entry_id = self.pays_in(10_000, date(2026, 3, 5))
        self.assertEqual((self.balance(self.fund), self.gains()), (525_000, [(510_000, 15_000)]))
        step_id = entries.delete_entry(self.db, BY, entry_id).step_id
        self.assertEqual((self.balance(self.fund), self.gains()), (525_000, [(500_000, 25_000)]))
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.gains(), [(510_000, 15_000)])

    def test_forgetting_a_value_takes_its_gain_with_it_and_can_be_undone(self):
        valuing.note_value(self.db, BY, self.fund, DAY, 525_000)
        step_id = valuing.forget_value(self.db, BY, self.fund, DAY).step_id
        self.assertEqual(self.balance(self.fund), 500_000)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.balance(self.fund), 525_000)

    def test_the_entry_of_a_value_is_not_changed_by_itself(self):
        valuing.note_value(self.db, BY, self.fund, DAY, 525_000)
        booked = valuing.values_page(self.db, BY, self.fund).steps[0].note.entry_id
        for change in (
            lambda: entries.delete_entry(self.db, BY, booked),
            lambda: entries.set_category(self.db, BY, booked, self.category("Groceries")),
        ):
            with self.assertRaisesRegex(NotAllowed, "books what led to the value noted on 2026-03-31"):
                change()

    def test_pasted_values_of_many_styles(self):
        text = "Date\tWorth\n31.12.2024\t4.900,00\n31.01.2025;5.010,50 EUR\n28.02.2025  5.020\n"
        self.assertEqual(valuing.paste_values(self.db, BY, self.fund, text).made, 3)
        noted = [(s.note.day.isoformat(), s.note.amount_minor) for s in valuing.values_page(self.db, BY, self.fund).steps]
        self.assertEqual(noted, [("2025-02-28", 502_000), ("2025-01-31", 501_050), ("2024-12-31", 490_000)])
        for wrong, words in (
            ("", "Paste up to"),
            ("2025-01-31 5\n2025-02-31x nothing\n", "Line 2"),
            ("2027-01-31; 5", "day to come"),
        ):
            with self.subTest(wrong), self.assertRaisesRegex(InvalidInput, words):
                valuing.paste_values(self.db, BY, self.fund, wrong)

    def test_holes_are_named_and_filled(self):
        valuing.note_value(self.db, BY, self.fund, date(2025, 12, 31), 500_000)
        valuing.note_value(self.db, BY, self.fund, date(2026, 4, 30), 520_000)
        self.assertEqual(valuing.fill_holes(self.db, BY, self.fund, "between", date(2025, 12, 31)).made, 3)
        self.assertEqual(valuing.values_page(self.db, BY, self.fund).gaps, ())
        self.assertEqual([hole.name for hole in list_holes(self.db, date(2026, 9, 1))], ["Fund"])

    def test_a_sitting_carries_what_waits_and_every_promise_holds(self):
        van = self.an_account("Van", "vehicle", opening_minor=1_000_000)
        accounts.change_account(self.db, BY, van, AccountDetails(Terms(curve="percent", curve_rate=Decimal("-0.12")), (), {}))
        valuing.note_value(self.db, BY, van, date(2026, 1, 31), 1_000_000)
        sittings.begin_sitting(self.db, BY)
        self.assertEqual(valuing.list_to_carry(self.db, BY), [])
        self.assertLess(self.balance(van), 1_000_000)

    def test_month_ends_carry_a_curve_and_a_later_note_starts_it_anew(self):
        van = self.an_account("Van", "vehicle", opening_minor=1_000_000)
        details = AccountDetails(Terms(curve="percent", curve_rate=Decimal("-0.12")), (1,), {})
        accounts.change_account(self.db, BY, van, details)
        valuing.note_value(self.db, BY, van, date(2026, 1, 31), 1_000_000)
        done = valuing.carry_values(self.db, BY)
        count, step_id = done.made.count, done.step_id
        self.assertEqual(count, 3)
        self.assertEqual(self.balance(van), round(1_000_000 * 0.88 ** (89 / 365.25)))
        self.assertEqual(valuing.carry_values(self.db, BY).made.count, 0)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.balance(van), 1_000_000)


class Loans(HouseholdCase):
    def setUp(self):
        super().setUp()
        interest = self.category("Bank charges")
        terms = Terms(
            rate=Decimal("0.06"), payment_minor=61_200, interest_category_id=interest, first_payment_on=date(2025, 1, 2)
        )
        new = NewAccount("Boat loan", "loan", opening_minor=-2_000_000, opened_on=date(2026, 1, 1), terms=terms)
        self.loan = accounts.add_account(self.db, BY, new).made

    def test_a_payment_splits_itself_by_what_is_owed_that_day(self):
        typed = TypedEntry(TODAY, "Boat loan", -61_200, other_account_id=self.loan)
        entry = entries.get_entry(self.db, entries.record_entry(self.db, BY, self.current, typed).made)
        self.assertEqual([line.amount_minor for line in entry.lines], [-61_200, 51_200, 10_000])
        self.assertEqual(self.balance(self.loan), -1_948_800)

    def test_a_split_by_hand_and_money_from_the_loan_stay_as_typed(self):
        for typed in (
            TypedEntry(TODAY, "Boat loan", 61_200, other_account_id=self.loan),
            TypedEntry(TODAY, "Boat loan", -5_000, (entries.Part(self.category("Bank charges"), 700),), self.loan),
        ):
            entry = entries.get_entry(self.db, entries.record_entry(self.db, BY, self.current, typed).made)
            self.assertNotIn(10_000, [line.amount_minor for line in entry.lines])

    def test_the_facts_tell_the_next_payment_and_the_end(self):
        account = accounts.get_account(self.db, self.loan)
        facts = account_facts.account_facts(self.db, BY, account, self.balance(self.loan)).loan
        first, last = facts.instalments[0], facts.instalments[-1]
        self.assertEqual((first.interest_minor, first.day, last.owed_minor), (10_000, date(2026, 6, 2), 0))


class Ends(HouseholdCase):
    def test_closing_asks_where_the_rest_goes(self):
        with self.assertRaisesRegex(InvalidInput, "Say where that goes"):
            ending.close_account(self.db, BY, self.current, TODAY)
        step_id = ending.close_account(self.db, BY, self.current, TODAY, rest_to=self.reserve).step_id
        self.assertEqual((self.balance(), self.balance(self.reserve)), (0, 100_000))
        with self.assertRaisesRegex(NotAllowed, "Current is closed since 2026-05-14"):
            self.spends(100)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.balance(), 100_000)

    def test_closing_waits_for_later_entries_and_open_statements(self):
        self.spends(100_000, day=TODAY)
        with self.assertRaisesRegex(InvalidInput, "has an entry on 2026-05-14"):
            ending.close_account(self.db, BY, self.current, date(2026, 5, 1))
        statement_id = checking.begin_statement(self.db, BY, self.current, TODAY, 0).made
        with self.assertRaisesRegex(InvalidInput, "is being checked"):
            ending.close_account(self.db, BY, self.current, TODAY)
        checking.abandon_statement(self.db, BY, statement_id)
        with self.assertRaisesRegex(InvalidInput, "An entry is still pending. Take out what did not happen"):
            ending.close_account(self.db, BY, self.current, TODAY)
        ending.close_account(self.db, BY, self.current, TODAY, happened=True)
        self.assertEqual(accounts.get_account_state(self.db, self.current).pending_minor, 0)

    def test_a_valued_account_is_written_down(self):
        van = self.an_account("Van", "vehicle", opening_minor=100_000)
        ending.close_account(self.db, BY, van, TODAY, write_down=True)
        self.assertEqual(self.balance(van), 0)

    def test_deleting_takes_what_is_its_own_and_leaves_the_other_sides(self):
        self.spends(2_500)
        entries.record_entry(self.db, BY, self.current, TypedEntry(TODAY, "Reserve", -5_000, other_account_id=self.reserve))
        checking.reconcile(self.db, BY, checking.begin_statement(self.db, BY, self.reserve, date(2026, 4, 30), 0).made)
        found = ending.count_belongings(self.db, self.current)
        self.assertEqual((found.entries, found.transfers), (2, 1))
        with self.assertRaisesRegex(InvalidInput, "Type “Current”"):
            ending.delete_account(self.db, BY, self.current, "Curr")
        step_id = ending.delete_account(self.db, BY, self.current, "current").step_id
        self.assertEqual(self.balance(self.reserve), 5_000)
        self.assertEqual([a.name for a in accounts.list_accounts(self.db)], ["Reserve"])
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual((self.balance(), self.balance(self.reserve)), (92_500, 5_000))


class Several(HouseholdCase):
    def test_one_of_every_kind_all_or_none(self):
        rows = [
            NewAccount(f"My {kind.label}", kind.key, opening_minor=-100 if kind.side == "liability" else 100) for kind in KINDS
        ]
        with self.assertRaises(InvalidInput) as caught:
            accounts.add_several(self.db, BY, [*rows, NewAccount("Current", "cash")])
        self.assertEqual(caught.exception.field, f"row-{len(KINDS)}")
        self.assertEqual(len(accounts.list_accounts(self.db)), 2)
        accounts.add_several(self.db, BY, rows)
        self.assertEqual(len(accounts.list_accounts(self.db)), 2 + len(KINDS))

    def test_order_and_groups_follow_the_hand(self):
        third = self.an_account("Third")
        accounts.move_account(self.db, BY, third, -1)
        self.assertEqual([a.name for a in accounts.list_accounts(self.db)], ["Current", "Third", "Reserve"])
        apart = self.an_account("House", "property")
        with self.assertRaises(InvalidInput):
            accounts.place_account(self.db, BY, apart, third)


class Rates(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.an_account("Kronor", "savings", currency="SEK", opening_minor=1_000_000)
        self.server = serve(Market(), 0)
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        self.addCleanup(self.server.server_close)
        self.addCleanup(self.server.shutdown)
        self.url = f"http://127.0.0.1:{self.server.server_address[1]}"

    def test_daily_rates_are_fetched_once_and_a_hand_set_one_stays(self):
        market.note_rate(self.db, BY, "SEK", date(2026, 5, 13), market.parse_rate("0.1"))
        count = market.fetch_rates(self.db, BY, self.url).made
        self.assertGreater(count, 250)
        latest = market.list_foreign(self.db)["SEK"]
        self.assertEqual([(r.day.day, r.source) for r in latest[:2]], [(14, "feed"), (13, "hand")])
        self.assertIsNone(market.fetch_rates(self.db, BY, self.url).step_id)
        self.server.RequestHandlerClass.market.is_down = True
        with self.assertRaises(ServiceUnavailable):
            market.fetch_rates(self.db, BY, self.url)
        with self.assertRaises(ServiceUnavailable):
            market.list_indexes(self.url)

    def test_a_value_waits_for_an_index_that_does_not_answer_and_books_says_so(self):
        home = self.an_account("Cottage", "property", opening_minor=20_000_000)
        accounts.change_account(self.db, BY, home, AccountDetails(Terms(curve="index", curve_index="Harbour homes"), (), {}))
        valuing.note_value(self.db, BY, home, date(2025, 12, 31), 20_000_000)
        waiting = {"has_index": True}
        self.assertEqual(valuing.list_waiting_for_index(self.db, BY, **waiting), {})
        self.server.RequestHandlerClass.market.is_down = True
        done = valuing.carry_values(self.db, BY, self.url)
        self.assertEqual((done.made.count, list(done.made.waiting)), (0, ["Cottage"]))
        told = valuing.list_waiting_for_index(self.db, BY, **waiting)[home]
        self.assertIn("asked on 2026-05-14. The market service does not answer.", told)
        self.assertIn("no market service", valuing.list_waiting_for_index(self.db, BY, has_index=False)[home])
        self.server.RequestHandlerClass.market.is_down = False
        self.assertEqual(valuing.carry_values(self.db, BY, self.url).made.count, 4)
        self.assertEqual(valuing.list_waiting_for_index(self.db, BY, **waiting), {})
        accounts.change_account(self.db, BY, home, AccountDetails(Terms(curve="index", curve_index="Nowhere"), (), {}))
        valuing.forget_value(self.db, BY, home, date(2026, 4, 30))
        self.assertIn("no index", valuing.carry_values(self.db, BY, self.url).made.waiting["Cottage"])

    def test_an_index_moves_a_value_at_month_ends(self):
        home = self.an_account("Cottage", "property", opening_minor=20_000_000)
        accounts.change_account(self.db, BY, home, AccountDetails(Terms(curve="index", curve_index="Harbour homes"), (), {}))
        valuing.note_value(self.db, BY, home, date(2025, 12, 31), 20_000_000)
        self.assertEqual(valuing.carry_values(self.db, BY, self.url).made.count, 4)
        points = dict(market.read_index(self.url, "Harbour homes"))
        ratio = points[date(2026, 4, 30)] / points[date(2025, 12, 31)]
        self.assertAlmostEqual(self.balance(home), 20_000_000 * float(ratio), delta=1)

    def test_nonsense_rates_are_refused(self):
        for text in ("", "x", "0", "-1", "1e9"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                market.parse_rate(text)
