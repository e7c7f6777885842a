"""Entries that are a transfer: proposed, made one, parted again; halves that stand alone, and transfers filed as spending."""

import sqlite3
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from fractions import Fraction

from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry, Line, StoredEntry
from bolsa.core.money import digits_of
from bolsa.core.sorting.category import Unsorted
from bolsa.core.sorting.transfers import DAYS_APART, Pair, Side, propose_transfers
from bolsa.core.whole_numbers import counted
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts
from bolsa.store.house import household
from bolsa.store.ledger import attachments, entries, payees
from bolsa.store.sorting import categories, questions, transfers
from bolsa.store.sorting.categories import UNSORTED

LOOKED_BACK = 400  # days in which a transfer filed as spending is looked for
LONE_AFTER = 10  # days after which the far side of a transfer should have come
MOST_SHOWN = 60


def propose(db: sqlite3.Connection, waiting: Sequence[Unsorted]) -> list[Pair]:
    """The transfers that unsorted entries likely are, surest first; one of which a part is sorted is none."""
    waiting = [entry for entry in waiting if not entry.is_part]
    amounts = {(entry.amount_minor, entry.currency) for entry in waiting}
    opposite = {entry.payee_id for entry in waiting if (-entry.amount_minor, entry.currency) in amounts}
    before = transfers.count_before(db, sorted(opposite))
    sides = [_side(entry, before.get(entry.payee_id, {})) for entry in waiting]
    refused = payees.list_refused(db, "transfer")
    if len({entry.currency for entry in waiting}) < 2:
        return propose_transfers(sides, refused)
    rates, home = accounts.list_rates(db), household.get_household(db).home_currency

    def worth(amount_minor: int, currency: str, other: str, day: date) -> int | None:
        return _worth(amount_minor, currency, other, day, rates, home)

    return propose_transfers(sides, refused, worth)


def _worth(amount_minor: int, currency: str, other: str, day: date, rates: Rates, home: str) -> int | None:
    rate, other_rate = rate_on(currency, day, home, rates), rate_on(other, day, home, rates)
    if rate is None or other_rate is None:
        return None
    steps = digits_of(other) - digits_of(currency)
    whole = Fraction(amount_minor * rate.e8, other_rate.e8) * Fraction(10) ** steps
    return round(whole)


def _side(entry: Unsorted, before: dict[int, int]) -> Side:
    text = f"{entry.payee} {entry.raw_text}"
    amount, currency = entry.amount_minor, entry.currency
    return Side(entry.entry_id, entry.account_id, entry.account, entry.day, amount, currency, text, before, entry.note)


@dataclass(frozen=True)
class PairIds:
    """A proposed transfer as a page names it: the entry that sends, the one that receives, and a further part."""

    out: int
    into: int
    more: int | None = None


def merge_transfer(
    db: sqlite3.Connection, by: By, out_entry_id: int, into_entry_id: int, set_by_id: int | None = None, *,
    more_id: int | None = None, fee_category_id: int | None = None,
) -> Done:  # fmt: skip
    """Makes one transfer of two opposite unsorted entries, or of one that came in two parts; each account line keeps its own day,
    state and bank words. What was sent beyond what arrived is filed as a fee under `fee_category_id`.

    Raises: InvalidInput if they are not opposite sides.
    """
    with change(db, by) as done:
        parts = [entries.get_entry(db, id_) for id_ in (out_entry_id, into_entry_id, more_id) if id_ is not None]
        if len({part.id for part in parts}) < len(parts):
            raise InvalidInput("A transfer has two different sides.")
        if any(len(part.account_lines) != 1 or not _is_unsorted(part) for part in parts):
            raise InvalidInput("One of them is sorted already.")
        lines = [part.account_lines[0] for part in parts]
        fee = _fee_lines(db, lines, fee_category_id)
        lines = _with_set_by(db, lines, set_by_id)
        out = parts[0]
        memo, note = (
            " · ".join(dict.fromkeys(filter(None, words))) for words in zip(*((p.memo, p.note) for p in parts), strict=True)
        )
        done.sentence = f"Made one transfer of {out.payee} and {parts[1].payee}"
        for part, line in zip(parts[1:], lines[1:], strict=True):
            # The line keeps its id, so that the row the bank sent still leads to it.
            entries.move_line(db, line.stored_id, out.id)
            attachments.move_all(db, part.id, out.id)
            questions.move_all(db, part.id, out.id)
            entries.remove_entry(db, part.id)
        entries.change_entry(db, replace(out, lines=(*lines, *fee), memo=memo, note=note))
        questions.answer_all_of(db, [out.id], by.today, "made a transfer")
    return done


def _fee_lines(db: sqlite3.Connection, lines: Sequence[Line], fee_category_id: int | None) -> tuple[Line, ...]:
    """The category lines that make the sides of a transfer balance: none, a fee, or the exchange between currencies.

    Raises: InvalidInput if they are no transfer.
    """
    out, into = lines[0], lines[1]
    if out.account_id == into.account_id:
        raise InvalidInput("Both are in the same account.")
    if (out.amount_minor > 0) == (into.amount_minor > 0):
        raise InvalidInput("The two amounts are not opposite.")
    if out.currency != into.currency and len(lines) == 2:
        exchange, day = categories.EXCHANGE, known(out.day)
        return tuple(Line(-line.amount_minor, line.currency, category_id=exchange, day=day) for line in (out, into))
    if any(line.currency != out.currency for line in lines):
        raise InvalidInput("The amounts are of different currencies.")
    left = -sum(line.amount_minor for line in lines)
    if not left:
        return ()
    if fee_category_id is None or left < 0:
        raise InvalidInput("The two amounts are not opposite.")
    if categories.get_category(db, fee_category_id).role:
        raise InvalidInput("Choose one of your own categories.", field="fee")
    return (Line(left, out.currency, category_id=fee_category_id, day=known(out.day)),)


def _with_set_by(db: sqlite3.Connection, lines: Sequence[Line], set_by_id: int | None) -> list[Line]:
    """The sides of a transfer, the category it is set by from on those that are apart."""
    if set_by_id is not None:
        categories.get_category(db, set_by_id)
    everyday = {line.account_id: accounts.get_account(db, line.on_account_id).everyday for line in lines}
    if len(set(everyday.values())) == 1:
        return list(lines)
    return [line if everyday[line.account_id] else line._replace(category_id=set_by_id) for line in lines]


def _is_unsorted(entry: Entry) -> bool:
    return all(line.category_id == UNSORTED for line in entry.category_lines)


def merge_many(
    db: sqlite3.Connection, by: By, pairs: Sequence[PairIds], set_by_id: int | None = None, fee_category_id: int | None = None
) -> Done:
    """Makes transfers of several pairs of one kind: one step. Raises: InvalidInput; nothing is changed then."""
    with change(db, by) as done:
        if not pairs:
            raise InvalidInput("Choose at least one transfer.")
        for p in pairs:
            made = merge_transfer(db, by, p.out, p.into, set_by_id, more_id=p.more, fee_category_id=fee_category_id)
        done.sentence = made.sentence if len(pairs) == 1 else f"Made {len(pairs)} transfers"
    return done


def refuse(db: sqlite3.Connection, by: By, pairs: Sequence[PairIds]) -> Done:
    """Says that pairs of entries are no transfers: they are not proposed again."""
    with change(db, by) as done:
        done.sentence = "They are no transfer" if len(pairs) == 1 else f"{len(pairs)} pairs are no transfers"
        payees.put_refused(db, "transfer", [(pair.out, pair.into) for pair in pairs])
    return done


def file_as_transfer(db: sqlite3.Connection, by: By, entry_ids: list[int], account_id: int, set_by_id: int | None = None) -> Done:
    """Makes transfers to or from an account of entries whose other side is not here (cash taken out, say).

    Where the other side waits unsorted in that account, the two become one. `set_by_id` names the category the money is set by
    from, where one side is everyday and the other apart. Raises: InvalidInput for a split, a transfer, or another currency.
    """
    with change(db, by) as done:
        other = accounts.get_account(db, account_id)
        kind = "a transfer" if len(entry_ids) == 1 else "transfers"
        done.sentence = f"Marked {counted(len(entry_ids), 'entry', 'entries')} as {kind} with {other.name}"
        make_transfers(db, by, entry_ids, account_id, set_by_id)
    return done


def make_transfers(
    db: sqlite3.Connection, by: By, entry_ids: Collection[int], account_id: int, set_by_id: int | None = None
) -> None:
    """Makes transfers of entries, each with its other side if that waits, within the caller's step."""
    for entry in entries.list_entries(db, entry_ids):
        line = entry.account_lines[0]
        far = None
        if _is_unsorted(entry) and not entry.is_transfer:
            around = entry.day - timedelta(days=DAYS_APART), entry.day + timedelta(days=DAYS_APART)
            far = transfers.find_opposite(db, account_id, -line.amount_minor, line.currency, *around, near=entry.day)
        if far is not None and far not in entry_ids:
            out, into = (entry.id, far) if line.amount_minor < 0 else (far, entry.id)
            merge_transfer(db, by, out, into, set_by_id)
        else:
            make_transfer(db, entry, account_id, set_by_id)
            questions.answer_all_of(db, [entry.id], by.today, "made a transfer")


def make_transfer(db: sqlite3.Connection, entry: StoredEntry, account_id: int, set_by_id: int | None) -> None:
    """Makes a transfer of an entry on one account, within the caller's step. Raises: InvalidInput, NotAllowed."""
    other = accounts.get_account(db, account_id)
    line = entry.account_lines[0]
    many = len(entry.category_lines)
    if not many or (many > 1 and not _is_unsorted(entry)) or entry.is_transfer or line.account_id == account_id:
        raise InvalidInput("This entry cannot become a transfer with that account.")
    entry_service.refuse_made_elsewhere(db, entry)
    if line.currency != other.currency:
        raise InvalidInput("The two accounts have different currencies: enter the amount that arrived in its form.")
    account = accounts.get_account(db, line.on_account_id)
    interest, from_id = entry_service.loan_interest(db, account, other, entry.day, line.amount_minor)
    parts = (interest.as_line(line.currency, known(line.day)),) if interest else ()
    back = -line.amount_minor - sum(part.amount_minor for part in parts)
    far = entry.category_lines[0]._replace(
        category_id=None, account_id=account_id, state="pending", amount_minor=back, id=None, member_id=None, tags=()
    )
    chosen = set_by_id if set_by_id is not None else from_id
    if chosen is not None and account.everyday != other.everyday:
        far = far._replace(category_id=None if other.everyday else chosen)
        line = line._replace(category_id=chosen if other.everyday else None)
    entries.change_entry(db, replace(entry, lines=(line, far, *parts)))


def part_transfer(db: sqlite3.Connection, by: By, entry_id: int) -> Done:
    """Makes a transfer its sides again, each an entry to be sorted. Beside a side that its bank told of, one that still waits for
    its own bank goes: Bolsa made it. What each was called by its bank, its day and state stay. Raises: InvalidInput for what is
    no transfer."""
    with change(db, by) as done:
        entry = entries.get_entry(db, entry_id)
        if not entry.is_transfer:
            raise InvalidInput("This is no transfer.")
        entry_service.refuse_made_elsewhere(db, entry)
        kept, *others = sorted(entry.account_lines, key=lambda line: (not _was_told(line), line.stored_id))
        gone = [line for line in others if _was_told(kept) and not _was_told(line) and line.state == "pending"]
        for line in others:
            if line not in gone:
                _stand_alone(db, entry, line)
        own = kept._replace(category_id=None)
        back = Line(-kept.amount_minor, kept.currency, category_id=UNSORTED, day=kept.day)
        day = kept.day or entry.day
        entries.change_entry(db, replace(entries.get_entry(db, entry_id), lines=(own, back), day=day))
        names = [accounts.get_account(db, line.on_account_id).name for line in gone]
        said = f"what was awaited in {names[0]} is gone" if names else "its sides wait to be sorted"
        done.sentence = f"Parted the transfer {entry.payee}; {said}"
    return done


def _was_told(line: Line) -> bool:
    """Whether a bank told of a side."""
    return bool(line.raw_text or line.bank_ref)


def _stand_alone(db: sqlite3.Connection, entry: StoredEntry, line: Line) -> None:
    """Makes an entry of its own of one side; the line keeps its id."""
    day = line.day or entry.day
    unsorted = Line(-line.amount_minor, line.currency, category_id=UNSORTED, day=day)
    batch_id = transfers.find_batch_of_line(db, line.stored_id)
    made = Entry(day, payees.tidy_of(line.raw_text) or entry.payee, (unsorted,), memo=entry.memo, batch_id=batch_id)
    entry_id = entries.insert_entry(db, made)
    entries.move_line(db, line.stored_id, entry_id)
    stored = entries.get_entry(db, entry_id)
    lines = tuple(one._replace(category_id=None) if one.account_id else one for one in stored.lines)
    entries.change_entry(db, replace(stored, lines=lines))


@dataclass(frozen=True)
class Lone:
    """A side of a transfer that its account's bank should have told of by now, and did not."""

    entry_id: int
    day: date
    payee: str
    account_id: int
    account: str
    amount_minor: int
    currency: str


@dataclass(frozen=True)
class Misfiled:
    """Two opposite entries, at least one filed under a category, that are likely one transfer."""

    pair: Pair
    out_category_id: int
    into_category_id: int


@dataclass(frozen=True)
class Joined:
    """A transfer that stands in the books."""

    entry_id: int
    day: date
    payee: str
    out_account: str
    into_account: str
    amount_minor: int
    currency: str


def list_lone(db: sqlite3.Connection, today: date) -> list[Lone]:
    """The halves that stand alone, the latest first."""
    rows = transfers.list_lone(db, today - timedelta(days=LONE_AFTER), MOST_SHOWN)
    return [Lone(**{**dict(row), "day": date.fromisoformat(row["day"])}) for row in rows]


def list_misfiled(db: sqlite3.Connection, today: date) -> list[Misfiled]:
    """Transfers that are likely filed as spending or income: opposite entries near each other whose texts, or past, speak of
    one."""
    rows = transfers.list_misfiled(db, today - timedelta(days=LOOKED_BACK), DAYS_APART, MOST_SHOWN * 4)
    refused = payees.list_refused(db, "transfer")
    found = []
    for row in rows:
        out, into = (
            Side(
                row[f"{way}_id"], at, row[f"{way}_account"], date.fromisoformat(row[f"{way}_day"]), sign * row["amount_minor"],
                row["currency"], f"{row[f'{way}_payee']} {row[f'{way}_text']}",
            )
            for way, at, sign in (("out", 1, -1), ("into", 2, 1))
        )  # fmt: skip
        pair = next(iter(propose_transfers([out, into], refused)), None)
        if pair is not None and "speaks" in pair.reason:
            found.append(Misfiled(pair, row["out_category_id"], row["into_category_id"]))
    return found[:MOST_SHOWN]


def list_joined(db: sqlite3.Connection, first: date, last: date) -> list[Joined]:
    """The transfers of some days, the latest first."""
    names = Joined.__dataclass_fields__
    rows = transfers.list_joined(db, first, last, MOST_SHOWN)
    return [Joined(**{**{name: row[name] for name in names}, "day": date.fromisoformat(row["day"])}) for row in rows]


def make_of_filed(db: sqlite3.Connection, by: By, out_entry_id: int, into_entry_id: int, set_by_id: int | None = None) -> Done:
    """Makes one transfer of two entries of which one or both were filed under a category. Raises: InvalidInput."""
    with change(db, by) as done:
        for entry in entries.list_entries(db, (out_entry_id, into_entry_id)):
            entry_service.refuse_made_elsewhere(db, entry)
            if entry.is_transfer or len(entry.category_lines) != 1:
                raise InvalidInput("A transfer or a split is changed in its form.")
            line = entry.category_lines[0]._replace(category_id=UNSORTED, member_id=None, tags=())
            entries.change_entry(db, replace(entry, lines=(*entry.account_lines, line)))
        done.sentence = merge_transfer(db, by, out_entry_id, into_entry_id, set_by_id).sentence
    return done
