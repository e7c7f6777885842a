"""An entry's form, in its page or opened under its row; what is attached to it, what was done to it."""

from functools import partial
from itertools import zip_longest
from typing import Any
from urllib.parse import urlsplit

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.ledger.entries import Part, StoredEntry, fill_open_part, remaining_minor
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import BolsaError, Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.bringing import matching_by_hand
from bolsa.services.holdings import trading
from bolsa.services.house import sessions
from bolsa.services.ledger import attaching, entries, registers
from bolsa.services.ledger.entries import EXCHANGE, UNSORTED, TypedEntry
from bolsa.services.ledger.entry_history import list_history
from bolsa.services.pay import paydays
from bolsa.services.sorting import asking, categories, why
from bolsa.web.filters import in_field
from bolsa.web.forms import (
    attach_uploads,
    offer_rule,
    parse_day,
    parse_money,
    parse_optional_id,
    parse_optional_money,
    parse_version,
    tell,
)
from bolsa.web.ledger.blueprint import blueprint


@blueprint.get("/books/<int:account_id>/new")
def new_entry(account_id: int) -> str:
    """The form of a new entry."""
    typed = MultiDict({"day": g.by.today.isoformat(), "state": "pending"})
    return _form_page(account_id, None, typed, None)


@blueprint.post("/books/<int:account_id>/new")
def enter(account_id: int) -> tuple[str, int] | Response:
    """Enters the form's entry."""
    try:
        done = entries.record_entry(g.db, g.by, account_id, _parse_entry(account_id, request.form))
    except InvalidInput as error:
        return _form_page(account_id, None, request.form, error), 400
    tell(f"Entered {request.form.get('payee') or 'a transfer'}", done)
    return redirect(url_for("ledger.register", account_id=account_id), code=303)


@blueprint.get("/entries/<int:entry_id>")
def entry(entry_id: int) -> str:
    """An entry's form, seen from the account in `from`, with its history and what the bank sent."""
    kept = entries.get_entry(g.db, entry_id)
    account_id = request.args.get("from", type=int) or kept.account_lines[0].on_account_id
    return _form_page(account_id, kept, _typed(kept, account_id), None)


@blueprint.post("/entries/<int:entry_id>")
def change_entry(entry_id: int) -> tuple[str, int] | Response:
    """Changes an entry as its form says."""
    kept = entries.get_entry(g.db, entry_id)
    account_id = request.form.get("from", type=int) or kept.account_lines[0].on_account_id
    try:
        done = entries.change_entry(
            g.db, g.by, entry_id, account_id, _parse_entry(account_id, request.form), seen=parse_version(request.form)
        )
    except (InvalidInput, Conflict) as error:
        return _form_page(account_id, kept, request.form, error), 409 if isinstance(error, Conflict) else 400
    tell(f"Changed {request.form.get('payee') or 'the transfer'}", done)
    if _filed(kept) != _filed(entries.get_entry(g.db, entry_id)):
        offer_rule(entry_id)
    return _back_to_register(account_id)


def _filed(entry: StoredEntry) -> tuple[int | None, ...]:
    """The categories an entry stands under."""
    return tuple(line.category_id for line in entry.category_lines)


@blueprint.post("/entries/<int:entry_id>/trash")
def delete_entry(entry_id: int) -> Response:
    """Moves an entry to the trash."""
    kept = entries.get_entry(g.db, entry_id)
    done = entries.delete_entry(g.db, g.by, entry_id)
    tell(f"{kept.payee} is in the trash", done)
    return _back_to_register(request.form.get("from", type=int) or kept.account_lines[0].on_account_id)


def _back_to_register(account_id: int) -> Response:
    """To the register, as it was filtered and sorted when the entry was opened in it; to the check it was opened from."""
    if request.form.get("check"):
        return redirect(url_for("checking.check", account_id=account_id), code=303)
    register = url_for("ledger.register", account_id=account_id)
    came_from = urlsplit(request.headers.get("HX-Current-URL") or request.referrer or "")
    return redirect(f"{register}?{came_from.query}" if came_from.path == register and came_from.query else register, code=303)


def came_from() -> dict[str, Any]:
    """The account an entry was opened from, as its address holds it ("from" is no word of Python's own)."""
    return {"from": request.form.get("from")}


@blueprint.post("/entries/<int:entry_id>/attach")
def attach(entry_id: int) -> Response:
    """Attaches images or PDFs to an entry."""
    attach_uploads(partial(attaching.attach, g.db, g.by, entry_id))
    return redirect(url_for("ledger.entry", entry_id=entry_id, **came_from()), code=303)


@blueprint.get("/attachments/<int:attachment_id>")
def attachment(attachment_id: int) -> Response:
    """An attached file, for looking at or keeping; nothing in it may run here."""
    found, content = attaching.get_file(g.db, attachment_id)
    way = "inline" if found.media_type.startswith("image/") else "attachment"
    name = found.name.encode("ascii", "ignore").decode().replace('"', "") or "file"
    reply = FlaskResponse(content, mimetype=found.media_type)
    reply.headers["Content-Disposition"] = f'{way}; filename="{name}"'
    return reply


@blueprint.get("/attachments/<int:attachment_id>/small")
def attachment_small(attachment_id: int) -> Response:
    """The small picture of an attached file."""
    return FlaskResponse(attaching.get_thumbnail(g.db, attachment_id), mimetype="image/png")


@blueprint.post("/attachments/<int:attachment_id>/remove")
def detach(attachment_id: int) -> Response:
    """Takes a file off its entry or its trade."""
    found, _ = attaching.get_file(g.db, attachment_id)
    tell(f"{found.name} is taken off", attaching.detach(g.db, g.by, attachment_id))
    if found.trade_id is not None:
        return redirect(url_for("holdings.trade", trade_id=found.trade_id), code=303)
    return redirect(url_for("ledger.entry", entry_id=found.entry_id, **came_from()), code=303)


@blueprint.post("/lines/<int:line_id>/unmatch")
def unmatch(line_id: int) -> Response:
    """Parts a typed entry from the bank's row it was matched with."""
    entry = entries.entry_of_line(g.db, line_id)
    tell(f"{entry.payee} and what the bank sent are two entries again", matching_by_hand.unmatch(g.db, g.by, line_id))
    return redirect(url_for("ledger.entry", entry_id=entry.id), code=303)


def names_by_id() -> dict[str, dict[int, str]]:
    """The names of categories, accounts and members by their ids, as the forms show them."""
    return {
        "categories": {c.id: c.name for _, members in categories.list_by_group(g.db) for c in members},
        "accounts": {a.id: a.name for a in accounts.list_accounts(g.db)},
        "members": {m.id: m.name for m in sessions.list_members(g.db)},
    }


def _form_page(account_id: int, kept: StoredEntry | None, typed: MultiDict, error: BolsaError | None) -> str:
    account = accounts.get_account(g.db, account_id)
    others = [a for a in accounts.list_accounts(g.db) if a.id != account_id]
    parts = list(zip_longest(*(typed.getlist(name) for name in ("category_id", "part", "tags", "for_member")), fillvalue=""))
    # Asked from a register's row the form opens under it; a refused form comes back as a page of its own.
    in_place = kept and not error and request.headers.get("HX-Request")
    return render_template(
        "ledger/_entry_row.html" if in_place else "ledger/entry.html",
        account=account,
        in_row=bool(in_place),
        kept=kept,
        typed=typed,
        error=error,
        others=others,
        parts=parts + [("", "", "", "")] * max(0, (3 if len(parts) > 1 else 1) - len(parts)),
        remains=_remains(typed, account.currency),
        groups=categories.list_by_group(g.db),
        history=list_history(g.db, kept.id) if kept else [],
        attachments=attaching.list_attachments(g.db, kept.id) if kept else [],
        matched=_match_reasons(kept) if kept else {},
        payday=paydays.find_payday_of_entry(g.db, kept.id) if kept else None,
        trade=trading.find_trade_of_entry(g.db, kept.id) if kept else None,
        names=names_by_id(),
        reason=why.why(g.db, kept) if kept else None,
        questions=asking.list_of_entry(g.db, kept.id) if kept else [],
        kept_out=why.is_kept_out(g.db, kept.id) if kept else False,
        seen=changes.version_of(g.db, "entry", kept.id) if kept else 0,
    )


def _match_reasons(kept: StoredEntry) -> dict[int, str]:
    """By line: why it was matched with what the bank sent."""
    reasons = {line.stored_id: matching_by_hand.match_reason(g.db, line.stored_id) for line in kept.account_lines}
    return {line_id: reason for line_id, reason in reasons.items() if reason is not None}


@blueprint.post("/books/<int:account_id>/remains")
def split_remains(account_id: int) -> str:
    """What remains of a split while it is typed."""
    account = accounts.get_account(g.db, account_id)
    return render_template("ledger/_remains.html", remains=_remains(request.form, account.currency), account=account)


def _remains(typed: MultiDict, currency: str) -> int | None:
    """What remains of the amount after the parts typed; None while there is nothing to split."""
    typed_parts = [text for text in typed.getlist("part") if text.strip()]
    if not typed_parts:
        return None
    try:
        total = -_signed(typed, currency)
        parts = [Part(0, parse_money(MultiDict({"part": text}), "part", currency)) for text in typed_parts]
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
    state = "cleared" if form.get("state") == "cleared" else "pending"
    day = parse_day(form, "day", g.by.today)
    if other_id is not None:
        arriving = None
        if form.get("other_amount", "").strip():
            arriving = parse_optional_money(form, "other_amount", accounts.get_account(g.db, other_id).currency)
        set_by = parse_optional_id(form, "set_by")
        typed_parts = any(text.strip() for text in form.getlist("part"))
        parts = _parse_parts(form, amount, account.currency) if typed_parts else ()
        return TypedEntry(day, form.get("payee", ""), amount, parts, other_id, arriving, set_by, state=state, **words)
    parts = _parse_parts(form, amount, account.currency)
    return TypedEntry(day, form.get("payee", ""), amount, parts, state=state, **words)


def _parse_parts(form: MultiDict, amount_minor: int, currency: str) -> tuple[Part, ...]:
    """The parts of a split; one category without an amount takes all, or all that remains."""
    found: list[Part] = []
    typed = [form.getlist(name) for name in ("category_id", "part", "tags", "for_member")]
    for category, text, tags, member in zip_longest(*typed, fillvalue=""):
        if not any(typed.strip() for typed in (category, text, tags, member)):
            continue
        if not category.strip() and not text.strip():
            category = str(UNSORTED)  # noqa: PLW2901 (what is said of an entry stays with it until it is sorted)
        if not is_number(category):
            raise InvalidInput("Say which category this part belongs to.", field="split")
        amount = parse_money(MultiDict({"part": text}), "part", currency) if text.strip() else None
        named = tuple(dict.fromkeys(registers.clean_tag(tag) for tag in tags.replace(",", " ").split() if tag.strip("#")))
        found.append(Part(int(category), amount, number_of(member), named))
    return fill_open_part(found, amount_minor)


def _typed(kept: StoredEntry, account_id: int) -> MultiDict:
    """A kept entry as its form would have been typed."""
    line = next((one for one in kept.account_lines if one.account_id == account_id), kept.account_lines[0])
    others = [one for one in kept.account_lines if one is not line]
    typed = MultiDict(
        {
            "day": kept.day.isoformat(), "payee": kept.payee, "memo": kept.memo, "note": kept.note, "state": line.state,
            "amount": in_field(abs(line.amount_minor), line.currency),
            "direction": "in" if line.amount_minor > 0 else "out",
        }
    )  # fmt: skip
    if others:
        typed["other_account"] = str(others[0].account_id)
        typed["other_amount"] = in_field(abs(others[0].amount_minor), others[0].currency)
        typed["set_by"] = str(others[0].category_id or line.category_id or "")
    sign = 1 if line.amount_minor <= 0 else -1
    single = len(kept.category_lines) == 1 and not others
    for part in kept.category_lines:
        if part.category_id == EXCHANGE:
            continue
        typed.add("category_id", str(part.category_id) if part.category_id != UNSORTED else "")
        typed.add("part", "" if single else in_field(sign * part.amount_minor, part.currency))
        typed.add("tags", " ".join(part.tags))
        typed.add("for_member", str(part.member_id or ""))
    return typed
