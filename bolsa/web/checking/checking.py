"""Check: a statement against the lines, the difference, reconciling and reopening. Story: tests/stories/test_checking.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.accounts.account import Account
from bolsa.core.ledger.entries import Part
from bolsa.errors import BolsaError, Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.checking import checking, curing
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.sorting import categories
from bolsa.web.checking.blueprint import blueprint
from bolsa.web.forms import (
    parse_day,
    parse_id,
    parse_ids,
    parse_money,
    parse_optional_id,
    parse_seen_minor,
    parse_version,
    tell,
)

STATEMENTS_SHOWN = 24


@blueprint.get("/books/<int:account_id>/check")
def check(account_id: int) -> str:
    """The open statement with its lines and suspects, or the form for the next one."""
    return _page(account_id, None)


def _page(account_id: int, error: BolsaError | None) -> str:
    page = checking.check_page(g.db, account_id)
    findings = curing.find_findings(g.db, page.statement) if page.statement else None
    shown = {"page": page, "findings": findings, "groups": categories.list_by_group(g.db), "most": STATEMENTS_SHOWN}
    shown["seen"] = changes.version_of(g.db, "statement", page.statement.id) if page.statement else 0
    return render_template("checking/check.html", error=error, typed=request.form, **shown)


def _parse_balance(form: MultiDict, field: str, account: Account) -> int:
    """A balance as a statement says it: of a debt what is owed, with a plus if the other side owes it."""
    amount = parse_money(form, field, account.currency)
    return -abs(amount) if account.side == "liability" and not form[field].strip().startswith("+") else amount


@blueprint.post("/books/<int:account_id>/check")
def begin_check(account_id: int) -> tuple[str, int] | Response:
    """Opens the statement typed, or changes the open one."""
    account = checking.check_page(g.db, account_id).state.account
    try:
        form = request.form
        first = parse_day(form, "opening_day", g.by.today) if form.get("opening_day", "").strip() else None
        checking.begin_statement(
            g.db,
            g.by,
            account_id,
            parse_day(form, "closing_day", g.by.today),
            _parse_balance(form, "closing", account),
            opening_minor=_parse_balance(form, "opening", account) if form.get("opening", "").strip() else None,
            opening_day=first,
            seen=parse_version(form),
        )
    except (InvalidInput, Conflict) as error:
        return _page(account_id, error), 409 if isinstance(error, Conflict) else 400
    return redirect(url_for("checking.check", account_id=account_id), code=303)


@blueprint.post("/statements/<int:statement_id>/tick")
def tick(statement_id: int) -> Response:
    """Ticks or unticks lines."""
    ticked = request.form.get("ticked") == "1"
    checking.set_ticks(g.db, g.by, statement_id, parse_ids(request.form, "line_id"), ticked)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/enter")
def enter_missing(statement_id: int) -> tuple[str, int] | Response:
    """Enters a line that the statement shows and that is missing here."""
    form, account_id = request.form, checking.account_of(g.db, statement_id)
    account = checking.check_page(g.db, account_id).state.account
    try:
        amount = parse_money(form, "missing_amount", account.currency)
        category_id = parse_optional_id(form, "category_id")
        parts = (Part(category_id, -amount),) if category_id else ()
        typed = TypedEntry(parse_day(form, "missing_day", g.by.today), form.get("missing_payee", ""), amount, parts)
        done = checking.enter_missing(g.db, g.by, statement_id, typed)
    except InvalidInput as error:
        if error.field in ("day", "payee", "amount"):
            error.field = f"missing_{error.field}"
        return _page(account_id, error), 400
    tell(done.sentence, done)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/cure")
def cure(statement_id: int) -> Response:
    """Does what a suspect's cure says."""
    done = curing.cure(g.db, g.by, statement_id, request.form.get("key", ""))
    tell(done.sentence, done)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/reconcile")
def reconcile(statement_id: int) -> Response:
    """Reconciles and locks, at a difference of zero."""
    done = checking.reconcile(g.db, g.by, statement_id, seen=parse_version(request.form))
    tell("Checked and locked", done)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/write-off")
def write_off(statement_id: int) -> Response:
    """Enters the difference under a category."""
    done = checking.write_off(
        g.db, g.by, statement_id, parse_id(request.form, "category_id"), seen_minor=parse_seen_minor(request.form)
    )
    tell("The difference is entered as an adjustment", done)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/reopen")
def reopen(statement_id: int) -> Response:
    """Opens a reconciled statement again."""
    later = checking.later_statements(g.db, statement_id)
    done = checking.reopen(g.db, g.by, statement_id)
    touched = f"; {len(later)} later ones build on it" if later else ""
    tell(f"The statement is open again{touched}", done)
    return _back(statement_id)


@blueprint.post("/statements/<int:statement_id>/abandon")
def abandon(statement_id: int) -> Response:
    """Gives up an open statement."""
    account_id = checking.account_of(g.db, statement_id)
    done = checking.abandon_statement(g.db, g.by, statement_id)
    tell("The check is given up; the lines stay as they were", done)
    return redirect(url_for("checking.check", account_id=account_id), code=303)


def _back(statement_id: int) -> Response:
    return redirect(url_for("checking.check", account_id=checking.account_of(g.db, statement_id)), code=303)
