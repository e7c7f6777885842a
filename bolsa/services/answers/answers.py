"""Answering: a cut taken apart by a dimension, with names, in home currency; a normal month, differences, tags, in and out."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

from bolsa.core.answers.cut import NOBODY, Condition, Cut, CutLine, Part, parts_of, pieces_of, whole_of
from bolsa.core.answers.questions import Difference, differences, growth, halves
from bolsa.core.money import mean_of, median_of
from bolsa.core.months import Month, full_months
from bolsa.core.units import Money
from bolsa.core.whole_numbers import is_number
from bolsa.core.worth.rates import rate_on
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.answers import lines
from bolsa.store.budget import budget
from bolsa.store.connection import reading
from bolsa.store.house import household
from bolsa.store.sorting import categories

_NAMELESS = {"tags": "No tag", "member": "Nobody in particular", "account": "No account"}


@dataclass(frozen=True)
class Named:
    """A part with its name."""

    part: Part
    name: str

    @property
    def amount_minor(self) -> int:
        return self.part.amount_minor


@dataclass(frozen=True)
class Answer:
    """A cut taken apart: its parts, the largest first; `without_rate` are currencies of lines that could not be counted."""

    cut: Cut
    dimension: str
    parts: tuple[Named, ...]
    currency: str
    without_rate: tuple[str, ...]

    @cached_property
    def whole(self) -> Part:
        return whole_of([named.part for named in self.parts])

    @property
    def total_minor(self) -> int:
        return sum(named.amount_minor for named in self.parts)

    def cut_of(self, named: Named) -> Cut:
        """The cut of one part alone."""
        return self.cut.within(self.dimension, named.part.key)


def answer(db: sqlite3.Connection, cut: Cut, dimension: str, *, by_month: bool = True) -> Answer:
    """The parts of a cut by a dimension, each month by month; or all under the last month, where only totals are asked for."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        pieces, missing = pieces_of(lines.sum_parts(db, cut, dimension, home, by_month=by_month), home, rates)
        parts = [part for part in parts_of(pieces) if any(part.by_month.values())]
        names = names_of(db, dimension, [part.key for part in parts])
    return Answer(cut, dimension, tuple(Named(part, names[part.key]) for part in parts), home, missing)


def names_of(db: sqlite3.Connection, dimension: str, keys: Sequence[str]) -> dict[str, str]:
    """What parts are called: a set of tags by all its names; what has none of a thing in words."""
    if not dimension:
        return dict.fromkeys(keys, "All")
    ids = {int(id_) for key in keys for id_ in key.split("+") if is_number(id_)}
    known = lines.list_names(db, dimension, ids)
    names = {}
    for key in keys:
        if key == NOBODY or not all(map(is_number, key.split("+"))):
            names[key] = _NAMELESS.get(dimension, "None")
        elif dimension == "group" and key == "1":
            names[key] = known_unsorted(db)
        else:
            names[key] = " and ".join(sorted(known.get(int(id_), "gone") for id_ in key.split("+")))
    return names


def known_unsorted(db: sqlite3.Connection) -> str:
    """What is called that which has no category yet; it stands for its whole group."""
    return categories.get_category(db, categories.UNSORTED).name


def name_of(db: sqlite3.Connection, condition: Condition) -> str:
    """What a condition's part is called."""
    return names_of(db, condition.dimension, [condition.part])[condition.part]


def find_part(db: sqlite3.Connection, dimension: str, name: str) -> str | None:
    """The key of the part of that name; None if there is none."""
    return lines.find_part(db, dimension, name)


@dataclass(frozen=True)
class Normal:
    """A normal month: the months that count, and each part's mean and median over them; the whole's own, which a few cents of
    rounding can part from the parts' sum."""

    answer: Answer
    months: tuple[Month, ...]
    skipped: tuple[Month, ...]

    def mean(self, part: Part) -> int:
        return mean_of(part.amounts(self.months))

    def median(self, part: Part) -> int:
        return median_of(part.amounts(self.months))

    @cached_property
    def ordered(self) -> tuple[Named, ...]:
        """The parts by their mean, the largest first."""
        return tuple(sorted(self.answer.parts, key=lambda named: (-self.mean(named.part), named.name)))

    @property
    def rounding_minor(self) -> int:
        return self.mean(self.answer.whole) - sum(self.mean(named.part) for named in self.answer.parts)


def full_months_of(db: sqlite3.Connection, by: By) -> list[Month]:
    """The months of the household's books that are known whole."""
    return full_months(budget.find_began(db), Month.of(by.today))


def normal_month(
    db: sqlite3.Connection, by: By, dimension: str, months: int, skipped: Sequence[Month], conditions: tuple[Condition, ...] = (),
    measure: str = "spent",
) -> Normal:  # fmt: skip
    """A normal month out of the last full ones, some left out."""
    with reading(db):
        span = full_months_of(db, by)[-months:]
        counted = tuple(month for month in span if month not in skipped)
        first, last = (span[0], span[-1]) if span else (Month.of(by.today),) * 2
        found = answer(db, Cut(measure, first.first_day, last.last_day, conditions), dimension)
    return Normal(found, counted, tuple(month for month in span if month in skipped))


@dataclass(frozen=True)
class Change:
    """Two periods beside each other: what each part made of the difference."""

    before: Answer
    after: Answer
    parts: tuple[tuple[str, Difference], ...]  # with their names

    @property
    def made_minor(self) -> int:
        return self.after.total_minor - self.before.total_minor

    @property
    def reason(self) -> str:
        """The part that made most of the difference, in its direction; "" where nothing differs."""
        same_way = (name for name, one in self.parts if one.made_minor * self.made_minor > 0)
        return next(same_way, "")


def what_changed(db: sqlite3.Connection, before: Cut, after: Cut, dimension: str) -> Change:
    """What made the difference between two periods."""
    with reading(db):
        then, now = answer(db, before, dimension), answer(db, after, dimension)
    names = {named.part.key: named.name for named in (*then.parts, *now.parts)}
    found = differences([named.part for named in then.parts], [named.part for named in now.parts])
    return Change(then, now, tuple((names[one.key], one) for one in found))


@dataclass(frozen=True)
class Growth:
    """The parts of a group over time: what each came to a month in the first half of the full months, and in the second; the
    whole's own, which a few cents of rounding can part from the parts' sum."""

    answer: Answer
    months: tuple[Month, ...]  # those that count
    parts: tuple[tuple[Named, Difference], ...]  # the largest growth first
    whole: Difference

    @property
    def halves(self) -> tuple[Sequence[Month], Sequence[Month]]:
        return halves(self.months)

    @property
    def rounding_minor(self) -> int:
        return self.whole.made_minor - sum(difference.made_minor for _, difference in self.parts)


def what_grew(db: sqlite3.Connection, by: By, cut: Cut, dimension: str) -> Growth:
    """What grew within a cut, over the full months in it."""
    with reading(db):
        found = answer(db, cut, dimension)
        full = set(full_months_of(db, by))
    months = tuple(month for month in cut.months if month in full)
    by_key = {named.part.key: named for named in found.parts}
    grown = growth([named.part for named in found.parts], months)
    (whole,) = growth([found.whole], months)
    return Growth(found, months, tuple((by_key[one.key], one) for one in grown), whole)


@dataclass(frozen=True)
class TagTable:
    """What tags cost, by category: a column a tag (its id, name, total), a row a category, an amount where they meet."""

    columns: tuple[tuple[int, str, int], ...]
    rows: tuple[tuple[str, str, tuple[int, ...]], ...]
    answers: tuple[Answer, ...]

    @cached_property
    def keys(self) -> tuple[str, ...]:
        """The cut of each column as text: what its total opens by."""
        return tuple(str(one.cut) for one in self.answers)

    def key_of(self, column: int, part: str) -> str:
        """What an amount opens by: the column's cut, of one part alone."""
        return f"{self.keys[column]}~{Condition(self.answers[column].dimension, part)}"

    @property
    def total_minor(self) -> int:
        return sum(total for _, _, total in self.columns)


def tag_costs(db: sqlite3.Connection, cut: Cut, tag_ids: Sequence[int], dimension: str) -> TagTable:
    """Each tag's lines by a dimension. A line with two of the tags counts in both columns."""
    with reading(db):
        names = lines.list_names(db, "tag")
        chosen = [id_ for id_ in tag_ids if id_ in names]
        answers = tuple(answer(db, cut.within("tag", str(id_)), dimension, by_month=False) for id_ in chosen)
    rows: dict[str, tuple[str, list[int]]] = {}
    for at, one in enumerate(answers):
        for named in one.parts:
            rows.setdefault(named.part.key, (named.name, [0] * len(answers)))[1][at] = named.amount_minor
    ordered = sorted(rows.items(), key=lambda item: (-sum(item[1][1]), item[1][0]))
    columns = tuple((id_, names[id_], one.total_minor) for id_, one in zip(chosen, answers, strict=True))
    return TagTable(columns, tuple((key, name, tuple(amounts)) for key, (name, amounts) in ordered), answers)


def tags_in_use(db: sqlite3.Connection) -> list[tuple[int, str]]:
    """Every tag, by name."""
    return sorted(lines.list_names(db, "tag").items(), key=lambda pair: pair[1].casefold())


@dataclass(frozen=True)
class Flow:
    """What came in, went out and stayed, month by month."""

    months: tuple[Month, ...]
    received: Answer
    spent: Answer

    def came(self, month: Month) -> int:
        return self.received.whole.by_month.get(month, 0)

    def went(self, month: Month) -> int:
        return self.spent.whole.by_month.get(month, 0)

    def stayed(self, month: Month) -> int:
        return self.came(month) - self.went(month)

    @property
    def stayed_minor(self) -> int:
        return self.received.total_minor - self.spent.total_minor


def in_and_out(db: sqlite3.Connection, first: date, last: date, conditions: tuple[Condition, ...] = ()) -> Flow:
    """What came in and went out."""
    with reading(db):
        came, went = (answer(db, Cut(measure, first, last, conditions), "") for measure in ("received", "spent"))
    return Flow(came.cut.months, came, went)


@dataclass(frozen=True)
class Listed:
    """A line of a cut, with the amount in home currency, and the names of its category and account."""

    line: CutLine
    amount_minor: int
    category: str
    account: str


def list_entries(db: sqlite3.Connection, cut: Cut, most: int = -1, offset: int = 0, *, largest: bool = False) -> list[Listed]:
    """The lines of a cut in order of day, or the `largest` in each currency alone; those whose currency has no rate are left out,
    as they are from its sums."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        found = lines.list_largest(db, cut) if largest else lines.list_lines(db, cut, most, offset)
        names, named = lines.list_names(db, "category"), lines.list_names(db, "account")
    listed = []
    for line in found:
        rate = rate_on(line.currency, date.fromisoformat(line.day), home, rates)
        if rate is not None:
            amount = rate.convert(Money(line.amount_minor, line.currency)).minor
            listed.append(Listed(line, amount, names[line.category_id], named.get(line.account_id, "")))
    return listed


def find_largest(db: sqlite3.Connection, cut: Cut) -> Listed | None:
    """The largest entry's line of a cut; None if it has none."""
    return max(list_entries(db, cut, largest=True), key=lambda one: one.amount_minor, default=None)


def count_entries(db: sqlite3.Connection, cut: Cut) -> int:
    """How many lines a cut holds."""
    return lines.count_lines(db, cut)
