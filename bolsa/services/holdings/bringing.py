"""Shares from files: which of a statement's trades are new, bringing them in with their cash, and taking them out again."""

import sqlite3
from dataclasses import dataclass

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.rows import BroughtMove, BroughtPosition, BroughtShares
from bolsa.core.holdings.security import MOST_NAME, Declared
from bolsa.core.holdings.shares import position_on, shares_text
from bolsa.core.holdings.trades import Trade
from bolsa.services.holdings.settling import settle_pairs
from bolsa.services.holdings.trading import take_out
from bolsa.store.holdings import securities, trades


@dataclass(frozen=True)
class SharesToBring:
    """What an investment statement would bring to an account: moves that are new, how many are here, positions declared."""

    account: Account
    new: tuple[BroughtMove, ...]
    known: int
    brought: BroughtShares
    left_out: tuple[BroughtMove, ...] = ()  # by hand
    doubts: tuple[str, ...] = ()  # sentences


def sort_out(db: sqlite3.Connection, account: Account, brought: BroughtShares) -> SharesToBring:
    """Which of a statement's moves are new: one is here if its reference is, or, without one, the same move on that day."""
    codes = {s.id: (s.code, s.name.casefold()) for s in securities.list_securities(db)}
    here = trades.list_trades(db, account.id)
    refs = {(trade.bank_ref, trade.shares_e8) for trade in here if trade.bank_ref}
    bare = [(codes[t.security_id], t.day, t.shares_e8, t.kind, t.total_minor if not t.shares_e8 else None) for t in here]
    new = []
    for move in brought.moves:
        like = (move.day, move.shares_e8, move.kind, move.total_minor if not move.shares_e8 else None)
        twin = next((b for b in bare if _is_of(b[0], move) and b[1:] == like), None)
        if (move.bank_ref, move.shares_e8) in refs or twin:
            if twin:
                bare.remove(twin)  # of two equal moves the second is here only if two are
            continue
        new.append(move)
    doubts = tuple(said for move in new if (said := _held_already(move, here, codes)))
    return SharesToBring(account, tuple(new), len(brought.moves) - len(new), brought, doubts=doubts)


def _held_already(move: BroughtMove, here: list[Trade], codes: dict[int, tuple[str, str]]) -> str:
    """What speaks against shares said to be held before: some of them are here on that day; "" if none are."""
    of_it = [trade for trade in here if _is_of(codes[trade.security_id], move)] if move.kind == "opening" else []
    held = position_on(of_it, move.day)
    return (
        f"{shares_text(held)} shares of {move.name} are here on {move.day} already; these would be added to them." if held else ""
    )


def _is_of(security: tuple[str, str], move: BroughtMove) -> bool:
    return security[0] == _code(move.code) if security[0] else security[1] == move.name.casefold()


def write_shares(db: sqlite3.Connection, batch_id: int, account: Account, brought: BroughtShares) -> int:
    """Writes what is new in an investment statement as part of a batch; gives how many moves that were. It is part of the
    caller's transaction."""
    found = sort_out(db, account, brought)
    pairs = set()
    for move in found.new:
        security_id = _security_of(db, move, account)
        kept = Trade(
            move.day, move.kind, move.shares_e8, security_id, move.total_minor, move.fee_minor, move.basis_day,
            withheld_minor=move.withheld_minor, ratio_new=move.ratio_new, ratio_old=move.ratio_old, reason=move.reason[:200],
            bank_ref=move.bank_ref, account_id=account.id,
        )  # fmt: skip
        trades.insert_trade(db, kept, batch_id)
        pairs.add((account.id, security_id))
    listed = [Declared(_security_of(db, p, account), p.day, p.shares_e8) for p in brought.positions]
    for declared in (*listed, *_sold_out(db, account.id, listed)):
        trades.put_position(db, account.id, declared, batch_id)
    settle_pairs(db, pairs)
    return len(found.new)


def _security_of(db: sqlite3.Connection, said: BroughtMove | BroughtPosition, account: Account) -> int:
    """The security a file speaks of. Its code is kept as it is said: what an institution calls it need not be an ISIN."""
    return securities.put_security(db, said.name[:MOST_NAME], _code(said.code), account.currency)


def _code(text: str) -> str:
    return "".join(text.split()).upper()[:40]


def take_out_batch(db: sqlite3.Connection, batch_id: int) -> int:
    """Takes out what a batch brought of shares and nobody changed since, with its cash; gives how many trades that were."""
    untouched = trades.list_untouched_of_batch(db, batch_id)
    for trade in untouched:
        take_out(db, trade)
    trades.let_go_of_batch(db, batch_id)
    settle_pairs(db, {(trade.account_id, trade.security_id) for trade in untouched})
    return len(untouched)


def _sold_out(db: sqlite3.Connection, account_id: int, listed: list[Declared]) -> list[Declared]:
    """What a list says by leaving it out: of a security that is held here and does not stand in it, there are no shares there."""
    if not listed:
        return []
    day, there = max(one.day for one in listed), {one.security_id for one in listed}
    by_security: dict[int, list[Trade]] = {}
    for move in trades.list_trades(db, account_id):
        by_security.setdefault(move.security_id, []).append(move)
    return [Declared(id_, day, 0) for id_, moves in by_security.items() if id_ not in there and position_on(moves, day)]
