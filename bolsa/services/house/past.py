"""Writing a whole past at once, as the demo and the benchmark do. It is no step that anyone would undo, so none is recorded."""

import sqlite3
from collections.abc import Mapping
from dataclasses import replace
from datetime import date

from bolsa.core.bringing.batch import RemoteAccount
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.budget.aims import Aim
from bolsa.core.budget.closed import Stood
from bolsa.core.budget.placing import Placing
from bolsa.core.budget.trial import Trial, TrialCell
from bolsa.core.holdings.prices import MarketEvent
from bolsa.core.holdings.trades import Trade
from bolsa.core.ledger.entries import Entry, require_balanced
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services.budget.budgeting import budget_view
from bolsa.services.changes import note
from bolsa.services.clock import By
from bolsa.services.holdings.settling import settle_pairs
from bolsa.store.accounts import accounts, terms
from bolsa.store.bringing import batches, brought, connections, coverage
from bolsa.store.budget import aims, budget, closing, trials
from bolsa.store.checking import statements
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.house.content_mark import put_mark
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories


def record_history(db: sqlite3.Connection, written: list[Entry]) -> list[tuple[int, list[int]]]:
    """Writes whole entries; gives each one's id and its lines' ids. Raises: InvalidInput for one that does not balance."""
    for entry in written:
        require_balanced(entry)
    with note(db):
        return entries.insert_entries(db, written)


def record_download(db: sqlite3.Connection, at: str, name: str, found: list[tuple[int, BroughtRow, int]]) -> None:
    """Notes that a bank brought lines that are here, as a download would have: (account, the bank's row, line) each."""
    with note(db):
        batch_id = batches.insert_batch(db, "connection", name, at)
        for account_id, row, _ in found:
            brought.insert_rows(db, batch_id, account_id, [row])
        rows = brought.list_rows(db, batch_id)
        brought.set_lines_of_rows(db, [(one[2], None, row.id) for one, row in zip(found, rows, strict=True)])
        batches.change_batch_state(db, batch_id, "brought", at)


def record_checked(db: sqlite3.Connection, at: str, account_id: int, closing_days: list[date]) -> None:
    """Reconciles an account's past with a statement on each of these days, all that stands until then."""
    with note(db):
        opening = 0
        for day in closing_days:
            closing = accounts.sum_balance(db, account_id, day)
            statement_id = statements.insert_statement(db, account_id, day, opening, closing)
            statement = statements.get_statement(db, statement_id)
            statements.tick_cleared_lines(db, statement)
            statements.lock_ticked_lines(db, statement_id)
            statements.change_statement(db, replace(statement, state="reconciled", reconciled_at=at))
            opening = closing


def record_bank_balance(db: sqlite3.Connection, account_id: int, day: date, amount_minor: int) -> None:
    """Notes what the bank said an account holds."""
    with note(db):
        accounts.insert_bank_balance(db, account_id, day, amount_minor)


def arrange(db: sqlite3.Connection, account_id: int, facets: Mapping[str, str]) -> None:
    """Says what an account is in the household's own facets, by their names."""
    with note(db):
        for name, value in facets.items():
            terms.put_facet_value(db, account_id, terms.put_facet(db, name), value)


def record_rate(db: sqlite3.Connection, currency: str, day: date, rate_e8: int) -> None:
    """Notes what one unit of a currency was worth in home currency on a day, times 1e8."""
    with note(db):
        accounts.put_rate(db, currency, day, rate_e8)


def record_market(db: sqlite3.Connection, security_id: int, prices: list[tuple[date, int]], events: list[MarketEvent]) -> None:
    """Keeps what a market told of a security."""
    with note(db):
        securities.put_prices(db, security_id, prices)
        for event in events:
            securities.put_event(db, event)


def record_trades(db: sqlite3.Connection, written: list[Trade]) -> None:
    """Writes whole trades with what follows from them: cash and lots."""
    with note(db):
        for trade in written:
            trades.insert_trade(db, trade)
        settle_pairs(db, {(trade.account_id, trade.security_id) for trade in written})


def record_plan(db: sqlite3.Connection, expected: list[tuple[int, Month, int]], placings: list[Placing]) -> None:
    """Writes expected amounts (category, month, minor units) and placings of the past."""
    if any(amount < 0 for _, _, amount in expected):
        raise InvalidInput("An expected amount is zero or more.")
    with note(db):
        for category_id, month, amount in expected:
            budget.put_expected(db, category_id, month, amount)
        budget.insert_placings(db, placings)


def record_aims(db: sqlite3.Connection, written: Mapping[int, tuple[Aim, date | None]], allowances: Mapping[int, int]) -> None:
    """Writes aims of the past by category, each with its day, and whose allowance categories are (by category, a member)."""
    with note(db):
        for category_id, (aim, by_day) in written.items():
            aims.put_aim(db, category_id, aim, by_day, ())
        for category_id, member_id in allowances.items():
            categories.change_category(db, replace(categories.get_category(db, category_id), member_id=member_id))


def record_trial(db: sqlite3.Connection, trial: Trial) -> None:
    """Puts a trial by, with its cells and what it gives up."""
    with note(db):
        trial_id = trials.insert_trial(db)
        trials.name_trial(db, trial_id, trial.name)
        for (category_id, month), cell in trial.cells.items():
            trials.put_cell(db, trial_id, category_id, month, cell)
        for category_id, month in trial.dropped.items():
            trials.put_cell(db, trial_id, category_id, month, TrialCell(0), is_end=True)


def record_closed(db: sqlite3.Connection, closed: Mapping[Month, By]) -> None:
    """Closes months of the past as they stand, each on a day by somebody."""
    with note(db):
        for month, by in closed.items():
            view = budget_view(db, by, month)
            stood = {row.category_id: Stood(row.placed_minor, row.spent_minor, row.left_minor) for row in view.budget.rows}
            closing.insert_closed(db, month, by.today, by.member_id, view.budget.unplaced_minor, "", stood)


def record_connection(
    db: sqlite3.Connection, name: str, base_url: str, token: str, last_success: str, remotes: list[RemoteAccount]
) -> int:
    """Notes a consent that was given before, with its accounts; gives the connection's id."""
    with note(db):
        connection_id = connections.insert_connection(db, name, base_url, token)
        kept = replace(connections.get_connection(db, connection_id), last_success=last_success)
        connections.change_connection(db, kept)
        for remote in remotes:
            connections.put_remote_account(db, replace(remote, connection_id=connection_id))
        batch_id = batches.insert_batch(db, "connection", name, last_success)
        batches.change_batch_state(db, batch_id, "empty")
        for remote in connections.list_remote_accounts(db, connection_id):
            last = date.fromisoformat(last_success[:10])
            connections.note_seen(db, remote.id, last_seen=last, missing_since=None)
            if remote.account_id is not None:
                opened = accounts.get_account(db, remote.account_id).opened_on
                coverage.insert_coverage(db, batch_id, remote.account_id, opened, last, is_declared=True)
    return connection_id


def move_connections(db: sqlite3.Connection, base_urls: dict[str, str]) -> None:
    """Gives connections the addresses their institutions have now, by name (the stand-in's port is free to change)."""
    with note(db):
        for kept in connections.list_connections(db):
            if kept.institution in base_urls:
                connections.change_connection(db, replace(kept, base_url=base_urls[kept.institution]))


def record_sitting(db: sqlite3.Connection, by: By, started_at: str, finished_at: str, worth_minor: int) -> None:
    """Notes a sitting of the past, begun and finished."""
    with note(db):
        household.insert_sitting(db, started_at, by.today, by.member_id, worth_minor, finished_at)


def end_past(db: sqlite3.Connection, mark: int) -> None:
    """Marks what was written as the same content each time it is written."""
    put_mark(db, mark)
