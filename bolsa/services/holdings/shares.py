"""Shares here against shares there, per security: entering moves, noting positions, suspects and their cures, bringing in."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.rows import BroughtMove, BroughtShares
from bolsa.core.holdings.security import Declared, Security
from bolsa.core.holdings.shares import Move, ShareCure, ShareSuspect, check_move, find_share_suspects, position_on, shares_text
from bolsa.core.known import known
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import shares

KINDS_WITH_SHARES = ("brokerage", "pension", "asset", "benefit")
MOST_NAME = 80


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
    moves: tuple[tuple[Move, Security], ...]
    securities: tuple[Security, ...]

    @property
    def differing(self) -> list[Holding]:
        return [holding for holding in self.holdings if holding.missing_e8]

    @property
    def declared_on(self) -> date | None:
        """The latest day for which something was declared."""
        return max((h.declared.day for h in self.holdings if h.declared), default=None)


def may_hold_shares(account: Account) -> bool:
    """Whether an account is of a kind in which shares lie."""
    return not account.everyday and account.kind in KINDS_WITH_SHARES


def shares_page(db: sqlite3.Connection, by: By, account_id: int) -> SharesPage:
    """What the page of an account's shares shows. Raises: NotFound."""
    with reading(db):
        account = accounts.get_account(db, account_id)
        securities = {security.id: security for security in shares.list_securities(db)}
        moves, declared = shares.list_moves(db, account_id), shares.list_declared(db, account_id)
    by_security: dict[int, list[Move]] = {id_: [] for id_ in declared}
    for move in moves:
        by_security.setdefault(move.security_id, []).append(move)
    holdings = [_holding(securities[id_], own, declared.get(id_), by.today) for id_, own in by_security.items()]
    holdings.sort(key=lambda h: h.security.name.casefold())
    latest = tuple((move, securities[move.security_id]) for move in reversed(moves))
    return SharesPage(account, tuple(holdings), latest, tuple(securities.values()))


def _holding(security: Security, moves: list[Move], declared: Declared | None, today: date) -> Holding:
    now = position_on(moves, today)
    if declared is None:
        return Holding(security, now, None, now, ())
    suspects = find_share_suspects(moves, declared.shares_e8, declared.day)
    return Holding(security, now, declared, position_on(moves, declared.day), tuple(suspects))


def count_differing(db: sqlite3.Connection) -> dict[int, int]:
    """By account: how many securities have other shares here than there."""
    return shares.count_differing(db)


def enter_move(db: sqlite3.Connection, by: By, account_id: int, security: str, code: str, move: Move) -> Done:
    """Enters shares that came or went. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        account = _account_with_shares(db, account_id)
        if move.day > by.today:
            raise InvalidInput("Shares cannot move on a day to come.", field="day")
        checked = check_move(move)
        name = _security_name(security)
        done.sentence = f"Entered shares of {name} in {account.name}"
        security_id = shares.put_security(db, name, _code(code))
        shares.insert_move(db, account_id, replace(checked, security_id=security_id))
    return done


def remove_move(db: sqlite3.Connection, by: By, move_id: int) -> Done:
    """Takes a move out; gives its account's id and the step's. Raises: NotFound."""
    with change(db, by) as done:
        account_id, move = _get_move(db, move_id)
        done.sentence = f"Took out shares of {move.day.isoformat()}"
        shares.remove_move(db, move_id)
        done.made = account_id
    return done


def note_positions(db: sqlite3.Connection, by: By, account_id: int, day: date, listed: list[tuple[str, str, int]]) -> Done:
    """Notes what the institution declares for the end of a day: (security, code, shares of 1e-8) each.

    Raises: InvalidInput; nothing is noted then.
    """
    with change(db, by) as done:
        account = _account_with_shares(db, account_id)
        if day > by.today:
            raise InvalidInput("A position cannot be noted for a day to come.", field="listed_on")
        if not listed:
            raise InvalidInput("Write the shares of at least one security.", field="listed_on")
        done.sentence = f"Noted the shares that {account.institution or account.name} lists on {day.isoformat()}"
        for name, code, shares_e8 in listed:
            security_id = shares.put_security(db, _security_name(name), _code(code))
            shares.put_position(db, account_id, Declared(security_id, day, shares_e8))
    return done


def forget_positions(db: sqlite3.Connection, by: By, account_id: int, security_id: int) -> Done:
    """Forgets what was declared of a security."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        done.sentence = f"Forgot a list of shares of {account.name}"
        shares.remove_positions(db, account_id, security_id)
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
        _apply(db, account_id, security_id, suspect.cure)
    return done


def _done(one: ShareCure) -> str:
    """The cure in the past tense."""
    return {
        "remove": "a move was taken out", "turn": "a move was turned round", "split": f"a {one.reason} was entered",
        "date": f"a move was dated {one.day}" if one.day else "",
        "correct": f"a move was corrected to {shares_text(abs(one.shares_e8))}",
    }[one.verb]  # fmt: skip


def _apply(db: sqlite3.Connection, account_id: int, security_id: int, one: ShareCure) -> None:
    if one.verb == "split":
        move = Move(known(one.day), "split", one.shares_e8, security_id, reason=one.reason)
        shares.insert_move(db, account_id, move)
        return
    _, move = _get_move(db, one.move_id)
    if one.verb == "remove":
        shares.remove_move(db, move.id)
    elif one.verb == "date":
        shares.change_move(db, replace(move, day=known(one.day)))
    else:
        other_way = {"buy": "sell", "sell": "buy", "in": "out", "out": "in", "opening": "out", "reinvest": "sell"}
        turned = one.verb == "turn"
        total = -move.total_minor if turned and move.total_minor is not None else move.total_minor
        kind = other_way.get(move.kind, move.kind) if turned else move.kind
        shares.change_move(db, replace(move, shares_e8=one.shares_e8, kind=kind, total_minor=total))


def _get_move(db: sqlite3.Connection, move_id: int) -> tuple[int, Move]:
    found = shares.find_move(db, move_id)
    if found is None:
        raise NotFound("Those shares are not here any more.")
    return found


def _account_with_shares(db: sqlite3.Connection, account_id: int) -> Account:
    account = accounts.get_account(db, account_id)
    if not may_hold_shares(account):
        raise InvalidInput(f"{account.name} is of a kind that holds no shares. A brokerage or a pension account does.")
    return account


def _security_name(text: str) -> str:
    name = " ".join(text.split())
    if not name or len(name) > MOST_NAME:
        raise InvalidInput("Write the security's name, in up to 80 letters.", field="security")
    return name


def _code(text: str) -> str:
    return "".join(text.split()).upper()[:40]


# --- from files -------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class SharesToBring:
    """What an investment statement would bring to an account: moves that are new, how many are here, positions declared."""

    account: Account
    new: tuple[BroughtMove, ...]
    known: int
    brought: BroughtShares


def sort_out(db: sqlite3.Connection, account: Account, brought: BroughtShares) -> SharesToBring:
    """Which of a statement's moves are new: one is here if its reference is, or, without one, the same move on that day."""
    codes = {s.id: (s.code, s.name.casefold()) for s in shares.list_securities(db)}
    here = shares.list_moves(db, account.id)
    refs = {(move.bank_ref, move.shares_e8) for move in here if move.bank_ref}
    bare = [(codes[m.security_id], m.day, m.shares_e8, m.kind) for m in here]
    new = []
    for move in brought.moves:
        twin = next((b for b in bare if _is_of(b[0], move) and b[1:] == (move.day, move.shares_e8, move.kind)), None)
        if (move.bank_ref, move.shares_e8) in refs or twin:
            if twin:
                bare.remove(twin)  # of two equal moves the second is here only if two are
            continue
        new.append(move)
    return SharesToBring(account, tuple(new), len(brought.moves) - len(new), brought)


def _is_of(security: tuple[str, str], move: BroughtMove) -> bool:
    return security[0] == _code(move.code) if security[0] else security[1] == move.name.casefold()


def write_shares(db: sqlite3.Connection, batch_id: int, account: Account, brought: BroughtShares) -> int:
    """Writes what is new in an investment statement as part of a batch; gives how many moves that were. It is part of the
    caller's transaction."""
    found = sort_out(db, account, brought)
    for move in found.new:
        security_id = shares.put_security(db, move.name[:MOST_NAME], _code(move.code))
        kept = Move(move.day, move.kind, move.shares_e8, security_id, move.total_minor, move.reason[:200], move.bank_ref)
        shares.insert_move(db, account.id, kept, batch_id)
    listed = [Declared(shares.put_security(db, p.name[:MOST_NAME], _code(p.code)), p.day, p.shares_e8) for p in brought.positions]
    for declared in (*listed, *_sold_out(db, account.id, listed)):
        shares.put_position(db, account.id, declared, batch_id)
    return len(found.new)


def _sold_out(db: sqlite3.Connection, account_id: int, listed: list[Declared]) -> list[Declared]:
    """What a list says by leaving it out: of a security that is held here and does not stand in it, there are no shares there."""
    if not listed:
        return []
    day, there = max(one.day for one in listed), {one.security_id for one in listed}
    by_security: dict[int, list[Move]] = {}
    for move in shares.list_moves(db, account_id):
        by_security.setdefault(move.security_id, []).append(move)
    return [Declared(id_, day, 0) for id_, moves in by_security.items() if id_ not in there and position_on(moves, day)]
