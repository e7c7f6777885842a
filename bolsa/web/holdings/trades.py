"""The form of a trade: what its kind needs, the close and the rate of the day offered. Story: tests/stories/test_holdings.py."""

from dataclasses import replace
from datetime import date
from functools import partial

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.completing import Offer, TypedAmounts, complete, parse_rate_text
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.shares import parse_shares, shares_text
from bolsa.core.holdings.trades import KIND_BY_KEY, KINDS, Trade, parse_price
from bolsa.core.whole_numbers import is_number
from bolsa.errors import BolsaError, InvalidInput
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.holdings import counting, securities, trading
from bolsa.services.holdings.trading import Cash
from bolsa.services.ledger import attaching
from bolsa.services.sorting import categories
from bolsa.web.filters import in_field
from bolsa.web.forms import attach_uploads, parse_day, parse_optional_id, parse_optional_money, parse_version, tell
from bolsa.web.holdings.blueprint import blueprint

PARTS = ("taxed", "untaxed", "credit", "withheld")


@blueprint.get("/holdings/trades/new")
def new_trade() -> str:
    """An empty form for a kind of trade, of the account and security that are asked for."""
    security = next((one for one in securities.list_securities(g.db) if str(one.id) == request.args.get("security")), None)
    typed = MultiDict(
        {"day": g.by.today.isoformat(), "account": request.args.get("account", ""), "security": security.name if security else ""}
    )
    return _page(typed, _kind(request.args.get("kind", "buy")), None, None)


def _kind(text: str) -> str:
    return text if text in KIND_BY_KEY else "buy"


def _page(typed: MultiDict, kind: str, kept: Trade | None, error: BolsaError | None) -> str:
    held = [account for account in accounts.list_accounts(g.db) if trading.may_hold_shares(account) and account.closed_on is None]
    account = next((one for one in held if str(one.id) == typed.get("account")), None)
    security = _find_security(typed.get("security", ""))
    if kept:  # whose it is, and of what, is not changed here, whatever the form says
        account = accounts.get_account(g.db, kept.account_id)
        security = next(one for one in securities.list_securities(g.db) if one.id == kept.security_id)
    lots = (
        counting.lots_to_choose(g.db, account.id, security.id, kept)
        if account and security and "lots" in KIND_BY_KEY[kind].asks
        else []
    )
    return render_template(
        "holdings/trade.html",
        typed=typed,
        kind=KIND_BY_KEY[kind],
        kinds=KINDS,
        kept=kept,
        error=error,
        seen=changes.version_of(g.db, "trade", kept.id) if kept else "",
        accounts=held,
        account=account,
        security=security,
        offered=_offer(account, security, typed),
        others=[
            one
            for one in accounts.list_accounts(g.db)
            if one.closed_on is None and account and one.currency == account.currency and one != account
        ],
        category_groups=categories.list_by_group(g.db),
        lots=lots,
        attachments=attaching.list_of_trade(g.db, kept.id) if kept else [],
    )


def _find_security(name: str) -> Security | None:
    wanted = " ".join(name.split()).casefold()
    known = securities.list_securities(g.db)
    return next(
        (one for one in known if wanted and wanted in (one.name.casefold(), one.code.casefold(), one.symbol.casefold())), None
    )


def _offer(account: Account | None, security: Security | None, typed: MultiDict) -> Offer | None:
    try:
        day = parse_day(typed, "day", g.by.today)
    except InvalidInput:
        return None
    return trading.offer(g.db, account.id, security.id, day) if account and security else None


@blueprint.get("/holdings/trades/offer")
def offer() -> str:
    """The close and the rate of a day, for the form that is being filled in."""
    known = [account for account in accounts.list_accounts(g.db) if str(account.id) == request.args.get("account")]
    security = _find_security(request.args.get("security", ""))
    offered = _offer(known[0] if known else None, security, request.args)
    return render_template("holdings/_offer.html", offered=offered)


@blueprint.post("/holdings/trades/new")
def add_trade() -> tuple[str, int] | Response:
    """Enters the trade of the form."""
    form, kind = request.form, _kind(request.form.get("kind", ""))
    try:
        account = _account(form)
        name = form.get("security", "")
        found = _find_security(name)
        if found is None:
            raise InvalidInput(
                f"“{name[:40]}” is no security you have. Find it or make it under Securities first.", field="security"
            )
        trade, picks = _trade(form, kind, account, found)
        other = parse_optional_id(form, "cash")
        cash = Cash(other, parse_optional_id(form, "set_by")) if other and KIND_BY_KEY[kind].cash_way else None
        done = trading.enter_trade(g.db, g.by, trade, picks=picks, cash=cash)
    except InvalidInput as error:
        return _page(form, kind, None, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.holding", account_id=account.id, security_id=found.id), code=303)


def _account(form: MultiDict) -> Account:
    chosen = parse_optional_id(form, "account")
    if chosen is None:
        raise InvalidInput("Choose the account the shares lie in.", field="account")
    return trading.account_with_shares(g.db, chosen)


def _trade(form: MultiDict, kind: str, account: Account, security: Security) -> tuple[Trade, list[tuple[int, int]]]:
    """The trade of the form and the lots chosen for it. Raises: InvalidInput naming the field."""
    day, asks = parse_day(form, "day", g.by.today), KIND_BY_KEY[kind].asks
    own = security.currency or account.currency
    in_own = form.get("fee_in") == "own"
    typed = TypedAmounts(
        parse_shares(form["shares"], decimal_mark=g.reader.decimal_mark) if form.get("shares", "").strip() else None,
        parse_price(form["price"], decimal_mark=g.reader.decimal_mark)
        if "price" in asks and form.get("price", "").strip()
        else None,
        parse_optional_money(form, "total", account.currency),
        parse_optional_money(form, "fee", own if in_own else account.currency) or 0,
        in_own,
        parse_rate_text(form.get("rate", ""), g.reader.decimal_mark),
    )
    shares, total, fee = complete(trading.offer(g.db, account.id, security.id, day), kind, typed)
    parts = {f"{name}_minor": parse_optional_money(form, name, account.currency) for name in PARTS if name in asks}
    new, old = _ratio(form.get("ratio", "")) if kind == "split" else (None, None)
    trade = Trade(
        day, kind, shares, security.id, total, fee, _day(form, "basis_day"), ex_day=_day(form, "ex_day"), ratio_new=new,
        ratio_old=old, reason=form.get("reason", ""), account_id=account.id,
    )  # fmt: skip
    return replace(trade, **parts), _picks(form)  # type: ignore[arg-type]


def _day(form: MultiDict, field: str) -> date | None:
    return parse_day(form, field, g.by.today) if form.get(field, "").strip() else None


def _ratio(text: str) -> tuple[int | None, int | None]:
    """3 for 1, 3:1, 3/1. Raises: InvalidInput."""
    words = text.replace(":", " ").replace("/", " ").replace("for", " ").split()
    if len(words) != 2 or not all(is_number(word) and int(word) for word in words):
        raise InvalidInput("Write it like “3 for 1”: so many new shares for so many old ones.", field="ratio")
    return int(words[0]), int(words[1])


def _picks(form: MultiDict) -> list[tuple[int, int]]:
    found = []
    for name, text in form.items():
        if name.startswith("lot-") and is_number(name[4:]) and text.strip():
            found.append((int(name[4:]), parse_shares(text, decimal_mark=g.reader.decimal_mark, field="lots")))
    return found


@blueprint.get("/holdings/trades/<int:trade_id>")
def trade(trade_id: int) -> str:
    """The form of a trade that is kept."""
    kept = trading.get_trade(g.db, trade_id)
    return _page(_as_typed(kept), kept.kind, kept, None)


def _as_typed(kept: Trade) -> MultiDict:
    account = accounts.get_account(g.db, kept.account_id)
    security = next(one for one in securities.list_securities(g.db) if one.id == kept.security_id)

    def money(minor: int | None) -> str:
        return in_field(minor, account.currency) if minor is not None else ""

    typed = {
        "account": str(account.id), "security": security.name, "day": kept.day.isoformat(), "reason": kept.reason,
        "shares": shares_text(abs(kept.shares_e8)).replace(".", g.reader.decimal_mark) if kept.shares_e8 else "",
        "total": money(abs(kept.total_minor) if kept.total_minor is not None else None), "fee": money(kept.fee_minor or None),
        "basis_day": kept.basis_day.isoformat() if kept.basis_day else "",
        "ex_day": kept.ex_day.isoformat() if kept.ex_day else "",
        "ratio": f"{kept.ratio_new} for {kept.ratio_old}" if kept.ratio_new else "",
    }  # fmt: skip
    typed |= {name: money(getattr(kept, f"{name}_minor")) for name in PARTS}
    typed |= {
        f"lot-{lot_id}": shares_text(count).replace(".", g.reader.decimal_mark) for lot_id, count in counting.picks_of(g.db, kept)
    }
    return MultiDict(typed)


@blueprint.post("/holdings/trades/<int:trade_id>")
def change_trade(trade_id: int) -> tuple[str, int] | Response:
    """Keeps a trade as it is typed."""
    kept, form = trading.get_trade(g.db, trade_id), request.form
    kind = _kind(form.get("kind", kept.kind))
    try:
        account = accounts.get_account(g.db, kept.account_id)
        security = next(one for one in securities.list_securities(g.db) if one.id == kept.security_id)
        typed, picks = _trade(form, kind, account, security)
        if kind == "split" and not typed.ratio_new:
            typed = replace(typed, shares_e8=kept.shares_e8)
        done = trading.change_trade(g.db, g.by, replace(typed, id=kept.id), seen=parse_version(form), picks=picks)
    except InvalidInput as error:
        return _page(form, kind, kept, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.holding", account_id=kept.account_id, security_id=kept.security_id), code=303)


@blueprint.post("/holdings/trades/<int:trade_id>/attach")
def attach(trade_id: int) -> Response:
    """Attaches images or PDFs, such as the broker's advice, to a trade."""
    attach_uploads(partial(attaching.attach_to_trade, g.db, g.by, trade_id))
    return redirect(url_for("holdings.trade", trade_id=trade_id), code=303)


@blueprint.post("/holdings/trades/<int:trade_id>/remove")
def remove_trade(trade_id: int) -> Response:
    """Takes a trade out."""
    kept = trading.get_trade(g.db, trade_id)
    done = trading.remove_trade(g.db, g.by, trade_id)
    tell(done.sentence, done)
    if request.form.get("back") == "shares":
        return redirect(url_for("holdings.shares", account_id=kept.account_id), code=303)
    if trading.list_trades(g.db, kept.account_id, kept.security_id):
        return redirect(url_for("holdings.holding", account_id=kept.account_id, security_id=kept.security_id), code=303)
    return redirect(url_for("holdings.page"), code=303)
