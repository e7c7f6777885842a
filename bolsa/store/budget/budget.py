"""Expected amounts, placings, and the kept totals the budget is computed from."""

import sqlite3
from collections import defaultdict
from collections.abc import Mapping
from datetime import date

from bolsa.core.budget.aims import KeptAim
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.budget.placing import Placing
from bolsa.core.months import Month
from bolsa.core.sorting.category import Category
from bolsa.store.budget.aims import list_aims, list_held
from bolsa.store.sorting.categories import LEFT_HOME, list_categories

LIST_SPENT = """
    SELECT m.category_id, m.month, m.budget_minor AS amount_minor
    FROM category_month m JOIN household h ON h.home_currency = m.currency
    WHERE m.budget_minor <> 0"""
# Money set by into an account in another currency: what left the budget is the home amount that left.
LIST_SET_BY_ABROAD = f"""
    SELECT l.category_id, substr(l.day, 1, 7) AS month, sum({LEFT_HOME}) AS amount_minor
    FROM household h CROSS JOIN category_month m ON m.currency <> h.home_currency
    CROSS JOIN line l ON l.category_id = m.category_id AND l.day BETWEEN m.month || '-01' AND m.month || '-31'
        AND l.currency = m.currency AND l.account_id IS NOT NULL AND l.everyday = 1
    WHERE m.budget_minor <> 0 GROUP BY 1, 2"""
SUM_SET_BY = f"""
    SELECT l.category_id, sum({LEFT_HOME}) AS amount_minor
    FROM household h CROSS JOIN category_month m
    CROSS JOIN line l ON l.category_id = m.category_id AND l.day BETWEEN m.month || '-01' AND m.month || '-31'
        AND l.currency = m.currency AND l.account_id IS NOT NULL AND l.everyday = 1
    WHERE m.month = :month GROUP BY 1"""
LIST_PLACED = "SELECT category_id, month, amount_minor FROM placed_month WHERE amount_minor <> 0"
LIST_EXPECTED = "SELECT category_id, month, amount_minor FROM expected"
LIST_RHYTHMS = "SELECT category_id, month, every AS amount_minor FROM expected WHERE every <> 1"


_NO_AIM = KeptAim()
Planned = list[tuple[Category, CategoryPlan]]


def list_plans(db: sqlite3.Connection) -> tuple[Planned, Planned]:
    """Every income category, and every spending category in the budget, with its amounts by month, in the order of groups."""
    spent = _list_spent(db)
    placed, expected, every = (_by_category(db, sql) for sql in (LIST_PLACED, LIST_EXPECTED, LIST_RHYTHMS))
    aims, held = list_aims(db), list_held(db)
    incomes: Planned = []
    spendings: Planned = []
    for c in list_categories(db):
        if c.type == "income":
            came = {month: -amount for month, amount in spent[c.id].items()}
            incomes.append((c, CategoryPlan(c.id, expected=expected[c.id], every=every[c.id], spent=came)))
        elif c.type == "spending" and c.in_budget:
            aim = aims.get(c.id, _NO_AIM).aim
            plan = CategoryPlan(
                c.id, c.carries, c.carries_minus, expected[c.id], placed[c.id], spent[c.id], every[c.id], aim, held.get(c.id, {})
            )
            spendings.append((c, plan))
    return incomes, spendings


def sum_set_by(db: sqlite3.Connection, month: Month) -> dict[int, int]:
    """By category: what was set by into apart accounts in a month, in home currency."""
    return {row["category_id"]: row["amount_minor"] for row in db.execute(SUM_SET_BY, {"month": str(month)})}


def _list_spent(db: sqlite3.Connection) -> dict[int, dict[Month, int]]:
    """By category and month: what left everyday money, in home currency."""
    spent = _by_category(db, LIST_SPENT)
    for category_id, by_month in _by_category(db, LIST_SET_BY_ABROAD).items():
        for month, amount_minor in by_month.items():
            spent[category_id][month] = spent[category_id].get(month, 0) + amount_minor
    return spent


def list_rhythms(db: sqlite3.Connection) -> dict[tuple[int, Month], int]:
    """By category and month: every how many months a figure comes that does not simply carry on (0: once)."""
    found = _by_category(db, LIST_RHYTHMS)
    return {(category_id, month): every for category_id, by_month in found.items() for month, every in by_month.items()}


def _by_category(db: sqlite3.Connection, sql: str, params: Mapping[str, str] | None = None) -> dict[int, dict[Month, int]]:
    totals: dict[int, dict[Month, int]] = defaultdict(dict)
    months: dict[str, Month] = {}
    for category_id, month, amount_minor in db.execute(sql, params or {}):
        if month not in months:
            months[month] = Month.parse(month)
        totals[category_id][months[month]] = amount_minor
    return totals


SUM_PLACED_AHEAD = """
    SELECT coalesce(sum(p.amount_minor), 0) FROM placing p JOIN category c ON c.id = p.category_id
    WHERE p.month > :month AND p.made_on <= :day AND c.in_budget = 1 AND c.retired = 0"""


def sum_placed_ahead_on(db: sqlite3.Connection, month: Month, day: date) -> int:
    """What had been placed in months after this one by the end of the day."""
    return db.execute(SUM_PLACED_AHEAD, {"month": str(month), "day": day.isoformat()}).fetchone()[0]


PUT_EXPECTED = """
    INSERT INTO expected (category_id, month, amount_minor, every) VALUES (:category_id, :month, :amount_minor, :every)
    ON CONFLICT (category_id, month) DO UPDATE SET amount_minor = excluded.amount_minor, every = excluded.every"""


def put_expected(db: sqlite3.Connection, category_id: int, month: Month, amount_minor: int, every: int = 1) -> None:
    """Sets a figure by hand, with its rhythm in months."""
    values = {"category_id": category_id, "month": str(month), "amount_minor": amount_minor, "every": every}
    db.execute(PUT_EXPECTED, values)


def remove_expected(db: sqlite3.Connection, category_id: int, month: Month) -> None:
    """Clears a figure set by hand, so that the former one carries on."""
    sql = "DELETE FROM expected WHERE category_id = :category_id AND month = :month"
    db.execute(sql, {"category_id": category_id, "month": str(month)})


def remove_expected_after(db: sqlite3.Connection, category_id: int, month: Month) -> None:
    """Clears every figure set by hand after a month."""
    sql = "DELETE FROM expected WHERE category_id = :category_id AND month > :month"
    db.execute(sql, {"category_id": category_id, "month": str(month)})


def list_expected_of(db: sqlite3.Connection, category_id: int) -> tuple[dict[Month, int], dict[Month, int]]:
    """The figures of one category by month, and the rhythms of those that do not simply carry on."""
    sql = "SELECT month, amount_minor, every FROM expected WHERE category_id = :id"
    rows = [(Month.parse(row["month"]), row) for row in db.execute(sql, {"id": category_id})]
    return {m: row["amount_minor"] for m, row in rows}, {m: row["every"] for m, row in rows if row["every"] != 1}


INSERT_PLACING = """
    INSERT INTO placing (category_id, month, amount_minor, made_on, other_id, reason)
    VALUES (:category_id, :month, :amount_minor, :made_on, :other_id, :reason)"""


def insert_placings(db: sqlite3.Connection, placings: list[Placing]) -> None:
    rows = [{**p.__dict__, "month": str(p.month), "made_on": p.made_on.isoformat()} for p in placings]
    db.executemany(INSERT_PLACING, rows)


LIST_PLACINGS = """
    SELECT category_id, month, amount_minor, made_on, other_id, reason FROM placing
    WHERE category_id = :category_id AND month = :month ORDER BY id"""


def list_placings(db: sqlite3.Connection, category_id: int, month: Month) -> list[Placing]:
    """What was placed, taken back and shifted for a category in a month, in order."""
    rows = db.execute(LIST_PLACINGS, {"category_id": category_id, "month": str(month)})
    return [
        Placing(**{**dict(row), "month": Month.parse(row["month"]), "made_on": date.fromisoformat(row["made_on"])})
        for row in rows
    ]


# What is not sorted is named though its sum be nothing: 100 in and 100 out are two decisions that wait.
LIST_UNPLANNED = """
    SELECT c.id, c.name, m.budget_minor AS amount_minor FROM category_month m JOIN category c ON c.id = m.category_id
    JOIN household h ON h.home_currency = m.currency
    WHERE m.month = :month AND c.type = 'spending' AND (m.budget_minor <> 0 OR c.role = 'unsorted' AND EXISTS (
        SELECT 1 FROM line l WHERE l.category_id = c.id AND l.currency = m.currency AND l.everyday = 1
            AND l.day BETWEEN m.month || '-01' AND m.month || '-31'))
        AND (c.in_budget = 0 OR c.retired = 1) ORDER BY c.position"""


def list_outside_spending(db: sqlite3.Connection, month: Month) -> list[sqlite3.Row]:
    """Spending of the month in categories the budget does not hold, unsorted entries included: id, name, amount_minor."""
    return db.execute(LIST_UNPLANNED, {"month": str(month)}).fetchall()


LIST_OUTSIDE_BY_MONTH = """
    SELECT m.month, sum(m.budget_minor) AS amount_minor FROM category_month m JOIN category c ON c.id = m.category_id
    JOIN household h ON h.home_currency = m.currency
    WHERE m.month BETWEEN :first AND :last AND c.type = 'spending' AND (c.in_budget = 0 OR c.retired = 1) GROUP BY m.month"""


def sum_outside_spending(db: sqlite3.Connection, first: Month, last: Month) -> dict[Month, int]:
    """By month: spending in categories the budget does not hold, unsorted entries included."""
    rows = db.execute(LIST_OUTSIDE_BY_MONTH, {"first": str(first), "last": str(last)})
    return {Month.parse(row["month"]): row["amount_minor"] for row in rows}


FIND_BEGAN = """
    SELECT min((SELECT min(l.day) FROM line l WHERE l.category_id = c.id)) AS day FROM category c WHERE c.role IS NULL OR c.id
    = 1"""
FIND_OPENED = "SELECT min(opened_on) FROM account WHERE everyday = 1 AND opened_on <= :day"


def find_began(db: sqlite3.Connection) -> date | None:
    """The day the books of income and spending begin: that of the first such entry, or one before it in its month from which an
    everyday account was kept already. None while there is nothing."""
    found = db.execute(FIND_BEGAN).fetchone()["day"]
    if found is None:
        return None
    opened = db.execute(FIND_OPENED, {"day": found}).fetchone()[0] or found
    return max(date.fromisoformat(opened), date.fromisoformat(found).replace(day=1))


LIST_IN_OUT = """
    SELECT m.month, c.type, m.currency, sum(m.report_minor) AS amount_minor
    FROM category_month m JOIN category c ON c.id = m.category_id
    WHERE m.month >= :first AND m.month <= :last AND c.type <> 'transfer' AND c.role IS NULL
    GROUP BY m.month, c.type, m.currency"""
# Nobody has said yet what the unsorted is: what came in is income, what went out spending, line by line.
LIST_UNSORTED_IN_OUT = """
    SELECT substr(l.day, 1, 7) AS month, iif(l.amount_minor < 0, 'income', 'spending') AS type, l.currency,
           sum(l.amount_minor) AS amount_minor
    FROM category c CROSS JOIN line l ON l.category_id = c.id AND l.day BETWEEN :first || '-01' AND :last || '-31'
    WHERE c.role = 'unsorted' AND l.account_id IS NULL GROUP BY 1, 2, 3"""


def list_in_out(db: sqlite3.Connection, first: Month, last: Month) -> list[sqlite3.Row]:
    """Income and spending by month and currency (transfers never count), once for what is sorted and once for what is not:
    month, type, currency, amount_minor."""
    values = {"first": str(first), "last": str(last)}
    return db.execute(LIST_IN_OUT, values).fetchall() + db.execute(LIST_UNSORTED_IN_OUT, values).fetchall()
