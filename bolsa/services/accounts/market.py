"""The market service: daily rates and value indexes as CSV (RFC 4180) over HTTP, behind the same narrow door as the banks."""

import csv
import io
import sqlite3
from datetime import date, timedelta
from decimal import Decimal, InvalidOperation
from urllib.parse import urlencode

from bolsa.core.accounts.noted import NotedRate
from bolsa.core.amounts import parse_exact
from bolsa.core.currencies import parse_currency
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput, ServiceUnavailable
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.outside import Request, Send, send_over_http
from bolsa.store.accounts import accounts
from bolsa.store.holdings import securities
from bolsa.store.house import household

E8 = 10**8
DAYS_BACK = 400
MOST_RATE = Decimal(10**6)
MOST_DIGITS, MOST_NUMBER = 40, Decimal(10**9)  # of what the market sends


def parse_rate(text: str, decimal_mark: str = ".") -> int:
    """A typed rate as an integer of 1e-8, as `parse_exact` reads it. Raises: InvalidInput."""
    rate = parse_exact(text, decimal_mark, "a rate", "rate", "0.0915")
    if not 0 < rate < MOST_RATE or not int(rate * E8):
        raise InvalidInput("A rate is above zero, such as 0.0915.", field="rate")
    return int(rate * E8)


def list_foreign(db: sqlite3.Connection) -> dict[str, list[NotedRate]]:
    """The currencies of the household's accounts and securities beside its own, each with its latest rates."""
    home = household.get_household(db).home_currency
    of_accounts = [account.currency for account in accounts.list_accounts(db)]
    of_securities = [security.currency for security in securities.list_securities(db) if security.currency]
    codes = dict.fromkeys(code for code in (*of_accounts, *of_securities) if code != home)
    return {code: accounts.list_latest_rates(db, code, 40) for code in codes}


def note_rate(db: sqlite3.Connection, by: By, currency: str, day: date, rate_e8: int) -> Done:
    """Notes a rate by hand."""
    with change(db, by) as done:
        currency = parse_currency(currency)
        if day > by.today:
            raise InvalidInput("A rate cannot be noted for a day to come.", field="day")
        done.sentence = f"Noted the rate of {currency} on {day.isoformat()}"
        accounts.put_rate(db, currency, day, rate_e8)
    return done


def forget_rate(db: sqlite3.Connection, by: By, currency: str, day: date) -> Done:
    """Forgets a rate."""
    with change(db, by) as done:
        done.sentence = f"Forgot the rate of {currency} on {day.isoformat()}"
        accounts.remove_rate(db, currency, day)
    return done


def fetch_rates(db: sqlite3.Connection, by: By, url: str, send: Send = send_over_http) -> Done:
    """Fetches the daily rates since the last known day of every foreign currency; a rate set by hand stays.

    Makes how many are new. Raises: ServiceUnavailable.
    """
    home = household.get_household(db).home_currency
    told: list[tuple[str, date, int]] = []
    for currency, known in list_foreign(db).items():  # asked before the write lock is taken: a service may be slow
        feed = [rate.day for rate in known if rate.source == "feed"]
        first = max(feed) + timedelta(days=1) if feed else by.today - timedelta(days=DAYS_BACK)
        query = urlencode({"base": home, "currency": currency, "from": first.isoformat(), "to": by.today.isoformat()})
        for row in read_csv(ask(url, f"/rates.csv?{query}", send), ("day", "rate")):
            day, rate = read_day(row["day"]), read_number(row["rate"])
            if first <= day <= by.today and rate > 0:
                told.append((currency, day, int(rate * E8)))
    with change(db, by) as done:
        by_hand = {(rate.currency, rate.day) for known in list_foreign(db).values() for rate in known if rate.source == "hand"}
        found = [one for one in told if one[:2] not in by_hand]
        done.sentence = f"Fetched {counted(len(found), 'rate')}"
        for currency, day, rate_e8 in found:
            accounts.put_rate(db, currency, day, rate_e8, "feed")
        done.made = len(found)
    return done


def read_index(url: str, name: str, send: Send = send_over_http) -> list[tuple[date, Decimal]]:
    """A value index by month in order of day. Raises: ServiceUnavailable if there is no answer or no such index."""
    rows = read_csv(ask(url, f"/index.csv?{urlencode({'name': name})}", send), ("day", "value"))
    if not rows:
        raise ServiceUnavailable(f"The market service has no index “{name}”.")
    return sorted((read_day(row["day"]), read_number(row["value"])) for row in rows)


def list_indexes(url: str, send: Send = send_over_http) -> list[str]:
    """The names of the indexes there are. Raises: ServiceUnavailable."""
    return [row["name"] for row in read_csv(ask(url, "/indexes.csv", send), ("name",))]


def ask(url: str, path: str, send: Send) -> bytes:
    """What the market service answers. Raises: ServiceUnavailable naming it."""
    if not url:
        raise ServiceUnavailable("No market service is set, so rates, prices and indexes are not fetched.")
    try:
        return send(Request(url + path))
    except ServiceUnavailable as error:
        raise ServiceUnavailable("The market service does not answer. Nothing was changed; try again later.") from error


def read_csv(content: bytes, columns: tuple[str, ...]) -> list[dict[str, str]]:
    """The rows of a reply, each with its columns. Raises: ServiceUnavailable for anything else."""
    try:
        rows = list(csv.DictReader(io.StringIO(content.decode("utf-8", "replace"))))
    except csv.Error as error:
        raise ServiceUnavailable("The market service answered with something else.") from error
    if any(not isinstance(row.get(column), str) for row in rows for column in columns):
        raise ServiceUnavailable("The market service answered with something else.")
    return rows


def read_day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise ServiceUnavailable("The market service sent a day that is none.") from error


def read_number(text: str) -> Decimal:
    """A number of a reply, with no more digits than any price has. Raises: ServiceUnavailable."""
    try:
        number = Decimal(text)
    except InvalidOperation as error:
        raise ServiceUnavailable("The market service sent a number that is none.") from error
    if not number.is_finite() or len(text) > MOST_DIGITS or abs(number) >= MOST_NUMBER:
        raise ServiceUnavailable("The market service sent a number that is none.")
    return number
