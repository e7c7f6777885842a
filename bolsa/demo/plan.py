"""The demo's budget: what was expected, and what was placed month by month."""

import sqlite3
from collections import defaultdict
from dataclasses import replace

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan, budget_month
from bolsa.core.budget.trial import Trial, TrialCell
from bolsa.core.money import split_minor
from bolsa.core.months import Month, months_between
from bolsa.demo import people
from bolsa.services.budget.budgeting import budget_view
from bolsa.services.clock import By
from bolsa.services.house import past
from bolsa.services.worth import worth

GOALS_UNTIL = Month(2026, 1)  # since then the rest stays for the month to come


def record_plan(db: sqlite3.Connection, category_ids: dict[str, int]) -> None:
    """Expected amounts, then month by month: needs filled in order, seasonal shares put by, the rest to the far goals."""
    first, present = Month.of(people.FIRST_DAY), Month.of(people.DEMO_DAY)
    expected = []
    for _, type_, members in people.CATEGORIES:
        for name, amount in members:
            if type_ == "spending" and amount:
                # Plans grew with prices: set anew each January.
                expected += [
                    (
                        category_ids[name],
                        Month(year, 1) if year > 2022 else first,
                        round(amount * 0.975 ** (2026 - year)) * 100,
                    )
                    for year in range(2022, 2027)
                ]
    for name, (months, amount, _) in people.SEASONAL.items():
        for year in range(2023, 2027):
            for number in months:
                expected += [
                    (category_ids[name], Month(year, number), amount * 100),
                    (category_ids[name], Month(year, number) + 1, 0),
                ]
    expected += [
        (category_ids[name], Month(*month), amount * 100)
        for name, figures in people.EXPECTED_INCOME.items()
        for month, amount in figures
    ]
    past.record_plan(db, expected, [])
    by = By(present.first_day, f"{present}-01T08:00:00Z")
    plans = [plan for _, plan in budget_view(db, by, present).plans]
    balances = {m: worth.everyday_balance(db, m) for m in months_between(first, present)}
    placings = []
    for month in months_between(first, present):
        made = _place_month(plans, category_ids, month, balances[month], is_present=month == present)
        placings += made
        plans = [_with_placed(plan, month, made) for plan in plans]
    past.record_plan(db, [], placings)
    _record_aims(db, category_ids)
    closed = {m: By((m + 1).day(6), f"{(m + 1).day(6)}T18:00:00Z", 1) for m in months_between(first, Month(*people.CLOSED_UNTIL))}
    past.record_closed(db, closed)


def _record_aims(db: sqlite3.Connection, category_ids: dict[str, int]) -> None:
    """What the household gave its categories to aim at, and whose allowances some are."""
    aims = {}
    for name, (kind, amount, day, each, repeat, since) in people.AIMS.items():
        by = Month.of(day) if day else None
        aim = Aim(kind, amount * 100, by, each * 100 if each else None, repeat, Month(*since))
        aims[category_ids[name]] = aim, day
    name, cells, dropped = people.TRIAL
    tried = {(category_ids[c], Month(*month)): TrialCell(amount * 100) for (c, month), amount in cells.items()}
    past.record_trial(db, Trial(0, name, tried, {category_ids[c]: Month(*month) for c, month in dropped.items()}))
    past.record_aims(db, aims, {category_ids[name]: member for name, member in people.ALLOWANCES.items()})


def _place_month(
    plans: list[CategoryPlan], category_ids: dict[str, int], month: Month, balance_minor: int, *, is_present: bool
) -> list[past.Placing]:
    """What the household placed in a month. In the present one only the needs before the pay of the 8th were met."""
    order = [category_ids[n] for n in ("Quarterly tax", "Mooring lease", "Hull insurance")]
    amounts: dict[int, int] = defaultdict(int)
    there = budget_month(plans, month, balance_minor, 0).unplaced_minor
    rows = {row.category_id: row for row in budget_month(plans, month, 0, 0).rows}
    # What was spent beyond the plan is met too, so that no month ends below zero.
    late = {"Household", "Mika’s clothes", "Fuel and gas", "Upkeep", "Clay and glazes"} if is_present else set()
    skipped = {category_ids[n] for n in late}
    for id_, row in rows.items():
        if id_ not in skipped:
            amounts[id_] = max(row.need_minor, 0 if is_present else row.spent_minor - row.carried_minor)
    for id_, (_, _, share) in zip(
        order, (people.SEASONAL[n] for n in ("Quarterly tax", "Mooring lease", "Hull insurance")), strict=True
    ):
        amounts[id_] = max(amounts[id_], share * 100)
    if is_present:
        amounts[category_ids["Household"]] = 6000
    elif month < GOALS_UNTIL:
        rest = max(0, there - sum(amounts.values()))
        for (name, _), part in zip(people.GOALS, split_minor(rest, [weight for _, weight in people.GOALS]), strict=True):
            amounts[category_ids[name]] += part
    amounts = _as_far_as(amounts, there)
    day = month.day(9) if not is_present else people.LAST_DOWNLOAD
    return [past.Placing(id_, month, amount, max(day, people.FIRST_DAY)) for id_, amount in amounts.items() if amount > 0]


def _as_far_as(amounts: dict[int, int], there_minor: int) -> dict[int, int]:
    """The amounts, the later ones cut where the money ends."""
    placed = {}
    for id_, amount in amounts.items():
        placed[id_] = min(amount, max(0, there_minor))
        there_minor -= placed[id_]
    return placed


def _with_placed(plan: CategoryPlan, month: Month, made: list[past.Placing]) -> CategoryPlan:
    amount = sum(p.amount_minor for p in made if p.category_id == plan.category_id)
    return replace(plan, placed={**plan.placed, month: amount}) if amount else plan
