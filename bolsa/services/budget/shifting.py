"""Shifting money between categories, where it could come from, and the log of all that was placed and shifted."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.budget.filling import Proposal, propose_sources, take_back_promised
from bolsa.core.budget.placing import Placing
from bolsa.core.months import Month
from bolsa.core.sorting.category import Category
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput
from bolsa.services.budget.budgeting import BudgetView, budget_view, require_planned
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.due.dues import sum_due
from bolsa.store.budget import budget, closing


@dataclass(frozen=True)
class Source:
    """Where money could come from: categories, each with how much it gives, and whether that is all that is missing."""

    parts: tuple[tuple[Category, int], ...]
    is_enough: bool

    @property
    def amount_minor(self) -> int:
        return sum(amount for _, amount in self.parts)


def shift(db: sqlite3.Connection, by: By, month: Month, from_id: int, to_id: int, amount_minor: int, reason: str = "") -> Done:
    """Moves money from one category to another, with the reason kept.

    Raises: InvalidInput if it is nothing, the same category, or more than is left there.
    """
    return shift_several(db, by, month, [(from_id, amount_minor)], to_id, reason)


def shift_several(
    db: sqlite3.Connection, by: By, month: Month, sources: Sequence[tuple[int, int]], to_id: int, reason: str = ""
) -> Done:
    """Moves money from some categories, each with how much, to another, as one step. Raises: InvalidInput as `shift` does."""
    with change(db, by) as done:
        target = require_planned(db, to_id)
        if not sources:
            raise InvalidInput("Say where the money comes from.", field="from")
        rows, placings = budget_view(db, by, month).budget, []
        for from_id, amount_minor in sources:
            source = require_planned(db, from_id)
            if from_id == to_id:
                raise InvalidInput("Shift to another category.", field="from")
            if amount_minor <= 0:
                raise InvalidInput("Say how much to shift, above zero.", field="amount")
            if amount_minor > rows.row_of(from_id).left_minor:
                raise InvalidInput(f"{source.name} has less than that left.", field="amount")
            placings += [
                Placing(from_id, month, -amount_minor, by.today, to_id, reason.strip()),
                Placing(to_id, month, amount_minor, by.today, from_id, reason.strip()),
            ]
            named = source.name if len(sources) == 1 else f"{len(sources)} categories"
            done.sentence = f"Shifted money from {named} to {target.name}"
        if len({from_id for from_id, _ in sources}) != len(sources):
            raise InvalidInput("Name each category once.", field="from")
        budget.insert_placings(db, placings)
    return done


def sources_for(db: sqlite3.Connection, by: By, view: BudgetView, category_id: int, short_minor: int) -> list[Source]:
    """Where money for a category could come from, last in priority first: those that can give all of it, or several together."""
    found = propose_sources(view.rows_by_priority, category_id, short_minor, _due(db, by, view))
    return [_source(view, proposal) for proposal in found]


def _due(db: sqlite3.Connection, by: By, view: BudgetView) -> dict[int, int]:
    """By category: what is due of it in the view's month: its dues, and all of what is built up for this very month."""
    month = view.budget.month
    built = {
        plan.category_id: row.left_minor for _, plan, row in view.by_priority
        if plan.aim.kind == "build" and plan.aim.by and plan.aim.due_after(month) == month
    }  # fmt: skip
    return sum_due(db, by, month) | built


def _source(view: BudgetView, proposal: Proposal) -> Source:
    return Source(tuple((view.category(id_), amount) for id_, amount in proposal.parts), proposal.is_enough)


def promised_from(db: sqlite3.Connection, by: By, view: BudgetView) -> list[tuple[Category, Month, int]]:
    """Where money that was promised and is not there can be taken back: category, month, amount."""
    promised = -view.budget.unplaced_minor
    if promised <= 0:
        return []
    plans, rows = [plan for _, plan, _ in view.by_priority], view.rows_by_priority
    found = take_back_promised(plans, rows, promised, _due(db, by, view))
    return [(view.category(id_), month, amount) for id_, month, amount in found]


def take_back_promised_money(db: sqlite3.Connection, by: By, month: Month) -> Done:
    """Takes back what was promised and is not there, from where it is proposed; makes how much. No step, where nothing is."""
    with change(db, by) as done:
        found = promised_from(db, by, budget_view(db, by, month))
        done.made = sum(amount for _, _, amount in found)
        done.sentence = f"Took back money that was not there from {counted(len(found), 'place')}"
        budget.insert_placings(db, [Placing(category.id, m, -amount, by.today) for category, m, amount in found])
    return done


@dataclass(frozen=True)
class LoggedStep:
    """One act of placing or shifting that stands in a month: the step that can undo it (None: before the journal began, or while
    the past was written), when and by whom, in what words, and its placings."""

    step_id: int | None
    at: str
    member: str
    sentence: str
    placings: tuple[Placing, ...]

    @property
    def amount_minor(self) -> int:
        """What it added to what is placed in the month."""
        return sum(placing.amount_minor for placing in self.placings)

    @property
    def moved_minor(self) -> int:
        """What it moved between categories."""
        return sum(placing.amount_minor for placing in self.placings if placing.other_id and placing.amount_minor > 0)


def list_log(db: sqlite3.Connection, month: Month) -> list[LoggedStep]:
    """What was placed, taken back and shifted in a month and stands, the newest first, act by act."""
    steps: dict[tuple[int | None, str], list[sqlite3.Row]] = {}
    for row in closing.list_placed_in(db, month):
        key = (row["step_id"], "" if row["step_id"] else row["made_on"])
        steps.setdefault(key, []).append(row)
    found = []
    for (step_id, made_on), rows in steps.items():
        placings = tuple(
            Placing(
                row["category_id"], month, row["amount_minor"], date.fromisoformat(row["made_on"]), row["other_id"], row["reason"]
            )
            for row in rows
        )
        first = rows[0]
        found.append(
            LoggedStep(step_id, first["at"] or made_on, first["member"] or "", first["sentence"] or "Placed before", placings)
        )
    return found
