"""A household in which every form of every page has something to do: the demo's, with a check begun, files that wait, a full
trash, a closed account, and one of everything that can be made."""

from contextlib import closing
from dataclasses import replace
from datetime import date
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from bolsa.core.ahead.plan import Plan
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.due.rhythm import Rhythm
from bolsa.core.holdings.security import Security
from bolsa.services.accounts import accounts, ending
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.ahead import plans
from bolsa.services.bringing import bringing_in, judging, taking_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import expecting
from bolsa.services.checking import checking
from bolsa.services.clock import By
from bolsa.services.due import keeping, reminding
from bolsa.services.holdings import securities
from bolsa.services.house import files, households, sessions
from bolsa.services.ledger import attaching, entries, registers
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.sorting import categories as changing
from bolsa.store.budget import budget
from bolsa.store.house import household
from bolsa.store.sorting import categories
from tests.demo_file import demo_file
from tests.formats.test_ofx import ofx
from tests.services.household import picture
from tests.services.test_first_hour import ofx as first_file

BY = By(date(2026, 5, 14), "2026-05-14T10:00:00Z", 1)
DEPOT = (
    b"Depot HD20881\nTrade date;Type;Security;Quantity;Price;Fee;Net amount;Currency\n"
    b"04.05.2026;Buy;Tern;12;32,20;1,50;-387,90;USD\n05.05.2026;Sell;Tern;-3,5;49,00;0,50;171,00;USD\n"
)
PAGES = (
    "/books/1", "/books/2", "/books/1/check", "/books/2/check", "/books/5/check", "/books/bring-in", "/house", "/due", "/due/new",
    "/holdings/trades/1", "/holdings/securities/1", "/holdings/securities/2", "/ahead/1", "/ahead/2", "/debts", "/books/rates",
    "/books/connect", "/pay", "/budget/year", "/house/household", "/holdings/mix/1", "/ahead/1/mends",
    "/budget/end?month=2026-03",
)  # fmt: skip


@cache
def lived_in() -> tuple[bytes, tuple[str, ...]]:
    """The file, and the addresses of pages with forms in it."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "a.bolsa"
        path.write_bytes(demo_file())
        with closing(files.make_file(path)) as db:
            pages = _live(db)
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        return path.read_bytes(), (*PAGES, *pages)


def _live(db) -> list[str]:
    pages = []
    entries.record_entry(db, BY, 1, TypedEntry(date(2026, 5, 12), "Boatyard", -995))
    fresh = accounts.add_account(db, BY, NewAccount("Fresh", "current", opening_minor=1_000, number="FR1")).made
    bringing_in.import_file(db, BY, "f.ofx", first_file("90.00", "FR1"), Answers(fresh))
    household.insert_sitting(db, BY.at, BY.today, 1, 0, None)  # begun, and nothing carried by it
    sessions.secret_key(db)
    known = [accounts.get_account(db, 1), accounts.get_account(db, 2)]
    rows = "".join(f"2026-04-{day:02},Quay Books,-{day}.50\n" for day in range(10, 16)) + "2026-05-12,Quay Books,-9.90\n"
    table = f"Date,Payee,Amount\n{rows}".encode()
    for content, name, answers in (
        (table, "april.csv", Answers(1)), (table.replace(b"Quay", b"Odd"), "odd.csv", Answers()),
        (ofx(account="<ACCTID>QX-7").encode(), "new.ofx", Answers()), (DEPOT, "depot.csv", Answers(14)),
    ):  # fmt: skip
        batch_id = taking_in.take_in(db, BY, name, content, answers).batch_id
        pages.append(f"/books/bring-in/{batch_id}")
        rows_of = "SELECT id FROM brought_row WHERE batch_id = ? AND take = 1 LIMIT 1"
        pages += [f"/books/bring-in/{batch_id}/row/{row_id}/candidates" for (row_id,) in db.execute(rows_of, (batch_id,))]
    typed = entries.record_entry(db, BY, 1, TypedEntry(date(2026, 5, 11), "Quay Books", -1_290)).made
    bringing_in.import_file(db, BY, "m.csv", b"Date,Payee,Amount\n2026-05-11,Quay Books,-12.90\n", Answers(1))
    # Brought in again as an earlier version did, to which every row of another layout was new.
    again = b"Datum;Shop;Betrag\n11.05.2026;Quay Books;-12,90\n"
    with mock.patch.object(judging, "judge_rows", lambda rows, *_: [Verdict("new", True)] * len(rows)):
        bringing_in.import_file(db, BY, "again.csv", again, Answers(1))
    pages.append("/books/bring-in/duplicates")
    attaching.attach(db, BY, typed, "bill.png", picture())
    attaching.attach_to_trade(db, BY, 1, "advice.png", picture((9, 9)))
    gone = entries.record_entry(db, BY, 1, TypedEntry(date(2026, 5, 11), "Gone", -500)).made
    entries.delete_entry(db, BY, gone)
    registers.save_filter(db, BY, "Books", f"/books/{known[0].id}?q=quay")
    closed = accounts.add_account(db, BY, NewAccount("Closed", "current")).made
    ending.close_account(db, BY, closed, BY.today)
    reminding.add_reminder(db, BY, date(2026, 5, 20), "Call the yard")
    pay_in = keeping.TypedSeries("Gallery", 1, Rhythm("FREQ=MONTHLY", date(2026, 1, 9)), 40_000, category_id=_income(db))
    pages.append(f"/pay/new/{keeping.add_series(db, BY, pay_in).made}")
    entries.record_entry(db, BY, 1, TypedEntry(date(2026, 3, 20), "Late receipt", -700))  # into a closed month
    _leave_to_plan(db)
    bare = securities.add_security(db, BY, Security(0, "Bare Paper", "", currency="EUR", kind="bond")).made
    securities.set_price(db, BY, bare, date(2026, 5, 1), 10**10)
    pages.append(f"/holdings/securities/{bare}")
    plan: Plan = plans.get_case(db, 1).plan
    plans.add_case(db, BY, "Another", replace(plan))
    checking.begin_statement(db, BY, 2, date(2026, 5, 14), accounts.get_account_state(db, 2).cleared_minor)
    checking.begin_statement(db, BY, 1, date(2026, 5, 14), 1_000_000)
    households.put_member(db, BY, None, "Guest")
    for account_id, amount in ((1, -4_321), (2, 4_321)):
        entries.record_entry(db, BY, account_id, TypedEntry(date(2026, 5, 13), "Transfer", amount))
    pages += ["/", "/sort", f"/books/{fresh}", f"/books/accounts/{fresh}/edit"]
    return [*pages, f"/entries/{typed}", f"/books/accounts/{closed}/edit", f"/books/accounts/{closed}/end", f"/books/{closed}"]


def _income(db) -> int:
    return db.execute("SELECT id FROM category WHERE type = 'income' AND role IS NULL LIMIT 1").fetchone()["id"]


def _leave_to_plan(db) -> None:
    """A category nothing is expected of, and one kept out of the budget."""
    bike, odd = (categories.find_category_named(db, name) for name in ("Cargo bike", "Unexplained"))
    for month in budget.list_expected_of(db, bike.id)[0]:
        expecting.set_expected(db, BY, bike.id, month, None)
    changing.change_category(db, BY, odd.id, odd.group, in_budget=False)
