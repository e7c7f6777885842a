"""Commands about holdings: security, trade, holdings, gains, performance."""

import argparse
import sqlite3
from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Any

from bolsa import settings
from bolsa.cli.common import Commands, a_day, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.holdings.completing import TypedAmounts, complete, parse_rate_text
from bolsa.core.holdings.holding import HoldingRow
from bolsa.core.holdings.lots import METHODS, Lot
from bolsa.core.holdings.security import KINDS as SECURITY_KINDS
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.shares import parse_shares, shares_text
from bolsa.core.holdings.trades import KIND_BY_KEY, KINDS, Trade, parse_price
from bolsa.core.money import decimal_text
from bolsa.core.months import add_months
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.accounts import accounts
from bolsa.services.clock import By
from bolsa.services.holdings import arranging, counting, gains, performance, securities, trading
from bolsa.services.holdings.book import lots_on
from bolsa.services.holdings.trading import Cash
from bolsa.services.sorting import categories


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    _enter_security(commands)
    one = commands.add("trade", run_trade, as_json=True)
    one.add_argument("kind", choices=[kind.key for kind in KINDS], metavar="KIND", help=", ".join(kind.key for kind in KINDS))
    one.add_argument("security", metavar="SECURITY", help="its name, code or symbol")
    one.add_argument("--account", required=True, metavar="ACCOUNT")
    one.add_argument("--on", dest="day", type=a_day, default=None, metavar="DAY", help="today otherwise")
    for name, words in (
        ("shares", "how many"), ("price", "of one, in the security's currency; the day's close otherwise"),
        ("total", "in all, in the account's currency; of opening and in what they had cost"), ("fee", "of it the fee"),
        ("rate", "the account's currency for one of the security's"), ("withheld", "of a distribution"),
        ("ratio", "of a split: 3:1 is three new for one old"), ("reason", "why nothing was paid; where they went; a note"),
        ("lots", "which lots are sold, as TRADE=SHARES,…, where they are chosen by hand"),
        ("cash", "the account the cash comes from or goes to"),
        ("set-by", "the category that cash is set by from"),
    ):  # fmt: skip
        one.add_argument(f"--{name}", default="", help=words)
    one.add_argument("--held-since", dest="basis_day", type=a_day, default=None, metavar="DAY", help="of opening and in")
    holdings = commands.add("holdings", run_holdings, as_json=True)
    holdings.add_argument("--on", dest="day", type=a_day, default=None, metavar="DAY", help="today otherwise")
    holdings.add_argument("--account", default=None, metavar="ACCOUNT", help="of one account alone")
    actions = Commands(holdings.add_subparsers(dest="action", metavar="ACTION"), {})
    count = actions.add("count", run_count, "Count an account by its shares, or by noted values.", as_json=True)
    count.add_argument("name", metavar="ACCOUNT")
    count.add_argument("way", choices=("shares", "values"), metavar="WAY", help="shares or values")
    count.add_argument("--cash", default="0", metavar="AMOUNT", help="the cash in it today, counted by its shares")
    lots = actions.add("lots", run_method, "Say in which order an account's lots are taken.", as_json=True)
    lots.add_argument("name", metavar="ACCOUNT")
    lots.add_argument("method", choices=list(METHODS), metavar="METHOD", help=", ".join(METHODS))
    year = commands.add("gains", run_gains, as_json=True)
    year.add_argument("--year", type=int, default=None, metavar="Y", help="this one otherwise")
    did = commands.add("performance", run_performance, as_json=True)
    did.add_argument("--account", default=None, metavar="ACCOUNT", help="of one account alone")
    did.add_argument("--security", default=None, metavar="SECURITY", help="of one security alone")
    did.add_argument(
        "--only", action="append", default=[], metavar="FACET=PLACE", help="of one place in a facet alone, such as owner=Noor"
    )
    did.add_argument("--from", dest="first", type=a_day, default=None, metavar="DAY", help="since they are held otherwise")
    did.add_argument("--to", dest="last", type=a_day, default=None, metavar="DAY", help="today otherwise")
    did.add_argument("--months", type=int, default=0, metavar="N", help="of the last months, in the place of --from")


def _enter_security(commands: Commands) -> None:
    actions = commands.group("security")
    find = actions.add("find", run_find, "Print what the market lists for some words.", as_json=True)
    find.add_argument("words", nargs="+", metavar="WORD")
    add = actions.add("add", run_add, "Add a security: one the market lists by symbol and market, or one by hand.", as_json=True)
    add.add_argument("name", metavar="NAME", help="its name, or MARKET:SYMBOL of one the market lists")
    add.add_argument("--code", default="", metavar="ISIN")
    add.add_argument("--currency", default="", metavar="CODE", help="home currency otherwise")
    add.add_argument("--kind", choices=list(SECURITY_KINDS), default="other", metavar="KIND", help=", ".join(SECURITY_KINDS))
    add.add_argument("--compare", action="store_true", help="follow it beside the holdings; it never counts")
    price = actions.add("price", run_price, "Set the price of a day by hand.", as_json=True)
    price.add_argument("name", metavar="SECURITY")
    price.add_argument("price", metavar="PRICE")
    price.add_argument("--on", dest="day", type=a_day, default=None, metavar="DAY", help="today otherwise")
    actions.add("fetch", run_fetch, "Fetch prices, splits and distributions from the market.", as_json=True)


def _market() -> str:
    return settings.setting("market")


def run_find(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        found = securities.search(db, _market(), " ".join(options.words))
    rows = [{name: getattr(one, name) for name in ("name", "code", "symbol", "market", "currency", "kind")} for one in found]
    show(options, rows, (f"{row['market']}:{row['symbol']:<8}{row['code']:<14}{row['currency']:<5}{row['name']}" for row in rows))


def run_add(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        market, _, symbol = options.name.partition(":")
        if symbol and symbol.isupper() and market.isupper():
            done = securities.add_found(db, by, _market(), symbol, market)
        else:
            currency = options.currency or accounts.home_currency(db)
            typed = Security(0, options.name, options.code, currency=currency, kind=options.kind, is_compared=options.compare)
            done = securities.add_security(db, by, typed)
    say(options, done, security=done.made)


def run_price(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = securities.set_price(db, by, _security(db, options.name).id, options.day or by.today, parse_price(options.price))
    say(options, done)


def run_fetch(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = securities.fetch_prices(db, by, _market())
    value = {"prices": done.prices, "unknown": list(done.unknown)}
    show(options, value, iter([f"{done.prices} prices are new.", *(f"The market lists no {name}." for name in done.unknown)]))


def _security(db: sqlite3.Connection, text: str) -> Security:
    """The security of that name, code or symbol. Raises: NotFound naming those there are."""
    wanted = " ".join(text.split()).casefold()
    known = securities.list_securities(db)
    found = next((one for one in known if wanted in (one.name.casefold(), one.code.casefold(), one.symbol.casefold())), None)
    if found is None:
        names = ", ".join(one.name for one in known) or "none yet"
        raise NotFound(f"There is no security “{text}”. Securities: {names}.")
    return found


def run_trade(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account, security, day = (
            accounts.resolve_account(db, options.account),
            _security(db, options.security),
            options.day or by.today,
        )
        asks = KIND_BY_KEY[options.kind].asks

        def money(text: str, field: str) -> int | None:
            return parse_amount(text, account.currency, field=field) if text else None

        total = money(options.total, "total")
        typed = TypedAmounts(
            parse_shares(options.shares) if options.shares else None, parse_price(options.price) if options.price else None,
            abs(total) if total is not None else None, money(options.fee, "fee") or 0,
            rate=parse_rate_text(options.rate),
        )  # fmt: skip
        shares, total, fee = complete(trading.offer(db, account.id, security.id, day), options.kind, typed)
        withheld = money(options.withheld, "withheld")
        new, old = _ratio(options.ratio) if "ratio" in asks else (None, None)
        trade = Trade(
            day, options.kind, shares, security.id, total, fee, options.basis_day,
            taxed_minor=(total or 0) + withheld if withheld else None, withheld_minor=withheld, ratio_new=new, ratio_old=old,
            reason=options.reason, account_id=account.id,
        )  # fmt: skip
        done = trading.enter_trade(db, by, trade, picks=_picks(options.lots), cash=_cash(db, options))
    say(options, done, trade=done.made)


def _cash(db: sqlite3.Connection, options: argparse.Namespace) -> Cash | None:
    if not options.cash:
        return None
    set_by = categories.resolve_category(db, options.set_by).id if options.set_by else None
    return Cash(accounts.resolve_account(db, options.cash).id, set_by)


def _ratio(text: str) -> tuple[int, int]:
    new, _, old = text.replace("/", ":").partition(":")
    if not (new.isdecimal() and old.isdecimal() and int(new) and int(old)):
        raise InvalidInput("Write a split like 3:1, three new shares for one old.", field="ratio")
    return int(new), int(old)


def _picks(text: str) -> list[tuple[int, int]]:
    found = []
    for part in filter(None, text.split(",")):
        trade_id, _, count = part.partition("=")
        if not trade_id.strip().isdecimal():
            raise InvalidInput("Write lots like 12=3.5,14=1: of the lot that trade 12 brought 3.5 shares.", field="lots")
        found.append((int(trade_id), parse_shares(count, field="lots")))
    return found


def run_holdings(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        book = arranging.arrange(db, options.day or by.today, ()).book
        wanted = accounts.resolve_account(db, options.account).id if options.account else None
        wanted_rows = [row for row in book.rows if wanted in (None, row.account.id)]
        lots = lots_on(db, wanted_rows, book.day)
    rows = [_row(row, lots[row.key], book.home) for row in wanted_rows]
    value = {"day": book.day.isoformat(), "currency": book.home, "holdings": rows}

    def lines() -> Iterator[str]:
        for row in rows:
            yield f"{row['account']:<22}{row['name']:<26}{row['shares']:>12}{row['value'] or '?':>14}{row['cost'] or '?':>14}"

    show(options, value, lines())


def _row(row: HoldingRow, lots: Sequence[Lot], home: str) -> dict[str, Any]:
    def text(minor: int | None) -> str | None:
        return decimal_text(minor, home) if minor is not None else None

    return {
        "account": row.account.name, "name": row.name, "code": row.security.code if row.security else "",
        "shares": shares_text(row.shares_e8), "price": _price(row), "value": text(row.value.home_minor),
        "cost": text(row.cost.home_minor),
        "gain": {"price": text(row.price_minor), "currency": text(row.currency_minor), "income": text(row.income_minor)},
        "lots": [
            {"trade": lot.trade_id, "since": lot.day.isoformat(), "shares": shares_text(lot.shares_e8),
             "cost": decimal_text(lot.cost.minor, row.account.currency) if lot.is_known else None,
             "currency": row.account.currency}
            for lot in lots
        ],
    }  # fmt: skip


def _price(row: HoldingRow) -> dict[str, str] | None:
    if row.priced is None or row.security is None:
        return None
    price = f"{Decimal(row.priced.price_e8).scaleb(-8).normalize():f}"
    return {"price": price, "currency": row.security.currency, "day": row.priced.day.isoformat(), "source": row.priced.source}


def run_count(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.name)
        cash = parse_amount(options.cash, account.currency, field="cash")
        done = counting.count_by(db, by, account.id, shares=options.way == "shares", cash_minor=cash)
    say(options, done)


def run_method(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = counting.choose_method(db, by, accounts.resolve_account(db, options.name).id, options.method)
    say(options, done)


def run_gains(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        year = gains.gains_of_year(db, options.year or by.today.year)

    def text(minor: int | None) -> str | None:
        return decimal_text(minor, year.home) if minor is not None else None

    sold = [
        {"account": one.account.name, "security": one.security.name, "bought": one.disposal.bought_on.isoformat(),
         "sold": one.disposal.sold_on.isoformat(), "shares": shares_text(one.disposal.shares_e8),
         "proceeds": text(one.disposal.proceeds.home_minor), "cost": text(one.disposal.cost.home_minor),
         "gain": text(one.disposal.gain_home_minor), "price": text(one.disposal.price_minor),
         "currency": text(one.disposal.currency_minor), "term": "long" if one.disposal.is_long else "short"}
        for one in year.sales
    ]  # fmt: skip
    income = [
        {"account": one.account.name, "security": one.security.name, "day": one.trade.day.isoformat(),
         "received": text(one.home_minor), "withheld": text(one.withheld_minor), "credit": text(one.credit_minor)}
        for one in year.income
    ]  # fmt: skip
    value = {
        "year": year.year, "currency": year.home, "gain": text(year.gain_minor), "short": text(year.gained_minor(is_long=False)),
        "long": text(year.gained_minor(is_long=True)), "income": text(year.income_minor), "withheld": text(year.withheld_minor),
        "sold": sold, "distributed": income,
    }  # fmt: skip

    def lines() -> Iterator[str]:
        yield from (f"sold         {one['sold']}  {one['security']:<28}{one['gain'] or '?':>14}" for one in sold)
        yield from (f"distributed  {one['day']}  {one['security']:<28}{one['received'] or '?':>14}" for one in income)
        yield f"gained {value['gain']}, distributed {value['income']} {year.home}"

    show(options, value, lines())


def run_performance(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        last = options.last or by.today
        first = add_months(last, -options.months) if options.months else options.first
        rows = _wanted(db, by, options)
        did = performance.performance(db, rows, last, first)
        home = accounts.home_currency(db)
    beside = [{"security": one.security.name, "total": _rate(one.total), "yearly": _rate(one.yearly)} for one in did.compared]
    value = {
        "from": did.first.isoformat(), "to": did.last.isoformat(), "currency": home, "start": decimal_text(did.start_minor, home),
        "put_in": decimal_text(did.put_in_minor, home), "earned": decimal_text(did.earned_minor, home),
        "end": decimal_text(did.end_minor, home), "money_weighted": _rate(did.money_weighted),
        "time_weighted": _rate(did.time_weighted),
        "time_weighted_yearly": _rate(did.yearly), "linked_by": did.stretch,
        "compared": beside,
    }  # fmt: skip

    def lines() -> Iterator[str]:
        yield f"{value['from']} to {value['to']}: earned {value['earned']} {home}"
        yield f"money-weighted {value['money_weighted']}, time-weighted a year {value['time_weighted_yearly']}"
        yield from (f"beside {one['security']}: {one['yearly']}" for one in beside)

    show(options, value, lines())


def _place(db: sqlite3.Connection, text: str) -> tuple[str, str]:
    """A facet and a place in it, as typed: "owner=Noor"; the facet by its key or its words. Raises: InvalidInput."""
    said, _, place = text.partition("=")
    facets = arranging.facets_of(db)
    facet = next((key for key, words in facets.items() if said.strip().casefold() in (key, words.casefold())), None)
    if facet is None or not place.strip():
        raise InvalidInput(f"Write a facet and a place, such as owner=Noor. Facets: {', '.join(facets.values())}.")
    return facet, place.strip()


def _wanted(db: sqlite3.Connection, by: By, options: argparse.Namespace) -> list[HoldingRow]:
    found = arranging.arrange(db, by.today, (), tuple(_place(db, text) for text in options.only))
    rows = [*found.rows, *found.sold_out]
    if options.account:
        account_id = accounts.resolve_account(db, options.account).id
        rows = [row for row in rows if row.account.id == account_id]
    if options.security:
        security_id = _security(db, options.security).id
        rows = [row for row in rows if row.security and row.security.id == security_id]
    if not rows:
        raise NotFound("There is nothing of that.")
    return rows


def _rate(share: float | None) -> str | None:
    """A rate of return as a fraction with six decimals."""
    return f"{share:.6f}" if share is not None else None
