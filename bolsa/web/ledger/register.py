"""An account's register: the quick line, filters, rows by key, many at once. Stories: tests/stories/test_register.py."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from urllib.parse import urlencode

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.ledger.entries import Part
from bolsa.core.whole_numbers import number_of
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.accounts.account_facts import account_facts
from bolsa.services.accounts.holes import list_holes
from bolsa.services.due.finding import list_series_payees
from bolsa.services.holdings.trading import may_hold_shares
from bolsa.services.ledger import entries, registers
from bolsa.services.ledger.registers import ManyChange, RegisterFilter
from bolsa.services.sorting import categories
from bolsa.web.csv_reply import csv_reply
from bolsa.web.filters import money, short_day
from bolsa.web.forms import (
    offer_rule,
    offered_rule,
    parse_day,
    parse_ids,
    parse_optional_id,
    parse_optional_money,
    tell,
    tell_problem,
)
from bolsa.web.gate import page_before
from bolsa.web.ledger.blueprint import blueprint
from bolsa.web.ledger.entry import names_by_id

MOST_ON_PAPER = 5000
STATES = ("pending", "cleared", "reconciled")
USUAL = {
    "order": "day", "way": "down", "text": "", "state": "", "payee": "", "category": "", "tag": "", "member": "", "least": "",
    "most": "", "from": "", "to": "", "series": "",
}  # fmt: skip


@dataclass(frozen=True)
class Sorting:
    """How a register is sorted and filtered, as its address holds it; `wanted` is what the words in it mean."""

    words: dict[str, str]
    wanted: RegisterFilter

    @classmethod
    def of(cls, args: MultiDict, currency: str) -> "Sorting":
        """From an address. Raises: InvalidInput naming the field that does not make sense."""
        words = {name: args.get(name, usual).strip()[:80] for name, usual in USUAL.items()}
        if words["order"] not in registers.ORDERS:
            raise InvalidInput("A register is sorted by one of its columns.")
        if words["state"] not in ("", *STATES):
            raise InvalidInput("A line is pending, cleared or reconciled.", field="state")
        typed = MultiDict(words)
        wanted = RegisterFilter(
            text=words["text"],
            state=words["state"],
            payee=words["payee"],
            category_id=parse_optional_id(typed, "category"),
            tag=words["tag"].lstrip("#"),
            member_id=parse_optional_id(typed, "member"),
            least_minor=parse_optional_money(typed, "least", currency),
            most_minor=parse_optional_money(typed, "most", currency),
            first_day=parse_day(typed, "from", g.by.today) if words["from"] else None,
            last_day=_last_day(typed),
            in_series={"yes": True, "no": False}.get(words["series"]),
        )
        return cls(words, wanted)

    @property
    def order(self) -> str:
        return self.words["order"]

    @property
    def newest_first(self) -> bool:
        return self.words["way"] == "down"

    @property
    def filters(self) -> dict[str, str]:
        """The filters that are set, as the address says them."""
        return {n: w for n, w in self.words.items() if w != USUAL[n] and n not in ("order", "way")}

    def named(self, groups, members) -> list[tuple[str, str]]:
        """The filters beyond words and state in words, as (what, which)."""
        categories_by_id = {str(c.id): c.name for _, group in groups for c in group}
        members_by_id = {str(m.id): m.name for m in members}
        labels = {
            "payee": "payee", "category": "category", "tag": "tag", "member": "for", "least": "amounts from",
            "most": "amounts to", "from": "from", "to": "until", "series": "series:",
        }  # fmt: skip
        names = {"category": categories_by_id, "member": members_by_id, "series": {"yes": "yes", "no": "no"}}
        set_ones = self.filters
        return [(label, names.get(n, {}).get(set_ones[n], set_ones[n])) for n, label in labels.items() if n in set_ones]

    @property
    def has_more_filters(self) -> bool:
        """Whether something beyond words and state is filtered by."""
        return bool(self.filters.keys() - {"text", "state"})

    def address(self, **changed: Any) -> dict[str, Any]:
        """The parts of the address, with some changed; what is usual is left out."""
        return {name: value for name, value in (self.words | changed).items() if value != USUAL.get(name)}


def _last_day(typed: MultiDict) -> date | None:
    """The day typed, or the chosen month's end, whichever is earlier; None in the present month."""
    ends = [g.month.last_day] if g.month != g.present else []
    if typed["to"]:
        ends.append(parse_day(typed, "to", g.by.today))
    return min(ends, default=None)


@blueprint.get("/books/<int:account_id>")
def register(account_id: int) -> str | tuple[str, int]:
    """The register up to the chosen month's end, newest first unless asked otherwise; `after` asks for the rows that follow."""
    account = accounts.get_account(g.db, account_id)
    error = None
    try:
        sorting = Sorting.of(request.args, account.currency)
    except InvalidInput as wrong:
        if wrong.field is None:
            raise
        error = wrong
        kept = MultiDict({name: value for name, value in request.args.items() if name != wrong.field})
        sorting = Sorting.of(kept, account.currency)
    on_paper = request.args.get("rows") == "all"
    page = registers.list_page(
        g.db, g.by, account_id, sorting.wanted,
        order=sorting.order, newest_first=sorting.newest_first, after=request.args.get("after"),
        most=MOST_ON_PAPER if on_paper else registers.PAGE_ROWS,
    )  # fmt: skip
    columns = registers.chosen_columns(g.db)
    repeats = set(list_series_payees(g.db, g.by.today, {row.payee_id for row in page.rows}))
    shown = {
        "account": account,
        "page": page,
        "sorting": sorting,
        "columns": columns,
        "repeats": repeats,
        "offer": offered_rule(),
    }
    if request.args.get("after") and request.headers.get("HX-Request"):
        return render_template("ledger/_rows.html", **shown)
    shown |= {
        "state": accounts.get_account_state(g.db, account_id),
        "groups": categories.list_by_group(g.db),
        "quick": request.args.get("quick", ""),
        "next_line": request.args.get("next") == "1",
        "error": error,
        "on_paper": on_paper,
        "typed": request.args,
        "saved": registers.list_saved_filters(g.db),
        "all_columns": registers.COLUMNS,
        "in_payee_cell": {"payee": "Payee"} | {key: registers.COLUMNS[key] for key in ("memo", "tags") if key in columns},
        "states": STATES,
        "facts": account_facts(g.db, g.by, account, accounts.get_account_state(g.db, account_id).balance_minor),
        "has_shares": may_hold_shares(account),
        "missing_since": next((h.since for h in list_holes(g.db, g.by.today) if h.account_id == account_id), None),
    }
    return render_template("ledger/register.html", **shown), 400 if error else 200


@blueprint.get("/books/<int:account_id>.csv")
def register_csv(account_id: int) -> Response:
    """What the register shows, all of it, as CSV; safe from formulas."""
    account = accounts.get_account(g.db, account_id)
    sorting = Sorting.of(request.args, account.currency)
    rows = registers.list_csv_rows(g.db, g.by, account_id, sorting.wanted, sorting.order, sorting.newest_first)
    head = ["day", "payee", "category", "memo", "note", "tags", "amount", "currency", "state"]
    name = "".join(c if c.isalnum() else "-" for c in account.name.lower())
    return csv_reply(name, head, rows)


@blueprint.post("/books/columns")
def choose_columns() -> Response:
    """Says which columns registers show."""
    registers.choose_columns(g.db, request.form.getlist("column"))
    return redirect(page_before(url_for("accounts.table")), code=303)


@blueprint.post("/books/<int:account_id>/filters")
def save_filter(account_id: int) -> Response:
    """Saves the filter in force under a name."""
    account = accounts.get_account(g.db, account_id)
    sorting = Sorting.of(request.form, account.currency)
    address = urlencode({k: v for k, v in sorting.address().items() if v})
    done = registers.save_filter(g.db, g.by, request.form.get("filter_name", ""), address)
    tell("The filter is saved; it works in every account", done)
    return redirect(url_for("ledger.register", account_id=account_id, **sorting.address()), code=303)


@blueprint.post("/books/filters/<int:filter_id>/remove")
def remove_filter(filter_id: int) -> Response:
    """Forgets a saved filter."""
    tell("The saved filter is removed", registers.remove_filter(g.db, g.by, filter_id))
    return redirect(page_before(url_for("accounts.table")), code=303)


@blueprint.post("/books/<int:account_id>/chosen")
def chosen(account_id: int) -> str:
    """How many entries are chosen, and their sum."""
    lines, amount = registers.sum_chosen(g.db, account_id, parse_ids(request.form, "entry_id"))
    return render_template("ledger/_chosen.html", lines=lines, amount=amount, account=accounts.get_account(g.db, account_id))


@blueprint.get("/books/<int:account_id>/understood")
def understood(account_id: int) -> str:
    """What the quick line says so far, set out as fields."""
    text = request.args.get("quick", "")
    said = entries.understand_line(g.db, g.by, account_id, text) if text.strip() else None
    parts: tuple[Part, ...] = ()
    wrong = ""
    if said and said.amount_minor is not None:
        try:
            parts = said.filled_parts()
        except InvalidInput as error:
            wrong = error.sentence
    completed = entries.complete_line(g.db, account_id, text)
    shown = {"said": said, "parts": parts, "wrong": wrong, "completed": completed, "names": names_by_id()}
    return render_template("ledger/_understood.html", **shown, account=accounts.get_account(g.db, account_id))


@blueprint.post("/books/<int:account_id>/quick")
def enter_quick_line(account_id: int) -> Response:
    """Enters the quick line's entry; the next line is ready at once."""
    text = request.form.get("quick", "")
    try:
        done = entries.record_quick_line(g.db, g.by, account_id, text)
    except InvalidInput as error:
        tell_problem(f"“{text.strip()}” is not entered. {error.sentence}")
        return redirect(url_for("ledger.register", account_id=account_id, quick=text), code=303)
    made = entries.get_entry(g.db, done.made)
    line = made.account_lines[0]
    where = "" if line.account_id == account_id else f" on {accounts.get_account(g.db, line.on_account_id).name}"
    tell(f"Entered {made.payee}, {money(line.amount_minor, line.currency)}, {short_day(made.day)}{where}", done)
    return redirect(url_for("ledger.register", account_id=account_id, next=1), code=303)


@blueprint.post("/books/<int:account_id>/bulk")
def change_many(account_id: int) -> Response:
    """Does one thing to what is chosen in the register, as one step."""
    form = request.form
    days = form.get("days", "").strip().replace("−", "-")
    asked = ManyChange(
        form.get("what", ""), parse_optional_id(form, "category_id"), form.get("words", ""), parse_optional_id(form, "member_id"),
        number_of(days, signed=True) or 0,
    )  # fmt: skip
    done = registers.change_many(g.db, g.by, account_id, parse_ids(form, "entry_id"), asked)
    tell(done.sentence, done)
    if asked.what == "file":
        offer_rule(parse_ids(form, "entry_id")[0])
    return redirect(page_before(url_for("ledger.register", account_id=account_id)), code=303)
