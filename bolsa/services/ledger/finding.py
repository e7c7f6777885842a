"""Find: entries, payees, categories, accounts, pages and actions, by what is typed so far."""

import sqlite3
from dataclasses import dataclass

from bolsa.core.accounts.account import Account
from bolsa.core.amounts import parse_amount
from bolsa.core.ledger.register import FoundLine
from bolsa.core.sorting.category import Category
from bolsa.errors import InvalidInput
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import securities
from bolsa.store.house import household
from bolsa.store.ledger import find, payees, tags
from bolsa.store.sorting import categories

MOST_NAMES = 5


@dataclass(frozen=True)
class Found:
    """What fits the words typed: names first, then entries, the latest written first. `more_before` is the key after which
    further entries follow, None if these are all."""

    accounts: tuple[Account, ...]
    categories: tuple[Category, ...]
    payees: tuple[tuple[str, int], ...]
    tags: tuple[str, ...]
    lines: tuple[FoundLine, ...]
    more_before: int | None

    @property
    def is_empty(self) -> bool:
        return not (self.accounts or self.categories or self.payees or self.tags or self.lines)


def find_everything(db: sqlite3.Connection, text: str, *, most: int = 8, before_line_id: int | None = None) -> Found:
    """What fits the words, each word by its beginning; an amount finds the entries of that amount."""
    text = " ".join(text.split())[:80]
    if not text:
        return Found((), (), (), (), (), None)
    with reading(db):
        lines = _lines(db, text, most + 1, before_line_id)
        named = before_line_id is None
        return Found(
            tuple(_fitting(accounts.list_accounts(db), text)) if named else (),
            tuple(_fitting(categories.list_categories(db), text)) if named else (),
            tuple(find.find_payees(db, text, MOST_NAMES)) if named else (),
            tuple(tag.name for tag in _fitting(tags.list_tags(db), text.lstrip("#"))) if named else (),
            tuple(lines[:most]),
            lines[most - 1].line_id if len(lines) > most else None,
        )


NAMES = ("payee", "tag", "security")


def suggest_names(db: sqlite3.Connection, kind: str, text: str, most: int = 8) -> list[str]:
    """The names of a kind in NAMES that fit what is typed, likely ones first; the usual ones before anything is typed."""
    text = " ".join(text.split())[:80]
    with reading(db):
        if kind == "payee":
            return [name for name, _ in find.find_payees(db, text, most)] if text else payees.list_usual_payees(db)[:most]
        known = tags.list_tags(db) if kind == "tag" else securities.list_securities(db)
        return [one.name for one in _fitting([one for one in known if not getattr(one, "retired", False)], text)][:most]


def _lines(db: sqlite3.Connection, text: str, most: int, before_line_id: int | None) -> list[FoundLine]:
    try:
        amount = parse_amount(text, household.get_household(db).home_currency)
    except InvalidInput:
        return find.find_lines(db, text, most, before_line_id or 2**62)
    found = find.find_amount(db, amount, most) if before_line_id is None else []
    return found or find.find_lines(db, text, most, before_line_id or 2**62)


def _fitting(named: list, text: str) -> list:
    """Those whose name holds a word that each typed word begins, in the household's order."""
    wanted = text.casefold().split()
    fitting = [
        one for one in named if all(any(word.startswith(w) for word in one.name.casefold().split()) for w in wanted)
    ]  # fmt: skip
    return fitting[:MOST_NAMES]
