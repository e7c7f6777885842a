"""Entering, changing and taking out trades."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

from bolsa.core.accounts.account import KINDS_WITH_SHARES, Account
from bolsa.core.holdings.completing import DAYS_OFFERED, Offer
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.shares import position_on, shares_text
from bolsa.core.holdings.trades import KIND_WORDS, TAKES_OUT, Trade, check_trade
from bolsa.errors import InvalidInput, NotAllowed, NotFound
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.holdings.book import prices_on
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts, values
from bolsa.store.connection import reading
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.ledger import entries

MOST_WORDS = 200


def may_hold_shares(account: Account) -> bool:
    """Whether an account is of a kind in which shares lie."""
    return not account.everyday and account.kind in KINDS_WITH_SHARES


def account_with_shares(db: sqlite3.Connection, account_id: int) -> Account:
    """The account. Raises: InvalidInput if it is of a kind that holds no shares."""
    account = accounts.get_account(db, account_id)
    if not may_hold_shares(account):
        raise InvalidInput(
            f"{account.name} is of a kind that holds no shares. A brokerage or a pension account does.", field="account"
        )
    return account


def get_trade(db: sqlite3.Connection, trade_id: int) -> Trade:
    """The trade. Raises: NotFound."""
    found = trades.find_trade(db, trade_id)
    if found is None:
        raise NotFound("That trade is not here any more.")
    return found


def offer(db: sqlite3.Connection, account_id: int, security_id: int, day: date) -> Offer:
    """The close and the rate of a day, for a trade of a security in an account."""
    with reading(db):
        account, security = accounts.get_account(db, account_id), securities.get_security(db, security_id)
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
        priced = prices_on(db, [security_id], [day])[security_id][0]
        near = priced if priced and 0 <= (day - priced.day).days <= DAYS_OFFERED else None
        return Offer(account, security, near, exchange.into_account(day))


def find_trade_of_entry(db: sqlite3.Connection, entry_id: int) -> Trade | None:
    """The trade whose cash an entry is."""
    return trades.find_trade_of_entry(db, entry_id)


def list_trades(db: sqlite3.Connection, account_id: int, security_id: int) -> list[Trade]:
    """The trades of a security in an account, the earliest first."""
    return trades.list_trades(db, account_id, security_id)


def list_prices(db: sqlite3.Connection, security_id: int, first: date, last: date) -> list[Priced]:
    """The prices of some days in order, one a day: one set by hand before the market's."""
    return list({one.day: one for one in securities.list_prices(db, security_id, first, last)}.values())


@dataclass(frozen=True)
class Cash:
    """Where a trade's cash comes from or goes to, if not the account itself: another account, and from which category it is set
    by where that one is everyday."""

    account_id: int
    set_by_id: int | None = None


def enter_trade(
    db: sqlite3.Connection, by: By, trade: Trade, *, picks: Sequence[tuple[int, int]] = (), cash: Cash | None = None
) -> Done:
    """Enters a trade; makes its id. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        account = account_with_shares(db, trade.account_id)
        security = securities.get_security(db, trade.security_id)
        checked = _checked(db, by, account, trade)
        done.sentence = f"Entered a trade in {account.name}: {_named(checked, security.name)}"
        if not account.counts_shares and not _has_history(db, account):
            accounts.change_account(db, replace(account, counts_shares=True))  # the first trade of a new account
        done.made = trades.insert_trade(db, replace(checked, entry_id=None))
        _put_picks(db, account, replace(checked, id=done.made), picks)
        if cash is not None:
            _move_cash(db, by, account, checked, cash)
    return done


def _has_history(db: sqlite3.Connection, account: Account) -> bool:
    """Whether the account's worth is known otherwise: by values, or by shares that were entered and not counted so far."""
    return bool(values.list_values(db, account.id)) or bool(trades.list_trades(db, account.id)) or bool(
        accounts.sum_balance(db, account.id, date.max)
    )  # fmt: skip


def _checked(db: sqlite3.Connection, by: By, account: Account, trade: Trade) -> Trade:
    if trade.day > by.today:
        raise InvalidInput("A trade cannot be of a day to come.", field="day")
    if account.closed_on is not None:
        raise InvalidInput(f"{account.name} is closed since {account.closed_on}. Open it again first.", field="account")
    checked = check_trade(replace(trade, reason=" ".join(trade.reason.split())[:MOST_WORDS]))
    if checked.kind in TAKES_OUT:
        others = [t for t in trades.list_trades(db, account.id, trade.security_id) if t.id != trade.id]
        held = position_on(others, checked.day)
        if held < -checked.shares_e8:
            raise InvalidInput(f"There are {shares_text(held)} shares on that day.", field="shares")
    return checked


def _put_picks(db: sqlite3.Connection, account: Account, trade: Trade, picks: Sequence[tuple[int, int]]) -> None:
    """Keeps the lots that are chosen. Raises: InvalidInput if they are not as many as are taken, or of something else."""
    if not picks:
        trades.put_picks(db, trade.id, [])
        return
    own = {t.id for t in trades.list_trades(db, account.id, trade.security_id) if t.shares_e8 > 0}
    if trade.kind not in TAKES_OUT or any(lot_id not in own for lot_id, _ in picks):
        raise InvalidInput("These are no lots of it.", field="lots")
    if sum(count for _, count in picks) != -trade.shares_e8:
        raise InvalidInput(f"The lots you chose do not make {shares_text(-trade.shares_e8)} shares.", field="lots")
    trades.put_picks(db, trade.id, list(picks))


def _move_cash(db: sqlite3.Connection, by: By, account: Account, trade: Trade, cash: Cash) -> None:
    """The transfer that brings a trade's cash from another account, or takes it there: an entry as any other."""
    other = accounts.get_account(db, cash.account_id)
    if not trade.cash_minor or not accounts.get_account(db, account.id).counts_shares:
        raise InvalidInput("There is no cash to move: the account’s value is noted, not counted.", field="cash")
    if other.currency != account.currency:
        raise InvalidInput(
            f"{other.name} is in {other.currency}. Enter the transfer with its rate, then the trade.", field="cash"
        )
    typed = entry_service.TypedEntry(
        trade.day, securities.get_security(db, trade.security_id).name, trade.cash_minor, other_account_id=account.id,
        set_by_id=cash.set_by_id, state="pending",
    )  # fmt: skip
    entry_service.record_entry(db, by, other.id, typed)


def change_trade(
    db: sqlite3.Connection, by: By, trade: Trade, *, seen: int | None = None, picks: Sequence[tuple[int, int]] | None = None
) -> Done:
    """Keeps a trade as it is typed now; its account and security stay. Raises: Conflict if someone changed it after the version
    seen."""
    with change(db, by) as done:
        before = get_trade(db, trade.id)
        require_version(db, "trade", trade.id, seen, _named(trade, "it"))
        account = account_with_shares(db, before.account_id)
        security = securities.get_security(db, before.security_id)
        _require_free(db, before)
        kept = {name: getattr(before, name) for name in ("account_id", "security_id", "bank_ref", "entry_id")}
        checked = _checked(db, by, account, replace(trade, **kept))
        done.sentence = f"Changed a trade in {account.name}: {_named(checked, security.name)}"
        trades.change_trade(db, checked)
        if picks is not None:
            _put_picks(db, account, checked, picks)
    return done


def remove_trade(db: sqlite3.Connection, by: By, trade_id: int) -> Done:
    """Takes a trade out; makes its account's id. Raises: NotFound."""
    with change(db, by) as done:
        trade = get_trade(db, trade_id)
        account, security = accounts.get_account(db, trade.account_id), securities.get_security(db, trade.security_id)
        done.sentence = f"Took a trade out of {account.name}: {_named(trade, security.name)}"
        _require_open(account)
        take_out(db, trade)
        done.made = trade.account_id
    return done


def take_out(db: sqlite3.Connection, trade: Trade) -> None:
    """Takes a trade out with its cash; a part of the caller's change."""
    _require_free(db, trade)
    trades.remove_trade(db, trade.id)
    if trade.entry_id is not None:
        entries.remove_entry(db, trade.entry_id)


def repair(db: sqlite3.Connection, puts: Sequence[Trade], takes_out: Sequence[int]) -> None:
    """Does, as a part of a step, what mends some trades: changes or enters some, takes others out. Raises: NotAllowed if their
    account is closed, or their cash is reconciled."""
    taken = [get_trade(db, trade_id) for trade_id in takes_out]
    for trade in (*taken, *puts):
        _require_open(accounts.get_account(db, trade.account_id))
    for trade in taken:
        take_out(db, trade)
    for trade in puts:
        if trade.id:
            _require_free(db, trade)
            trades.change_trade(db, trade)
        else:
            trades.insert_trade(db, trade)


def _require_open(account: Account) -> None:
    """Nothing, unless the account is closed. Raises: NotAllowed."""
    if account.closed_on is not None:
        raise NotAllowed(f"{account.name} is closed since {account.closed_on}. Open it again first.")


def _require_free(db: sqlite3.Connection, trade: Trade) -> None:
    """Nothing, unless the trade's cash is reconciled. Raises: NotAllowed naming the statement."""
    for entry in entries.list_entries(db, [trade.entry_id]) if trade.entry_id else []:
        entry_service.require_unlocked(db, entry, None)


def _named(trade: Trade, security: str) -> str:
    count = f"{shares_text(abs(trade.shares_e8))} " if trade.shares_e8 else ""
    return f"{count}{security} {KIND_WORDS[trade.kind]} on {trade.day}"
