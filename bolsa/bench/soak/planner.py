"""What the person of the soak does to the plan: nothing of it may move any money but what is placed."""

import random
import sqlite3
from collections.abc import Sequence
from datetime import date
from decimal import Decimal

from bolsa.bench.soak.model import Figures
from bolsa.bench.soak.promises import ALL, Promise, same
from bolsa.core.budget.aims import Aim
from bolsa.core.budget.expecting import Expectation
from bolsa.core.months import Month
from bolsa.services.budget import aims, closing, expecting, placing, shifting, trials
from bolsa.services.clock import By
from bolsa.services.sorting import categories


def plan(db: sqlite3.Connection, by: By, dice: random.Random, category_ids: Sequence[int], month: Month) -> Promise | None:
    """One change of the plan, of any kind. Raises: BolsaError where it cannot be."""
    one, amount, act = dice.choice(category_ids), dice.randint(1, 9_000), dice.randrange(9)
    if act == 0:
        _aim(db, by, dice, one, amount)  # what is built up carries on from then on
        return same("balances", "worth")
    elif act == 1:
        aims.set_priorities(db, by, dice.sample(list(category_ids), 3))
    elif act == 2:
        category = categories.get_category(db, one)
        rules = {"carries": dice.random() < 0.5, "carries_minus": dice.random() < 0.5}
        categories.change_category(db, by, one, category.group, **rules)
        return same("balances", "worth")
    elif act == 3:
        expecting.take_baseline(db, by, dice.choice(("mean", "median", "last")), dice.randint(1, 4), month, [one])
    elif act == 4:
        expecting.set_row(db, by, one, month, [dice.choice((None, 0, amount)) for _ in range(12)])
    elif act == 5:
        expecting.change_by_percent(db, by, one, month, Decimal(dice.randint(-50, 50)))
    elif act == 6:
        closing.close_month(db, by, month)
    elif act == 7:
        closing.open_month(db, by, month)
    else:
        _try(db, by, dice, one, month, amount)
    return same(*ALL)


def _aim(db: sqlite3.Connection, by: By, dice: random.Random, category_id: int, amount: int) -> None:
    kind = dice.choice(("month", "spread", "build", "keep", "steady"))
    day = date(2026 + dice.randint(0, 2), dice.randint(1, 12), 28) if kind == "build" and dice.random() < 0.7 else None
    each = amount // 7 + 1 if kind == "build" and day is None else None
    on = [dice.choice(there).id] if (there := aims.list_aimable(db)) and kind in ("build", "keep") and dice.random() < 0.3 else []
    aims.set_aim(db, by, category_id, Aim(kind, amount, each_minor=each), day, on)


def _try(db: sqlite3.Connection, by: By, dice: random.Random, category_id: int, month: Month, amount: int) -> None:
    trial_id = trials.begin(db, by).made
    trials.try_expected(db, by, trial_id, category_id, month, Expectation(amount, dice.choice((0, 1, 3))))
    if dice.random() < 0.3:
        trials.try_without(db, by, trial_id, category_id, month)
    end = dice.choice((trials.keep, trials.drop, None))
    if end:
        end(db, by, trial_id)


def gather(db: sqlite3.Connection, by: By, dice: random.Random, category_ids: Sequence[int], month: Month) -> Promise | None:
    """Money from several categories at once: small change swept, a shortfall met, what was promised taken back."""
    one, act = dice.choice(category_ids), dice.randrange(4)
    if act == 0:
        placing.sweep(db, by, month, [], one)
        return same("balances", "worth")
    if act == 1:
        others = [id_ for id_ in category_ids if id_ != one]
        shifting.shift_several(db, by, month, [(id_, dice.randint(1, 300)) for id_ in dice.sample(others, 2)], one)
        return same("balances", "worth")
    if act == 2:
        placing.fill(db, by, month, list(category_ids), dice.choice(tuple(placing.WAYS)))
        return same("balances", "worth")
    shifting.take_back_promised_money(db, by, month)

    def no_more_than_was_promised(before: Figures, after: Figures) -> str:
        was, now = before.unplaced.get(month), after.unplaced.get(month)
        if was is None or now is None:
            return ""
        return "" if (was >= 0 and now == was) or (was < 0 and was <= now <= 0) else "more was taken back than was promised"

    return no_more_than_was_promised
