"""A household to measure: so many entries over five years, of which the last two months hold the same at every size."""

import random
import sqlite3
from datetime import date, timedelta

from bolsa.core.due.rhythm import Rhythm
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.months import Month, months_between
from bolsa.core.pay.payslip import PayLine, reckon
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.clock import By
from bolsa.services.due import keeping
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house import households, past
from bolsa.services.house.households import Household
from bolsa.services.pay import keeping as paying
from bolsa.services.pay import paydays
from bolsa.services.sorting import categories

FIRST, LAST = date(2021, 6, 1), date(2026, 5, 31)
PAYEES, CATEGORIES, SERIES = 400, 150, 40
RECENT, RECENT_ENTRIES = date(2026, 4, 1), 1_500
UNSORTED_ROWS = 1_000
TAGGED = 50  # an entry in so many


_SYLLABLES = (
    "ba", "de", "fi", "go", "ku", "la", "me", "ni", "po", "ru", "sa", "te", "vi", "wo", "xu", "ya", "ze", "qui", "cho", "thra",
)  # fmt: skip


def payee_name(number: int) -> str:
    """A shop's name that is like no other's.

    >>> payee_name(0), payee_name(41)
    ('Baba Goods', 'Defi Goods')
    """
    first, second = divmod(number, len(_SYLLABLES))
    return f"{(_SYLLABLES[second] + _SYLLABLES[first]).capitalize()} Goods"


def build(db: sqlite3.Connection, size: int) -> By:
    """A household of so many entries over five years, deterministic, in six everyday accounts."""
    dice = random.Random(size)  # noqa: S311 (made-up entries)
    by = By(LAST, f"{LAST}T12:00:00Z")
    households.make_household(db, by, Household("Bench", "EUR", "UTC", LAST), ["Ada"], starter="")
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
        tags = (f"tag {i % 7}",) if i % TAGGED == 0 and category != 1 else ()
        spent = Line(-amount, "EUR", category_id=category, day=day, tags=tags)
        written.append(Entry(day, payee_name(dice.randrange(PAYEES)), (line, spent)))
        if len(written) == 50_000:
            past.record_history(db, written)
            written = []
    past.record_history(db, written)
    _keep_series(db, by, account_ids[0], category_ids)
    _keep_pay(db, by, account_ids[0])
    past.record_plan(db, [(c, Month.of(FIRST), 10_000) for c in category_ids], _placings(category_ids))
    return by


def _keep_series(db: sqlite3.Connection, by: By, account_id: int, category_ids: list[int]) -> None:
    """Bills that came every month of the five years, and are kept."""
    came = []
    for n in range(SERIES):
        rhythm = Rhythm("FREQ=MONTHLY", FIRST.replace(day=n % 28 + 1))
        keeping.add_series(db, by, TypedSeries(f"Bill {n}", account_id, rhythm, -5_000, category_id=category_ids[n]))
        for day in rhythm.days(FIRST, LAST):
            lines = (
                Line(-5_000, "EUR", account_id=account_id, day=day, state="cleared"),
                Line(5_000, "EUR", category_id=category_ids[n], day=day),
            )
            came.append(Entry(day, f"Bill {n}", lines))
    past.record_history(db, came)


def _keep_pay(db: sqlite3.Connection, by: By, account_id: int) -> None:
    """A fortnightly pay of eight lines, confirmed since the new year."""
    start = date(2026, 1, 9)
    income = categories.add_category(db, by, "Income", "Pay", "income").made
    typed = TypedSeries("Employer", account_id, Rhythm("FREQ=WEEKLY;INTERVAL=2", start), 100_000, category_id=income)
    base = PayLine(0, "earned", "Base", 200_000, category_id=income)
    taxes = [PayLine(0, "tax", f"Tax {n}", 10_000) for n in range(7)]
    pay_id = paying.keep_pay(db, by, keeping.add_series(db, by, typed).made, 1, start, [base, *taxes]).made
    usual = reckon(paydays.get_pay(db, pay_id).lines).by_line
    for n in range(10):
        paying.confirm(db, by, pay_id, start + timedelta(days=14 * n), usual)


def _placings(category_ids: list[int]) -> list[past.Placing]:
    """Each category's need placed every month of the five years, and three months ahead."""
    months = months_between(Month.of(FIRST), Month.of(LAST) + 3)
    return [past.Placing(id_, month, 9_000 + id_, min(month.first_day, LAST)) for month in months for id_ in category_ids]
