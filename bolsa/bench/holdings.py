"""A household that holds much for long: so many trades of so many securities over twenty years, with a price of every weekday."""

import random
import sqlite3
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal

from bolsa.bench.household import LAST
from bolsa.core.accounts.terms import Terms
from bolsa.core.holdings.prices import MarketEvent
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.shares import E8
from bolsa.core.holdings.trades import Trade
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.months import Month, months_between
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.ahead import plans
from bolsa.services.clock import By
from bolsa.services.holdings import counting, securities
from bolsa.services.house import households, past, sessions
from bolsa.services.house.households import Household
from bolsa.services.sorting import categories

FIRST = date(2006, 6, 1)
SECURITIES, DEPOTS, TRADES = 60, 3, 8_000
FOREIGN = 3  # one security in so many is in another currency
SELLS, SELLS_FROM = 5, 20  # a sale in so many trades, of more shares than that
FEE = 250


def build_holder(db: sqlite3.Connection, trade_count: int = TRADES) -> By:
    """The household, deterministic: three depots, a third of it in a foreign currency, bought and sold every month, with its
    distributions; an account that income comes to, and a case of the long view."""
    dice = random.Random(trade_count)  # noqa: S311 (made-up trades)
    by = By(LAST, f"{LAST}T12:00:00Z")
    households.make_household(db, by, Household("Holder", "EUR", "UTC", LAST), ["Ada"], starter="")
    _live(db, by)
    for month in months_between(Month.of(FIRST), Month.of(LAST)):
        past.record_rate(db, "USD", month.first_day, 85_000_000 + dice.randrange(15_000_000))
    depots = [
        accounts.add_account(db, by, NewAccount(f"Depot {n}", "brokerage", currency="EUR", opened_on=FIRST)).made
        for n in range(DEPOTS)
    ]
    for depot_id in depots:
        counting.count_by(db, by, depot_id, shares=True)
    closes = [_record_security(db, by, dice, n) for n in range(SECURITIES)]
    each = trade_count // SECURITIES
    written = []
    for n, (security_id, prices) in enumerate(closes):
        written += list(_trades(dice, depots[n % DEPOTS], security_id, prices, each))
    past.record_trades(db, written)
    plans.begin(db, by, {sessions.list_members(db)[0].id: 1980})
    return by


def _live(db: sqlite3.Connection, by: By) -> None:
    """An everyday account with its pay and its spending, and a loan."""
    account_id = accounts.add_account(db, by, NewAccount("Everyday", "current", opened_on=FIRST)).made
    pay = categories.add_category(db, by, "Income", "Pay", "income").made
    spent = [categories.add_category(db, by, "Living", f"Living {n}").made for n in range(8)]
    written = []
    for month in months_between(Month.of(FIRST), Month.of(LAST)):
        for category_id, minor in [(pay, 400_000), *((one, -40_000) for one in spent)]:
            mine = Line(minor, "EUR", account_id=account_id, day=month.first_day, state="cleared")
            written.append(Entry(month.first_day, "Somebody", (mine, Line(-minor, "EUR", category_id=category_id, day=mine.day))))
    past.record_history(db, written)
    owed = Terms(rate=Decimal("0.04"), payment_minor=90_000)
    accounts.add_account(
        db, by, NewAccount("Loan", "loan", opening_minor=-8_000_000, opened_on=Month.of(LAST).first_day, terms=owed)
    )


def _record_security(db: sqlite3.Connection, by: By, dice: random.Random, n: int) -> tuple[int, list[tuple[date, int]]]:
    currency = "USD" if n % FOREIGN == 0 else "EUR"
    typed = Security(0, f"Security {n}", "", f"S{n}", "BNCH", currency, "fund", is_compared=n == 0)
    security_id: int = securities.add_security(db, by, typed).made
    price, prices = 50.0, []
    for passed in range((LAST - FIRST).days):
        day = FIRST + timedelta(days=passed)
        if day.weekday() < 5:  # until Saturday
            price = max(1.0, price * (1 + dice.gauss(0.0002, 0.01)))
            prices.append((day, int(price * E8)))
    told = [
        MarketEvent(security_id, "dividend", date(year, 3, 1), date(year, 3, 15), E8 // 2)
        for year in range(FIRST.year + 1, LAST.year + 1)
    ]
    past.record_market(db, security_id, prices, told)
    return security_id, prices


def _trades(dice: random.Random, depot_id: int, security_id: int, prices: list[tuple[date, int]], count: int) -> Iterator[Trade]:
    """Purchases over the years, a sale now and then, and the distribution of each year as its market told it."""
    years = list(range(FIRST.year + 1, LAST.year + 1))
    held, traded = 0, count - len(years)
    for n in range(traded):
        at = n * (len(prices) - SECURITIES) // traded + security_id  # each has days of its own
        day, price = prices[at]
        while years and date(years[0], 3, 1) <= day:
            yield Trade(
                date(years[0], 3, 15), "dividend", 0, security_id, held * 50, ex_day=date(years.pop(0), 3, 1), account_id=depot_id
            )
        shares = dice.randint(1, 20)
        sells = held > SELLS_FROM and n % SELLS == 0
        held += -shares if sells else shares
        total = shares * price * 100 // E8
        minor = total - FEE if sells else -total - FEE
        yield Trade(
            day, "sell" if sells else "buy", (-shares if sells else shares) * E8, security_id, minor, FEE, account_id=depot_id
        )
