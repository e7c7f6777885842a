"""The accounts table; adding one or several, changing, hiding, ordering, closing, deleting. Stories: test_accounts.py."""

from decimal import Decimal
from typing import Any

from flask import current_app, g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.accounts.account import KIND_BY_KEY, KINDS, Account
from bolsa.core.accounts.terms import Terms
from bolsa.core.currencies import parse_currency
from bolsa.core.percents import RATE_PLACES, parse_percent
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput, ServiceUnavailable
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, market, openings, valuing
from bolsa.services.accounts.accounts import AccountDetails, NewAccount
from bolsa.services.accounts.holes import list_holes
from bolsa.services.holdings import shares
from bolsa.services.sorting import categories
from bolsa.web import jobs
from bolsa.web.accounts.blueprint import blueprint
from bolsa.web.filters import in_field
from bolsa.web.forms import (
    parse_day,
    parse_id,
    parse_ids,
    parse_money,
    parse_optional_id,
    parse_optional_money,
    parse_version,
    tell,
)

ROWS_AT_ONCE = 8
ROW_FIELDS = ("name", "kind", "institution", "number", "opening", "opened_on", "currency")


@blueprint.get("/books")
def table() -> str:
    """Every account by group: balance, what the bank says, difference, checked until, last brought in; apart ones with value."""
    everything = accounts.account_groups(g.db, with_hidden=True, with_closed=True)
    all_states = [state for group in everything for state in group.states]
    open_states = [state for state in all_states if state.account.closed_on is None]
    with_hidden, with_closed = bool(request.args.get("hidden")), bool(request.args.get("closed"))
    groups = accounts.account_groups(g.db, with_hidden=with_hidden, with_closed=with_closed)
    has_index = bool(current_app.config["MARKET_URL"])
    to_carry = valuing.list_to_carry(g.db, g.by, has_index=has_index)
    return render_template(
        "accounts/table.html",
        groups=groups,
        with_hidden=with_hidden,
        with_closed=with_closed,
        hidden=sum(not s.account.shown and s.account.closed_on is None for s in all_states),
        closed=sum(s.account.closed_on is not None for s in all_states),
        differing=[s for s in open_states if s.difference_minor],
        agreeing=[s for s in open_states if s.difference_minor == 0],
        untold=[s for s in open_states if s.account.everyday and s.bank_day is None],
        holes={hole.account_id: hole for hole in list_holes(g.db, g.by.today)},
        values=valuing.list_last_values(g.db),
        to_carry=to_carry,
        values_to_carry=sum(len(one.values) for one in to_carry),
        shares_differ=shares.count_differing(g.db),
        waiting=valuing.list_waiting_for_index(g.db, g.by, has_index=has_index),
        foreign=any(s.account.currency != g.household.home_currency for s in all_states),
    )


@blueprint.get("/books/accounts/new")
def new_account() -> str:
    """The form for a new account."""
    typed = MultiDict({"kind": "current", "opened_on": g.by.today.isoformat(), "currency": g.household.home_currency})
    return _form(typed, None, None)


@blueprint.post("/books/accounts/new")
def add_account() -> tuple[str, int] | Response:
    """Adds the account of the form."""
    form = request.form
    try:
        currency = _currency(form)
        new = NewAccount(
            name=form.get("name", ""),
            kind=form.get("kind", ""),
            currency=currency,
            opening_minor=parse_optional_money(form, "opening", currency) or 0,
            opened_on=parse_day(form, "opened_on", g.by.today),
            everyday={"everyday": True, "apart": False}.get(form.get("everyday", "")),
            side=form.get("side") or None,
            institution=form.get("institution", ""),
            number=form.get("number", ""),
            group=form.get("group", ""),
            note=form.get("note", ""),
            set_apart=form.get("old_debt") == "apart",
            terms=_parse_terms(form, form.get("kind", ""), currency),
            owner_ids=tuple(parse_ids(form, "owner")),
        )
        accounts.add_account(g.db, g.by, new)
    except InvalidInput as error:
        return _form(form, error, None), 400
    tell(f"{new.name} is added")
    return redirect(url_for("accounts.table" if not form.get("another") else "accounts.new_account"), code=303)


def _currency(form: MultiDict) -> str:
    return parse_currency(form.get("currency", "").strip() or g.household.home_currency)


@blueprint.get("/books/accounts/several")
def several_accounts() -> str:
    """A row each for many accounts, as in the first hour."""
    return _several(MultiDict(), None)


@blueprint.post("/books/accounts/several")
def add_several() -> tuple[str, int] | Response:
    """Adds the accounts of the rows that have a name, all or none."""
    form = request.form
    try:
        rows, places = [], []
        for i, name in enumerate(form.getlist("name")):
            if name.strip():
                rows.append(_parse_row(form, i))
                places.append(i)
        done = accounts.add_several(g.db, g.by, rows)
    except InvalidInput as error:
        field = error.field or ""
        if field.startswith("row-") and places and not field.endswith("!"):
            field = f"row-{places[int(field.removeprefix('row-'))]}"
        error.field = field.rstrip("!")
        return _several(form, error), 400
    tell(f"{len(rows)} accounts are added", done)
    return redirect(url_for("accounts.table"), code=303)


def _parse_row(form: MultiDict, i: int) -> NewAccount:
    """One row of several; an error names the row itself, marked as placed already."""
    row = MultiDict({name: form.getlist(name)[i] for name in ROW_FIELDS})
    try:
        currency = _currency(row)
        opening = parse_optional_money(row, "opening", currency) or 0
        day = parse_day(row, "opened_on", g.by.today)
    except InvalidInput as error:
        raise InvalidInput(error.sentence, field=f"row-{i}!") from error
    return NewAccount(row["name"], row["kind"], currency, opening, day, institution=row["institution"], number=row["number"])


def _several(typed: MultiDict, error: InvalidInput | None) -> str:
    rows = [dict(zip(ROW_FIELDS, row, strict=True)) for row in zip(*(typed.getlist(c) for c in ROW_FIELDS), strict=True)]
    rows += [dict.fromkeys(ROW_FIELDS, "") for _ in range(max(0, ROWS_AT_ONCE - len(rows)))]
    return render_template("accounts/several.html", rows=rows, typed=typed, error=error, kinds=KINDS)


@blueprint.get("/books/accounts/<int:account_id>/edit")
def edit_account(account_id: int) -> str:
    """The form of an account that is there."""
    account = accounts.get_account(g.db, account_id)
    return _form(_typed_account(account), None, account)


def _typed_account(account: Account) -> MultiDict:
    """An account as its form would have been typed."""
    account_id = account.id
    typed = MultiDict({**account.__dict__, "everyday": "everyday" if account.everyday else "apart"})
    typed.update(_typed_terms(accounts.get_terms(g.db, account_id), account.currency))
    typed.setlist("owner", [str(id_) for id_ in accounts.list_owners(g.db).get(account_id, [])])
    typed.update({f"facet-{id_}": value for id_, value in accounts.list_facet_values(g.db, account_id).items()})
    return typed


@blueprint.post("/books/accounts/<int:account_id>/edit")
def change_account(account_id: int) -> tuple[str, int] | Response:
    """Changes an account's words, class, terms, owners, facets, and whether it is everyday."""
    form = request.form
    account = accounts.get_account(g.db, account_id)
    names = ("name", "kind", "institution", "number", "group", "note")
    words: dict[str, Any] = {name: form.get(name, "").strip() for name in names}
    words |= {"everyday": form.get("everyday") != "apart", "side": form.get("side") or account.side}
    words["group"] = words["group"] or account.group
    try:
        facets = {int(n.removeprefix("facet-")): v for n, v in form.items() if is_number(n.removeprefix("facet-"))}
        details = AccountDetails(
            _parse_terms(form, words["kind"], account.currency),
            tuple(parse_ids(form, "owner")),
            facets,
            (form.get("new_facet", ""), form.get("new_facet_value", "")),
        )
        done = accounts.change_account(g.db, g.by, account_id, details, seen=parse_version(form), **words)
    except InvalidInput as error:
        return _form(form, error, account), 400
    tell(f"{words['name']} is changed", done)
    return redirect(url_for("accounts.table"), code=303)


@blueprint.post("/books/accounts/<int:account_id>/opening")
def set_opening(account_id: int) -> tuple[str, int] | Response:
    """Says what an account held on a day; its opening balance follows."""
    account = accounts.get_account(g.db, account_id)
    try:
        amount = parse_money(request.form, "opening", account.currency)
        done = openings.set_known(g.db, g.by, account_id, parse_day(request.form, "known_on", g.by.today), amount)
    except InvalidInput as error:
        typed = _typed_account(account)
        typed.update(request.form)
        return _form(typed, error, account), 400
    tell(done.sentence, done)
    return redirect(url_for("ledger.register", account_id=account_id), code=303)


@blueprint.post("/books/accounts/<int:account_id>/opening/bank")
def open_right(account_id: int) -> Response:
    """Sets the opening balance so that the account meets what its bank says."""
    done = openings.open_as_the_bank_says(g.db, g.by, account_id)
    tell(done.sentence, done)
    return redirect(url_for("ledger.register", account_id=account_id), code=303)


def _parse_terms(form: MultiDict, kind: str, currency: str) -> Terms:
    """The terms of a kind, as the form has them. Raises: InvalidInput naming the field."""
    asked = KIND_BY_KEY[kind].terms if kind in KIND_BY_KEY else ()
    values: dict[str, Any] = {}
    for name in asked:
        if name in ("limit", "principal", "payment", "exit_cost", "ceiling", "curve_last", "floor"):
            amount = parse_optional_money(form, name, currency)
            values[f"{name}_minor"] = abs(amount) if amount is not None else None
        elif name in ("rate", "curve_rate"):
            values[name] = _parse_percent(form, name)
        elif name in ("statement_day", "due_day", "term_months"):
            values[name] = _parse_number(form, name, 1200 if name == "term_months" else 31)
        elif name.endswith("_id"):
            values[name] = parse_optional_id(form, name)
        elif name == "curve":
            values[name] = form.get(name) if form.get(name) in ("carry", "straight", "percent", "index") else ""
        elif name == "curve_index":
            values[name] = form.get(name, "").strip() or None
        else:
            values[name] = parse_day(form, name, g.by.today) if form.get(name, "").strip() else None
    return Terms(**values)


def _parse_percent(form: MultiDict, field: str) -> Decimal | None:
    text = form.get(field, "").strip()
    return parse_percent(text, field, lowest=-99, highest=999, places=RATE_PLACES) / 100 if text else None


def _parse_number(form: MultiDict, field: str, most: int) -> int | None:
    text = form.get(field, "").strip()
    if not text:
        return None
    if not is_number(text) or not 1 <= int(text) <= most:
        raise InvalidInput(f"Write a whole number from 1 to {most}.", field=field)
    return int(text)


def _typed_terms(terms: Terms, currency: str) -> dict[str, str]:
    """Terms as their form would have been typed."""
    typed = {}
    for name, value in vars(terms).items():
        if value is None:
            continue
        if name.endswith("_minor"):
            typed[name.removesuffix("_minor")] = in_field(value, currency)
        elif name in ("rate", "curve_rate"):
            typed[name] = f"{(value * 100).normalize():f}"
        else:
            typed[name] = str(value)
    return typed


@blueprint.get("/books/indexes")
def indexes() -> str:
    """The names of the value indexes there are, asked for by the form once it stands: it never waits for another service."""
    names, problem, asked = [], "", ""
    try:
        url = current_app.config["MARKET_URL"]
        names = jobs.fetch("Asking the market", lambda _: market.list_indexes(url))
    except ServiceUnavailable as error:
        problem = error.sentence
    except jobs.StillAsking as still:
        asked = still.job_id
    return render_template("accounts/_indexes.html", indexes=names, problem=problem, asked=asked)


@blueprint.post("/books/accounts/<int:account_id>/shown")
def show_account(account_id: int) -> Response:
    """Hides an account from lists, or shows it again."""
    shown = request.form.get("shown") == "1"
    done = accounts.set_shown(g.db, g.by, account_id, shown)
    name = accounts.get_account(g.db, account_id).name
    tell(f"{name} is {'shown again' if shown else 'hidden; it stays in every total'}", done)
    return redirect(url_for("accounts.table"), code=303)


@blueprint.post("/books/accounts/<int:account_id>/move")
def move_account(account_id: int) -> Response:
    """Moves an account up or down, or into the place of another it was dragged to."""
    if request.form.get("to"):
        done = accounts.place_account(g.db, g.by, account_id, parse_id(request.form, "to"))
    else:
        done = accounts.move_account(g.db, g.by, account_id, -1 if request.form.get("way") == "up" else 1)
    tell(f"{accounts.get_account(g.db, account_id).name} is moved", done)
    return redirect(url_for("accounts.table"), code=303)


@blueprint.get("/books/accounts/<int:account_id>/end")
def end_account(account_id: int) -> str:
    """Closing an account, or deleting one that was a mistake: what each would do."""
    return _end_page(account_id, None)


def _end_page(account_id: int, error: InvalidInput | None) -> str:
    state = accounts.get_account_state(g.db, account_id)
    account = state.account
    others = [
        a for a in accounts.list_accounts(g.db) if a.id != account_id and a.currency == account.currency and a.closed_on is None
    ]
    belongings = ending.count_belongings(g.db, account_id)
    return render_template(
        "accounts/end.html",
        state=state,
        account=account,
        others=others,
        belongings=belongings,
        error=error,
        typed=request.form,
        pending=ending.count_pending(g.db, account_id),
    )


@blueprint.post("/books/accounts/<int:account_id>/close")
def close_account(account_id: int) -> tuple[str, int] | Response:
    """Closes an account; what it still holds goes where the form says."""
    try:
        day = parse_day(request.form, "day", g.by.today)
        rest = request.form.get("rest_to", "")
        rest_to = number_of(rest)
        done = ending.close_account(
            g.db, g.by, account_id, day, rest_to=rest_to, write_down=rest == "write down", happened="happened" in request.form
        )
    except InvalidInput as error:
        return _end_page(account_id, error), 400
    tell(f"{accounts.get_account(g.db, account_id).name} is closed; its history stays", done)
    return redirect(url_for("accounts.table"), code=303)


@blueprint.post("/books/accounts/<int:account_id>/open")
def open_account(account_id: int) -> Response:
    """Opens a closed account again."""
    done = ending.open_again(g.db, g.by, account_id)
    tell(f"{accounts.get_account(g.db, account_id).name} is open again", done)
    return redirect(url_for("accounts.table"), code=303)


@blueprint.post("/books/accounts/<int:account_id>/delete")
def delete_account(account_id: int) -> tuple[str, int] | Response:
    """Deletes an account whose name was typed."""
    name = accounts.get_account(g.db, account_id).name
    try:
        done = ending.delete_account(g.db, g.by, account_id, request.form.get("name", ""))
    except InvalidInput as error:
        return _end_page(account_id, error), 400
    tell(f"{name} is deleted", done)
    return redirect(url_for("accounts.table"), code=303)


def _form(typed: MultiDict, error: InvalidInput | None, account: Account | None) -> str:
    return render_template(
        "accounts/account_form.html",
        typed=typed,
        error=error,
        account=account,
        kinds=KINDS,
        groups=categories.list_by_group(g.db),
        facets=accounts.list_facets(g.db),
        seen=changes.version_of(g.db, "account", account.id) if account else 0,
        known=openings.find_known(g.db, account.id) if account else None,
        is_counted=account is not None and openings.is_counted(g.db, account),
    )
