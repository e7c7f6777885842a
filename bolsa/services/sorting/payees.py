"""Payees: what each comes to, its entries and spellings; renamed, merged, parted, and where it usually goes."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.ledger.belongings import Payee, PayeeEntry
from bolsa.core.months import Month, months_between
from bolsa.core.sorting.joining import join, near_names
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.remembering import remembered
from bolsa.store.ledger import payee_facts, payees
from bolsa.store.sorting import categories

LOOKED_AT = 2_000  # payees, the most frequent, among which likely ones are sought
MONTHS = 24
MOST_LETTERS = 120


@dataclass(frozen=True)
class PayeeRow:
    """A payee in the list: how many entries, the last day, what came and went in home currency, where it goes most often."""

    id: int
    name: str
    entry_count: int
    last: date | None
    amount_minor: int
    category: str
    usual_id: int | None
    apart: bool


@dataclass(frozen=True)
class LikelyOne:
    """Payees that are likely one: the one with the most entries, the others, and why."""

    kept: PayeeRow
    others: tuple[PayeeRow, ...]
    reason: str


@dataclass(frozen=True)
class PayeePage:
    """All that is known of a payee: what came less what went, in all, over the last twelve whole months and by month, in home
    currency; what its bank writes, the names it had, those that are one shop with it, and all others by name."""

    payee: Payee
    entry_count: int
    total_minor: int
    months: tuple[tuple[Month, int], ...]
    spellings: tuple[tuple[str, int], ...]
    former: tuple[tuple[str, str], ...]
    joined: tuple[Payee, ...]
    others: tuple[Payee, ...]
    by_category: tuple[tuple[str, int], ...]

    @property
    def year(self) -> tuple[Month, Month]:
        """The first and the last of the last twelve whole months."""
        return self.months[-13][0], self.months[-2][0]

    @property
    def year_minor(self) -> int:
        """What came less what went in these."""
        return sum(amount for _, amount in self.months[-13:-1])


def list_rows(db: sqlite3.Connection, text: str = "") -> list[PayeeRow]:
    """The payees with what each comes to, most entries first; with `text` those whose names hold it."""
    rows: list[PayeeRow] = remembered(db, "payees", None, lambda: _rows(db))
    wanted = text.casefold().strip()
    return [row for row in rows if wanted in row.name.casefold()] if wanted else rows


def _rows(db: sqlite3.Connection) -> list[PayeeRow]:
    names = {c.id: c.name for c in categories.list_categories(db, with_kept=True)}
    return [
        PayeeRow(
            row["id"], row["name"], row["entry_count"], date.fromisoformat(row["last"]) if row["last"] else None, -row["amount"],
            names.get(row["category_id"], ""), row["usual_id"], bool(row["apart"]),
        )
        for row in payee_facts.list_facts(db)
    ]  # fmt: skip


def list_likely(db: sqlite3.Connection) -> list[LikelyOne]:
    """Payees that are likely one: spellings of one shop, and names that differ by a few letters; most entries first."""
    found: list[LikelyOne] = remembered(db, "likely payees", None, lambda: _likely(db))
    return found


def _likely(db: sqlite3.Connection) -> list[LikelyOne]:
    rows = [row for row in list_rows(db) if row.entry_count][:LOOKED_AT]
    refused = payees.list_refused(db, "payees")
    by_id = {row.id: row for row in rows}
    shops = join({row.id: row.name for row in rows}, {row.id for row in rows if row.apart})
    groups: dict[int, list[PayeeRow]] = {}
    for row in rows:
        groups.setdefault(shops[row.id], []).append(row)
    found = [
        _likely_one(members, "one shop, written in several ways", refused) for members in groups.values() if len(members) > 1
    ]
    found += [
        _likely_one([by_id[one], by_id[other]], "the names differ by a few letters", refused)
        for one, other in near_names({row.id: row.name for row in rows if not row.apart}, shops)
    ]
    return sorted((one for one in found if one is not None), key=lambda one: (-one.kept.entry_count, one.kept.name))


def _likely_one(members: Sequence[PayeeRow], reason: str, refused: set[tuple[int, int]]) -> LikelyOne | None:
    kept = min(members, key=lambda row: (-row.entry_count, len(row.name), row.id))
    pairs = ((row, (min(row.id, kept.id), max(row.id, kept.id))) for row in members if row.id != kept.id)
    others = tuple(row for row, pair in pairs if pair not in refused)
    return LikelyOne(kept, others, reason) if others else None


def page_of(db: sqlite3.Connection, payee_id: int, today: date) -> PayeePage:
    """All that is known of a payee. Raises: NotFound."""
    payee = payees.get_payee(db, payee_id)
    last = Month.of(today)
    sums = payee_facts.sum_by_month(db, payee_id)
    months = tuple((month, -sums.get(str(month), 0)) for month in months_between(last + (1 - MONTHS), last))
    names = payees.list_payees(db)
    shops = join({one.id: one.name for one in names}, {one.id for one in names if one.apart})
    joined = tuple(one for one in names if one.id != payee_id and shops[one.id] == shops[payee_id])
    others = tuple(sorted((one for one in names if one.id != payee_id), key=lambda one: one.name.casefold()))
    kept = {c.id: c.name for c in categories.list_categories(db, with_kept=True)}
    by_category = tuple((kept.get(id_, "transfers"), many) for id_, many in payee_facts.count_by_category(db, payee_id))
    return PayeePage(
        payee, payee_facts.count_entries(db, payee_id), -sum(sums.values()), months,
        tuple(payee_facts.list_spellings(db, payee_id)), tuple(payee_facts.list_former_names(db, payee_id)), joined, others,
        by_category,
    )  # fmt: skip


def list_entries(db: sqlite3.Connection, payee_id: int, most: int, offset: int = 0) -> list[PayeeEntry]:
    """The payee's entries, the latest first."""
    return payee_facts.list_entries(db, payee_id, most, offset)


def rename(db: sqlite3.Connection, by: By, payee_id: int, name: str) -> Done:
    """Gives a payee another name; all its entries follow. Raises: InvalidInput, Conflict if another has that name."""
    with change(db, by) as done:
        payee = payees.get_payee(db, payee_id)
        name = " ".join(name.split())
        if not name or len(name) > MOST_LETTERS:
            raise InvalidInput(f"A payee needs a name of up to {MOST_LETTERS} letters.", field="name")
        there = payees.find_payee_named(db, name)
        if there is not None and there != payee_id:
            raise Conflict(f"There is a payee “{name}” already. Merge the two instead.")
        done.sentence = f"Renamed {payee.name} to {name}"
        payees.rename_payee(db, payee_id, name)
    return done


def merge(db: sqlite3.Connection, by: By, kept_id: int, other_ids: Sequence[int]) -> Done:
    """Makes one payee of several: one step. Entries, series and what is learned follow. Raises: InvalidInput, NotFound."""
    with change(db, by) as done:
        kept = payees.get_payee(db, kept_id)
        others = [payees.get_payee(db, id_) for id_ in dict.fromkeys(other_ids) if id_ != kept_id]
        if not others:
            raise InvalidInput("Choose at least one other payee.", field="other_id")
        done.sentence = f"Merged {' and '.join(one.name for one in others[:3])}"
        done.sentence += f" and {len(others) - 3} more" if len(others) > 3 else ""
        done.sentence += f" into {kept.name}"
        for one in others:
            payees.merge_payee(db, kept_id, one.id)
            if kept.category_id is None and one.category_id is not None:
                payees.set_usual(db, kept_id, one.category_id)
    return done


def refuse(db: sqlite3.Connection, by: By, payee_id: int, other_ids: Sequence[int]) -> Done:
    """Says that payees are different ones: they are not proposed again."""
    with change(db, by) as done:
        done.sentence = f"{payees.get_payee(db, payee_id).name} and those like it are different payees"
        payees.put_refused(db, "payees", [(payee_id, id_) for id_ in other_ids])
    return done


def set_usual(db: sqlite3.Connection, by: By, payee_id: int, category_id: int | None) -> Done:
    """Says where a payee's entries usually go; None leaves it to what is learned. Raises: InvalidInput."""
    with change(db, by) as done:
        name = payees.get_payee(db, payee_id).name
        done.sentence = f"{name} goes where it is learned to go"
        if category_id is not None:
            category = categories.get_category(db, category_id)
            if category.role or category.retired:
                raise InvalidInput("Choose one of your own categories.", field="category")
            done.sentence = f"{name} usually goes to {category.name}"
        payees.set_usual(db, payee_id, category_id)
    return done
