"""Entries and their lines: double entry underneath, household words on top.

A line touches an account, a category, or both: an account line that also names a category is money set by in an apart
account, and the category says from which plan it came. Lines of one entry sum to zero in each currency. The amount of an
account line is positive when money comes in; the amount of a category line is its mirror, so that spending is positive.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import NamedTuple

from bolsa.core.known import known
from bolsa.core.units import Money
from bolsa.errors import InvalidInput


class Line(NamedTuple):
    """One line of an entry. `state`, `bank_ref`, `value_day`, `raw_text` are an account line's own; `member_id` and `tags`
    (names) say whom or what a category line was for.

    `day` is the day on that account; it differs from the entry's day only on the far side of a slow transfer.
    """

    amount_minor: int
    currency: str
    account_id: int | None = None
    category_id: int | None = None
    day: date | None = None
    state: str | None = None
    bank_ref: str = ""
    value_day: date | None = None
    raw_text: str = ""
    statement_id: int | None = None
    id: int | None = None
    member_id: int | None = None
    tags: tuple[str, ...] = ()

    @property
    def stored_id(self) -> int:
        """The id of a line that is kept. Raises: ValueError for one that is not yet: a bug."""
        return known(self.id)

    @property
    def on_account_id(self) -> int:
        """The account of an account line. Raises: ValueError for a line that touches none: a bug."""
        return known(self.account_id)


@dataclass(frozen=True)
class Entry:
    """Something that happened on a day, as typed or brought: a payee, words about it, and lines that sum to zero per currency.

    `origin` is "adjustment" for a difference that was written off, "value" for a gain or loss up to a noted value.
    """

    day: date
    payee: str
    lines: tuple[Line, ...]
    memo: str = ""
    note: str = ""
    batch_id: int | None = None
    origin: str = ""

    @property
    def account_lines(self) -> tuple[Line, ...]:
        return tuple(line for line in self.lines if line.account_id is not None)

    @property
    def category_lines(self) -> tuple[Line, ...]:
        return tuple(line for line in self.lines if line.account_id is None)

    @property
    def is_transfer(self) -> bool:
        return len(self.account_lines) > 1


@dataclass(frozen=True, kw_only=True)
class StoredEntry(Entry):
    """An entry that is kept, under its id. Changed, it may hold lines that are not kept yet."""

    id: int
    payee_id: int


@dataclass(frozen=True)
class Part:
    """One part of an entry: an amount for a category, positive when spent. Without an amount it is open: it takes what the
    other parts leave."""

    category_id: int
    amount_minor: int | None = None
    member_id: int | None = None
    tags: tuple[str, ...] = ()

    def as_line(self, currency: str, day: date) -> Line:
        """The category line it becomes, once it has an amount."""
        if self.amount_minor is None:
            raise ValueError("an open part is filled first")
        return Line(self.amount_minor, currency, None, self.category_id, day, member_id=self.member_id, tags=self.tags)


def fill_open_part(parts: Sequence[Part], amount_minor: int) -> tuple[Part, ...]:
    """The parts of an entry with this amount on its account, signed; the one that is open takes what the others leave.

    Parts are typed positive, whichever way the money went; they come back positive when spent, negative when received.
    Raises: InvalidInput if two are open, or if nothing is left for the open one.

    >>> [part.amount_minor for part in fill_open_part([Part(1, 1500), Part(2)], -2340)]
    [1500, 840]
    """
    open_count = sum(part.amount_minor is None for part in parts)
    rest = abs(amount_minor) - sum(part.amount_minor or 0 for part in parts)
    if open_count > 1:
        raise InvalidInput("Only one part may be left open; it takes what remains.", field="split")
    if open_count and rest < 0:
        raise InvalidInput("The parts are more than the amount.", field="split")
    sign = 1 if amount_minor <= 0 else -1
    return tuple(replace(part, amount_minor=sign * (rest if part.amount_minor is None else part.amount_minor)) for part in parts)


def sums_by_currency(lines: tuple[Line, ...]) -> dict[str, int]:
    """The sum of the lines in each currency that occurs."""
    sums: dict[str, int] = defaultdict(int)
    for line in lines:
        sums[line.currency] += line.amount_minor
    return dict(sums)


def require_balanced(entry: Entry) -> None:
    """Nothing, if the entry has two lines or more that sum to zero in each currency. Raises: InvalidInput."""
    if len(entry.lines) < 2:
        raise InvalidInput("An entry needs at least two lines.")
    for currency, left_minor in sums_by_currency(entry.lines).items():
        if left_minor:
            left = Money(abs(left_minor), currency)
            raise InvalidInput(f"The parts do not meet the amount: {left} remains.", field="split")


def remaining_minor(total_minor: int, parts: Sequence[Part]) -> int:
    """What remains of a split: the total (positive when spent) less the parts typed so far."""
    return total_minor - sum(part.amount_minor or 0 for part in parts)


def entry_on_account(
    day: date, payee: str, account_line: Line, parts: Sequence[Part], *, memo: str = "", note: str = ""
) -> Entry:
    """An entry of one account line against one category line a part.

    Raises: InvalidInput if the parts do not meet the amount.
    """
    mirrors = tuple(part.as_line(account_line.currency, day) for part in parts)
    line = account_line._replace(day=account_line.day or day)
    entry = Entry(day, payee, (line, *mirrors), memo, note)
    require_balanced(entry)
    return entry


def transfer_entry(
    day: date, payee: str, out_line: Line, in_line: Line, exchange_category_id: int, *, memo: str = "", note: str = ""
) -> Entry:
    """One entry that moves money from one account to another.

    Between two currencies each side is met by a line of the exchange category, so that each currency sums to zero; the
    two amounts imply the rate.
    """
    lines = [out_line._replace(day=out_line.day or day), in_line._replace(day=in_line.day or day)]
    if out_line.currency != in_line.currency:
        lines += [
            Line(-line.amount_minor, line.currency, category_id=exchange_category_id, day=day) for line in (out_line, in_line)
        ]
    entry = Entry(day, payee, tuple(lines), memo, note)
    require_balanced(entry)
    return entry


def continue_lines(before: StoredEntry, after: Entry, account_id: int) -> tuple[Line, ...]:
    """The new lines, each with the id and the bank's words of the line it continues. The form of an account says nothing of the
    far side of a transfer: that keeps its state, its tags and its member."""
    old_accounts = list(before.account_lines)
    old_categories = list(before.category_lines)
    lines = []
    for line in after.lines:
        if line.account_id is None:
            old = old_categories.pop(0) if old_categories else None
            lines.append(line._replace(id=old.id if old else None))
            continue
        old = next((o for o in old_accounts if o.account_id == line.account_id), None)
        if old is None:
            lines.append(line)
            continue
        old_accounts.remove(old)
        day = line.day if old.day == before.day else old.day
        is_far = line.account_id != account_id
        lines.append(
            old._replace(
                amount_minor=line.amount_minor,
                currency=line.currency,
                category_id=line.category_id,
                day=day,
                state=old.state if is_far or old.state == "reconciled" else line.state,
                member_id=old.member_id if is_far else line.member_id,
                tags=old.tags if is_far else line.tags,
            )
        )
    return tuple(lines)
