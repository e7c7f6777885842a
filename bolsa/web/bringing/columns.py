"""How the columns of a table are read, as the page of a preview asks it: a bank's rows, or a broker's table. Stories:
tests/stories/test_bringing_in.py."""

from dataclasses import replace
from typing import Any

from flask import g, request
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.holdings.trades import KINDS
from bolsa.core.whole_numbers import is_number
from bolsa.errors import Conflict, InvalidInput
from bolsa.formats.csv_guess import CsvMapping
from bolsa.formats.trades_guess import CASH, LEFT_OUT, TradeMapping
from bolsa.services.bringing import previewing
from bolsa.services.bringing.csv_files import HELD, ROWS, TRADES, CsvReading, read_as
from bolsa.services.bringing.questions import Answers
from bolsa.web.bringing.blueprint import blueprint
from bolsa.web.bringing.reading import read_anew

TABLES_HOLD = ((ROWS, "a bank’s entries"), (TRADES, "a broker’s trades"), (HELD, "what was held before, with its cost"))
COLUMN_ROLES = (
    ("day", "Date"), ("value_day", "Value date"), ("payee", "Payee"), ("memo", "Memo"), ("amount", "Amount"),
    ("money_in", "In"), ("money_out", "Out"), ("sign", "Sign letter"), ("balance", "Balance"), ("bank_ref", "Bank id"),
    ("currency", "Currency"),
)  # fmt: skip
_SECURITY_ROLES = (("name", "Security"), ("code", "Its code"), ("shares", "Shares"))
TRADE_ROLES = (
    ("day", "Date"), ("kind", "What happened"), *_SECURITY_ROLES, ("price", "Price"), ("total", "Total with fee"),
    ("gross", "Amount before fee"), ("fee", "Fee"), ("withheld", "Withheld"), ("currency", "Currency"), ("bank_ref", "Reference"),
    ("memo", "Note"),
)  # fmt: skip
HELD_ROLES = (
    *_SECURITY_ROLES, ("cost", "What they cost"), ("basis_day", "Held since"), ("day", "As of"), ("currency", "Currency"),
)  # fmt: skip
# What a word of the table may mean, as the page offers it.
MEANINGS = (*((kind.key, kind.words) for kind in KINDS), (CASH, "money in or out"), (LEFT_OUT, "leave it out"))


# What the form offers of each style; a tab has a word of its own.
STYLES = {"date_order": ("dmy", "mdy", "ymd"), "decimal_mark": (".", ","), "delimiter": (",", ";", "|", "\t")}


def roles_of(reading: CsvReading | None) -> tuple[tuple[str, str], ...]:
    """What a column of a table may hold, with its words."""
    if reading is None:
        return ()
    return {ROWS: COLUMN_ROLES, TRADES: TRADE_ROLES, HELD: HELD_ROLES}[reading.holds]


@blueprint.post("/books/bring-in/<int:batch_id>/mapping")
def change_mapping(batch_id: int) -> Response:
    """Reads a waiting CSV anew by the columns chosen, or as a table that holds something else."""
    shown = previewing.get_preview(g.db, batch_id)
    if shown.csv is None:
        raise Conflict("That file is not waiting to be read any more. Look at what is here now.")
    holds = request.form.get("holds", shown.csv.holds)
    if holds != shown.csv.holds and holds in dict(TABLES_HOLD):
        mapping = read_as(g.db, batch_id, holds)
    else:
        mapping = _parse_mapping(request.form, shown.csv)
    return read_anew(batch_id, Answers(columns=mapping))


def _parse_mapping(form: MultiDict, reading: CsvReading) -> CsvMapping | TradeMapping:
    """The mapping of the form: a role for each column, the styles, and of a broker's table what its words mean."""
    offered = dict(roles_of(reading))
    changed: dict[str, Any] = dict.fromkeys(offered)
    for name, role in form.items():
        if name.startswith("column-") and role in changed and is_number(name.removeprefix("column-")):
            if changed[role] is not None:
                raise InvalidInput(f"Two columns cannot both be “{offered[role]}”.", field="mapping")
            changed[role] = int(name.removeprefix("column-"))
    before = reading.mapping
    taken = set(changed.values())
    for name, offered_styles in STYLES.items():
        style = form.get(name, "").replace("tab", "\t")
        changed[name] = style if style in offered_styles else getattr(before, name)
    if isinstance(before, TradeMapping):
        said = zip(form.getlist("word"), form.getlist("meaning"), strict=False)
        return replace(before, **changed, kinds={**before.kinds, **{word: kind for word, kind in said if kind in dict(MEANINGS)}})
    more = tuple(c for c in before.more_memo if c not in taken)
    return replace(before, **changed, more_memo=more, flip=form.get("flip") == "1")
