"""Shares here against shares there, per security: noting positions, suspects and their cures."""

import sqlite3
from collections import Counter
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.security import Declared, Security
from bolsa.core.holdings.shares import ShareCure, ShareSuspect, find_share_suspects, position_on, shares_text, trades_of_cure
from bolsa.core.holdings.trades import Trade
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings.securities import put_named
from bolsa.services.holdings.trading import account_with_shares, repair
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import securities, trades


@dataclass(frozen=True)
class Holding:
    """One security of an account: its shares here today, what the institution declared last, and here on that day."""

    security: Security
    now_e8: int
    declared: Declared | None
    here_e8: int
    suspects: tuple[ShareSuspect, ...]

    @property
    def missing_e8(self) -> int:
        """What would have to come in here for the two to agree; 0 while nothing was declared."""
        return self.declared.shares_e8 - self.here_e8 if self.declared else 0


@dataclass(frozen=True)
class SharesPage:
    """An account's securities by name, its moves, the latest first, and every security there is."""

    account: Account
    holdings: tuple[Holding, ...]
    moves: tuple[tuple[Trade, Security], ...]
    securities: tuple[Security, ...]

    @property
    def differing(self) -> list[Holding]:
        return [holding for holding in self.holdings if holding.missing_e8]

    @property
    def declared_on(self) -> date | None:
        """The latest day for which something was declared."""
        return max((h.declared.day for h in self.holdings if h.declared), default=None)


def shares_page(db: sqlite3.Connection, by: By, account_id: int) -> SharesPage:
    """What the page of an account's shares shows. Raises: NotFound."""
    with reading(db):
        account = accounts.get_account(db, account_id)
        known_ones = {security.id: security for security in securities.list_securities(db)}
        moves, declared = trades.list_trades(db, account_id), trades.list_declared(db, account_id)
    by_security: dict[int, list[Trade]] = {id_: [] for id_ in declared}
    for move in moves:
        by_security.setdefault(move.security_id, []).append(move)
    holdings = [_holding(known_ones[id_], own, declared.get(id_), by.today) for id_, own in by_security.items()]
    holdings.sort(key=lambda h: h.security.name.casefold())
    latest = tuple((move, known_ones[move.security_id]) for move in reversed(moves))
    return SharesPage(account, tuple(holdings), latest, tuple(known_ones.values()))


def _holding(security: Security, moves: list[Trade], declared: Declared | None, today: date) -> Holding:
    now = position_on(moves, today)
    if declared is None:
        return Holding(security, now, None, now, ())
    suspects = find_share_suspects(moves, declared.shares_e8, declared.day)
    return Holding(security, now, declared, position_on(moves, declared.day), tuple(suspects))


def count_differing(db: sqlite3.Connection) -> dict[int, int]:
    """By account: how many securities have other shares here than there."""
    return dict(Counter(account_id for account_id, _ in trades.list_differing(db)))


def list_differing(db: sqlite3.Connection) -> list[str]:
    """The keys of the holdings (account-security) that have other shares here than there."""
    return [f"{account_id}-{security_id}" for account_id, security_id in trades.list_differing(db)]


def note_positions(db: sqlite3.Connection, by: By, account_id: int, day: date, listed: list[tuple[str, str, int]]) -> Done:
    """Notes what the institution declares for the end of a day: (security, code, shares of 1e-8) each.

    Raises: InvalidInput; nothing is noted then.
    """
    with change(db, by) as done:
        account = account_with_shares(db, account_id)
        if day > by.today:
            raise InvalidInput("A position cannot be noted for a day to come.", field="listed_on")
        if not listed:
            raise InvalidInput("Write the shares of at least one security.", field="listed_on")
        done.sentence = f"Noted the shares that {account.institution or account.name} lists on {day.isoformat()}"
        for name, code, shares_e8 in listed:
            security_id = put_named(db, name, code, account.currency)
            trades.put_position(db, account_id, Declared(security_id, day, shares_e8))
    return done


def forget_positions(db: sqlite3.Connection, by: By, account_id: int, security_id: int) -> Done:
    """Forgets what was declared of a security."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        done.sentence = f"Forgot a list of shares of {account.name}"
        trades.remove_positions(db, account_id, security_id)
    return done


def cure(db: sqlite3.Connection, by: By, account_id: int, security_id: int, key: str) -> Done:
    """Does what a suspect's cure says. Raises: Conflict if it explains nothing any more."""
    with change(db, by) as done:
        page = shares_page(db, by, account_id)
        holding = next((h for h in page.holdings if h.security.id == security_id), None)
        suspect = next((s for s in holding.suspects if s.key == key), None) if holding else None
        if holding is None or suspect is None:
            raise Conflict("That does not explain the difference any more. Look at the suspects there are now.")
        done.sentence = f"{holding.security.name}: {_done(suspect.cure)}"
        repair(db, *trades_of_cure(suspect.cure, trades.list_trades(db, account_id, security_id)))
    return done


def _done(one: ShareCure) -> str:
    """The cure in the past tense."""
    return {
        "remove": "a move was taken out", "turn": "a move was turned round", "split": f"a {one.reason} was entered",
        "date": f"a move was dated {one.day}" if one.day else "",
        "correct": f"a move was corrected to {shares_text(abs(one.shares_e8))}",
    }[one.verb]  # fmt: skip
