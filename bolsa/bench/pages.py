"""What a page costs: each against the least that reads the same rows, where there is such a thing."""

import json
import random
import sqlite3
from collections.abc import Callable
from datetime import date, timedelta
from typing import Any

from bolsa.bench.household import FIRST, LAST
from bolsa.bench.timing import against, median_ms
from bolsa.core.checking.check import Check, OpenItem
from bolsa.core.checking.suspects import Evidence, find_suspects
from bolsa.core.months import Month
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting, placing
from bolsa.services.clock import By
from bolsa.services.due import dues
from bolsa.services.due import finding as due_finding
from bolsa.services.ledger import finding, registers
from bolsa.services.ledger.registers import RegisterFilter
from bolsa.services.today import sittings
from bolsa.services.worth import worth


def register_page(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """The first page of the largest register, against the bare SELECT of its rows."""
    sql = "SELECT id, entry_id, day, amount_minor FROM line WHERE account_id = 1 ORDER BY day DESC, id DESC LIMIT 80"
    return against(lambda: registers.list_page(db, by, 1, RegisterFilter()), lambda: db.execute(sql).fetchall())


def register_deep(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """A page in the middle of the largest register, against the same SELECT from the same key."""
    day = (FIRST + (LAST - FIRST) / 2).isoformat()
    key = json.dumps([day, 0])
    sql = (
        "SELECT id, entry_id, day, amount_minor FROM line WHERE account_id = 1 AND day < :day ORDER BY day DESC, id DESC LIMIT 80"
    )
    return against(
        lambda: registers.list_page(db, by, 1, RegisterFilter(), after=key), lambda: db.execute(sql, {"day": day}).fetchall()
    )


def register_by_payee(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by payee."""
    return median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="payee")), None


def register_by_category(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by category, as by tag, member or state."""
    return median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="category")), None


def register_by_bank_text(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by what the bank sent, which no index serves."""
    return median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="bank")), None


def register_by_balance(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The first page of the largest register sorted by running balance, which is counted over all lines."""
    return median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(), order="balance")), None


def _page(db: sqlite3.Connection, by: By, **wanted: Any) -> float:
    return median_ms(lambda: registers.list_page(db, by, 1, RegisterFilter(**wanted)))


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
    return median_ms(lambda: finding.find_everything(db, "pay")), None


def find_amount(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Find across everything by an amount."""
    return median_ms(lambda: finding.find_everything(db, "123.45")), None


def suspects_of_400(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The suspects of a statement with four hundred open lines, half of them not ticked, and a difference no line explains."""
    dice = random.Random(400)  # noqa: S311 (made-up lines)
    lines = tuple(
        OpenItem(i, i, LAST - timedelta(days=i % 60), -dice.randint(100, 30_000), f"Payee {i % 50}", i % 2 == 0)
        for i in range(400)
    )  # fmt: skip
    check = Check(0, sum(line.amount_minor for line in lines if line.ticked) - 12_345_678, lines)
    return median_ms(lambda: find_suspects(check, Evidence(), "EUR")), None


def fill_ahead(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """What filling all categories two years ahead would place, month by month, as the page proposes it."""
    view = budgeting.budget_view(db, by, Month(2028, 5))
    return median_ms(lambda: placing.filling_of(db, by, view, [category.id for category, _ in view.plans])), None


def budget_ahead(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The budget of the same month two years ahead, which walks there from today."""
    return median_ms(lambda: budgeting.budget_view(db, by, Month(2028, 5))), None


def budget_month(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """The budget of the present month, against the bare sums by category of that month."""
    sql = (
        "SELECT category_id, sum(amount_minor) FROM line "
        "WHERE category_id IS NOT NULL AND day BETWEEN '2026-05-01' AND '2026-05-31' GROUP BY category_id"
    )
    return against(lambda: budgeting.budget_view(db, by, Month(2026, 5)), lambda: db.execute(sql).fetchall())


def net_worth(db: sqlite3.Connection, by: By) -> tuple[float, float]:
    """Two years of net worth, against the bare sum of all account lines by account and month."""
    sql = "SELECT account_id, substr(day, 1, 7), sum(amount_minor) FROM line WHERE account_id IS NOT NULL GROUP BY 1, 2"
    return against(lambda: worth.worth_view(db, Month(2026, 5)), lambda: db.execute(sql).fetchall())


def today(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Everything Today shows."""
    return median_ms(lambda: sittings.today_view(db, by, Month(2026, 5))), None


def due(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """The weeks ahead, lane by lane, with every kept series followed."""
    return median_ms(lambda: dues.dues_view(db, by)), None


def due_proposals(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """What seems to come again, found in the last two years."""
    return median_ms(lambda: due_finding.list_proposals(db, by.today)), None


def books(db: sqlite3.Connection, by: By) -> tuple[float, None]:
    """Every account with its balance, what the bank says, and its difference."""
    return median_ms(lambda: accounts.account_groups(db)), None


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
    "budget, two years ahead": budget_ahead,
    "filling, two years ahead": fill_ahead,
    "net worth, two years": net_worth,
    "due": due,
    "due, what seems to come again": due_proposals,
    "books": books,
    "Today": today,
}
