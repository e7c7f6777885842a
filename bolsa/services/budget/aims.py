"""Aims: setting them, what they would need month by month, how far they have come; priorities, and the goals that are built
up."""

import hashlib
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import islice

from bolsa.core.accounts.account import Account
from bolsa.core.budget.aims import Aim, KeptAim, check_aim
from bolsa.core.budget.month import CategoryMonth, filled_ahead, walk
from bolsa.core.budget.progress import Progress, progress_in
from bolsa.core.months import LAST_YEAR, Month
from bolsa.core.sorting.category import Category
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.budget.budgeting import BudgetView, budget_view, require_planned
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.ledger.attaching import look_at
from bolsa.store.accounts import accounts
from bolsa.store.budget import aims, budget
from bolsa.store.connection import reading
from bolsa.store.house import household
from bolsa.store.ledger import attachments
from bolsa.store.sorting import categories

AHEAD = 12  # months of need that are shown before an aim is kept
MOST_MARK = 4  # letters of a sign


def get_aim(db: sqlite3.Connection, category_id: int) -> KeptAim:
    """A category's aim with its accounts; month by month where it has none of its own."""
    return aims.list_aims(db).get(category_id, KeptAim())


def list_aims(db: sqlite3.Connection) -> dict[int, KeptAim]:
    """Every aim but those month by month, by category."""
    return aims.list_aims(db)


def list_aimable(db: sqlite3.Connection) -> list[Account]:
    """The accounts an aim can stand on: open ones in home currency that are apart. What everyday ones hold lies in categories
    already, and would count twice."""
    home = household.get_household(db).home_currency
    return [a for a in accounts.list_accounts(db) if a.currency == home and not a.everyday and a.closed_on is None]


def set_aim(
    db: sqlite3.Connection, by: By, category_id: int, aim: Aim, by_day: date | None = None,
    account_ids: Sequence[int] = (), *, seen: int | None = None,
) -> Done:  # fmt: skip
    """Gives a category an aim, by a day if it is to be there by one, on some accounts if it reads its progress there. It counts
    from the present month. What builds up, is kept or is spread carries what is left: the category is set so.

    Raises: InvalidInput, Conflict if the aim changed after the version seen.
    """
    with change(db, by) as done:
        category = require_planned(db, category_id)
        aim = _checked(db, by, aim, by_day, account_ids)
        require_version(db, "aim", category_id, seen, aim_words(aim, by_day))
        done.sentence = f"Set the aim of {category.name}: {aim_words(aim, by_day)}"
        if aim.kind == "month":
            aims.remove_aim(db, category_id)
            return done
        former = aims.list_aims(db).get(category_id)
        if former and former.aim.kind == aim.kind and former.aim.since:
            aim = replace(aim, since=former.aim.since)  # another amount or day of what began before
        aims.put_aim(db, category_id, aim, by_day, tuple(account_ids))
        if (aim.kind == "spread" or aim.grows) and not category.carries:
            categories.change_category(db, replace(category, carries=True))
    return done


def dated(by: By, aim: Aim, by_day: date | None) -> Aim:
    """The aim with the month it is to be there by and the one it counts from. Raises: InvalidInput for a day that is past, or
    that nobody means."""
    if by_day and by_day < by.today:
        raise InvalidInput("That day is past. Say by when it is to be there.", field="by")
    if by_day and by_day.year > LAST_YEAR:
        raise InvalidInput(f"Say a day before {LAST_YEAR + 1}.", field="by")
    return replace(aim, by=Month.of(by_day) if by_day else None, since=Month.of(by.today))


def _checked(db: sqlite3.Connection, by: By, aim: Aim, by_day: date | None, account_ids: Sequence[int]) -> Aim:
    """The aim with its months, if it can be kept. Raises: InvalidInput."""
    aim = dated(by, aim, by_day)
    check_aim(aim, on_accounts=bool(account_ids))
    if account_ids and not aim.grows:
        raise InvalidInput("Only what is built up or kept reads its progress from an account.", field="account_id")
    if set(account_ids) - {account.id for account in list_aimable(db)}:
        raise InvalidInput(
            "An aim stands on open apart accounts in home currency: what everyday ones hold lies in categories.",
            field="account_id",
        )
    return aim


def aim_words(aim: Aim, by_day: date | None = None) -> str:
    """An aim's kind in a word or two, for the journal."""
    return {
        "month": "month by month", "spread": "spread over the months before", "keep": "kept at an amount",
        "steady": "so much every month",
        "build": f"built up by {by_day}" if by_day else "built up month by month",
    }[aim.kind]  # fmt: skip


def try_aim(
    db: sqlite3.Connection, by: By, view: BudgetView, category_id: int, aim: Aim, by_day: date | None, account_ids: Sequence[int]
) -> list[CategoryMonth]:
    """The coming months of a category if it had the aim and every need were filled, from the view's month on; nothing is kept."""
    aim = _checked(db, by, aim, by_day, account_ids)
    held = aims.list_held_of(db, account_ids)
    plan = view.plan(category_id)
    plan = replace(plan, aim=aim, held=held, carries=plan.carries or aim.kind == "spread" or aim.grows)
    return filled_ahead(plan, view.budget.month, AHEAD)


@dataclass(frozen=True)
class Goal:
    """What is built up: the category, its aim, how far it has come, its place among the goals, its months, its accounts."""

    category: Category
    kept: KeptAim
    progress: Progress
    row: CategoryMonth
    course: tuple[CategoryMonth, ...]
    accounts: tuple[Account, ...]


def list_goals(db: sqlite3.Connection, by: By, month: Month) -> list[Goal]:
    """Every aim that builds up, in order of priority."""
    with reading(db):
        view, kept = budget_view(db, by, month), aims.list_aims(db)
        by_id = {account.id: account for account in accounts.list_accounts(db)}
    found = []
    for category, plan, row in view.by_priority:
        progress = progress_in(plan, month)
        if plan.aim.kind == "build" and progress:
            course = tuple(islice(walk(plan, month + (1 - AHEAD)), AHEAD))
            on = tuple(by_id[id_] for id_ in kept[category.id].account_ids if id_ in by_id)
            found.append(Goal(category, kept[category.id], progress, row, course, on))
    return found


def set_sign(db: sqlite3.Connection, by: By, category_id: int, mark: str, picture: bytes | None = None) -> Done:
    """Gives a goal a sign of a few letters, or a picture, of which a small one is kept. Raises: InvalidInput, NotFound."""
    small = look_at(picture)[3] if picture else None
    with change(db, by) as done:
        category = require_planned(db, category_id)
        if category_id not in aims.list_aims(db):
            raise NotFound(f"{category.name} has no aim that could have a sign.")
        mark = " ".join(mark.split())
        if len(mark) > MOST_MARK:
            raise InvalidInput(f"A sign has {MOST_MARK} letters at most.", field="mark")
        done.sentence = f"Gave {category.name} a sign"
        sha256 = hashlib.sha256(small).hexdigest() if small else None
        if small and sha256:
            attachments.put_file(db, sha256, small, small)
        aims.set_sign(db, category_id, "" if small else mark, sha256)
    return done


def get_sign_picture(db: sqlite3.Connection, category_id: int) -> bytes:
    """The picture of a goal, small. Raises: NotFound where it has none."""
    kept = aims.list_aims(db).get(category_id)
    if kept is None or kept.sha256 is None:
        raise NotFound("That goal has no picture.")
    return attachments.get_thumbnail(db, kept.sha256)


def set_priorities(db: sqlite3.Connection, by: By, category_ids: Sequence[int]) -> Done:
    """Gives categories the order in which money is placed, and against which it is given up; others come after them.

    Raises: InvalidInput for one that is not in the budget, or named twice.
    """
    with change(db, by) as done:
        planned = [category.id for category, _ in budget.list_plans(db)[1]]
        if len(set(category_ids)) != len(category_ids) or set(category_ids) - set(planned):
            raise InvalidInput("The categories changed meanwhile. Look again, then order them.")
        done.sentence = "Changed the order of categories"
        named = set(category_ids)
        categories.change_priorities(db, [*category_ids, *(id_ for id_ in planned if id_ not in named)])
    return done
