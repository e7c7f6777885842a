"""An account's register: the quick line, rows by key, entries edited in place. Stories: tests/stories/test_register.py."""

from dataclasses import dataclass

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.entries import Entry, Share, remaining_minor
from bolsa.core.money import decimal_text
from bolsa.errors import InvalidInput
from bolsa.services import accounts, categories, entries, registers
from bolsa.services.entries import EXCHANGE, TypedEntry
from bolsa.web.books.blueprint import blueprint
from bolsa.web.forms import parse_day, parse_money, parse_optional_id, parse_optional_money, tell, tell_problem


@dataclass(frozen=True)
class Sorting:
    """How a register is sorted and filtered, as its address holds it."""

    order: str
    newest_first: bool
    text: str
    state: str

    @classmethod
    def of(cls, args: MultiDict) -> "Sorting":
        order = args.get("order", "day")
        if order not in registers.ORDERS:
            raise InvalidInput("A register is sorted by day, payee or amount.")
        state = args.get("state", "")
        if state not in ("", "pending", "cleared", "reconciled"):
            raise InvalidInput("A line is pending, cleared or reconciled.")
        return cls(order, args.get("way", "down") == "down", args.get("text", "").strip()[:80], state)

    def address(self, **changed: object) -> dict[str, object]:
        """The parts of the address, with some changed; what is usual is left out."""
        values = {"order": self.order, "way": "down" if self.newest_first else "up", "text": self.text, "state": self.state}
        usual = {"order": "day", "way": "down", "text": "", "state": ""}
        return {k: v for k, v in (values | changed).items() if v != usual.get(k)}


@blueprint.get("/books/<int:account_id>")
def register(account_id: int) -> str:
    """The register up to the chosen month's end, newest first unless asked otherwise; `after` asks for the rows that follow."""
    sorting = Sorting.of(request.args)
    account = accounts.get_account(g.db, account_id)
    page = registers.list_page(
        g.db,
        account_id,
        text=sorting.text,
        state=sorting.state,
        last_day=g.month.last_day if g.month != g.present else None,
        order=sorting.order,
        newest_first=sorting.newest_first,
        after=request.args.get("after"),
    )
    shown = {"account": account, "page": page, "sorting": sorting, "groups": categories.list_by_group(g.db)}
    if request.args.get("after") and request.headers.get("HX-Request"):
        return render_template("books/_rows.html", **shown)
    state = accounts.get_account_state(g.db, account_id)
    return render_template("books/register.html", state=state, quick=request.args.get("quick", ""), **shown)


@blueprint.get("/books/<int:account_id>/understood")
def understood(account_id: int) -> str:
    """What the quick line says so far, set out as fields."""
    text = request.args.get("quick", "")
    said = entries.understand_line(g.db, g.by, account_id, text) if text.strip() else None
    return render_template("books/_understood.html", said=said, names=_names(), account=accounts.get_account(g.db, account_id))


@blueprint.post("/books/<int:account_id>/quick")
def enter_quick_line(account_id: int) -> Response:
    """Enters the quick line's entry; the next line is ready at once."""
    text = request.form.get("quick", "")
    try:
        _, step_id = entries.record_quick_line(g.db, g.by, account_id, text)
    except InvalidInput as error:
        tell_problem(error.sentence)
        return redirect(url_for("books.register", account_id=account_id, quick=text), code=303)
    tell(f"Entered “{text.strip()}”", step_id)
    return redirect(url_for("books.register", account_id=account_id), code=303)


@blueprint.get("/books/<int:account_id>/new")
def new_entry(account_id: int) -> str:
    """The form of a new entry."""
    typed = MultiDict({"day": g.by.today.isoformat(), "state": "pending"})
    return _form_page(account_id, None, typed, None)


@blueprint.post("/books/<int:account_id>/new")
def enter(account_id: int) -> tuple[str, int] | Response:
    """Enters the form's entry."""
    try:
        _, step_id = entries.record_entry(g.db, g.by, account_id, _parse_entry(account_id, request.form))
    except InvalidInput as error:
        return _form_page(account_id, None, request.form, error), 400
    tell(f"Entered {request.form.get('payee') or 'a transfer'}", step_id)
    return redirect(url_for("books.register", account_id=account_id), code=303)


@blueprint.get("/entries/<int:entry_id>")
def entry(entry_id: int) -> str:
    """An entry's form, seen from the account in `from`, with its history and what the bank sent."""
    kept = entries.get_entry(g.db, entry_id)
    account_id = request.args.get("from", type=int) or kept.account_lines[0].account_id
    return _form_page(account_id, kept, _typed(kept, account_id), None)


@blueprint.post("/entries/<int:entry_id>")
def change_entry(entry_id: int) -> tuple[str, int] | Response:
    """Changes an entry as its form says."""
    kept = entries.get_entry(g.db, entry_id)
    account_id = request.form.get("from", type=int) or kept.account_lines[0].account_id
    try:
        step_id = entries.change_entry(g.db, g.by, entry_id, account_id, _parse_entry(account_id, request.form))
    except InvalidInput as error:
        return _form_page(account_id, kept, request.form, error), 400
    tell(f"Changed {request.form.get('payee') or 'the transfer'}", step_id)
    return redirect(url_for("books.register", account_id=account_id), code=303)


@blueprint.post("/entries/<int:entry_id>/trash")
def delete_entry(entry_id: int) -> Response:
    """Moves an entry to the trash."""
    kept = entries.get_entry(g.db, entry_id)
    step_id = entries.delete_entry(g.db, g.by, entry_id)
    tell(f"{kept.payee} is in the trash", step_id)
    account_id = request.form.get("from", type=int) or kept.account_lines[0].account_id
    return redirect(url_for("books.register", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/bulk")
def change_many(account_id: int) -> Response:
    """Files, marks or deletes what is chosen in the register, as one step."""
    ids = [int(text) for text in request.form.getlist("entry_id") if text.isdigit()]
    what = request.form.get("what", "")
    sentence, step_id = registers.change_many(g.db, g.by, account_id, ids, what, parse_optional_id(request.form, "category_id"))
    tell(sentence, step_id)
    return redirect(request.referrer or url_for("books.register", account_id=account_id), code=303)


def _names() -> dict[str, dict[int, str]]:
    return {
        "categories": {c.id: c.name for _, members in categories.list_by_group(g.db) for c in members},
        "accounts": {a.id: a.name for a in accounts.list_accounts(g.db)},
    }


def _form_page(account_id: int, kept: Entry | None, typed: MultiDict, error: InvalidInput | None) -> str:
    account = accounts.get_account(g.db, account_id)
    others = [a for a in accounts.list_accounts(g.db) if a.id != account_id]
    shares = list(zip(typed.getlist("category_id"), typed.getlist("share"), strict=False))
    # Asked from a register's row the form opens under it; a refused form comes back as a page of its own.
    in_place = kept and not error and request.headers.get("HX-Request")
    return render_template(
        "books/_entry_row.html" if in_place else "books/entry.html",
        account=account,
        kept=kept,
        typed=typed,
        error=error,
        others=others,
        shares=shares + [("", "")] * max(0, (3 if len(shares) > 1 else 1) - len(shares)),
        remains=_remains(typed, account.currency),
        groups=categories.list_by_group(g.db),
        history=entries.history_of(g.db, kept.id) if kept else [],
        names=_names(),
    )


@blueprint.post("/books/<int:account_id>/remains")
def split_remains(account_id: int) -> str:
    """What remains of a split while it is typed."""
    account = accounts.get_account(g.db, account_id)
    return render_template("books/_remains.html", remains=_remains(request.form, account.currency), account=account)


def _remains(typed: MultiDict, currency: str) -> int | None:
    """What remains of the amount after the shares typed; None while there is nothing to split."""
    shares = [text for text in typed.getlist("share") if text.strip()]
    if not shares:
        return None
    try:
        total = -_signed(typed, currency)
        parts = [Share(0, parse_money(MultiDict({"share": text}), "share", currency)) for text in shares]
    except InvalidInput:
        return None
    return remaining_minor(total, parts) if total >= 0 else -remaining_minor(-total, parts)


def _signed(form: MultiDict, currency: str) -> int:
    """The amount from the account's side: typed as out unless "in" is chosen or it carries a plus or minus itself."""
    amount = parse_money(form, "amount", currency)
    return abs(amount) if form.get("direction") == "in" else -abs(amount)


def _parse_entry(account_id: int, form: MultiDict) -> TypedEntry:
    """The entry a form holds. Raises: InvalidInput naming the field."""
    account = accounts.get_account(g.db, account_id)
    amount = _signed(form, account.currency)
    words = {"memo": form.get("memo", ""), "note": form.get("note", "")}
    other_id = parse_optional_id(form, "other_account")
    state = form.get("state") if form.get("state") in ("pending", "cleared") else "pending"
    day = parse_day(form, "day", g.by.today)
    if other_id is not None:
        arriving = None
        if form.get("other_amount", "").strip():
            arriving = parse_optional_money(form, "other_amount", accounts.get_account(g.db, other_id).currency)
        set_by = parse_optional_id(form, "set_by")
        typed_parts = any(text.strip() for text in form.getlist("share"))
        shares = _parse_shares(form, amount, account.currency) if typed_parts else ()
        return TypedEntry(day, form.get("payee", ""), amount, shares, other_id, arriving, set_by, state=state, **words)
    shares = _parse_shares(form, amount, account.currency)
    return TypedEntry(day, form.get("payee", ""), amount, shares, state=state, **words)


def _parse_shares(form: MultiDict, amount_minor: int, currency: str) -> tuple[Share, ...]:
    """The shares of a split; one category without a share takes all of the amount, or all that remains."""
    sign = 1 if amount_minor <= 0 else -1
    found: list[tuple[int, int | None]] = []
    for category, text in zip(form.getlist("category_id"), form.getlist("share"), strict=False):
        if not category.strip() and not text.strip():
            continue
        if not category.isdigit():
            raise InvalidInput("Say which category this part belongs to.", field="split")
        share = parse_money(MultiDict({"share": text}), "share", currency) if text.strip() else None
        found.append((int(category), share))
    open_ones = [category for category, share in found if share is None]
    if len(open_ones) > 1:
        raise InvalidInput("Only one part may be left open; it takes what remains.", field="split")
    remains = abs(amount_minor) - sum(share for _, share in found if share is not None)
    return tuple(Share(category, sign * (remains if share is None else share)) for category, share in found)


def _typed(kept: Entry, account_id: int) -> MultiDict:
    """A kept entry as its form would have been typed."""
    line = next((one for one in kept.account_lines if one.account_id == account_id), kept.account_lines[0])
    others = [one for one in kept.account_lines if one is not line]
    typed = MultiDict(
        {
            "day": kept.day.isoformat(), "payee": kept.payee, "memo": kept.memo, "note": kept.note, "state": line.state,
            "amount": decimal_text(abs(line.amount_minor), line.currency),
            "direction": "in" if line.amount_minor > 0 else "out",
        }
    )  # fmt: skip
    if others:
        typed["other_account"] = str(others[0].account_id)
        typed["other_amount"] = decimal_text(abs(others[0].amount_minor), others[0].currency)
        typed["set_by"] = str(others[0].category_id or line.category_id or "")
    sign = 1 if line.amount_minor <= 0 else -1
    single = len(kept.category_lines) == 1 and not others
    for part in kept.category_lines:
        if part.category_id == EXCHANGE:
            continue
        typed.add("category_id", str(part.category_id))
        typed.add("share", "" if single else decimal_text(sign * part.amount_minor, part.currency))
    return typed
