"""Trials: changing the year without keeping it, then keeping it, dropping it, or putting it by under a name."""

import sqlite3
from datetime import date
from decimal import Decimal

from bolsa.core.budget.aims import Aim, check_aim
from bolsa.core.budget.cells import raised_by
from bolsa.core.budget.expecting import Expectation, check_expectation
from bolsa.core.budget.trial import Trial, TrialCell, tried
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.budget import expecting
from bolsa.services.budget.aims import dated
from bolsa.services.budget.budgeting import require_expectable, require_planned
from bolsa.services.changes import Done, change, require_untouched
from bolsa.services.clock import By
from bolsa.store.budget import aims, budget, trials

MOST_NAME = 60
NOTHING = TrialCell(0)


def list_trials(db: sqlite3.Connection) -> list[tuple[int, str]]:
    """Every trial, the newest first: id and name, "" while it is being tried."""
    return trials.list_trials(db)


def get_trial(db: sqlite3.Connection, trial_id: int) -> Trial:
    """The trial whole. Raises: NotFound."""
    return trials.get_trial(db, trial_id)


def begin(db: sqlite3.Connection, by: By) -> Done:
    """Begins a trial, or goes on with the one that has no name yet; makes its id."""
    with change(db, by) as done:
        there = next((id_ for id_, name in trials.list_trials(db) if not name), None)
        done.sentence = "Began a trial of the year"
        done.made = there if there is not None else trials.insert_trial(db)
    return done


def try_expected(
    db: sqlite3.Connection, by: By, trial_id: int, category_id: int, month: Month, typed: Expectation | None
) -> Done:
    """Sets a figure in a trial; None clears the one that stands there. Raises: InvalidInput, NotFound."""
    with change(db, by) as done:
        trials.get_trial(db, trial_id)
        category = require_expectable(db, category_id)
        cell = TrialCell(None)
        if typed is not None:
            check_expectation(typed)
            cell = TrialCell(typed.amount_minor, typed.every)
        trials.put_cell(db, trial_id, category_id, month, cell)
        done.sentence = f"Tried what {category.name} expects from {month}"
    return done


def try_percent(
    db: sqlite3.Connection, by: By, trial_id: int, category_id: int, since: Month, percent: Decimal, *, seen: int | None = None
) -> Done:
    """Changes what a category expects from a month on by a percentage, in a trial: of what it expects there, tried figures and
    all. Raises: InvalidInput where nothing is expected from then on, NotFound, Conflict."""
    with change(db, by) as done:
        trial = trials.get_trial(db, trial_id)
        category = require_expectable(db, category_id)
        require_untouched(db, "expected", {"category_id": category_id}, seen, f"{percent:+} %")
        require_untouched(db, "trial_cell", {"trial_id": trial_id, "category_id": category_id}, seen, f"{percent:+} %")
        plan = tried(expecting.plan_of(db, category_id), trial)
        for month, (amount, every) in raised_by(plan, since, percent).items():
            if not amount and plan.expected.get(month) == 0:
                continue  # so that doing without from a month on stays what it is
            check_expectation(Expectation(amount, every))
            trials.put_cell(db, trial_id, category_id, month, TrialCell(amount, every))
        done.sentence = f"Tried to change what {category.name} expects from {since} by {percent:+} %"
    return done


def try_without(db: sqlite3.Connection, by: By, trial_id: int, category_id: int, month: Month) -> Done:
    """Expects nothing of a category from a month on, in a trial. Raises: InvalidInput, NotFound."""
    with change(db, by) as done:
        trials.get_trial(db, trial_id)
        category = require_expectable(db, category_id)
        trials.remove_other_ends(db, trial_id, category_id, month)
        trials.put_cell(db, trial_id, category_id, month, NOTHING, is_end=True)
        done.sentence = f"Tried to do without {category.name} from {month}"
    return done


def try_aim(db: sqlite3.Connection, by: By, trial_id: int, category_id: int, aim: Aim, by_day: date | None = None) -> Done:
    """Gives a category another aim in a trial. Raises: InvalidInput, NotFound."""
    with change(db, by) as done:
        trials.get_trial(db, trial_id)
        category = require_planned(db, category_id)
        aim = check_aim(dated(by, aim, by_day))
        aims.put_trial_aim(db, trial_id, category_id, aim, by_day)
        done.sentence = f"Tried another aim of {category.name}"
    return done


def let_be(db: sqlite3.Connection, by: By, trial_id: int, category_id: int) -> Done:
    """Lets a category in a trial be as it is kept."""
    with change(db, by) as done:
        trials.get_trial(db, trial_id)
        trials.remove_category(db, trial_id, category_id)
        done.sentence = "Took a category out of a trial"
    return done


def put_by(db: sqlite3.Connection, by: By, trial_id: int, name: str) -> Done:
    """Puts a trial by under a name. Raises: InvalidInput for no name, or one that another has."""
    with change(db, by) as done:
        trials.get_trial(db, trial_id)
        name = " ".join(name.split())
        if not name or len(name) > MOST_NAME:
            raise InvalidInput(f"A trial that is put by needs a name of up to {MOST_NAME} letters.", field="name")
        if any(name.casefold() == other.casefold() and id_ != trial_id for id_, other in trials.list_trials(db)):
            raise InvalidInput(f"Another trial is called “{name}” already.", field="name")
        trials.name_trial(db, trial_id, name)
        done.sentence = f"Put the trial {name} by"
    return done


def drop(db: sqlite3.Connection, by: By, trial_id: int) -> Done:
    """Forgets a trial. Raises: NotFound."""
    with change(db, by) as done:
        found = trials.get_trial(db, trial_id)
        trials.remove_trial(db, trial_id)
        done.sentence = f"Dropped the trial {found.name}".rstrip()
    return done


def keep(db: sqlite3.Connection, by: By, trial_id: int) -> Done:
    """Makes the plan as the trial has it, and forgets the trial, as one step; makes how many categories changed.

    Raises: NotFound, InvalidInput where it changes nothing, or something that is not in the budget any more.
    """
    with change(db, by) as done:
        trial = trials.get_trial(db, trial_id)
        if trial.is_empty:
            raise InvalidInput("Nothing is changed in this trial yet.")
        for category_id in trial.category_ids:
            require_expectable(db, category_id)
        for (category_id, month), cell in trial.cells.items():
            if cell.amount_minor is None:
                budget.remove_expected(db, category_id, month)
            else:
                budget.put_expected(db, category_id, month, cell.amount_minor, cell.every)
        for category_id, month in trial.dropped.items():
            budget.remove_expected_after(db, category_id, month)
            budget.put_expected(db, category_id, month, 0)
        for category_id, (aim, by_day) in aims.list_trial_aims(db, trial_id).items():
            _keep_aim(db, category_id, aim, by_day)
        trials.remove_trial(db, trial_id)
        done.made = len(trial.category_ids)
        done.sentence = f"Kept the trial {trial.name}".rstrip()
    return done


def _keep_aim(db: sqlite3.Connection, category_id: int, aim: Aim, by_day: date | None) -> None:
    if aim.kind == "month":
        aims.remove_aim(db, category_id)
        return
    former = aims.list_aims(db).get(category_id)
    aims.put_aim(db, category_id, aim, by_day, former.account_ids if former and aim.grows else ())


def require_trial(db: sqlite3.Connection, trial_id: int | None) -> Trial | None:
    """The trial of an address that names one; None where it names none, or one that is gone."""
    if trial_id is None:
        return None
    try:
        return trials.get_trial(db, trial_id)
    except NotFound:
        return None
