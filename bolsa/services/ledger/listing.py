"""Plain lists for scripts: balances, entries, and what does not hold."""

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.house.kept import Breach
from bolsa.core.money import decimal_text
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.invariants import find_breaches
from bolsa.store.ledger import register


@dataclass(frozen=True)
class ListedBalance:
    """An account's balance as exact decimal text."""

    account: str
    kind: str
    currency: str
    balance: str
    everyday: bool


@dataclass(frozen=True)
class ListedEntry:
    """An entry seen from its account: the amount as decimal text, the category's name (several joined by " + ")."""

    id: int
    date: str
    payee: str
    amount: str
    currency: str
    state: str
    category: str
    memo: str


def balances_on(db: sqlite3.Connection, day: date) -> list[ListedBalance]:
    """Every account's balance at the end of the day."""
    with reading(db):
        return [
            ListedBalance(a.name, a.kind, a.currency, decimal_text(accounts.sum_balance(db, a.id, day), a.currency), a.everyday)
            for a in accounts.list_accounts(db)
        ]


def entries_of(db: sqlite3.Connection, account: Account, first: date | None, last: date | None) -> Iterator[ListedEntry]:
    """An account's entries in order of day."""
    rows = register.list_lines_between(db, account.id, first or date.min, last or date.max)
    others = register.list_other_sides(db, [row["line_id"] for row in rows])
    for row in rows:
        category = " + ".join(other.name for other in others.get(row["line_id"], ()))
        amount = decimal_text(row["amount_minor"], account.currency)
        yield ListedEntry(
            row["entry_id"], row["day"], row["payee"], amount, account.currency, row["state"], category, row["memo"]
        )


def check(db: sqlite3.Connection) -> list[Breach]:
    """Every row that breaks a promise of the ledger."""
    with reading(db):
        return find_breaches(db)
