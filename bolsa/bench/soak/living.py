"""One household after the other, each lived for some steps and compared with the model after every one."""

import random
import sqlite3
import tempfile
import time
from contextlib import closing
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

from bolsa.bench.soak.model import Figures, reckoned, said
from bolsa.bench.soak.person import BY, OFTEN, RARELY, REMOTE, SELDOM, TODAY, Person
from bolsa.bench.soak.promises import Promise
from bolsa.core.accounts.terms import NO_TERMS, Terms
from bolsa.core.bringing.batch import RemoteAccount
from bolsa.core.holdings.security import Security
from bolsa.errors import BolsaError
from bolsa.services import changes
from bolsa.services.accounts import accounts, market
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.holdings import securities
from bolsa.services.house import files, households, past
from bolsa.services.house.households import Household
from bolsa.services.ledger import listing
from bolsa.store.bringing import connections

STEPS_EACH = 250  # of one household; then another begins
TAKEN_BACK = 0.25  # of the steps that may be


class Broken(Exception):
    """A figure that is wrong, with all that leads to it again."""


def begin(db: sqlite3.Connection) -> None:
    """A household with an account of every sort, one in kronor and one in yen, a security, and rates."""
    households.make_household(db, BY, Household("Quay Street", "EUR", "UTC", TODAY), ["Ana", "Bo"])
    interest = next(row["id"] for row in db.execute("SELECT id FROM category WHERE name = 'Bank charges'"))
    loan = Terms(rate=Decimal("0.06"), payment_minor=20_000, interest_category_id=interest)
    for name, kind, currency, opening, terms in (
        ("Current", "current", "EUR", 100_000, None), ("Reserve", "savings", "EUR", 0, None),
        ("Card", "card", "EUR", -20_000, None),
        ("Loan", "loan", "EUR", -1_200_000, loan), ("House", "property", "EUR", 900_000, None),
        ("Pension", "pension", "EUR", 50_000, None), ("Kronor", "savings", "SEK", 30_000, None),
        ("Yen", "savings", "JPY", 5_000, None), ("Depot", "brokerage", "EUR", 0, None),
    ):  # fmt: skip
        new = NewAccount(name, kind, currency, opening, date(2026, 1, 1), number=f"N{name}", terms=terms or NO_TERMS)
        accounts.add_account(db, BY, new)
    for currency, rate_e8 in (("SEK", 8_700_000), ("JPY", 620_000)):
        for month in (1, 3, 5):
            market.note_rate(db, BY, currency, date(2026, month, 2), rate_e8 + month * 10_007)
    security_id = securities.add_security(db, BY, Security(0, "Tern Robotics", "", currency="EUR", kind="share")).made
    closes = [(date(2026, 1, 1) + timedelta(days=7 * week), (50 + week) * 10**8) for week in range(20)]
    past.record_market(db, security_id, closes, [])
    with changes.note(db):
        bank = connections.insert_connection(db, "Halden Mutual", "http://127.0.0.1/halden", "token")
        connections.put_remote_account(db, RemoteAccount(0, bank, REMOTE, "Current", "current", "EUR", 1))


def live(seed: int, steps: int) -> int:
    """Lives one household for so many steps; gives how many did something. Raises: Broken at the first figure that is wrong."""
    with tempfile.TemporaryDirectory() as folder, closing(files.make_file(Path(folder) / "a.bolsa")) as db:
        begin(db)
        dice = random.Random(seed)  # noqa: S311 (a life is drawn, no secret)
        person, done = Person(db, dice), 0
        before = _compared(db, f"seed {seed}, at the beginning")
        for number in range(1, steps + 1):
            verb = dice.choice(OFTEN * 4 + SELDOM * 2 + RARELY)
            last = newest_step(db)
            where = f"seed {seed}, step {number}, {verb.__name__}"
            promise: Promise | None = None
            try:
                promise = verb(person)
                done += 1
            except BolsaError as refusal:
                if not refusal.sentence or db.in_transaction:
                    raise Broken(f"{where}: refused without a word, or half done") from refusal
            except Exception as error:
                raise Broken(f"{where}: {type(error).__name__}: {error}") from error
            after = _compared(db, where)
            if promise and (broken := promise(before, after)):
                raise Broken(f"{where}: {broken}")
            before = _take_back_latest(db, where, before, after, last, dice)
    return done


def newest_step(db: sqlite3.Connection) -> int:
    return next((step.id for step in changes.list_steps(db, most=1)), 0)


def _take_back_latest(
    db: sqlite3.Connection, where: str, before: Figures, after: Figures, last: int, dice: random.Random
) -> Figures:
    """Now and then the one step a verb made is undone at once, which must give the figures before it, and done again, which must
    give those after it; gives the figures at the end."""
    made = [step for step in changes.list_steps(db, most=6) if step.id > last]
    if len(made) != 1 or made[0].undone_by or made[0].batch_id is not None or dice.random() > TAKEN_BACK:
        return after
    if any(step.undone_by == made[0].id for step in changes.list_steps(db, most=200)):
        return after  # it is an undo itself
    try:
        back = changes.undo_step(db, BY, made[0].id)
    except BolsaError as refusal:
        raise Broken(f"{where}: what was just done cannot be undone: {refusal.sentence}") from refusal
    if differing := _compared(db, f"{where}, undone").differences(before):
        raise Broken(f"{where}: undone, it leaves {'; '.join(differing)}")
    if back.step_id is None:
        return before
    changes.undo_step(db, BY, back.step_id)
    if differing := _compared(db, f"{where}, done again").differences(after):
        raise Broken(f"{where}: done again, it gives {'; '.join(differing)}")
    return after


def _compared(db: sqlite3.Connection, where: str) -> Figures:
    """What the services say, if the model says the same and every promise holds."""
    told = said(db, BY)
    if differing := told.differences(reckoned(db, BY)):
        raise Broken(f"{where}: {'; '.join(differing)}")
    for breach in listing.check(db):
        raise Broken(f"{where}: {breach.promise}: {breach.row}")
    return told


def run(steps: int, seed: int) -> int:
    """Lives households until so many steps are done, the first with the seed, says how it went, and gives how many lived.
    Raises: Broken."""
    began, done, lived = time.monotonic(), 0, 0
    while done < steps:
        done += live(seed + lived, min(STEPS_EACH, 2 * (steps - done)))
        lived += 1
        print(f"\r{done:,} of {steps:,} steps, seed {seed + lived - 1}", end="", flush=True)
    took = time.monotonic() - began
    print(f"\r{done:,} steps in {lived} households, from seed {seed} on, without a difference, in {took:.0f} s.")
    return lived
