"""A file or a download in preview: what it would bring, rows overruled, matched by hand, or all of it put aside."""

import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import DAYS_UNSAID, Batch, ChangedHere, Claim, StoredRow
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.bringing.proof import Proof
from bolsa.core.bringing.rows import BroughtShares, BroughtStatement
from bolsa.core.known import known
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.accounts.ending import delete_left_empty
from bolsa.services.bringing import staging
from bolsa.services.bringing.csv_files import CsvReading, read_head
from bolsa.services.bringing.judging import judge_again
from bolsa.services.bringing.proving import list_proofs
from bolsa.services.bringing.staging import FoundAccount
from bolsa.services.bringing.uploads import require_waiting
from bolsa.services.changes import note
from bolsa.services.clock import By
from bolsa.services.holdings.bringing import SharesToBring, sort_out
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, brought_shares, coverage, merging
from bolsa.store.bringing.brought import OVERRULED
from bolsa.store.holdings import trades


@dataclass(frozen=True)
class Preview:
    """A batch, its rows, how many are "new", "matched", "known", "changed" and "vanished", and, of a waiting file, how its CSV
    is read, which of its accounts nobody here knows, and what it says of shares."""

    batch: Batch
    rows: tuple[StoredRow, ...]
    counts: dict[str, int]
    csv: CsvReading | None
    found: tuple[FoundAccount, ...]
    left_out: int  # of those counted as known, by the user's own decision
    asked_checked: int  # of those counted as known, because their days are checked already
    asked_here: int  # and because they may be bookings that are here
    shares: tuple[SharesToBring, ...] = ()
    moved: int = 0  # trades it brought
    changed_here: tuple[ChangedHere, ...] = ()  # of a waiting batch: what is here already, and says something else
    proofs: tuple[Proof, ...] = ()  # of a waiting batch: what its accounts would come to, beside what the file declares

    @property
    def already_here(self) -> int:
        return self.counts["known"] - self.left_out - self.asked_checked - self.asked_here

    @property
    def new_moves(self) -> int:
        """How many trades it would bring."""
        return sum(len(one.new) for one in self.shares)

    @property
    def positions(self) -> int:
        """How many positions it would compare."""
        return sum(len(one.brought.positions) for one in self.shares)

    @property
    def to_bring(self) -> int:
        return sum(self.counts.values()) - self.counts["known"] + self.new_moves + self.positions


def stage_download(
    db: sqlite3.Connection, by: By, name: str, found: list[tuple[Account, BroughtStatement]], waiting_id: int | None = None
) -> int:
    """Keeps what a connection downloaded as a waiting batch; gives its id. One that waits already is renewed in place, and what
    was decided about its rows stays decided."""
    with note(db):
        batch_id = waiting_id or batches.insert_batch(db, "connection", name, by.at)
        decided = brought.list_overruled(db, batch_id)
        brought.remove_rows(db, batch_id)
        batches.remove_bank_balances(db, batch_id)
        coverage.remove_coverage(db, batch_id)
        for account, statement in found:
            staging.stage_statements(db, batch_id, account, [statement])
        _decide_again(db, batch_id, decided)
    return batch_id


def _decide_again(db: sqlite3.Connection, batch_id: int, decided: list[StoredRow]) -> None:
    """Says of rows that came again what was said of them before."""
    again = {(row.account_id, row.as_brought()._replace(file_line=0)): row.id for row in brought.list_rows(db, batch_id)}
    for row in decided:
        row_id = again.get((row.account_id, row.as_brought()._replace(file_line=0)))
        if row_id is not None:
            brought.change_row_verdict(db, row_id, Verdict(row.verdict, row.take, row.reason, row.match_line_id))


def get_preview(db: sqlite3.Connection, batch_id: int, most: int = 300) -> Preview:
    """A batch with its first rows. Raises: NotFound."""
    batch = batches.get_batch(db, batch_id)
    waits = batch.state == "waiting"
    csv = read_head(batches.get_upload(db, batch_id), batch.mapping) if waits and batch.mapping else None
    found = tuple(staging.found_accounts(db, batch_id)) if waits and batch.asks == "accounts" else ()
    rows = tuple(brought.list_rows_to_show(db, batch_id, most))
    counts = brought.count_verdicts(db, batch_id)
    shares_said = brought_shares.list_shares(db, batch_id) if waits and not batch.asks else {}
    left_out = brought_shares.list_shares(db, batch_id, take=False) if waits and not batch.asks else {}
    nothing = BroughtShares()
    invested = tuple(
        replace(
            sort_out(db, accounts.get_account(db, id_), shares_said.get(id_, nothing)), left_out=left_out.get(id_, nothing).moves
        )
        for id_ in dict.fromkeys((*shares_said, *left_out))
    )
    changed = tuple(brought.list_changed_here(db, batch_id, DAYS_UNSAID)) if waits else ()
    moved = trades.count_trades_of_batch(db, batch_id) if batch.state == "brought" else 0
    aside, asked = brought.count_left_out(db, batch_id), brought.count_asked(db, batch_id)
    proofs = tuple(list_proofs(db, batch_id)) if waits and not batch.asks else ()
    return Preview(batch, rows, counts, csv, found, aside, *asked, invested, moved, changed, proofs)


def overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    """Decides about a row in preview: "bring" it in as new, "leave" it out, "match" it with the proposed entry, or "correct" the
    entry that is here already to the bank's amount. Raises: InvalidInput, NotFound, Conflict."""
    with note(db):
        _overrule(db, batch_id, row_id, decision)


def _overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or decision not in ("bring", "leave", "match", "correct", "drop"):
        raise InvalidInput("That cannot be decided here.")
    if decision == "match" and not row.match_line_id:
        raise InvalidInput("There is no entry to match this row with.")
    if row.verdict == "vanished" and decision == "bring":
        raise InvalidInput("The bank sent no such row; it can be left as it is.")
    if decision == "correct" and row_id not in {
        one.row_id for one in brought.list_changed_here(db, batch_id, DAYS_UNSAID) if one.is_curable
    }:
        raise InvalidInput("The entry here is as the bank says, or reconciled: reopen its statement first.")
    if decision == "drop" and (row.verdict != "vanished" or row.take):
        raise InvalidInput("Only an entry its bank tells no more can go.")
    verdict = {"drop": "vanished", "bring": "new", "leave": "known", "match": "matched", "correct": "changed"}[decision]
    if decision == "match" and _is_booked(db, known(row.match_line_id)):  # told before: nothing of it changes
        brought.change_row_verdict(db, row_id, Verdict("known", False, OVERRULED, row.match_line_id))
        return
    others = _claim(db, row, known(row.match_line_id)) if decision in ("match", "correct", "drop") else []
    brought.change_row_verdict(db, row_id, Verdict(verdict, decision != "leave", OVERRULED, row.match_line_id))
    if others:
        judge_again(db, batch_id)


def _is_booked(db: sqlite3.Connection, line_id: int) -> bool:
    """Whether a bank told of a line, and not only announced it."""
    row = brought.find_row_of_line(db, line_id)
    return row is not None and not row.pending


def decide_asked(db: sqlite3.Connection, batch_id: int, *, take: bool, checked: bool = True) -> None:
    """Brings in the rows whose days are checked already, or, with `checked` false, those that may be here; or leaves them out
    for good.
    Raises: Conflict."""
    with note(db):
        require_waiting(db, batch_id)
        brought.decide_asked(db, batch_id, Verdict("new" if take else "known", take, OVERRULED), checked=checked)


def overrule_trade(db: sqlite3.Connection, batch_id: int, trade_id: int, *, take: bool) -> None:
    """Leaves a trade in preview out, or takes it again. Raises: NotFound, Conflict."""
    with note(db):
        require_waiting(db, batch_id)
        if not brought_shares.take_share(db, batch_id, trade_id, take=take):
            raise NotFound("That trade is not here any more.")


def list_candidates(db: sqlite3.Connection, row_id: int) -> list[merging.Candidate]:
    """The lines a row could be matched with by hand, the nearest in amount and day first."""
    return merging.list_candidates(db, brought.get_row(db, row_id))


def account_of_row(db: sqlite3.Connection, row_id: int) -> int:
    """The id of the account a row in preview goes to. Raises: NotFound."""
    return brought.get_row(db, row_id).account_id


def match_by_hand(db: sqlite3.Connection, batch_id: int, row_id: int, line_id: int) -> None:
    """Says that a row in preview is an entry that is here, whatever its amount or day. Raises: InvalidInput, Conflict."""
    with note(db):
        _match_by_hand(db, batch_id, row_id, line_id)


def _match_by_hand(db: sqlite3.Connection, batch_id: int, row_id: int, line_id: int) -> None:
    require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or line_id not in {c.line_id for c in merging.list_candidates(db, row)}:
        raise InvalidInput("That entry cannot be matched with this row.")
    others = _claim(db, row, line_id)
    brought.change_row_verdict(db, row_id, Verdict("matched", True, OVERRULED, line_id))
    if others:
        judge_again(db, batch_id)


def _claim(db: sqlite3.Connection, row: StoredRow, line_id: int) -> list[Claim]:
    """The guesses about other rows that must give way when the user says that a row is this entry; that the bank announces it no
    more is one, and is dropped here. Raises: InvalidInput if the user said it of another row."""
    others = [one for one in brought.list_claims(db, row.batch_id) if one.line_id == line_id and one.row_id != row.id]
    for other in others:
        if other.by_hand and other.verdict != "vanished":
            raise InvalidInput("Another row of this file is matched with that entry already. Overrule that one first.")
        if other.verdict == "vanished":
            brought.change_row_verdict(db, other.row_id, Verdict("known", False, OVERRULED, line_id))
    return others


def discard(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a waiting batch, with the accounts its file had made."""
    with note(db):
        require_waiting(db, batch_id)
        delete_left_empty(db, batch_id)
        batches.remove_batch(db, batch_id)
