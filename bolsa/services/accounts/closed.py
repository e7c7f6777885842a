"""Closed accounts stay as they are: whatever changes, by a form, a file, a merge or an undo, puts nothing into one."""

import sqlite3
from collections.abc import Callable

from bolsa.errors import NotAllowed
from bolsa.store.accounts import accounts


def watch(db: sqlite3.Connection) -> Callable[[], None]:
    """Looks at what closed accounts moved before a change; gives what to ask at its end.

    That raises NotAllowed, naming the account, if one that was closed moved something since, or one is closed now that is not
    empty.
    """
    before = accounts.list_closed_months(db)

    def require_as_before() -> None:
        for account_id, (name, closed_on, months) in accounts.list_closed_months(db).items():
            was = before.get(account_id)
            if (was is not None and was[2] != months) or (was is None and sum(months.values(), 0) != 0):
                raise NotAllowed(f"{name} is closed since {closed_on}. Open it again first.")

    return require_as_before
