"""Categories merged, deleted and written many at once: what hangs on one, and where it goes."""

import sqlite3
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.budget.cells import added_up
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.sorting.category import Category
from bolsa.core.sorting.category_lines import Written, read_lines
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.remembering import remembered
from bolsa.services.sorting.categories import require_name
from bolsa.store.budget import aims, budget
from bolsa.store.sorting import categories, category_moves

YEAR = timedelta(days=365)


@dataclass(frozen=True)
class Held:
    """What hangs on a category: entries' lines, money set by from it, what was placed, months with an expected amount, and how
    many aims, rules, payees, series, payslip lines, accounts, trials, closed months and entries in the trash name it."""

    lines: int
    set_by: int
    placed_minor: int
    expected: int
    aims: int
    rules: int
    payees: int
    series: int
    pay_lines: int
    accounts: int
    trials: int
    closed_months: int
    trashed: int

    @property
    def is_empty(self) -> bool:
        return not any(vars(self).values())


@dataclass(frozen=True)
class Use:
    """How often a category is used: lines in all, in the last year, the last day."""

    lines: int
    lately: int
    last: date | None


def held_by(db: sqlite3.Connection, category_id: int) -> Held:
    """What hangs on a category. Raises: NotFound."""
    categories.get_category(db, category_id)
    return Held(**category_moves.count_held(db, category_id))


def list_use(db: sqlite3.Connection, today: date) -> dict[int, Use]:
    """How often each category is used."""
    since = (today - YEAR).isoformat()
    found: dict[int, Use] = remembered(db, "use of categories", since, lambda: _use(db, since))
    return found


def _use(db: sqlite3.Connection, since: str) -> dict[int, Use]:
    rows = category_moves.list_use(db, since)
    return {
        id_: Use(row["lines"], row["lately"], date.fromisoformat(row["last"]) if row["last"] else None)
        for id_, row in rows.items()
    }


def merge_category(db: sqlite3.Connection, by: By, category_id: int, into_id: int, *, seen: int | None = None) -> Done:
    """Gives all that hangs on a category to another of its type and takes it out: one step, undone whole. Expected amounts add
    up, unless one of them comes in a rhythm: then the other's stay. Its aim goes along where the other has none.

    Raises: InvalidInput, Conflict, NotFound.
    """
    with change(db, by) as done:
        gone, into = _own(db, category_id), _own(db, into_id)
        require_version(db, "category", category_id, seen, f"“merge into {into.name}”")
        if gone.id == into.id:
            raise InvalidInput("Choose another category.", field="into")
        if gone.type != into.type:
            raise InvalidInput(
                f"{gone.name} is for {gone.type} and {into.name} for {into.type}: choose one of its type.", field="into"
            )
        _add_expected(db, gone, into)
        kept = aims.list_aims(db)
        if gone.id in kept and into.id not in kept:
            category_moves.move_aim(db, gone.id, into.id)
        category_moves.move_all(db, gone.id, into.id)
        category_moves.remove_category(db, gone.id)
        done.sentence = f"Merged the category {gone.name} into {into.name}"
        done.made = into.id
    return done


def _add_expected(db: sqlite3.Connection, gone: Category, into: Category) -> None:
    plans = []
    for one in (gone, into):
        expected, every = budget.list_expected_of(db, one.id)
        plans.append(CategoryPlan(one.id, expected=expected, every=every))
    summed = added_up(*plans)
    if summed is None:
        kept = plans[1] if plans[1].expected else plans[0]
        summed = dict(kept.expected)
        every = dict(kept.every)
    else:
        every = {}
    for month in plans[1].expected:
        budget.remove_expected(db, into.id, month)
    for month, amount in summed.items():
        budget.put_expected(db, into.id, month, amount, every.get(month, 1))


def delete_category(db: sqlite3.Connection, by: By, category_id: int, *, seen: int | None = None) -> Done:
    """Takes a category out: its entries wait to be sorted again, what was placed returns to unplaced, its plan and aim go, and
    so do rules that name it. One step, undone whole. Raises: InvalidInput where a payslip has lines under it, Conflict,
    NotFound."""
    with change(db, by) as done:
        gone = _own(db, category_id)
        require_version(db, "category", category_id, seen, f"“delete {gone.name}”")
        if held_by(db, gone.id).pay_lines:
            raise InvalidInput(f"A payslip has lines under {gone.name}: merge it into another category.", field="into")
        category_moves.let_go(db, gone.id)
        category_moves.remove_category(db, gone.id)
        done.sentence = f"Deleted the category {gone.name}"
    return done


def _own(db: sqlite3.Connection, category_id: int) -> Category:
    category = categories.get_category(db, category_id)
    if category.role:
        raise InvalidInput("Bolsa itself needs this category as it is.", field="into")
    return category


@dataclass(frozen=True)
class Understood:
    """What lines of categories say: those that would be added, and those that are here already."""

    new: tuple[Written, ...]
    here: tuple[str, ...]


def understand_lines(db: sqlite3.Connection, text: str) -> Understood:
    """What lines of categories would add. Raises: InvalidInput naming the line."""
    there = {c.name.casefold() for c in categories.list_categories(db, with_kept=True)}
    found = read_lines(text)
    new = tuple(one for one in found if one.name.casefold() not in there)
    return Understood(new, tuple(one.name for one in found if one.name.casefold() in there))


def add_lines(db: sqlite3.Connection, by: By, text: str) -> Done:
    """Adds the categories that lines name, in their groups: one step; makes how many. Raises: InvalidInput."""
    with change(db, by) as done:
        found = understand_lines(db, text)
        if not found.new:
            raise InvalidInput("All of these are here already.", field="lines")
        for one in found.new:
            categories.insert_category(db, categories.put_group(db, one.group), require_name(db, one.name), one.type)
        done.made = len(found.new)
        done.sentence = f"Added {counted(len(found.new), 'category', 'categories')}"
    return done


def rename_group(db: sqlite3.Connection, by: By, group_id: int, name: str) -> Done:
    """Gives a group another name. Raises: InvalidInput, Conflict if another group has it."""
    with change(db, by) as done:
        group = next((one for one in categories.list_groups(db) if one.id == group_id), None)
        name = " ".join(name.split())
        if group is None or not name or len(name) > 60:
            raise InvalidInput("A group needs a name of up to 60 letters.", field="group")
        if any(one.name.casefold() == name.casefold() and one.id != group_id for one in categories.list_groups(db)):
            raise Conflict(f"There is a group “{name}” already. Move the categories there instead.")
        done.sentence = f"Renamed the group {group.name} to {name}"
        category_moves.rename_group(db, group_id, name)
    return done


def move_group(db: sqlite3.Connection, by: By, group_id: int, places: int) -> Done:
    """Moves a group up (less than 0) or down."""
    with change(db, by) as done:
        groups = categories.list_groups(db)
        ids = [one.id for one in groups]
        if group_id not in ids:
            raise InvalidInput("There is no such group.", field="group")
        at = ids.index(group_id)
        ids.insert(max(0, min(len(ids) - 1, at + places)), ids.pop(at))
        done.sentence = f"Moved the group {groups[at].name}"
        category_moves.change_group_order(db, ids)
    return done
