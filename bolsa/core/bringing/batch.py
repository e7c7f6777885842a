"""Connections, batches and the rows they brought, as they are kept."""

from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from bolsa.core.bringing.rows import BroughtRow

DAYS_UNSAID = 4  # an entry so near to the day its bank told is not said to have been moved
OVERRULED = "as you decided"  # the reason of a row the user decided about
LEFT_BEFORE = "left out before, as you decided"  # and of one that comes again after it was left out


@dataclass(frozen=True)
class Connection:
    """A consent to download from an institution; "working", "broken" (with the last error), or "cut off"."""

    id: int
    institution: str
    base_url: str
    token: str
    state: str
    last_success: str | None
    last_error: str


@dataclass(frozen=True)
class RemoteAccount:
    """An account at the institution, and the one here it is linked to, if any; `last_seen` is when it was last sent,
    `missing_since` the day it was first missing there, while it is."""

    id: int
    connection_id: int
    remote_number: str
    remote_name: str
    remote_kind: str
    currency: str
    account_id: int | None
    last_seen: date | None = None
    missing_since: date | None = None


@dataclass(frozen=True)
class Batch:
    """One bringing-in: "waiting" in preview, "brought", or "undone". While it waits, `asks` says what must be answered first
    ("account", "accounts", "columns"), `problem` why; `mapping` is how a CSV is read."""

    id: int
    source: str
    name: str
    sha256: str
    state: str
    made_at: str
    brought_at: str | None
    account_id: int | None
    mapping: str
    warnings: tuple[str, ...]
    problem: str
    asks: str


@dataclass(frozen=True)
class BatchAccount:
    """An account a file speaks of, by its number there, and the one here it goes to, None while nobody knows."""

    number: str
    kind: str
    currency: str
    rows: int
    first_day: date | None
    account_id: int | None


@dataclass(frozen=True)
class Claim:
    """A row of a batch that takes a line for its own: what the row is held to be, and whether the user said so."""

    line_id: int
    row_id: int
    verdict: str
    by_hand: bool


@dataclass(frozen=True)
class BatchCount:
    """A batch of the past with what it brought, in rows, its format, its file's hash ("" for a connection) and its accounts."""

    batch: Batch
    format: str
    new: int
    matched: int
    known: int
    accounts: str
    moves: int = 0  # of shares


class StoredRow(NamedTuple):
    """A row of a batch with its verdict; `line_id` is what it became."""

    id: int
    batch_id: int
    account_id: int
    day: date
    amount_minor: int
    payee: str
    memo: str
    bank_ref: str
    value_day: date | None
    file_line: int
    pending: bool
    verdict: str
    take: bool
    reason: str
    match_line_id: int | None
    line_id: int | None
    line_before: str | None

    @property
    def raw_text(self) -> str:
        return f"{self.payee} · {self.memo}" if self.payee and self.memo else self.payee or self.memo

    @property
    def is_overruled(self) -> bool:
        """Whether the user decided about it."""
        return self.reason in (OVERRULED, LEFT_BEFORE)

    @property
    def is_known(self) -> bool:
        """Whether it is here already, and nobody decided otherwise."""
        return self.verdict == "known" and not self.take and not self.is_overruled

    def as_brought(self) -> BroughtRow:
        """The row as the bank sent it."""
        words = (self.payee, self.memo, self.bank_ref, self.value_day, self.file_line, self.pending)
        return BroughtRow(self.day, self.amount_minor, *words)


@dataclass(frozen=True)
class ChangedHere:
    """A row of a batch whose entry is here already and was changed since: what the bank says now, and what stands here."""

    row_id: int
    day: date
    amount_minor: int
    account_id: int
    line_id: int
    entry_id: int
    payee: str
    here_day: date
    here_minor: int
    is_locked: bool

    @property
    def is_curable(self) -> bool:
        """Whether the bank's amount can be taken: it differs, and no statement holds the line."""
        return self.amount_minor != self.here_minor and not self.is_locked


@dataclass(frozen=True)
class Candidate:
    """A line a row could be matched with."""

    line_id: int
    day: date
    amount_minor: int
    payee: str
