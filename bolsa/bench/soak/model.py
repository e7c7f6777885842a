"""A plain model of a household: a list of lines, a dictionary of placings, and figures reckoned from them in the plainest way."""

import sqlite3
from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

from bolsa.core.months import Month
from bolsa.services.budget import budgeting
from bolsa.services.clock import By
from bolsa.services.worth import worth
from bolsa.store.accounts import accounts

DAYS = (date(2026, 3, 31), date(2026, 5, 14))
MONTHS = (Month(2026, 2), Month(2026, 5), Month(2026, 7))  # one that is past, the present one, and one ahead


@dataclass
class Figures:
    """What a household comes to: balances by account, worth by day, and by month unplaced and, by category, spent and left."""

    balances: dict[int, int] = field(default_factory=dict)
    worth: dict[date, int] = field(default_factory=dict)
    unplaced: dict[Month, int] = field(default_factory=dict)
    spent: dict[tuple[int, Month], int] = field(default_factory=dict)
    left: dict[tuple[int, Month], int] = field(default_factory=dict)

    def differences(self, other: "Figures") -> list[str]:
        """Where two differ, in words."""
        found = []
        for name, own in vars(self).items():
            theirs = vars(other)[name]
            keys = [key for key in own.keys() | theirs.keys() if own.get(key, 0) != theirs.get(key, 0)]
            found += [f"{name} of {key}: {own.get(key, 0)}, not {theirs.get(key, 0)}" for key in sorted(keys, key=str)[:3]]
        return found


def said(db: sqlite3.Connection, by: By) -> Figures:
    """The figures as the services say them."""
    found = Figures({state.account.id: state.balance_minor for state in accounts.list_account_states(db)})
    for day in DAYS:
        found.worth[day] = sum(row.home_minor for row in worth.worth_on(db, day).rows)
    for month in MONTHS:
        view = budgeting.budget_view(db, by, month)
        found.unplaced[month] = view.budget.unplaced_minor
        for row in view.budget.rows:
            found.spent[row.category_id, month] = row.spent_minor
            found.left[row.category_id, month] = row.left_minor
    return found


def reckoned(db: sqlite3.Connection, by: By) -> Figures:
    """The figures reckoned from the rows of lines and placings alone."""
    lines = [dict(row) for row in db.execute("SELECT entry_id, account_id, category_id, currency, amount_minor, day FROM line")]
    kept = {row["id"]: dict(row) for row in db.execute("SELECT id, everyday, currency, counts_shares FROM account")}
    planned = {
        row["id"]: dict(row)
        for row in db.execute(
            "SELECT id, carries, carries_minus FROM category"
            " WHERE type = 'spending' AND in_budget = 1 AND retired = 0 AND role IS NULL"
        )
    }
    found = Figures(dict.fromkeys(kept, 0))
    for line in lines:
        if line["account_id"]:
            found.balances[line["account_id"]] += line["amount_minor"]
    for day in DAYS:
        found.worth[day] = _worth(db, lines, kept, day)
    spent = _spent(lines, kept)
    placings = [(row["category_id"], Month.parse(row["month"]), row["amount_minor"], date.fromisoformat(row["made_on"]))
                for row in db.execute("SELECT category_id, month, amount_minor, made_on FROM placing")]  # fmt: skip
    placed: dict[tuple[int, Month], int] = defaultdict(int)
    for category_id, month, amount, _ in placings:
        placed[category_id, month] += amount
    first = min([month for _, month in (*spent, *placed)] + [MONTHS[0]])  # what is left carries on from there
    lefts: dict[Month, int] = defaultdict(int)
    for category_id, plan in planned.items():
        left = 0
        month = first
        while month <= MONTHS[-1]:
            carried = left if (plan["carries"] if left >= 0 else plan["carries_minus"]) else 0
            left = carried + placed.get((category_id, month), 0) - spent.get((category_id, month), 0)
            if month in MONTHS:
                found.spent[category_id, month] = spent.get((category_id, month), 0)
                found.left[category_id, month] = left
                lefts[month] += left
            month += 1
    for month in MONTHS:
        balance = sum(
            line["amount_minor"]
            for line in lines
            if line["account_id"] and kept[line["account_id"]]["everyday"] and line["day"] <= month.last_day.isoformat()
        )
        is_past = month < Month.of(by.today)
        later = sum(
            amount
            for category_id, placed_for, amount, made_on in placings
            if placed_for > month and category_id in planned and (not is_past or made_on <= month.last_day)
        )
        found.unplaced[month] = balance - lefts[month] - later
    return found


def _spent(lines: list[dict], kept: dict[int, dict]) -> dict[tuple[int, Month], int]:
    """By category and month: what left everyday money, in home currency. Set by abroad, it is what left at home."""
    by_entry: dict[int, list[dict]] = defaultdict(list)
    for line in lines:
        by_entry[line["entry_id"]].append(line)
    found: dict[tuple[int, Month], int] = defaultdict(int)
    for entry in by_entry.values():
        on_everyday = [line for line in entry if line["account_id"] and kept[line["account_id"]]["everyday"]]
        if not on_everyday:
            continue
        for line in entry:
            if line["category_id"]:
                key = line["category_id"], Month.parse(line["day"][:7])
                if line["currency"] == "EUR":
                    found[key] += line["amount_minor"]
                elif line["account_id"]:
                    found[key] -= sum(one["amount_minor"] for one in entry if one["currency"] == "EUR" and not _is_exchange(one))
    return found


def _is_exchange(line: dict) -> bool:
    return line["category_id"] == EXCHANGE


EXCHANGE = 3  # the category in which the two sides of another currency meet


def _worth(db: sqlite3.Connection, lines: list[dict], kept: dict[int, dict], day: date) -> int:
    """All accounts at the end of a day, at the latest rate not after it, or the first there is; shares at the latest price."""
    total = 0
    for account_id, account in kept.items():
        own = sum(x["amount_minor"] for x in lines if x["account_id"] == account_id and x["day"] <= day.isoformat())
        if account["counts_shares"]:
            own += _shares_worth(db, account_id, day)
        if account["currency"] != "EUR":
            own = _round(Decimal(own) * _rate(db, account["currency"], day))
        total += own
    return total


def _rate(db: sqlite3.Connection, currency: str, day: date) -> Decimal:
    """What one minor unit is worth in cents."""
    rates = list(db.execute("SELECT day, rate_e8 FROM rate WHERE currency = ? ORDER BY day", (currency,)))
    if not rates:
        return Decimal(0)
    past = [row["rate_e8"] for row in rates if row["day"] <= day.isoformat()]
    digits = {"JPY": 0}.get(currency, 2)
    return Decimal(past[-1] if past else rates[0]["rate_e8"]) / 10**8 * 10 ** (2 - digits)


def _shares_worth(db: sqlite3.Connection, account_id: int, day: date) -> int:
    total = 0
    sql = "SELECT security_id, sum(shares_e8) AS shares FROM trade WHERE account_id = ? AND day <= ? GROUP BY security_id"
    for row in db.execute(sql, (account_id, day.isoformat())):
        price_e8 = _price(db, row["security_id"], day)
        total += _round(Decimal(row["shares"]) * price_e8 / 10**16 * 100)
    return total


def _price(db: sqlite3.Connection, security_id: int, day: date) -> int:
    """The latest price until a day: by hand before the market's, and where no market tells any, a trade's last of all; before
    anything is known the first trade's. Times 1e8."""
    told = [(r["day"], 2, r["price_e8"]) for r in db.execute("SELECT * FROM price_note WHERE security_id = ?", (security_id,))]
    market = [(r["day"], 1, r["price_e8"]) for r in db.execute("SELECT * FROM price WHERE security_id = ?", (security_id,))]
    sql = "SELECT * FROM trade WHERE security_id = ? AND kind IN ('buy', 'sell') AND total_minor <> 0 ORDER BY day, id"
    traded = [
        (r["day"], 0, int(Fraction(abs(r["total_minor"]) * 10**14, abs(r["shares_e8"])) + Fraction(1, 2)))
        for r in (() if market else db.execute(sql, (security_id,)))
    ]
    past = [one for one in (*traded, *market, *told) if one[0] <= day.isoformat()]
    if past:
        latest = max(past, key=lambda one: one[:2])
        return [one for one in past if one[:2] == latest[:2]][-1][2]
    return traded[0][2] if traded else 0


def _round(amount: Decimal) -> int:
    return int(amount.quantize(Decimal(1), rounding=ROUND_HALF_UP))
