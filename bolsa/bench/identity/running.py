"""Brings six overlapping files of six layouts into a household, in any order, with typed entries between, and compares with the
truth."""

import random
import sqlite3
import tempfile
from collections import Counter
from contextlib import closing
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path

from bolsa.bench.identity.layouts import LAYOUTS, OPENING, Window
from bolsa.bench.identity.truth import FIRST, LAST, Booking, live
from bolsa.core.ledger.entries import Part
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.clock import By
from bolsa.services.house import files, households
from bolsa.services.house.households import Household
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.sorting.categories import UNSORTED

TYPED = 0.06  # of what is bought, entered by hand before it is brought in
BY = By(LAST + timedelta(days=20), "2026-05-20T10:00:00Z", 1)


@dataclass
class Outcome:
    """What became of one household: how many entries too many and lost, rows brought and asked about."""

    seed: int
    rows: int = 0
    asked: int = 0
    too_many: int = 0
    lost: int = 0
    lost_asked: int = 0  # of those lost, that wait to be answered
    words: list[str] = field(default_factory=list)

    @property
    def is_right(self) -> bool:
        """Whether nothing is there twice, and what is not there waits to be answered."""
        return not self.too_many and self.lost == self.lost_asked


def make_windows(dice: random.Random, bookings: list[Booking]) -> list[tuple[str, Window]]:
    """Six files, one of each layout, of stretches that overlap by chance, in any order."""
    windows = []
    for name in LAYOUTS:
        first = FIRST + timedelta(days=dice.randrange(0, 55))
        last = min(LAST, first + timedelta(days=dice.randrange(20, 60)))
        told = [one for one in bookings if first <= one.booked <= last]
        if dice.random() < 0.3:  # fetched in the middle of the last day
            today = [one for one in told if one.booked == last]
            told = [one for one in told if one.booked < last] + today[: len(today) // 2]
        told_numbers = {one.number for one in told}
        announced = [one for one in bookings if one.paid <= last and one.booked >= last and one.number not in told_numbers]
        before = sum(one.amount_minor for one in bookings if one.booked < first)
        windows.append(
            (name, Window(first, last, told, announced if name == "ofx" else (), OPENING + before, dice.randrange(10**6)))
        )
    dice.shuffle(windows)
    return windows


def live_one(seed: int, folder: Path) -> Outcome:
    """Lives one household and compares it with the truth."""
    dice = random.Random(seed)  # noqa: S311 (made up)
    bookings = live(seed)
    outcome, told, announced = Outcome(seed), set[int](), set[int]()
    with closing(files.make_file(folder / f"{seed}.bolsa")) as db:
        households.make_household(db, BY, Household("Identity", "EUR", "UTC", BY.today), ["Ada"], starter="")
        account = NewAccount("Current", "current", opened_on=FIRST - timedelta(days=9), opening_minor=OPENING)
        account_id = accounts.add_account(db, BY, account).made
        for name, window in make_windows(dice, bookings):
            for one in window.bookings:
                if one.number not in told | announced and dice.random() < TYPED:
                    _type(db, account_id, one, dice)
                    told.add(one.number)
            brought = bringing_in.import_file(db, BY, f"a.{name}", LAYOUTS[name](window), Answers(account_id))
            told |= {one.number for one in window.bookings}
            announced |= {one.number for one in window.announced}
            outcome.rows += len(window.bookings)
            outcome.asked += brought.asked
        _compare(db, account_id, outcome, [one for one in bookings if one.number in told], [
            one for one in bookings if one.number in announced - told
        ])  # fmt: skip
    return outcome


def _type(db: sqlite3.Connection, account_id: int, one: Booking, dice: random.Random) -> None:
    """Enters a booking by hand, on the day it was paid or the one after, by its name or a part of it."""
    name = one.shop if dice.random() < 0.6 else one.shop.split()[0]
    part = Part(UNSORTED, -one.amount_minor)
    entries.record_entry(
        db, BY, account_id, TypedEntry(one.paid + timedelta(days=dice.choice((0, 0, 1))), name, one.amount_minor, (part,))
    )


HELD = """
    SELECT l.amount_minor, count(*) AS many FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :id AND p.name <> 'Opening balance' GROUP BY l.amount_minor"""
ASKED = """
    SELECT amount_minor, count(*) AS many FROM brought_row
    WHERE account_id = :id AND take = 0 AND verdict = 'suspicious' GROUP BY amount_minor"""


def _compare(db: sqlite3.Connection, account_id: int, outcome: Outcome, truth: list[Booking], perhaps: list[Booking]) -> None:
    """Counts what is held too often, and what is missing; what was announced alone may stand or not."""
    held, asked = (
        Counter({row["amount_minor"]: row["many"] for row in db.execute(sql, {"id": account_id})}) for sql in (HELD, ASKED)
    )
    true = Counter(one.amount_minor for one in truth)
    extra = held - true - Counter(one.amount_minor for one in perhaps)
    lost = true - held
    outcome.too_many, outcome.lost = extra.total(), lost.total()
    outcome.lost_asked = (lost & asked).total()
    outcome.words = [f"{'+' if amount in extra else '-'}{(extra + lost)[amount]} of {amount}" for amount in extra + lost]


def run(households_count: int, first_seed: int) -> int:
    """Lives so many households and says how many came out right; 1 if any did not."""
    found: list[Outcome] = []
    with tempfile.TemporaryDirectory() as folder:
        for seed in range(first_seed, first_seed + households_count):
            found.append(live_one(seed, Path(folder)))
            if not found[-1].is_right:
                print(f"  seed {seed}: {', '.join(found[-1].words)}; {found[-1].asked} asked", flush=True)
    right = sum(one.is_right for one in found)
    rows, asked = sum(one.rows for one in found), sum(one.asked for one in found)
    too_many, lost, waits = (sum(getattr(one, name) for one in found) for name in ("too_many", "lost", "lost_asked"))
    print(f"{right} of {len(found)} households right: {too_many} entries too many, {lost} not there, {waits} of which wait")
    print(f"{rows:,} rows told, {asked} asked about ({100 * asked / rows:.2f} of 100)")
    return 0 if right == len(found) else 1
