"""Measuring Bolsa: each figure as a time, as a ratio to the least that does the same work, and as growth with the household.

Everything is measured in one run on one machine, so that the ratios mean something where the times do not. Households are
generated with the same five years. The last two months hold the same entries at every size, the years before ever more, so
that growth shows what history costs a page of the present.
"""

import csv
import io
import json
import random
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from bolsa.core.checking.check import Check, OpenItem
from bolsa.core.checking.suspects import Evidence, find_suspects
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.months import Month
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import budgeting
from bolsa.services.clock import By
from bolsa.services.house import files, households, past
from bolsa.services.house.households import Household
from bolsa.services.ledger import finding, registers
from bolsa.services.ledger.registers import RegisterFilter
from bolsa.services.sorting import categories, sorting
from bolsa.services.today import sittings
from bolsa.services.worth import worth

FIRST, LAST = date(2021, 6, 1), date(2026, 5, 31)
PAYEES, CATEGORIES = 400, 40
RECENT, RECENT_ENTRIES = date(2026, 4, 1), 1_500
IMPORT_ROWS = 20_000
UNSORTED_ROWS = 1_000
ROUNDS = 7


@dataclass(frozen=True)
class Figure:
    """One measured thing at one size: milliseconds (the middle of several), and times the floor's."""

    name: str
    size: int
    ms: float
    ratio: float | None
    unit: str = "ms"


def run(sizes: list[int], *, as_json: bool) -> None:
    """Measures every size and prints the figures, then how each grew from the smallest to the largest."""
    figures: list[Figure] = []
    with tempfile.TemporaryDirectory() as folder:
        for size in sizes:
            path = Path(folder) / f"{size}.bolsa"
            with closing(files.make_file(path)) as db:
                by = build(db, size)
                figures += measure(db, by, size)
            if not as_json:
                for figure in figures[-len(MEASURES) :]:
                    ratio = f"{figure.ratio:6.1f} × the floor" if figure.ratio else ""
                    print(f"{size:>8,} entries  {figure.name:<34} {figure.ms:>10,.1f} {figure.unit:<7} {ratio}", flush=True)
    growth = _growth(figures, sizes)
    if as_json:
        print(json.dumps({"figures": [vars(f) for f in figures], "growth": growth}))
        return
    if len(sizes) > 1:
        print(f"\nGrowth from {sizes[0]:,} to {sizes[-1]:,} entries")
        for name, times in growth.items():
            print(f"  {name:<34} {times:5.2f} ×")


def _growth(figures: list[Figure], sizes: list[int]) -> dict[str, float]:
    by_key = {(f.name, f.size): f.ms for f in figures if f.unit == "ms"}
    names = dict.fromkeys(name for name, _ in by_key)
    return {name: round(by_key[name, sizes[-1]] / by_key[name, sizes[0]], 2) for name in names}


def build(db: sqlite3.Connection, size: int) -> By:
    """A household of so many entries over five years, deterministic, in six everyday accounts."""
    dice = random.Random(size)  # noqa: S311 (made-up entries)
    by = By(LAST, f"{LAST}T12:00:00Z")
    households.make_household(db, by, Household("Bench", "EUR", "UTC", LAST), ["Ada"], with_starter=False)
    category_ids = [categories.add_category(db, by, f"Group {i // 8}", f"Category {i}").made for i in range(CATEGORIES)]
    account_ids = [accounts.add_account(db, by, NewAccount(f"Account {i}", "current", opened_on=FIRST)).made for i in range(6)]
    past_days = (RECENT - FIRST).days
    written = []
    for i in range(size):
        earlier = size - RECENT_ENTRIES
        day = FIRST + timedelta(days=i * past_days // earlier) if i < earlier else RECENT + timedelta(days=(i - earlier) % 60)
        category = 1 if i >= size - UNSORTED_ROWS else dice.choice(category_ids)
        amount = -dice.randint(100, 20_000)
        # Most of it lies in one account, as in life: that is the register that must stay quick.
        account = account_ids[0] if dice.random() < 0.7 else dice.choice(account_ids)
        line = Line(amount, "EUR", account_id=account, day=day, state="cleared")
        written.append(Entry(day, f"Payee {dice.randrange(PAYEES)}", (line, Line(-amount, "EUR", category_id=category, day=day))))
        if len(written) == 50_000:
            past.record_history(db, written)
            written = []
    past.record_history(db, written)
    past.record_plan(db, [(c, Month.of(FIRST), 10_000) for c in category_ids], [])
    return by


def _median_ms(work: Callable[[], object]) -> float:
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


def measure(db: sqlite3.Connection, by: By, size: int) -> list[Figure]:
    """Every measure of the table, at this size."""
    return [Figure(name, size, *measured(db, by)) for name, measured in MEASURES.items()]


def _against(work: Callable[[], object], floor: Callable[[], object]) -> tuple[float, float]:
    ms = _median_ms(work)
    return ms, ms / max(_median_ms(floor), 1e-6)


def register_page(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """The first page of the largest register, against the bare SELECT of its rows."""
    sql = "SELECT id, entry_id, day, amount_minor FROM line WHERE account_id = 1 ORDER BY day DESC, id DESC LIMIT 80"
    return _against(lambda: registers.list_page(db, by, 1, RegisterFilter()), lambda: db.execute(sql).fetchall())


def register_deep(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """A page in the middle of the largest register, against the same SELECT from the same key."""
    day = (FIRST + (LAST - FIRST) / 2).isoformat()
    key = json.dumps([day, 0])
    sql = (
        "SELECT id, entry_id, day, amount_minor FROM line WHERE account_id = 1 AND day < :day ORDER BY day DESC, id DESC LIMIT 80"
    )
    return _against(
        lambda: registers.list_page(db, by, 1, RegisterFilter(), after=key), lambda: db.execute(sql, {"day": day}).fetchall()
    )


def register_by_payee(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by payee."""
    return _median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="payee")), None


def register_by_category(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by category, as by tag, member or state."""
    return _median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="category")), None


def register_by_bank_text(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by what the bank sent, which no index serves."""
    return _median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="bank")), None


def register_by_balance(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by running balance, which is counted over all lines."""
    return _median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="balance")), None


def _page(db: sqlite3.Connection, by: By, **wanted: object) -> float:
    return _median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(**wanted)))


def register_word_nowhere(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """A word that is nowhere in the largest register."""
    return _page(db, by, text="nowhere"), None


def register_rare_word(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Words that one payee in four hundred has."""
    return _page(db, by, text="payee 399"), None


def register_common_word(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """A word every line of the register has."""
    return _page(db, by, text="payee"), None


def register_filters(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """A category, an amount range and a range of days together."""
    days = {"first_day": date(2022, 1, 1), "last_day": date(2024, 12, 31)}
    return _page(db, by, category_id=8, least_minor=5_000, most_minor=5_400, **days), None


def find_typing(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Find across everything, as after the third letter of a word every entry has."""
    return _median_ms(lambda: finding.find_everything(db, "pay")), None


def find_amount(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Find across everything by an amount."""
    return _median_ms(lambda: finding.find_everything(db, "123.45")), None


def suspects_of_400(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The suspects of a statement with four hundred open lines, half of them not ticked, and a difference no line explains."""
    dice = random.Random(400)  # noqa: S311 (made-up lines)
    lines = tuple(
        OpenItem(i, i, LAST - timedelta(days=i % 60), -dice.randint(100, 30_000), f"Payee {i % 50}", i % 2 == 0)
        for i in range(400)
    )  # fmt: skip
    check = Check(0, sum(line.amount_minor for line in lines if line.ticked) - 12_345_678, lines)
    return _median_ms(lambda: find_suspects(check, Evidence(), "EUR")), None


def budget_month(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """The budget of the present month, against the bare sums by category of that month."""
    sql = (
        "SELECT category_id, sum(amount_minor) FROM line "
        "WHERE category_id IS NOT NULL AND day BETWEEN '2026-05-01' AND '2026-05-31' GROUP BY category_id"
    )
    return _against(lambda: budgeting.budget_view(db, by, Month(2026, 5)), lambda: db.execute(sql).fetchall())


def net_worth(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """Two years of net worth, against the bare sum of all account lines by account and month."""
    sql = "SELECT account_id, substr(day, 1, 7), sum(amount_minor) FROM line WHERE account_id IS NOT NULL GROUP BY 1, 2"
    return _against(lambda: worth.worth_view(db, Month(2026, 5)), lambda: db.execute(sql).fetchall())


def today(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Everything Today shows."""
    return _median_ms(lambda: sittings.today_view(db, by, Month(2026, 5))), None


def books(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Every account with its balance, what the bank says, and its difference."""
    return _median_ms(lambda: accounts.account_groups(db)), None


def suggestions(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Piles and suggestions for a thousand unsorted entries."""
    return _median_ms(lambda: sorting.what_to_sort(db)), None


def _import(db: sqlite3.Connection, by: By, name: str, content: bytes) -> tuple[float, float, str]:
    """Lines a second from a file to entries in the books, against csv.reader over as many rows."""
    start = time.perf_counter()
    bringing_in.import_file(db, by, name, content, Answers(2))
    seconds = time.perf_counter() - start
    start = time.perf_counter()
    list(csv.reader(io.StringIO(_csv("2000").decode())))
    floor = time.perf_counter() - start
    return IMPORT_ROWS / seconds, seconds / floor, "lines/s"


def _rows(year: str) -> Iterator[tuple[date, str, str]]:
    """A year of rows: day, payee, amount. Each format brings a year of its own, so that none is known already."""
    for i in range(IMPORT_ROWS):
        yield date(int(year), 1, 1) + timedelta(days=i % 300), f"Shop {i % 977}", f"-{i % 900}.{i % 90 + 10}"


def _csv(year: str) -> bytes:
    return "\n".join(["Date,Payee,Amount", *(f"{day},{payee},{amount}" for day, payee, amount in _rows(year))]).encode()


def import_csv(db: sqlite3.Connection, by: By) -> tuple[float, float, str]:
    return _import(db, by, "bench.csv", _csv("2010"))


def import_ofx(db: sqlite3.Connection, by: By) -> tuple[float, float, str]:
    rows = "".join(
        f"<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>{day:%Y%m%d}<TRNAMT>{amount}<FITID>{i}<NAME>{payee}</STMTTRN>\n"
        for i, (day, payee, amount) in enumerate(_rows("2011"))
    )
    head = "OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1"
    text = f"{head}</BANKACCTFROM><BANKTRANLIST>{rows}</BANKTRANLIST></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
    return _import(db, by, "bench.ofx", text.encode())


def import_camt(db: sqlite3.Connection, by: By) -> tuple[float, float, str]:
    rows = "".join(
        f"<Ntry><Amt Ccy='EUR'>{amount[1:]}</Amt><CdtDbtInd>DBIT</CdtDbtInd><Sts>BOOK</Sts><BookgDt><Dt>{day}</Dt></BookgDt>"
        f"<AddtlNtryInf>{payee}</AddtlNtryInf></Ntry>\n"
        for day, payee, amount in _rows("2012")
    )
    space = "urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"
    text = f"<Document xmlns='{space}'><BkToCstmrStmt><Stmt><Acct><Ccy>EUR</Ccy></Acct>{rows}</Stmt></BkToCstmrStmt></Document>"
    return _import(db, by, "bench.xml", text.encode())


def import_mt940(db: sqlite3.Connection, by: By) -> tuple[float, float, str]:
    rows = "".join(
        f":61:{day:%y%m%d}{day:%m%d}D{amount[1:].replace('.', ',')}NTRFNONREF\n:86:{payee}\n"
        for day, payee, amount in _rows("2013")
    )
    text = f":20:BENCH\n:25:1\n:28C:1\n:60F:C130101EUR0,00\n{rows}-\n"
    return _import(db, by, "bench.sta", text.encode())


MEASURES: dict[str, Callable] = {
    "register, first page": register_page,
    "register, page in the middle": register_deep,
    "register, by payee": register_by_payee,
    "register, by category": register_by_category,
    "register, by bank text": register_by_bank_text,
    "register, by balance": register_by_balance,
    "register, a word not there": register_word_nowhere,
    "register, a rare word": register_rare_word,
    "register, a word everywhere": register_common_word,
    "register, three filters": register_filters,
    "find, three letters": find_typing,
    "find, an amount": find_amount,
    "suspects of 400 lines": suspects_of_400,
    "budget month": budget_month,
    "net worth, two years": net_worth,
    "books": books,
    "Today": today,
    "suggestions for 1,000": suggestions,
    "import of CSV": import_csv,
    "import of OFX": import_ofx,
    "import of camt": import_camt,
    "import of MT940": import_mt940,
}
