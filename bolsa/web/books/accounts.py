"""The accounts table, adding, changing and hiding. Stories: tests/stories/test_first_hour.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.accounts import KINDS
from bolsa.errors import InvalidInput
from bolsa.services import accounts
from bolsa.services.accounts import NewAccount
from bolsa.services.holes import list_holes
from bolsa.web.books.blueprint import blueprint
from bolsa.web.forms import parse_day, parse_optional_money, tell


@blueprint.get("/books", endpoint="accounts")
def accounts_table() -> str:
    """Every account by group: balance, what the bank says, difference, checked until, last brought in."""
    with_hidden = bool(request.args.get("hidden"))
    everything = accounts.account_groups(g.db, with_hidden=True)
    hidden = sum(not state.account.shown for group in everything for state in group.states)
    groups = everything if with_hidden else accounts.account_groups(g.db)
    differing = [s for group in everything for s in group.states if s.difference_minor and s.account.everyday]
    holes = {hole.account_id: hole for hole in list_holes(g.db)}
    shown = {"groups": groups, "hidden": hidden, "with_hidden": with_hidden, "differing": differing, "holes": holes}
    return render_template("books/accounts.html", **shown)


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
        currency = form.get("currency", "").strip().upper()
        new = NewAccount(
            name=form.get("name", ""),
            kind=form.get("kind", ""),
            currency=currency,
            opening_minor=parse_optional_money(form, "opening", currency or g.household.home_currency) or 0,
            opened_on=parse_day(form, "opened_on", g.by.today),
            everyday={"everyday": True, "apart": False}.get(form.get("everyday", "")),
            side=form.get("side") or None,
            institution=form.get("institution", ""),
            number=form.get("number", ""),
            group=form.get("group", ""),
            note=form.get("note", ""),
            set_apart=form.get("old_debt") == "apart",
        )
        accounts.add_account(g.db, g.by, new)
    except InvalidInput as error:
        return _form(form, error, None), 400
    tell(f"{new.name} is added")
    return redirect(url_for("books.accounts" if not form.get("another") else "books.new_account"), code=303)


@blueprint.get("/books/accounts/<int:account_id>/edit")
def edit_account(account_id: int) -> str:
    """The form of an account that is there."""
    account = accounts.get_account(g.db, account_id)
    typed = MultiDict({**account.__dict__, "everyday": "everyday" if account.everyday else "apart"})
    return _form(typed, None, account)


@blueprint.post("/books/accounts/<int:account_id>/edit")
def change_account(account_id: int) -> tuple[str, int] | Response:
    """Changes an account's words, class and whether it is everyday."""
    form = request.form
    account = accounts.get_account(g.db, account_id)
    words = {name: form.get(name, "").strip() for name in ("name", "kind", "institution", "number", "group", "note")}
    words |= {"everyday": form.get("everyday") != "apart", "side": form.get("side") or account.side}
    words["group"] = words["group"] or account.group
    try:
        step_id = accounts.change_account(g.db, g.by, account_id, **words)
    except InvalidInput as error:
        return _form(form, error, account), 400
    tell(f"{words['name']} is changed", step_id)
    return redirect(url_for("books.accounts"), code=303)


@blueprint.post("/books/accounts/<int:account_id>/shown")
def show_account(account_id: int) -> Response:
    """Hides an account from lists, or shows it again."""
    shown = request.form.get("shown") == "1"
    step_id = accounts.set_shown(g.db, g.by, account_id, shown)
    name = accounts.get_account(g.db, account_id).name
    tell(f"{name} is {'shown again' if shown else 'hidden; it stays in every total'}", step_id)
    return redirect(url_for("books.accounts"), code=303)


def _form(typed, error: InvalidInput | None, account) -> str:
    return render_template("books/account_form.html", typed=typed, error=error, account=account, kinds=KINDS)
