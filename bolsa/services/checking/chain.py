"""An account's statements are a chain: one is open at a time, and a reconciled one keeps the one that it opens from."""

import sqlite3
from collections.abc import Callable

from bolsa.core.checking.check import Period, seam_between
from bolsa.core.checking.statement import Statement
from bolsa.errors import Conflict
from bolsa.store.accounts import accounts
from bolsa.store.checking import statements


def watch(db: sqlite3.Connection) -> Callable[[], None]:
    """Looks at the statements before a change; gives what to ask at its end, which raises Conflict if an account has two open
    ones since, or a reconciled one lost what it opens from. That holds for a form as for an undo."""
    read_before = statements.read_chains(db)

    def require_chained() -> None:
        read_after = statements.read_chains(db)
        if read_after == read_before:
            return
        before = statements.chains_of(read_before)
        for account_id, chain in statements.chains_of(read_after).items():
            was = before.get(account_id, [])
            if chain != was:
                _require_one_open(db, account_id, chain)
                _require_followed(was, chain)

    return require_chained


def _require_one_open(db: sqlite3.Connection, account_id: int, chain: list[Statement]) -> None:
    if sum(s.state == "open" for s in chain) > 1:
        name = accounts.get_account(db, account_id).name
        raise Conflict(f"Another statement of {name} is being checked. Finish it, or give it up, first.")


def _require_followed(was: list[Statement], chain: list[Statement]) -> None:
    links_before = {one.id: link for one, link in _links(was) if one.state == "reconciled"}
    for one, link in _links(chain):
        known = links_before.get(one.id)
        if one.state != "reconciled" or link == known:
            continue
        if known is not None:
            raise Conflict(f"The statement to {one.closing_day} builds on this one. Reopen that and give it up first.")
        if link[1]:
            raise Conflict("It does not open with what the one before closed with. Mend that, or say on which day it begins.")


def _links(chain: list[Statement]) -> list[tuple[Statement, tuple[int, bool]]]:
    """Every statement with the one before it (0: none) and whether the two do not meet."""
    return [(b, (a.id, _is_unlike(a, b)) if a else (0, False)) for a, b in zip([None, *chain], chain, strict=False)]


def _is_unlike(before: Statement, after: Statement) -> bool:
    """Whether a statement that goes on where another ended opens with another amount than that closed with."""
    first, second = (Period(s.closing_day, s.opening_minor, s.closing_minor, s.opening_day) for s in (before, after))
    return before.closing_minor != after.opening_minor and seam_between(first, second).startswith("does not open")
