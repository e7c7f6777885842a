"""A kept case as aims of the budget and as reminders: shown first, then carried out in one step, which is undone whole."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from bolsa.core.ahead.doing import PlannedAim, PlannedReminder, aims_of, carried, fits, reminders_of, with_aim
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.months import Month
from bolsa.core.whole_numbers import is_number
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.ahead.plans import get_case
from bolsa.services.budget import expecting
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.due import reminding
from bolsa.services.sorting import categories
from bolsa.store.budget import budget
from bolsa.store.sorting.categories import find_category_named

GROUP = "Plans"  # of categories made for what is planned
NEW, LEAVE = "new", ""  # an aim's category: one made for it, or none


@dataclass(frozen=True)
class AimStep:
    """An aim with the category that has its name, None if there is none; what that category would expect in the aim's first month
    and expects there now."""

    aim: PlannedAim
    category_id: int | None
    now_minor: int
    then_minor: int


@dataclass(frozen=True)
class ReminderStep:
    """A reminder, and whether one of that day and words is there already."""

    reminder: PlannedReminder
    is_here: bool


@dataclass(frozen=True)
class ToDo:
    """What carrying a case out would do."""

    aims: tuple[AimStep, ...]
    reminders: tuple[ReminderStep, ...]


def what_to_do(db: sqlite3.Connection, by: By, case_id: int) -> ToDo:
    """What a case asks one to do, beside what is kept already. Raises: NotFound."""
    plan = get_case(db, case_id).plan
    here = {(one.day, one.words) for one in reminding.list_open(db)}
    steps = []
    for aim in aims_of(plan, Month.of(by.today)):
        found = find_category_named(db, aim.name)
        planned = found is not None and found.type == "spending" and found.in_budget
        now, then = _figures(db, found.id, aim) if found and planned else (0, aim.monthly_minor)
        steps.append(AimStep(aim, found.id if found and planned else None, now, then))
    told = reminders_of(plan, by.today)
    return ToDo(tuple(steps), tuple(ReminderStep(one, (one.day, one.words) in here) for one in told))


def _figures(db: sqlite3.Connection, category_id: int, aim: PlannedAim) -> tuple[int, int]:
    """What a category expects in an aim's first month, and would expect with it."""
    now = carried(_plan_of(db, category_id).expected, aim.first)
    return now, now + aim.monthly_minor


def _plan_of(db: sqlite3.Connection, category_id: int) -> CategoryPlan:
    """A category's figures. Raises: NotFound; InvalidInput for one that no budget plans, such as an income."""
    found = next((plan for category, plan in budget.list_plans(db)[1] if category.id == category_id), None)
    if found is None:
        raise InvalidInput(f"{categories.get_category(db, category_id).name} is no category that money is put by in.")
    return found


def carry_out(db: sqlite3.Connection, by: By, case_id: int, aims: Mapping[str, str], reminder_keys: set[str]) -> Done:
    """Puts aims into the budget and makes reminders, in one step. `aims` says by an aim's key the category it goes to: an id, NEW
    or LEAVE. Raises: InvalidInput naming the aim; Conflict if the plan asks none of it any more."""
    with change(db, by) as done:
        case = get_case(db, case_id)
        to_do = what_to_do(db, by, case_id)
        count = 0
        for step in to_do.aims:
            choice = aims.get(step.aim.key, LEAVE)
            if choice != LEAVE:
                _put_by(db, by, step.aim, choice)
                count += 1
        for told in to_do.reminders:
            if told.reminder.key in reminder_keys and not told.is_here:
                reminding.add_reminder(db, by, told.reminder.day, told.reminder.words)
                count += 1
        if not count:
            raise Conflict("Nothing is chosen that is not done already.")
        done.sentence = f"Carried out {case.name}"
    return done


def _put_by(db: sqlite3.Connection, by: By, aim: PlannedAim, choice: str) -> None:
    """Makes a category expect an aim's amount on top of what it expects."""
    if choice == NEW:
        category_id = categories.add_category(db, by, GROUP, aim.name).made
    elif is_number(choice):
        category_id = int(choice)
    else:
        raise InvalidInput("Choose a category, or leave it.", field=f"aim-{aim.key}")
    plan = _plan_of(db, category_id)
    if not fits(plan.every, aim):
        name = categories.get_category(db, category_id).name
        raise InvalidInput(
            f"{name} expects something every few months or once, which a monthly amount cannot be added to. Choose another.",
            field=f"aim-{aim.key}",
        )
    for one in with_aim(plan.expected, plan.every, aim):
        expecting.set_expected(db, by, category_id, one.month, one.amount_minor)
