"""What follows a trade: the shares a split adds, the cash in the ledger, the lots. Kept anew after every step that can change
it."""

import sqlite3
from dataclasses import replace
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.lots import Lots, find_lots
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import Trade, in_order, split_shares
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.worth.rates import Rates
from bolsa.store.accounts import accounts, terms, values
from bolsa.store.holdings import lots as lot_store
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.ledger import entries


def settle_trades(db: sqlite3.Connection, step_id: int) -> None:
    """Settles what a step changed, as a part of that step."""
    touched = trades.list_touched(db, step_id)
    settle_pairs(db, touched | trades.list_shaken(db, step_id))


def settle_pairs(db: sqlite3.Connection, pairs: set[tuple[int, int]]) -> None:
    """Settles the trades of some accounts and securities."""
    if not pairs:
        return
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    kept = {account.id: account for account in accounts.list_accounts(db)}
    known = {security.id: security for security in securities.list_securities(db)}
    for account_id, security_id in sorted(pairs):
        account, security = kept.get(account_id), known.get(security_id)
        if account is None or security is None:
            continue  # it went with this step
        found = trades.list_trades(db, account_id, security_id)
        for trade in _settle_splits(db, found):
            _settle_cash(db, account, security, trade)
        lot_store.put_lots(db, account_id, security_id, lots_of(db, account, security, home, rates))


def settle_lots(db: sqlite3.Connection) -> None:
    """Reckons the lots that trades lead to and that are not kept: a file that was brought up to date, or in whole, lacks them."""
    missing = sorted(trades.list_pairs(db) - set(lot_store.sum_lots(db)))
    if not missing:
        return
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    known = {security.id: security for security in securities.list_securities(db)}
    for account_id, security_id in missing:
        found = lots_of(db, accounts.get_account(db, account_id), known[security_id], home, rates)
        lot_store.put_lots(db, account_id, security_id, found)


def lots_of(
    db: sqlite3.Connection, account: Account, security: Security, home: str, rates: Rates, *, until: date = date.max
) -> Lots:
    """The lots the trades of a security in an account lead to by the end of a day, reckoned anew."""
    exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
    found = [trade for trade in trades.list_trades(db, account.id, security.id) if trade.day <= until]
    method = terms.get_terms(db, account.id).lot_method
    picks = trades.list_picks(db, account.id, security.id) if method == "chosen" else None
    return find_lots(found, method, exchange, picks)


def _settle_splits(db: sqlite3.Connection, found: list[Trade]) -> list[Trade]:
    """A split adds what its ratio makes of the shares there are by then, also when a trade before it comes late."""
    held, settled = 0, []
    for trade in in_order(found):
        now = trade
        if trade.kind == "split" and trade.ratio_new and trade.ratio_old:
            now = replace(trade, shares_e8=split_shares(held, trade.ratio_new, trade.ratio_old))
        if now != trade:
            trades.change_trade(db, now)
        held += now.shares_e8
        settled.append(now)
    return settled


def _settle_cash(db: sqlite3.Connection, account: Account, security: Security, trade: Trade) -> None:
    """Keeps the entry of a trade's cash: there is one in an account that is counted by its shares, and none in another."""
    cash = trade.cash_minor if account.counts_shares else 0
    kept = entries.list_entries(db, [trade.entry_id]) if trade.entry_id else []
    if not cash:
        if kept:
            trades.change_trade(db, replace(trade, entry_id=None))
            entries.remove_entry(db, kept[0].id)
        return
    line = Line(cash, account.currency, account_id=account.id, day=trade.day, state="cleared")
    mirror = Line(-cash, account.currency, category_id=values.trades_category(db), day=trade.day)
    if not kept:
        entry_id = entries.insert_entry(db, Entry(trade.day, security.name, (line, mirror)))
        trades.change_trade(db, replace(trade, entry_id=entry_id))
        return
    was = kept[0]
    mine = was.account_lines[0]
    if (mine.amount_minor, was.day, mine.on_account_id, was.payee) == (cash, trade.day, account.id, security.name):
        return
    moved = mine._replace(amount_minor=cash, account_id=account.id, day=trade.day)
    other = mirror._replace(id=was.category_lines[0].id)
    entries.change_entry(db, replace(was, day=trade.day, payee=security.name, lines=(moved, other)))
