"""A household's first hour from an empty file: accounts as they stand today, then their past; each by its promise."""

from datetime import date
from random import Random

from bolsa.core.house.kept import Member
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, openings
from bolsa.services.bringing import bringing_in, previewing, taking_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from bolsa.services.clock import By
from bolsa.services.house import households, sessions
from bolsa.services.ledger import entries, listing
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.accounts import accounts as account_store
from bolsa.store.sorting.categories import OPENING
from tests.services.household import BY, TODAY, HouseholdCase

PAST = b"Date,Payee,Amount\n2026-03-02,Harbour Rent,-650.00\n2026-04-02,Harbour Rent,-650.00\n2026-05-14,Grebe,-10.00\n"
OLDER = b"Date,Payee,Amount\n2026-02-02,Harbour Rent,-640.00\n"


def ofx(balance, number="123", rows="<STMTTRN><DTPOSTED>20260510<TRNAMT>-12.30<FITID>a1<NAME>GREBE</STMTTRN>"):
    return (
        "OFXHEADER:100\nDATA:OFXSGML\nVERSION:102\nENCODING:USASCII\nCHARSET:1252\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS>"
        f"<CURDEF>EUR<BANKACCTFROM><BANKID>1<ACCTID>{number}<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST><DTSTART>20260501"
        f"<DTEND>20260514{rows}</BANKTRANLIST><LEDGERBAL><BALAMT>{balance}<DTASOF>20260514</LEDGERBAL></STMTRS></STMTTRNRS>"
        "</BANKMSGSRSV1></OFX>"
    ).encode()


class Openings(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.today = self.an_account("Today", opening_minor=200_000, opened_on=TODAY)

    def brings(self, content, account=None, name="past.csv"):
        return bringing_in.import_file(self.db, BY, name, content, Answers(account))

    def opening(self, account=None):
        entry_id = account_store.find_opening_entry(self.db, account or self.today)
        line = entries.get_entry(self.db, entry_id).account_lines[0]
        return line.day.isoformat(), line.amount_minor

    def test_rows_before_a_known_balance_count_backwards_from_it_and_taken_out_they_do_not(self):
        first = self.brings(PAST, self.today)
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-03-01", 330_000), 199_000))
        older = self.brings(OLDER, self.today)
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-02-01", 394_000), 199_000))
        undoing.undo_batch(self.db, BY, first.batch_id)
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-02-01", 264_000), 200_000))
        undoing.undo_batch(self.db, BY, older.batch_id)
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-05-14", 200_000), 200_000))

    def test_what_is_typed_before_it_counts_backwards_too_in_any_order_of_undoing(self):
        dice = Random(11)
        for _ in range(12):
            days = [date(2026, dice.randrange(1, 5), dice.randrange(1, 28)) for _ in range(4)]
            typed = [TypedEntry(day, "Grebe", -dice.randrange(1, 9_999)) for day in days]
            steps = [entries.record_entry(self.db, BY, self.today, one).step_id for one in typed]
            dice.shuffle(steps)
            for step_id in steps:
                self.assertEqual((self.balance(self.today), listing.check(self.db)), (200_000, []))
                changes.undo_step(self.db, BY, step_id)
            self.assertEqual(self.opening(), ("2026-05-14", 200_000))

    def test_a_corrected_opening_stays_an_opening_and_is_what_is_known_from_then_on(self):
        entry_id = account_store.find_opening_entry(self.db, self.today)
        entries.change_entry(self.db, BY, entry_id, self.today, TypedEntry(TODAY, "Opening balance", 210_000))
        self.assertEqual([line.category_id for line in entries.get_entry(self.db, entry_id).category_lines], [OPENING])
        self.brings(PAST, self.today)
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-03-01", 340_000), 209_000))
        step_id = openings.set_known(self.db, BY, self.today, TODAY, 100_000).step_id
        self.assertEqual((self.opening(), self.balance(self.today)), (("2026-03-01", 230_000), 99_000))
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.opening(), ("2026-03-01", 340_000))
        entries.delete_entry(self.db, BY, entry_id)
        self.spends(500, day=date(2026, 1, 3), account=self.today)
        self.assertIsNone(account_store.find_opening_entry(self.db, self.today))

    def test_an_account_of_which_nothing_was_known_opens_so_that_it_meets_its_first_file(self):
        done = bringing_in.import_file(self.db, BY, "a.ofx", ofx("500.00"), Answers(others="new"))
        made = next(account for account in accounts.list_accounts(self.db) if account.number == "123")
        self.assertEqual((self.opening(made.id), self.balance(made.id), done.differing), (("2026-05-09", 51_230), 50_000, ()))

    def test_taken_out_or_put_aside_a_file_takes_the_account_it_made_with_it_unless_something_else_came_to_it(self):
        def made():
            return [account.id for account in accounts.list_accounts(self.db) if account.number == "123"]

        first = bringing_in.import_file(self.db, BY, "a.ofx", ofx("500.00"), Answers(others="new"))
        undoing.undo_batch(self.db, BY, first.batch_id)
        self.assertEqual(made(), [])
        staged = taking_in.take_in(self.db, BY, "a.ofx", ofx("500.00"), Answers(others="new")).batch_id
        self.assertEqual(len(made()), 1)
        previewing.discard(self.db, staged)
        self.assertEqual(made(), [])
        again = bringing_in.import_file(self.db, BY, "a.ofx", ofx("500.00"), Answers(others="new"))
        self.spends(300, account=made()[0])
        undoing.undo_batch(self.db, BY, again.batch_id)
        self.assertEqual((len(made()), self.balance(made()[0])), (1, 50_000))  # the bank said so

    def test_where_two_balances_are_known_one_key_sets_the_opening_right(self):
        self.brings(PAST, self.today)
        self.assertEqual(len(self.brings(ofx("1977.70"), self.today, "a.ofx").differing), 1)
        openings.open_as_the_bank_says(self.db, BY, self.today)
        self.assertEqual((self.balance(self.today), self.opening()), (197_770, ("2026-03-01", 330_000)))
        with self.assertRaises(Conflict):
            openings.open_as_the_bank_says(self.db, BY, self.today)

    def test_an_opening_in_a_reconciled_statement_and_one_of_a_noted_value_stay(self):
        statement_id = checking.begin_statement(self.db, BY, self.today, TODAY, 200_000).made
        ids = [line.line_id for line in checking.check_page(self.db, self.today).check.items]
        checking.set_ticks(self.db, BY, statement_id, ids, ticked=True)
        checking.reconcile(self.db, BY, statement_id)
        with self.assertRaisesRegex(NotAllowed, "is in a reconciled statement"):
            openings.set_known(self.db, BY, self.today, TODAY, 5)
        self.spends(700, day=date(2026, 3, 3), account=self.today)
        self.assertEqual(self.balance(self.today), 199_300)
        with self.assertRaisesRegex(InvalidInput, "is noted by day"):
            openings.set_known(self.db, BY, self.an_account("Barge", "property"), TODAY, 5)


class Checked(HouseholdCase):
    """An account that is checked until the end of April, then a file over its days."""

    def setUp(self):
        super().setUp()
        self.spends(2_500, day=date(2026, 4, 10))
        statement_id = checking.begin_statement(self.db, BY, self.current, date(2026, 4, 30), 97_500).made
        ids = [line.line_id for line in checking.check_page(self.db, self.current).check.items]
        checking.set_ticks(self.db, BY, statement_id, ids, ticked=True)
        checking.reconcile(self.db, By(TODAY, "2026-05-01T09:00:00Z", 1), statement_id)

    FILE = b"Date,Payee,Amount\n2026-04-11,Grebe Street Grocer,-25.00\n2026-04-20,Quay Books,-9.00\n2026-05-02,Quay Books,-7.00\n"

    def brings(self, **answers):
        return bringing_in.import_file(self.db, BY, "april.csv", self.FILE, Answers(self.current, **answers))

    def checked_until(self):
        return accounts.get_account_state(self.db, self.current).checked_until

    def test_locked_lines_are_recognised_and_new_rows_in_checked_days_are_asked_about(self):
        done = self.brings()
        self.assertEqual((done.new, done.matched, done.asked, self.balance()), (1, 1, 1, 96_800))
        self.assertEqual(self.checked_until(), date(2026, 4, 30))
        again = self.brings()
        self.assertEqual((again.new, again.known, again.asked), (0, 3, 1))

    def test_brought_in_all_the_same_they_leave_the_statement_behind(self):
        done = self.brings(into_checked=True)
        self.assertEqual((done.new, done.matched, done.asked, self.balance()), (2, 1, 0, 95_900))
        self.assertIsNone(self.checked_until())
        undoing.undo_batch(self.db, BY, done.batch_id)
        self.assertEqual((self.checked_until(), self.balance()), (date(2026, 4, 30), 97_500))

    def test_left_out_by_hand_they_stay_left_out(self):
        for _ in range(2):
            batch_id = taking_in.take_in(self.db, BY, "april.csv", self.FILE, Answers(self.current)).batch_id
            asked = previewing.get_preview(self.db, batch_id).asked_checked
            previewing.decide_asked(self.db, batch_id, take=False)
            bringing_in.bring_in(self.db, BY, batch_id)
            undoing.undo_batch(self.db, BY, batch_id)
        self.assertEqual((asked, self.balance()), (0, 97_500))


class TheHousehold(HouseholdCase):
    def test_nonsense_is_refused_where_it_is_typed(self):
        for currency in ("quatsch", "QUA", ""):
            with self.subTest(currency), self.assertRaisesRegex(InvalidInput, "is no currency"):
                households.change_household(self.db, BY, "Quay Street", currency, "UTC")
        with self.assertRaisesRegex(InvalidInput, "is no currency"):
            self.an_account("Odd", currency="ZZZ")
        with self.assertRaisesRegex(InvalidInput, "Current begins on 2026-01-01; a statement of it cannot close before that."):
            checking.begin_statement(self.db, BY, self.current, date(1900, 1, 1), 0)
        checking.begin_statement(self.db, BY, self.current, date(2026, 1, 1), 0)

    def test_name_zone_and_members_change_and_the_currency_while_there_is_no_account(self):
        with self.assertRaisesRegex(InvalidInput, "stays EUR: accounts are kept in it already"):
            households.change_household(self.db, BY, "Quay Street", "SEK", "UTC")
        households.change_household(self.db, BY, "  The quay ", "eur", "Europe/Lisbon")
        made = households.put_member(self.db, BY, None, "Cy", 1990).made
        for name, year, sentence in (
            ("bo", None, "There is a bo already"),
            (" ", None, "Write a name"),
            ("Di", 1800, "four digits"),
        ):
            with self.subTest(name), self.assertRaisesRegex(InvalidInput, sentence):
                households.put_member(self.db, BY, made, name, year)
        changes.undo_step(self.db, BY, households.put_member(self.db, BY, made, "Cyrus").step_id)
        self.assertEqual(sessions.list_members(self.db)[-1], Member(made, "Cy", 1990))
        households.remove_member(self.db, BY, made)
        with self.assertRaisesRegex(Conflict, "Ana stands in entries, accounts or the journal"):
            households.remove_member(self.db, BY, 1)

    def test_the_currency_of_a_household_without_accounts_changes(self):
        for account_id in (self.current, self.reserve):
            ending.delete_account(self.db, BY, account_id, accounts.get_account(self.db, account_id).name)
        households.change_household(self.db, BY, "Quay Street", "jpy", "Asia/Tokyo")
        self.assertEqual(accounts.home_currency(self.db), "JPY")
