"""A household with two banks, and everything that goes wrong at one: faults come and go, files of the same days are brought in
between, days pass without a question, transfers between the banks are joined, parted and undone. In the end all faults are
mended, and each account must hold what its own bank's books hold."""

import random
import re
import sqlite3
import tempfile
from collections import Counter
from collections.abc import Sequence
from contextlib import closing, suppress
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

from bolsa.bench.identity.layouts import LAYOUTS, OPENING, Window
from bolsa.bench.identity.truth import FIRST, LAST, Booking, live
from bolsa.core.bringing.batch import RemoteAccount
from bolsa.errors import BolsaError
from bolsa.services import changes
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
from bolsa.services.sorting import transferring
from bolsa.services.sorting.sorting import what_to_sort
from bolsa.stand_ins.bank.faults import answer_for
from bolsa.stand_ins.bank.pages import no_account_reply, ofx_reply
from bolsa.stand_ins.bank.state import BankAccount, BankRow
from bolsa.store.bringing import connections as kept

FAULTS = ("consent", "missing", "repeat", "sign", "pending", "pending-low", "pending-gone", "cut")
BY_FILE = tuple(name for name in LAYOUTS if name != "ofx")  # the connection tells in that one
OFTEN, NOW_AND_THEN, RARELY = 0.4, 0.15, 0.1  # how likely the person does something between two questions
TRANSFERS = 7
HELD = """
    SELECT l.amount_minor, count(*) AS many FROM line l WHERE l.account_id = :id AND l.state <> 'pending'
    GROUP BY l.amount_minor"""


class Bank:
    """One account at an institution, by its own books, and what is switched to go wrong."""

    def __init__(self, name: str, number: str, bookings: Sequence[Booking], seed: int):
        self.name, self.number = name, number
        self.bookings = sorted(bookings, key=lambda one: (one.booked, one.number))
        rows = tuple(
            BankRow(one.booked, Decimal(one.amount_minor) / 100, one.shop.upper(), "", f"Q{one.number:06}")
            for one in self.bookings
        )
        self.account = BankAccount(number, "Current", "current", "EUR", Decimal(OPENING) / 100, rows)
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


@dataclass
class Linked:
    """A bank as the household is connected to it."""

    bank: Bank
    account_id: int
    connection_id: int


def found_banks(seed: int) -> tuple[Bank, Bank]:
    """Two banks, one for every day and one for savings, whose books both tell of the transfers between them."""
    dice = random.Random(seed)  # noqa: S311 (no secret)
    daily = live(seed)
    other = [one for one in live(seed + 100_000) if dice.random() < 0.25]
    for number in range(TRANSFERS):
        sent = FIRST + timedelta(days=dice.randrange((LAST - FIRST).days - 4))
        sent += timedelta(days=(7 - sent.weekday()) if sent.weekday() > 4 else 0)
        arrived = sent + timedelta(days=dice.choice((0, 0, 1, 2)))
        amount = dice.choice((5_000, 10_000, 10_000, 25_000, dice.randint(1_000, 60_000))) * dice.choice((1, 1, -1))
        daily.append(Booking(9_000 + number, sent, sent, -amount, "Transfer Skerry Savings", is_card=False))
        other.append(Booking(9_500 + number, arrived, arrived, amount, "Transfer Halden Current", is_card=False))
    return Bank("Halden Mutual", "PH70420001", daily, seed), Bank("Skerry Savings Union", "PH81530002", other, seed + 1)


def live_with_two_banks(seed: int) -> str:
    """Lives three months with two banks; gives what is wrong in the end, "" if nothing is."""
    dice = random.Random(seed)  # noqa: S311 (no secret)
    with tempfile.TemporaryDirectory() as folder, closing(files.make_file(Path(folder) / "a.bolsa")) as db:
        by = By(FIRST, f"{FIRST}T10:00:00Z", 1)
        households.make_household(db, by, Household("Banked", "EUR", "UTC", FIRST), ["Ada"], starter="")
        linked = [_link(db, by, bank) for bank in found_banks(seed)]
        day = FIRST + timedelta(days=dice.randrange(3, 12))
        while day <= LAST + timedelta(days=8):
            by = replace(by, today=day, at=f"{day}T10:00:00Z")
            for one in dice.sample(linked, dice.choice((1, 2, 2))):
                one.bank.faults = frozenset(dice.sample(FAULTS, dice.choice((0, 0, 1, 2))))
                if dice.random() < NOW_AND_THEN:
                    _bring_a_file(db, by, one, dice)
                _ask(db, by, one, dice)
            _handle_transfers(db, by, [one.account_id for one in linked], dice)
            day += timedelta(days=dice.choice((1, 2, 4, 7, 7, 12)))
        for one in (*linked, *linked):
            one.bank.faults = frozenset()
            by = replace(by, today=day, at=f"{day}T10:00:00Z")
            _ask(db, by, one, None)
            day += timedelta(days=1)
        breaches = [f"{one.promise}: {one.row}" for one in listing.check(db)]
        return "; ".join([*filter(None, (_compared(db, one) for one in linked)), *breaches])


def _link(db: sqlite3.Connection, by: By, bank: Bank) -> Linked:
    new = NewAccount(bank.name, "current", opened_on=FIRST - timedelta(days=9), opening_minor=OPENING)
    account_id = accounts.add_account(db, by, new).made
    with note(db):
        bank_id = kept.insert_connection(db, bank.name, "http://127.0.0.1/halden", "token")
        kept.put_remote_account(db, RemoteAccount(0, bank_id, bank.number, "Current", "current", "EUR", account_id))
    return Linked(bank, account_id, bank_id)


def _handle_transfers(db: sqlite3.Connection, by: By, account_ids: Sequence[int], dice: random.Random) -> None:
    """Joins what Sort proposes, says of a half where the other goes, parts a transfer, or undoes the latest step."""
    with suppress(BolsaError):
        if dice.random() < OFTEN:
            for pair in what_to_sort(db).transfers:
                if not pair.fee_minor:
                    transferring.merge_transfer(db, by, pair.out.entry_id, pair.into.entry_id)
    with suppress(BolsaError):
        if dice.random() < NOW_AND_THEN:
            halves = [e for pile in what_to_sort(db).piles for e in pile.entries if "transfer" in e.payee.casefold()]
            for entry in halves[:1]:
                (far,) = set(account_ids) - {entry.account_id}
                transferring.file_as_transfer(db, by, [entry.entry_id], far)
    with suppress(BolsaError):
        joined = transferring.list_joined(db, FIRST, by.today) if dice.random() < RARELY else []
        if joined:
            transferring.part_transfer(db, by, dice.choice(joined).entry_id)
    with suppress(BolsaError):
        latest = changes.list_steps(db, most=1)[0]
        if dice.random() < RARELY and "account" not in latest.sentence:
            changes.undo_step(db, by, latest.id)


def _ask(db: sqlite3.Connection, by: By, linked: Linked, dice: random.Random | None) -> None:
    """Asks the bank, decides what is doubtful as a careful person does, and brings it in, or puts it aside, or takes it out
    again."""
    bank_id, account_id, bank = linked.connection_id, linked.account_id, linked.bank
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
            lacks = _true(bank, by.today)[row.amount_minor] > _held(db, account_id)[row.amount_minor] + brings[row.amount_minor]
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


def _bring_a_file(db: sqlite3.Connection, by: By, linked: Linked, dice: random.Random) -> None:
    """Brings in some days of the same account as a file of another layout."""
    last = min(by.today - timedelta(days=1), LAST)
    first = last - timedelta(days=dice.randrange(5, 40))
    told = [one for one in linked.bank.bookings if first <= one.booked <= last]
    before = sum(one.amount_minor for one in linked.bank.bookings if one.booked < first)
    name = dice.choice(BY_FILE)
    if told:
        window = Window(first, last, told, (), OPENING + before, dice.randrange(10**6))
        bringing_in.import_file(db, by, f"a.{name}", LAYOUTS[name](window), Answers(linked.account_id))


def _held(db: sqlite3.Connection, account_id: int) -> Counter[int]:
    return Counter({row["amount_minor"]: row["many"] for row in db.execute(HELD, {"id": account_id})})


def _true(bank: Bank, until: date = date.max) -> Counter[int]:
    """The amounts in the bank's own books, as far as they are written by a day."""
    return Counter(int(row.amount * 100) for row in bank.account.rows if row.day <= until) + Counter([OPENING])


def _compared(db: sqlite3.Connection, linked: Linked) -> str:
    held, true = _held(db, linked.account_id), _true(linked.bank)
    extra, lost = held - true, true - held
    return f"{linked.bank.name}: too many: {dict(extra)}, lost: {dict(lost)}" if extra or lost else ""


def run(lives: int, seed: int) -> list[str]:
    """Lives so many households with two banks each; gives what is wrong in them, with their seeds."""
    found = ((one, live_with_two_banks(one)) for one in range(seed, seed + lives))
    return [f"seed {one}: {wrong}" for one, wrong in found if wrong]
