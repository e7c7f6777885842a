"""What a cut finds: sums of category lines by part and month, and the lines themselves."""

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping

from bolsa.core.answers.cut import CONDITIONS, DIMENSIONS, Condition, Cut, CutLine, Summed
from bolsa.core.months import Month

_ACCOUNT = """
    coalesce((SELECT a.account_id FROM line a WHERE a.entry_id = l.entry_id AND a.account_id IS NOT NULL
              ORDER BY a.id LIMIT 1), 0)"""
_TAGS = """
    coalesce((SELECT group_concat(tag_id, '+') FROM (SELECT tag_id FROM line_tag WHERE line_id = l.id ORDER BY tag_id)), '0')"""
_PART = {
    "group": "c.group_id", "category": "c.id", "payee": "e.payee_id", "tags": _TAGS, "member": "coalesce(l.member_id, 0)",
    "account": _ACCOUNT, "": "'all'",
}  # fmt: skip
_MEASURE = {
    "spent": "((c.type = 'spending' AND c.role IS NULL) OR (c.id = 1 AND l.amount_minor > 0))",
    "received": "((c.type = 'income' AND c.role IS NULL) OR (c.id = 1 AND l.amount_minor < 0))",
}
_OF_KEPT = {"spent": "c.type = 'spending' AND c.role IS NULL", "received": "c.type = 'income' AND c.role IS NULL"}
_SIGN = {"spent": 1, "received": -1}
_COUNTED = "l.entry_id NOT IN (SELECT id FROM kept_out)"


def _where(cut: Cut) -> tuple[str, dict[str, object]]:
    clauses = ["l.account_id IS NULL", "l.day BETWEEN :first AND :last", _MEASURE[cut.measure], _COUNTED]
    params: dict[str, object] = {"first": cut.first.isoformat(), "last": cut.last.isoformat()}
    for i, condition in enumerate(cut.conditions):
        if i != _leading_tag(cut):
            clauses.append(_clause(condition, f"part_{i}"))
        params[f"part_{i}"] = condition.part if condition.dimension == "tags" else int(condition.part)
    return " AND ".join(clauses), params


def _leading_tag(cut: Cut) -> int | None:
    """The place of the condition whose tag's lines are all that is looked through, if there is one."""
    return next((i for i, one in enumerate(cut.conditions) if one.dimension == "tag" and not one.is_left_out), None)


def _clause(condition: Condition, name: str) -> str:
    if condition.dimension not in CONDITIONS:
        raise ValueError(condition.dimension)
    negated = "NOT " if condition.is_left_out else ""
    if condition.dimension == "tag":
        return f"{negated}EXISTS (SELECT 1 FROM line_tag g WHERE g.line_id = l.id AND g.tag_id = :{name})"
    return f"{negated}({_PART[condition.dimension]} = :{name})"


def _from(cut: Cut, *, with_entry: bool) -> str:
    """The tables, led by what leaves the fewest lines; SQLite would begin with the categories, whatever is asked."""
    category, tag = "CROSS JOIN category c ON c.id = l.category_id", _leading_tag(cut)
    if tag is not None:
        lines = f"line_tag x CROSS JOIN line l ON l.id = x.line_id AND x.tag_id = :part_{tag} {category}"
    elif any(one.dimension == "payee" and not one.is_left_out for one in cut.conditions):
        return f"entry e CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id {category}"
    else:
        lines = "category c CROSS JOIN line l INDEXED BY line_of_category ON l.category_id = c.id"
    return f"{lines} CROSS JOIN entry e ON e.id = l.entry_id" if with_entry else lines


def sum_parts(db: sqlite3.Connection, cut: Cut, dimension: str, home: str, *, by_month: bool = True) -> Iterator[Summed]:
    """What each part of a cut comes to by month ("" is no dimension: all of it).

    Whole months by group, category, payee, member or account come from the kept totals; all else from the lines, which may stand
    under the last month all together, where nobody asks for months: that is far fewer rows. What is in another currency stands
    singly, by its day.
    """
    if dimension not in (*DIMENSIONS, ""):
        raise ValueError(dimension)
    asked = {dimension, *(condition.dimension for condition in cut.conditions)}
    is_of_one_payee = any(one.dimension == "payee" and not one.is_left_out for one in cut.conditions)
    if cut.is_whole and asked <= _KEPT.keys() and not is_of_one_payee:
        yield from _sum_kept(db, cut, dimension, home, by_month=by_month)
        yield from _sum_lines(db, cut, dimension, home, _BY_MONTH, _UNSORTED)
    else:
        yield from _sum_lines(db, cut, dimension, home, _BY_MONTH if by_month else _AT_LAST, "")
    yield from _list_foreign(db, cut, dimension, home)


_UNSORTED = " AND c.id = 1"  # kept totals know no sign of what is not sorted
_KEPT = {
    "": "'all'", "group": "c.group_id", "category": "c.id", "payee": "m.payee_id", "member": "m.member_id",
    "account": "m.account_id",
}  # fmt: skip
_BY_MONTH, _AT_LAST = "substr(l.day, 1, 7)", "substr(:last, 1, 7)"


def _sum_lines(db: sqlite3.Connection, cut: Cut, dimension: str, home: str, month_of: str, only: str) -> Iterator[Summed]:
    """Sums of the lines in home currency."""
    where, params = _where(cut)
    keys = "1" if month_of == _AT_LAST else "1, 2"
    sql = f"""
        SELECT {_PART[dimension]} AS part, {month_of} AS month, sum(l.amount_minor) AS amount_minor
        FROM {_from(cut, with_entry="payee" in _asked(cut, dimension))}
        WHERE {where}{only} AND l.currency = :home GROUP BY {keys}"""
    sign = _SIGN[cut.measure]
    for row in db.execute(sql, params | {"home": home}):
        yield Summed(str(row["part"]), Month.parse(row["month"]), home, "", sign * row["amount_minor"])


def _list_foreign(db: sqlite3.Connection, cut: Cut, dimension: str, home: str) -> Iterator[Summed]:
    """The lines in other currencies; only categories that have some are looked through."""
    where, params = _where(cut)
    sql = f"""
        SELECT {_PART[dimension]} AS part, l.currency, l.day, l.amount_minor
        FROM {_from(cut, with_entry="payee" in _asked(cut, dimension))}
        WHERE {where} AND l.currency <> :home AND c.id IN (SELECT category_id FROM category_month WHERE currency <> :home)"""
    sign = _SIGN[cut.measure]
    for row in db.execute(sql, params | {"home": home}):
        yield Summed(str(row["part"]), Month.parse(row["day"][:7]), row["currency"], row["day"], sign * row["amount_minor"])


def _asked(cut: Cut, dimension: str) -> set[str]:
    return {dimension, *(condition.dimension for condition in cut.conditions)}


def _sum_kept(db: sqlite3.Connection, cut: Cut, dimension: str, home: str, *, by_month: bool) -> Iterator[Summed]:
    clauses, params = [_OF_KEPT[cut.measure]], {"home": home, "first": str(cut.months[0]), "last": str(cut.months[-1])}
    for i, condition in enumerate(cut.conditions):
        clauses.append(f"{'NOT ' if condition.is_left_out else ''}({_KEPT[condition.dimension]} = :part_{i})")
        params[f"part_{i}"] = condition.part
    by_payee = _asked(cut, dimension) & {"payee", "member", "account"}
    # A category's own month knows nothing of what is kept out of the answers.
    finer = by_payee or db.execute("SELECT EXISTS (SELECT 1 FROM kept_out)").fetchone()[0]
    table, amount = ("answer_month", "m.amount_minor") if finer else ("category_month", "m.report_minor")
    month, keys = ("m.month", "1, 2") if by_month else (":last", "1")
    sql = f"""
        SELECT {_KEPT[dimension]} AS part, {month} AS month, sum({amount}) AS amount_minor
        FROM category c CROSS JOIN {table} m ON m.category_id = c.id AND m.currency = :home
        WHERE m.month BETWEEN :first AND :last AND {amount} <> 0 AND {" AND ".join(clauses)} GROUP BY {keys}"""
    sign = _SIGN[cut.measure]
    for row in db.execute(sql, {name: int(v) if name.startswith("part_") else v for name, v in params.items()}):
        yield Summed(str(row["part"]), Month.parse(row["month"]), home, "", sign * row["amount_minor"])


def list_lines(db: sqlite3.Connection, cut: Cut, most: int = -1, offset: int = 0) -> list[CutLine]:
    """The lines of a cut, in order of day."""
    return _list(db, cut, "ORDER BY l.day, l.id LIMIT :most OFFSET :offset", {"most": most, "offset": offset})


def list_largest(db: sqlite3.Connection, cut: Cut) -> list[CutLine]:
    """The largest line of a cut in each currency."""
    # SQLite gives the other columns of the row that holds the maximum: https://sqlite.org/lang_select.html#bareagg
    return _list(db, cut, "GROUP BY l.currency HAVING max(:sign * l.amount_minor) IS NOT NULL", {"sign": _SIGN[cut.measure]})


def _list(db: sqlite3.Connection, cut: Cut, ending: str, more: Mapping[str, int]) -> list[CutLine]:
    where, params = _where(cut)
    sql = f"""
        SELECT l.id AS line_id, e.id AS entry_id, l.day, p.name AS payee, e.memo, c.id AS category_id, {_ACCOUNT} AS account_id,
               l.currency, l.amount_minor
        FROM {_from(cut, with_entry=True)} CROSS JOIN payee p ON p.id = e.payee_id
        WHERE {where} {ending}"""
    sign = _SIGN[cut.measure]
    return [CutLine(**{**dict(row), "amount_minor": sign * row["amount_minor"]}) for row in db.execute(sql, {**params, **more})]


def count_lines(db: sqlite3.Connection, cut: Cut) -> int:
    """How many lines a cut holds."""
    where, params = _where(cut)
    asked = {condition.dimension for condition in cut.conditions}
    sql = f"SELECT count(*) FROM {_from(cut, with_entry='payee' in asked)} WHERE {where}"
    return db.execute(sql, params).fetchone()[0]


_TABLES = {
    "group": "category_group", "category": "category", "payee": "payee", "tag": "tag", "tags": "tag", "member": "member",
    "account": "account",
}  # fmt: skip


def list_names(db: sqlite3.Connection, dimension: str, ids: Iterable[int] | None = None) -> dict[int, str]:
    """The names of a dimension's things, of all or of some."""
    some = "" if ids is None else " WHERE id IN (SELECT value FROM json_each(:ids))"
    params = {} if ids is None else {"ids": json.dumps(sorted(ids))}
    return {row["id"]: row["name"] for row in db.execute(f"SELECT id, name FROM {_TABLES[dimension]}{some}", params)}


def find_part(db: sqlite3.Connection, dimension: str, name: str) -> str | None:
    """The id, as text, of a dimension's thing of that name."""
    row = db.execute(f"SELECT id FROM {_TABLES[dimension]} WHERE name = :name COLLATE NOCASE", {"name": name}).fetchone()
    return str(row["id"]) if row else None
