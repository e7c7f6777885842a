"""A file on its way in: kept as a batch, and read into the statements it holds."""

import hashlib
import json
import sqlite3

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.rows import BroughtShares, BroughtStatement
from bolsa.errors import Conflict
from bolsa.formats.sniff import READERS
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought
from bolsa.store.bringing.brought import Batch
from bolsa.store.house import household

CHOOSE = "Say which account here each of these is."


def bare_number(number: str) -> str:
    """An account's number without blanks, as it is compared."""
    return number.replace(" ", "")


def read_statements(db: sqlite3.Connection, kind: str, content: bytes, chosen: Account | None) -> list[BroughtStatement]:
    """The statements of a file of a kind; amounts without a currency are in the chosen account's. Raises: UnreadableFile."""
    return READERS[kind](content, chosen.currency if chosen else household.get_household(db).home_currency)


def insert_file_batch(
    db: sqlite3.Connection, by: By, account: Account | None, name: str, content: bytes, kind: str, mapping: str = ""
) -> int:
    """Keeps a file as a waiting batch without rows, by its name and hash; gives its id."""
    digest = hashlib.sha256(content).hexdigest()
    account_id = account.id if account else None
    return brought.insert_batch(
        db, "file", clean_name(name), by.at, format_=kind, sha256=digest, account_id=account_id, mapping=mapping
    )


def only_account(db: sqlite3.Connection) -> Account | None:
    """The household's account, if it has just one that is open."""
    open_ones = [account for account in accounts.list_accounts(db) if account.closed_on is None]
    return open_ones[0] if len(open_ones) == 1 else None


def clean_name(name: str) -> str:
    """A file's name without folders and control characters, for showing."""
    bare = name.replace("\\", "/").rpartition("/")[2]
    return "".join(c for c in bare if c.isprintable())[:120] or "file"


def require_waiting(db: sqlite3.Connection, batch_id: int) -> Batch:
    """The batch, which still waits. Raises: Conflict if it was brought in or taken out, NotFound."""
    batch = brought.get_batch(db, batch_id)
    if batch.state != "waiting":
        raise Conflict("This was decided already.")
    return batch


def list_shares(db: sqlite3.Connection, batch: Batch) -> list[tuple[Account, BroughtShares]]:
    """What a batch's file says of shares, with the account each investment statement goes to; read anew from the file."""
    holding = json.loads(batch.mapping).get("shares", {}) if batch.mapping else {}
    if not holding:
        return []
    statements = read_statements(db, brought.get_format(db, batch.id), brought.get_upload(db, batch.id), None)
    return [
        (accounts.get_account(db, holding[bare_number(s.number)]), s.shares)
        for s in statements
        if s.shares and bare_number(s.number) in holding
    ]
