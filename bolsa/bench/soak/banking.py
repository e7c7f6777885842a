"""A household and its bank, with everything that goes wrong at one: faults come and go, files of the same days are brought in
between, days pass without a question. In the end all faults are mended, and the account must hold what the bank's own books
hold."""

import random
import re
import sqlite3
import tempfile
from collections import Counter
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

from bolsa.bench.identity.layouts import LAYOUTS, OPENING, Window
from bolsa.bench.identity.truth import FIRST, LAST, live
from bolsa.core.bringing.batch import RemoteAccount
from bolsa.errors import BolsaError
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.bringing import bringing_in, connections, previewing, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.changes import note
from bolsa.services.clock import By
from bolsa.services.house import files, households
from bolsa.services.house.households import Household
from bolsa.services.ledger import listing
from bolsa.services.outside import ConsentEnded, Request
from bolsa.stand_ins.bank.faults import answer_for
from bolsa.stand_ins.bank.pages import no_account_reply, ofx_reply
from bolsa.stand_ins.bank.state import BankAccount, BankRow
from bolsa.store.bringing import connections as kept

FAULTS = ("consent", "missing", "repeat", "sign", "pending", "pending-low", "pending-gone", "cut")
NUMBER = "PH70420001"
BY_FILE = tuple(name for name in LAYOUTS if name != "ofx")  # the connection tells in that one
HELD = """
    SELECT l.amount_minor, count(*) AS many FROM line l WHERE l.account_id = :id AND l.state <> 'pending'
    GROUP BY l.amount_minor"""


class Bank:
    """One account at an institution, by its own books, and what is switched to go wrong."""

    def __init__(self, seed: int):
        self.bookings = live(seed)
        rows = tuple(
            BankRow(one.booked, Decimal(one.amount_minor) / 100, one.shop.upper(), "", f"Q{one.number:06}")
            for one in self.bookings
        )
        self.account = BankAccount(NUMBER, "Current", "current", "EUR", Decimal(OPENING) / 100, rows)
        self.faults: frozenset[str] = frozenset()
        self.dice = random.Random(seed)  # noqa: S311 (no secret)

    def send(self, request: Request) -> bytes:
        """Answers as the institution does."""
        if "consent" in self.faults:
            raise ConsentEnded("The consent has ended. Renew it to go on; nothing that is here is lost.")
        body = (request.body or b"").decode()
        if "missing" in self.faults:
            return no_account_reply("1").encode()
        days = {tag: date.fromisoformat(found) for tag, found in re.findall(r"<(DTSTART|DTCLIENT)>(\d{8})", body)}
        first, today = days["DTSTART"], days["DTCLIENT"]
        reply = ofx_reply(self.account, answer_for(self.account, self.faults, first, today), first, today, "1").encode()
        return reply[: self.dice.randrange(len(reply))] if "cut" in self.faults else reply


def live_with_a_bank(seed: int) -> str:
    """Lives three months with a bank; gives what is wrong in the end, "" if nothing is."""
    dice, bank = random.Random(seed), Bank(seed)  # noqa: S311 (no secret)
    with tempfile.TemporaryDirectory() as folder, closing(files.make_file(Path(folder) / "a.bolsa")) as db:
        by = By(FIRST, f"{FIRST}T10:00:00Z", 1)
        households.make_household(db, by, Household("Banked", "EUR", "UTC", FIRST), ["Ada"], starter="")
        new = NewAccount("Current", "current", opened_on=FIRST - timedelta(days=9), opening_minor=OPENING)
        account_id = accounts.add_account(db, by, new).made
        with note(db):
            bank_id = kept.insert_connection(db, "Halden Mutual", "http://127.0.0.1/halden", "token")
            kept.put_remote_account(db, RemoteAccount(0, bank_id, NUMBER, "Current", "current", "EUR", account_id))
        day = FIRST + timedelta(days=dice.randrange(3, 12))
        while day <= LAST + timedelta(days=8):
            by = replace(by, today=day, at=f"{day}T10:00:00Z")
            bank.faults = frozenset(dice.sample(FAULTS, dice.choice((0, 0, 1, 2))))
            if dice.random() < 0.25:
                _bring_a_file(db, by, account_id, bank, dice)
            _ask(db, by, account_id, bank_id, bank, dice)
            day += timedelta(days=dice.choice((1, 2, 4, 7, 7, 12)))
        bank.faults = frozenset()
        for _ in range(2):
            by = replace(by, today=day, at=f"{day}T10:00:00Z")
            _ask(db, by, account_id, bank_id, bank, None)
            day += timedelta(days=1)
        return _compared(db, account_id, bank)


def _ask(db: sqlite3.Connection, by: By, account_id: int, bank_id: int, bank: Bank, dice: random.Random | None) -> None:
    """Asks the bank, decides what is doubtful as a careful person does, and brings it in, or puts it aside, or takes it out
    again."""
    try:
        done = connections.download(db, by, bank_id, bank.send)
    except BolsaError:
        with note(db):  # the consent is given anew
            kept.change_connection(db, replace(kept.get_connection(db, bank_id), state="working", token="again"))  # noqa: S106 (no secret)
        return
    if done.batch_id is None:
        return
    shown = previewing.get_preview(db, done.batch_id)
    brings = Counter(row.amount_minor for row in shown.rows if row.take and row.verdict == "new")
    for one in shown.changed_here:
        if one.is_curable:
            previewing.overrule(db, done.batch_id, one.row_id, "correct")
    for row in shown.rows:
        if row.take and row.verdict == "suspicious":
            previewing.overrule(db, done.batch_id, row.id, "leave")
        elif row.verdict == "suspicious":
            lacks = _true(bank)[row.amount_minor] > _held(db, account_id)[row.amount_minor] + brings[row.amount_minor]
            brings[row.amount_minor] += lacks
            previewing.overrule(db, done.batch_id, row.id, "bring" if lacks else "leave")
        elif row.verdict == "vanished" and not row.take:
            previewing.overrule(db, done.batch_id, row.id, "drop")
    if dice is not None and dice.random() < 0.15:
        previewing.discard(db, done.batch_id)
        return
    bringing_in.bring_in(db, by, done.batch_id)
    if dice is not None and dice.random() < 0.1:
        undoing.undo_batch(db, by, done.batch_id)


def _bring_a_file(db: sqlite3.Connection, by: By, account_id: int, bank: Bank, dice: random.Random) -> None:
    """Brings in some days of the same account as a file of another layout."""
    last = min(by.today - timedelta(days=1), LAST)
    first = last - timedelta(days=dice.randrange(5, 40))
    told = [one for one in bank.bookings if first <= one.booked <= last]
    before = sum(one.amount_minor for one in bank.bookings if one.booked < first)
    name = dice.choice(BY_FILE)
    if told:
        window = Window(first, last, told, (), OPENING + before, dice.randrange(10**6))
        bringing_in.import_file(db, by, f"a.{name}", LAYOUTS[name](window), Answers(account_id))


def _held(db: sqlite3.Connection, account_id: int) -> Counter[int]:
    return Counter({row["amount_minor"]: row["many"] for row in db.execute(HELD, {"id": account_id})})


def _true(bank: Bank) -> Counter[int]:
    return Counter(int(row.amount * 100) for row in bank.account.rows) + Counter([OPENING])


def _compared(db: sqlite3.Connection, account_id: int, bank: Bank) -> str:
    held, true = _held(db, account_id), _true(bank)
    extra, lost = held - true, true - held
    breaches = [f"{one.promise}: {one.row}" for one in listing.check(db)]
    if extra or lost or breaches:
        return f"too many: {dict(extra)}, lost: {dict(lost)} {'; '.join(breaches)}"
    return ""
