"""The chain of an account's statements stays whole: what a form or an undo did to it is asked of the rule at a step's end."""

import sqlite3
from collections.abc import Callable

from bolsa.core.checking.chain import require_chained
from bolsa.errors import Conflict
from bolsa.store.accounts import accounts
from bolsa.store.checking import statements


def watch(db: sqlite3.Connection) -> Callable[[], None]:
    """Looks at the statements before a change; gives what to ask at its end, which raises Conflict if a chain broke."""
    read_before = statements.read_chains(db)

    def require_as_chained() -> None:
        if taken := statements.find_ticked_elsewhere(db):
            raise Conflict(f"The statement to {taken} has used lines of this check since. Reopen that one first.")
        read_after = statements.read_chains(db)
        if read_after == read_before:
            return
        before = statements.chains_of(read_before)
        for account_id, chain in statements.chains_of(read_after).items():
            was = before.get(account_id, [])
            if chain != was:
                require_chained(accounts.get_account(db, account_id).name, was, chain)

    return require_as_chained
