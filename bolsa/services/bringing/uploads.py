"""A file on its way in, kept as a batch; and the small rules about names and numbers that every step shares."""

import hashlib
import sqlite3

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import Batch
from bolsa.errors import Conflict
from bolsa.services.clock import By
from bolsa.services.holdings.trading import may_hold_shares
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches


def bare_number(number: str) -> str:
    """An account's number without blanks, as it is compared."""
    return number.replace(" ", "")


def insert_file_batch(db: sqlite3.Connection, by: By, account_id: int | None, name: str, content: bytes, format_: str) -> int:
    """Keeps a file as a waiting batch without rows, by its name and hash; gives its id."""
    digest = hashlib.sha256(content).hexdigest()
    return batches.insert_batch(db, "file", clean_name(name), by.at, format_=format_, sha256=digest, account_id=account_id)


def only_account(db: sqlite3.Connection) -> Account | None:
    """The household's account, if it has just one that is open."""
    open_ones = [account for account in accounts.list_accounts(db) if account.closed_on is None]
    return open_ones[0] if len(open_ones) == 1 else None


def only_account_with_shares(db: sqlite3.Connection, currencies: set[str]) -> Account | None:
    """The open account of a kind in which shares lie, if there is just one, or just one in the one currency a file speaks of."""
    open_ones = [one for one in accounts.list_accounts(db) if one.closed_on is None and may_hold_shares(one)]
    if len(open_ones) > 1 and len(currencies) == 1:
        open_ones = [one for one in open_ones if {one.currency} == currencies]
    return open_ones[0] if len(open_ones) == 1 else None


def clean_name(name: str) -> str:
    """A file's name without folders and control characters, for showing."""
    bare = name.replace("\\", "/").rpartition("/")[2]
    return "".join(c for c in bare if c.isprintable())[:120] or "file"


def require_waiting(db: sqlite3.Connection, batch_id: int) -> Batch:
    """The batch, which still waits. Raises: Conflict if it was brought in or taken out, NotFound."""
    batch = batches.get_batch(db, batch_id)
    if batch.state != "waiting":
        raise Conflict("This was decided already.")
    return batch
