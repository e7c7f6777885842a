"""What bringing in costs: lines a second from a file to entries in the books, against bare SQL that inserts the same entries and
lines into the same two tables with the same indexes (that of words too) and references, and does nothing else: no reading, no
comparing, no rows kept as the bank sent them, no triggers, no totals."""

import sqlite3
import statistics
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import date, timedelta
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

from bolsa.bench.timing import seconds
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.clock import By
from bolsa.services.house import files

IMPORT_ROWS = 10_000
IMPORT_ROUNDS = 5
NAMED = ("payee", "batch")  # what entries refer to, there before the clock runs
TIMED = ("entry", "line")


def _import(db: sqlite3.Connection, by: By, first_year: int, make_file: Callable[[int], bytes]) -> tuple[float, float, str]:
    """Lines a second, and how many times bare SQL's time. Each round brings a year of its own, so that none is known already."""
    times = []
    with TemporaryDirectory() as folder, closing(_bare_copy(db, Path(folder) / "bare.bolsa")) as bare:
        for year in range(first_year, first_year + IMPORT_ROUNDS):
            content = make_file(year)
            last = {table: _last_id(db, table) for table in NAMED + TIMED}
            took = seconds(partial(bringing_in.import_file, db, by, "bench", content, Answers(2)))
            made = {table: _rows_after(db, table, id_) for table, id_ in last.items()}
            _insert(bare, {table: made[table] for table in NAMED})
            times.append((took, seconds(partial(_insert_timed, bare, made, last["line"]))))
    ratio = statistics.median(ours / least for ours, least in times)  # of each round, so that a slow moment slows both
    return IMPORT_ROWS / statistics.median(ours for ours, _ in times), ratio, "lines/s"


def _last_id(db: sqlite3.Connection, table: str) -> int:
    return db.execute(f"SELECT coalesce(max(id), 0) FROM {table}").fetchone()[0]


def _rows_after(db: sqlite3.Connection, table: str, id_: int) -> list[tuple]:
    return [tuple(row) for row in db.execute(f"SELECT * FROM {table} WHERE id > :id ORDER BY id", {"id": id_})]


def _bare_copy(db: sqlite3.Connection, path: Path) -> sqlite3.Connection:
    """A copy of the household without its triggers."""
    bare = files.make_file(path)
    db.backup(bare)
    for row in bare.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'").fetchall():
        bare.execute(f"DROP TRIGGER {row['name']}")
    return bare


def _insert_timed(bare: sqlite3.Connection, made: dict[str, list[tuple]], last_line: int) -> None:
    """One transaction with the entries, their lines, and the lines' words in their index."""
    bare.execute("BEGIN IMMEDIATE")
    _insert(bare, {table: made[table] for table in TIMED})
    bare.execute(WORDS, {"last": last_line})
    bare.execute("COMMIT")


def _insert(bare: sqlite3.Connection, rows: dict[str, list[tuple]]) -> None:
    for table, values in rows.items():
        if values:
            bare.executemany(f"INSERT INTO {table} VALUES ({', '.join('?' * len(values[0]))})", values)


WORDS = """
    INSERT INTO line_text (rowid, words) SELECT l.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || l.raw_text
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.id > :last AND l.account_id IS NOT NULL"""


def _rows(year: int) -> Iterator[tuple[date, str, str]]:
    """A year of rows: day, payee, amount. Each format brings a year of its own, so that none is known already."""
    for i in range(IMPORT_ROWS):
        yield date(year, 1, 1) + timedelta(days=i % 300), f"Shop {i % 977}", f"-{i % 900}.{i % 90 + 10}"


def _csv(year: int) -> bytes:
    return "\n".join(["Date,Payee,Amount", *(f"{day},{payee},{amount}" for day, payee, amount in _rows(year))]).encode()


def _ofx(year: int) -> bytes:
    rows = "".join(
        f"<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>{day:%Y%m%d}<TRNAMT>{amount}<FITID>{i}<NAME>{payee}</STMTTRN>\n"
        for i, (day, payee, amount) in enumerate(_rows(year))
    )
    head = "OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1"
    text = f"{head}</BANKACCTFROM><BANKTRANLIST>{rows}</BANKTRANLIST></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
    return text.encode()


def _camt(year: int) -> bytes:
    rows = "".join(
        f"<Ntry><Amt Ccy='EUR'>{amount[1:]}</Amt><CdtDbtInd>DBIT</CdtDbtInd><Sts>BOOK</Sts><BookgDt><Dt>{day}</Dt></BookgDt>"
        f"<AddtlNtryInf>{payee}</AddtlNtryInf></Ntry>\n"
        for day, payee, amount in _rows(year)
    )
    space = "urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"
    text = f"<Document xmlns='{space}'><BkToCstmrStmt><Stmt><Acct><Ccy>EUR</Ccy></Acct>{rows}</Stmt></BkToCstmrStmt></Document>"
    return text.encode()


def _mt940(year: int) -> bytes:
    rows = "".join(
        f":61:{day:%y%m%d}{day:%m%d}D{amount[1:].replace('.', ',')}NTRFNONREF\n:86:{payee}\n"
        for day, payee, amount in _rows(year)
    )
    text = f":20:BENCH\n:25:1\n:28C:1\n:60F:C130101EUR0,00\n{rows}-\n"
    return text.encode()


MEASURES: dict[str, Callable] = {
    "import of CSV": lambda db, by: _import(db, by, 1980, _csv),
    "import of OFX": lambda db, by: _import(db, by, 1990, _ofx),
    "import of camt": lambda db, by: _import(db, by, 2000, _camt),
    "import of MT940": lambda db, by: _import(db, by, 2010, _mt940),
}
