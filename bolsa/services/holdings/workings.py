"""The workings of share positions: every move that led to them."""

import sqlite3
from datetime import date

from bolsa.core.holdings.shares import KINDS, Move
from bolsa.core.months import Month
from bolsa.core.units import Shares
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.holdings.shares import Holding, shares_page
from bolsa.services.working_parts import Make, parse_key


def shares_now(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account holds today; the key is "account-security"."""
    holding, moves = _holding(db, by, key)
    return _moves_until(holding, moves, by.today, "shares today")


def shares_then(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account held on the day of the institution's list."""
    holding, moves = _holding(db, by, key)
    day = holding.declared.day if holding.declared else by.today
    return _moves_until(holding, moves, day, f"shares on {day}")


def _holding(db: sqlite3.Connection, by: By, key: str) -> tuple[Holding, list[Move]]:
    account_id, _, security_id = key.partition("-")
    page = shares_page(db, by, parse_key(account_id))
    holding = next((h for h in page.holdings if h.security.id == parse_key(security_id)), None)
    if holding is None:
        raise NotFound("There is no such figure.")
    return holding, [move for move, security in reversed(page.moves) if security.id == holding.security.id]


def _moves_until(holding: Holding, moves: list[Move], day: date, label: str) -> Working:
    parts = [
        Working(KINDS[move.kind].capitalize(), Shares(move.shares_e8), note=f"{move.day}. {move.reason}".rstrip(". "))
        for move in moves
        if move.day <= day
    ]
    return total_of(f"{holding.security.name}: {label}", parts, Shares(0))


WORKINGS: dict[str, Make] = {"shares-now": shares_now, "shares-then": shares_then}
