"""How an account counts: by its shares and its cash, or by noted values; and in which order its lots are taken."""

import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.noted import ValueNote
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.lots import METHODS, Lot, find_lots
from bolsa.core.holdings.trades import Trade
from bolsa.core.ledger.entries import Entry, Line
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.accounts.openings import OPENING_PAYEE
from bolsa.services.accounts.settling import settle
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings.book import holdings_on
from bolsa.services.holdings.settling import settle_pairs
from bolsa.services.holdings.trading import account_with_shares
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts, terms, values
from bolsa.store.connection import reading
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.ledger import entries
from bolsa.store.sorting.categories import OPENING


def count_by(db: sqlite3.Connection, by: By, account_id: int, *, shares: bool, cash_minor: int = 0) -> Done:
    """Counts an account by its shares and its cash, or by noted values again.

    Counted by its shares it is worth its cash, which is `cash_minor` today, and what its shares are worth; values that were noted
    stay to be read, and book nothing. Its opening balance becomes what makes that cash true. Raises: Conflict if it is so
    already.
    """
    with change(db, by) as done:
        account = account_with_shares(db, account_id)
        if account.counts_shares == shares:
            raise Conflict(f"{account.name} is counted so already.")
        accounts.change_account(db, replace(account, counts_shares=shares))
        pairs = {pair for pair in trades.list_pairs(db) if pair[0] == account_id}
        if not shares:
            done.sentence = f"{account.name} is worth what is noted of it again"
            settle_pairs(db, pairs)
            settle(db, account_id)
            return done
        done.sentence = f"{account.name} is counted by its shares"
        for note in values.list_values(db, account_id):
            if note.entry_id:
                values.remove_booking(db, note.entry_id)
        settle_pairs(db, pairs)
        _open_with(db, account, cash_minor - accounts.sum_balance(db, account_id, by.today))
    return done


def _open_with(db: sqlite3.Connection, account: Account, more_minor: int) -> None:
    """Makes an account's opening balance so much more."""
    if not more_minor:
        return
    entry_id = accounts.find_opening_entry(db, account.id)
    if entry_id is None:
        line = Line(more_minor, account.currency, account_id=account.id, day=account.opened_on, state="cleared")
        mirror = Line(-more_minor, account.currency, category_id=OPENING, day=account.opened_on)
        entries.insert_entry(db, Entry(account.opened_on, OPENING_PAYEE, (line, mirror)))
        return
    entry = entries.get_entry(db, entry_id)
    entry_service.require_unlocked(db, entry, None)
    lines = tuple(
        line._replace(amount_minor=line.amount_minor + (more_minor if line.account_id is not None else -more_minor))
        for line in entry.lines
    )
    if lines[0].amount_minor:
        entries.change_entry(db, replace(entry, lines=lines))
    else:
        entries.remove_entry(db, entry_id)


def choose_method(db: sqlite3.Connection, by: By, account_id: int, method: str) -> Done:
    """Says in which order the account's lots are taken. Raises: InvalidInput if there is no such order."""
    with change(db, by) as done:
        account = account_with_shares(db, account_id)
        if method not in METHODS:
            raise InvalidInput("Choose how lots are taken.", field="method")
        done.sentence = f"{account.name} takes lots by: {METHODS[method]}"
        terms.put_terms(db, account_id, replace(terms.get_terms(db, account_id), lot_method=method))
    return done


@dataclass(frozen=True)
class MethodPreview:
    """What an order of taking lots makes of an account: what is held had cost, and what was gained by sales, by year, in home
    currency."""

    key: str
    words: str
    is_chosen: bool
    cost_minor: int
    gained: dict[int, int]

    @property
    def gained_minor(self) -> int:
        return sum(self.gained.values())


@dataclass(frozen=True)
class Counting:
    """How an account counts: its cash, what its shares are worth, what was noted last, and the orders of taking lots."""

    account: Account
    cash_minor: int
    shares_minor: int
    noted: ValueNote | None
    trades: int
    methods: tuple[MethodPreview, ...]


def counting_of(db: sqlite3.Connection, by: By, account_id: int) -> Counting:
    """What the page of how an account counts shows. Raises: InvalidInput if it holds no shares."""
    with reading(db):
        account = account_with_shares(db, account_id)
        book = holdings_on(db, by.today)
        rows = [row for row in book.rows if row.account.id == account_id and row.security is not None]
        chosen = terms.get_terms(db, account_id).lot_method
        return Counting(
            account, accounts.sum_balance(db, account_id, by.today), sum(row.value.minor for row in rows),
            values.list_last_values(db).get(account_id), len(trades.list_trades(db, account_id)),
            tuple(_preview(db, account, book.home, key, key == chosen) for key in METHODS),
        )  # fmt: skip


def _preview(db: sqlite3.Connection, account: Account, home: str, key: str, is_chosen: bool) -> MethodPreview:
    rates = accounts.list_rates(db)
    cost, gained = 0, dict[int, int]()
    for account_id, security_id in sorted(trades.list_pairs(db)):
        if account_id != account.id:
            continue
        security = securities.get_security(db, security_id)
        exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
        picks = trades.list_picks(db, account_id, security_id)
        lots = find_lots(trades.list_trades(db, account_id, security_id), key, exchange, picks)
        cost += lots.cost.home_minor or 0
        for sale in lots.disposals:
            gained[sale.sold_on.year] = gained.get(sale.sold_on.year, 0) + (sale.gain_home_minor or 0)
    return MethodPreview(key, METHODS[key], is_chosen, cost, gained)


def lots_to_choose(db: sqlite3.Connection, account_id: int, security_id: int, kept: Trade | None) -> list[Lot]:
    """The lots a trade may take its shares from, as if it were not there; none unless the account's are chosen by hand."""
    with reading(db):
        if terms.get_terms(db, account_id).lot_method != "chosen":
            return []
        account, security = accounts.get_account(db, account_id), securities.get_security(db, security_id)
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
        own = [one for one in trades.list_trades(db, account_id, security_id) if kept is None or one.id != kept.id]
        lots = find_lots(own, "chosen", exchange, trades.list_picks(db, account_id, security_id))
    return [lot for lot in lots.held if lot.shares_e8 > 0]


def picks_of(db: sqlite3.Connection, trade: Trade) -> list[tuple[int, int]]:
    """The lots chosen for a trade: by the trade that brought each, how many shares."""
    return trades.list_picks(db, trade.account_id, trade.security_id).get(trade.id, [])
