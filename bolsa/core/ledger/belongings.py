"""What hangs on entries: files, tags; and entries in the trash."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Attachment:
    """A file attached to an entry or a trade: its name, its type by content, its size and its hash."""

    id: int
    entry_id: int | None
    name: str
    media_type: str
    bytes: int
    sha256: str
    trade_id: int | None = None


@dataclass(frozen=True)
class Tag:
    """A mark of the household's own on what money was for; a retired one is kept and no longer proposed. `tax_line` is the line
    of the tax form it belongs to, `tax_copy` which of several such forms (0: the only one)."""

    id: int
    name: str
    note: str
    retired: bool
    tax_line: str = ""
    tax_copy: int = 0


@dataclass(frozen=True)
class Payee:
    """Whom entries are with: where they usually go, if a person said so, and whether it is kept apart from those like it."""

    id: int
    name: str
    category_id: int | None
    apart: bool


@dataclass(frozen=True)
class PayeeEntry:
    """An entry of a payee, seen from its first account; its category in words, "split" for several, "" for a transfer."""

    entry_id: int
    day: date
    memo: str
    amount_minor: int
    currency: str
    account: str
    category: str


@dataclass(frozen=True)
class Deleted:
    """An entry in the trash; `title` says what it was."""

    id: int
    entry_id: int
    deleted_at: str
    title: str
