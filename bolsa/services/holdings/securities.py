"""Securities: found in the market service or made by hand; prices by hand; and fetching what the market tells of them."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date, timedelta
from urllib.parse import urlencode

from bolsa.core.holdings.prices import MarketEvent, Priced
from bolsa.core.holdings.security import MOST_NAME, Security, check_security
from bolsa.core.money import E8
from bolsa.core.whole_numbers import number_of
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.accounts.market import ask, read_csv, read_day, read_number
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.services.outside import Send, send_over_http
from bolsa.services.progress import Report, silent
from bolsa.store.connection import reading
from bolsa.store.holdings import securities, trades

DAYS_BACK = 400  # of what is only followed
MOST_FOUND = 20
DAYS_TOLD = 60  # a distribution is announced so many days before it


@dataclass(frozen=True)
class Offered:
    """A security as the market service lists it; `id` is the household's own, None while it has none."""

    name: str
    code: str
    symbol: str
    market: str
    currency: str
    kind: str
    id: int | None


def list_securities(db: sqlite3.Connection) -> list[Security]:
    """Every security, by name."""
    return securities.list_securities(db)


def search(db: sqlite3.Connection, url: str, text: str, send: Send = send_over_http) -> list[Offered]:
    """The securities whose name, code, symbol or market holds the words, as the market service lists them.

    Raises: ServiceUnavailable.
    """
    columns = ("name", "isin", "symbol", "market", "currency", "kind")
    rows = read_csv(ask(url, f"/securities.csv?{urlencode({'q': text})}", send), columns)
    found = []
    for row in rows[:MOST_FOUND]:
        own = securities.find_security(db, row["name"], row["isin"])
        words = (row["isin"], row["symbol"], row["market"], row["currency"], row["kind"])
        found.append(Offered(row["name"], *words, own))
    return found


def add_security(db: sqlite3.Connection, by: By, typed: Security) -> Done:
    """Adds a security; makes its id. Raises: Conflict if one of that name or code is here."""
    with change(db, by) as done:
        security = check_security(typed)
        if securities.find_security(db, security.name, security.code) is not None:
            raise Conflict(f"There is a security called {security.name}, or with its code, already.")
        done.sentence = f"Added the security {security.name}"
        done.made = securities.insert_security(db, security)
    return done


def add_found(db: sqlite3.Connection, by: By, url: str, symbol: str, market: str, send: Send = send_over_http) -> Done:
    """Adds a security as the market service lists it, or says of one that is here by which symbol its market knows it; makes its
    id. Raises: InvalidInput if the market knows none of that symbol."""
    listed = next((one for one in search(db, url, symbol, send) if (one.symbol, one.market) == (symbol, market)), None)
    if listed is None:
        raise InvalidInput(f"The market {market} lists no {symbol}.", field="security")
    told = Security(0, listed.name, listed.code, listed.symbol, listed.market, listed.currency, listed.kind)
    if listed.id is None:
        return add_security(db, by, told)
    with change(db, by) as done:
        before = securities.get_security(db, listed.id)
        done.sentence = f"{before.name} is priced by {listed.market}"
        done.made = listed.id
        securities.change_security(
            db, check_security(replace(told, id=before.id, name=before.name, is_compared=before.is_compared))
        )
    return done


def change_security(db: sqlite3.Connection, by: By, typed: Security) -> Done:
    """Keeps a security's words as they are typed. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        before = securities.get_security(db, typed.id)
        security = check_security(typed)
        twins = {securities.find_security(db, security.name), securities.find_security(db, security.name, security.code)}
        if twins - {None, before.id}:
            raise Conflict(f"There is another security called {security.name}, or with its code.")
        if security.currency != before.currency and securities.is_used(db, before.id) and before.currency:
            raise InvalidInput("There are trades of it in its currency.", field="currency")
        done.sentence = f"Changed the security {security.name}"
        securities.change_security(db, security)
    return done


def remove_security(db: sqlite3.Connection, by: By, security_id: int) -> Done:
    """Removes a security nothing is known of. Raises: Conflict if there are trades or lists of it."""
    with change(db, by) as done:
        security = securities.get_security(db, security_id)
        if securities.is_used(db, security_id):
            raise Conflict(f"There are trades of {security.name}, or positions that were listed. Take those out first.")
        done.sentence = f"Removed the security {security.name}"
        securities.remove_security(db, security_id)
    return done


def compare_with(db: sqlite3.Connection, by: By, security_id: int, *, is_compared: bool) -> Done:
    """Follows a security beside the holdings, or no more. It never counts."""
    with change(db, by) as done:
        security = securities.get_security(db, security_id)
        done.sentence = f"{security.name} is {'followed' if is_compared else 'followed no more'}"
        securities.change_security(db, replace(security, is_compared=is_compared))
    return done


def put_named(db: sqlite3.Connection, name: str, code: str, currency: str) -> int:
    """The id of the security of that name or code, made by hand if it is not there; a part of the caller's change."""
    words = " ".join(name.split())
    if not words or len(words) > MOST_NAME:
        raise InvalidInput(f"Write the security's name, in up to {MOST_NAME} letters.", field="security")
    return securities.put_security(db, words, "".join(code.split()).upper()[:40], currency)


# --- prices -----------------------------------------------------------------------------------------------------------


def set_price(db: sqlite3.Connection, by: By, security_id: int, day: date, price_e8: int) -> Done:
    """Sets the price of a day by hand; it goes before the market's."""
    with change(db, by) as done:
        security = securities.get_security(db, security_id)
        if day > by.today:
            raise InvalidInput("A price cannot be set for a day to come.", field="day")
        done.sentence = f"Set the price of {security.name} on {day}"
        securities.put_price_note(db, security_id, day, price_e8)
    return done


def forget_price(db: sqlite3.Connection, by: By, security_id: int, day: date) -> Done:
    """Forgets a price that was set by hand."""
    with change(db, by) as done:
        security = securities.get_security(db, security_id)
        done.sentence = f"Forgot the price set for {security.name} on {day}"
        securities.remove_price_note(db, security_id, day)
    return done


@dataclass(frozen=True)
class SecurityPage:
    """A security with its prices of a stretch, those set by hand, and what its market tells."""

    security: Security
    prices: tuple[Priced, ...]
    notes: tuple[Priced, ...]
    events: tuple[MarketEvent, ...]
    is_used: bool


def security_page(db: sqlite3.Connection, security_id: int, first: date, last: date) -> SecurityPage:
    """What the page of a security shows. Raises: NotFound."""
    with reading(db):
        return SecurityPage(
            securities.get_security(db, security_id),
            tuple(securities.list_prices(db, security_id, first, last)),
            tuple(securities.list_price_notes(db, security_id)),
            tuple(securities.list_events(db, security_id)),
            securities.is_used(db, security_id),
        )


def list_events(db: sqlite3.Connection, security_id: int) -> list[MarketEvent]:
    """What the market tells of a security's splits and distributions, in order of day."""
    return securities.list_events(db, security_id)


@dataclass(frozen=True)
class Fetched:
    """How many prices and events are new, and the names of securities the market does not know."""

    prices: int
    events: int
    unknown: tuple[str, ...]


def fetch_prices(db: sqlite3.Connection, by: By, url: str, send: Send = send_over_http, report: Report = silent) -> Fetched:
    """Fetches what the market tells of every security it lists: closes since the last known day, splits, distributions.

    Raises: ServiceUnavailable if it does not answer; what was fetched until then stays, since each security's is kept whole.
    """
    listed = [one for one in securities.list_securities(db) if one.has_market]
    first_trades: dict[int, date] = {}
    for trade in trades.list_trades(db):
        first_trades.setdefault(trade.security_id, min(trade.day, trade.held_since))
    count = events = 0
    unknown = []
    for at, security in enumerate(listed):
        report(at, len(listed), f"Asking the market for {security.name}")
        last = securities.find_last_price_day(db, security.id)
        first = last + timedelta(days=1) if last else first_trades.get(security.id, by.today - timedelta(days=DAYS_BACK))
        known = {"symbol": security.symbol, "market": security.market}
        query = urlencode(known | {"from": first.isoformat(), "to": by.today.isoformat()})
        rows = read_csv(ask(url, f"/prices.csv?{query}", send), ("day", "price"))
        told = read_csv(ask(url, f"/events.csv?{urlencode(known)}", send), _EVENT)
        if not rows and last is None:
            unknown.append(security.name)
        prices = [(read_day(row["day"]), int(read_number(row["price"]) * E8)) for row in rows]
        wanted = [(day, price_e8) for day, price_e8 in prices if first <= day <= by.today and price_e8 > 0]
        happened = [_event(security.id, row) for row in told]
        with note(db):
            count += securities.put_prices(db, security.id, wanted)
            for event in happened:
                if event.day <= by.today + timedelta(days=DAYS_TOLD):
                    securities.put_event(db, event)
                    events += 1
    return Fetched(count, events, tuple(unknown))


_EVENT = ("kind", "day", "pay_day", "amount", "new", "old")


def _event(security_id: int, row: dict[str, str]) -> MarketEvent:
    return MarketEvent(
        security_id, row["kind"], read_day(row["day"]), read_day(row["pay_day"]) if row["pay_day"] else None,
        int(read_number(row["amount"]) * E8) if row["amount"] else None, number_of(row["new"]), number_of(row["old"]),
    )  # fmt: skip
