"""Deciding what each row that was brought in is: new, already here, a typed entry's twin, or doubtful.

The order of proof, strongest first:

1. the institution's own id, scoped to the account, with the same amount and a day near by: already here;
2. the same row as one brought before (day, amount, text), counted: of two equal purchases in a file, the second is
   already here only if two were brought before. Rows whose ids differ are never the same;
3. an entry the bank announced as pending, now booked, perhaps with another amount: matched (see pending.py);
4. an entry typed by hand or brought from another source: same amount, a few days apart, a likeness of payee: matched;
5. the same without a likeness, or an id that came with another amount: doubtful, said so, and brought in.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from types import MappingProxyType

from bolsa.core.bringing.batch import LEFT_BEFORE
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import clean_text, likeness
from bolsa.core.whole_numbers import counted

DAYS_APART = 4  # a card purchase reaches the statement within a long weekend
DAYS_SAME_ID = 10  # a bank may move a booking's day; beyond that the id was given out again
LIKE_ENOUGH = 60


@dataclass(frozen=True)
class KnownRow:
    """A row brought before, or left out by hand: `line_id` is the line it became, None if that was deleted since."""

    id: int
    day: date
    amount_minor: int
    text: str
    bank_ref: str
    line_id: int | None
    source: str
    left_out: bool = False  # by hand


@dataclass(frozen=True)
class OpenLine:
    """An account line no row of a file has claimed: typed by hand, or the far side of a transfer."""

    line_id: int
    day: date
    amount_minor: int
    payee: str


@dataclass(frozen=True)
class Verdict:
    """What a row is, why in words, whether to bring it in, and the line it belongs to, if any.

    `known_id` is the row brought before that it was recognised by, which no other row may be.
    """

    kind: str  # "new", "known", "matched", "suspicious"; of pending rows also "changed", "vanished"
    take: bool
    reason: str = ""
    line_id: int | None = None
    known_id: int | None = None


def asked_if_checked(verdict: Verdict, day: date, checked_until: date | None) -> Verdict:
    """A new row within days that are checked already is left out until someone says that it belongs there."""
    if verdict.kind != "new" or not verdict.take or checked_until is None or day > checked_until:
        return verdict
    return Verdict("suspicious", False, f"it was not there when the days until {checked_until} were checked")


def judge_rows(
    rows: Sequence[BroughtRow],
    known: list[KnownRow],
    open_lines: list[OpenLine],
    source: str,
    announced: Mapping[int, Verdict] = MappingProxyType({}),
) -> list[Verdict]:
    """A verdict a row, in the rows' order. Every known row and every open line is used for one row at most.

    `source` names where the rows come from ("ofx", "csv"): rows of one source are compared by their exact text, rows
    of two sources by day, amount and likeness. `announced` are the verdicts of rows that were pending before, by the row's
    place; what proves a row already here is stronger.
    """
    return _Judge(known, open_lines, source).judge_all(rows, announced)


class _Judge:
    def __init__(self, known: list[KnownRow], open_lines: list[OpenLine], source: str):
        self.by_ref: dict[str, list[KnownRow]] = defaultdict(list)
        self.by_text: dict[tuple[date, int, str], list[KnownRow]] = defaultdict(list)
        self.by_amount_day: dict[tuple[int, date], list[KnownRow]] = defaultdict(list)
        for row in known:
            if row.bank_ref:
                self.by_ref[row.bank_ref].append(row)
            self.by_text[_print_of(row.day, row.amount_minor, row.text)].append(row)
            if row.source != source:
                self.by_amount_day[row.amount_minor, row.day].append(row)
        self.used: set[int] = set()
        self.open: dict[int, list[OpenLine]] = defaultdict(list)
        for line in open_lines:
            self.open[line.amount_minor].append(line)
        self.seen_refs: dict[str, BroughtRow] = {}

    def judge_all(self, rows: Sequence[BroughtRow], announced: Mapping[int, Verdict]) -> list[Verdict]:
        certain = {i: verdict for i, row in enumerate(rows) if (verdict := self._by_id(row) or self._by_text(row))}
        certain = {**announced, **certain}
        # Typed entries are given out closest first over the whole file, so that a near row is not robbed by an early one.
        merged = self._by_likeness([(i, row) for i, row in enumerate(rows) if i not in certain])
        return [certain.get(i) or merged.get(i) or self._leftover(row) for i, row in enumerate(rows)]

    def _by_id(self, row: BroughtRow) -> Verdict | None:
        if not row.bank_ref:
            return None
        twin = self.seen_refs.get(row.bank_ref)
        if twin and (twin.day, twin.amount_minor, twin.raw_text) == (row.day, row.amount_minor, row.raw_text):
            return Verdict("known", False, "the file holds it twice, with one bank id")
        self.seen_refs.setdefault(row.bank_ref, row)
        for before in self._free(self.by_ref.get(row.bank_ref)):
            if before.amount_minor == row.amount_minor and abs((before.day - row.day).days) <= DAYS_SAME_ID:
                where = "" if before.line_id else ", in the trash"
                return self._known(before, f"the same bank id{where}")
        return None

    def _free(self, found: list[KnownRow] | None) -> Iterator[KnownRow]:
        return (before for before in found or () if before.id not in self.used)

    def _known(self, before: KnownRow, reason: str) -> Verdict:
        self.used.add(before.id)
        return Verdict("known", False, LEFT_BEFORE if before.left_out else reason, before.line_id, before.id)

    def _by_text(self, row: BroughtRow) -> Verdict | None:
        if not self.by_text:  # a first file: nothing was brought before
            return None
        for before in self._free(self.by_text.get(_print_of(row.day, row.amount_minor, row.raw_text))):
            if not (before.bank_ref and row.bank_ref):
                return self._known(before, "the same day, amount and text")
        for before in self._free(self.by_amount_day.get((row.amount_minor, row.day))):
            if likeness(before.text, row.raw_text) >= LIKE_ENOUGH and not (before.bank_ref and row.bank_ref):
                return self._known(before, "from another kind of file")
        return None

    def _by_likeness(self, rows: list[tuple[int, BroughtRow]]) -> dict[int, Verdict]:
        pairs = []
        for i, row in rows:
            for line in self.open.get(row.amount_minor, ()):
                apart = abs((line.day - row.day).days)
                if apart <= DAYS_APART and (like := likeness(line.payee, row.raw_text)) >= LIKE_ENOUGH:
                    pairs.append((apart, -like, i, line))
        verdicts: dict[int, Verdict] = {}
        for apart, _, i, line in sorted(pairs, key=lambda p: (*p[:3], p[3].line_id)):
            if i not in verdicts and line in self.open[line.amount_minor]:
                self.open[line.amount_minor].remove(line)
                when = "on the same day" if not apart else f"{counted(apart, 'day')} apart"
                verdicts[i] = Verdict("matched", True, f"entered before as “{line.payee}”, {when}", line.line_id)
        return verdicts

    def _leftover(self, row: BroughtRow) -> Verdict:
        for before in self._free(self.by_ref.get(row.bank_ref)) if row.bank_ref else ():
            if abs((before.day - row.day).days) <= DAYS_SAME_ID:
                return Verdict("suspicious", True, "the bank sent this id before with another amount", before.line_id)
        for line in self.open.get(row.amount_minor, ()):
            if abs((line.day - row.day).days) <= DAYS_APART:
                reason = f"the same amount as “{line.payee}”, entered for {line.day}; match it if it is that one"
                return Verdict("suspicious", True, reason, line.line_id)
        return Verdict("new", True)


def _print_of(day: date, amount_minor: int, text: str) -> tuple[date, int, str]:
    return day, amount_minor, clean_text(text).casefold()
