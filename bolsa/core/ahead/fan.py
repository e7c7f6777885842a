"""A fan of drawn courses: a thousand seeded paths of returns about the plan's, and the share of them with which it holds.

In a path every pot's yearly growth above inflation is its own, times exp(s × z − s² / 2), with s its swing and z drawn from the
standard normal distribution, the same z for all pots in a year: what swings, swings together. So the mean growth is the plan's.
All else (income, spending, plans, debts, pensions) is the plan's own years. Money is reckoned in floats here: a fan is a chance,
no figure of the books.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bolsa.core.ahead.plan import Plan, TaxStep
from bolsa.core.ahead.years import E8, MONTHS, PlanYear, Start, real_rate_e8
from bolsa.core.months import Month

PATHS = 1000
SEED = 20260514
TIER_PERCENTS = (10, 50, 90)

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Fan:
    """By year: what a tenth of the paths fall below, the middle, and what a tenth reach; and how many of all hold."""

    low: tuple[int, ...]
    middle: tuple[int, ...]
    high: tuple[int, ...]
    held: int
    paths: int


def draw_fan(plan: Plan, start: Start, years: Sequence[PlanYear], *, paths: int = PATHS, seed: int = SEED) -> Fan:
    """The fan about a plan's years; the same for the same seed."""
    dice = np.random.default_rng(seed)
    shocks = dice.standard_normal((len(years), paths))
    swings = [float(pot.swing_percent) / 100 for pot in plan.pots]
    rates = [real_rate_e8(pot.return_percent, plan.inflation_percent) / E8 for pot in plan.pots]
    held = [np.full(paths, float(amount)) for amount in start.pots]
    owing, failed = np.zeros(paths), np.zeros(paths, dtype=bool)
    totals = np.empty((len(years), paths))
    for at, one in enumerate(years):
        months = Month(one.year, 12) - max(start.month, Month(one.year, 1)) + 1
        for i, (rate, swing) in enumerate(zip(rates, swings, strict=True)):
            grown = (1 + rate) * np.exp(swing * shocks[at] - swing * swing / 2) - 1
            held[i] = held[i] * (1 + grown * months / MONTHS)  # a year begun earns its part, as in the plan's own years
        for i, pot in enumerate(plan.pots):
            held[i] = held[i] + _paid_in(plan, one, pot.paid_in_minor, start)
        missing = _settle(plan, one, held, owing)
        failed |= missing > 0.5
        totals[at] = sum(held) - owing
    tiers = np.percentile(totals, TIER_PERCENTS, axis=1)
    low, middle, high = (tuple(round(float(x)) for x in tier) for tier in tiers)
    return Fan(low, middle, high, int(paths - failed.sum()), paths)


def _paid_in(plan: Plan, one: PlanYear, paid_in_minor: int, start: Start) -> float:
    """What is paid into a pot in a year, beside what is left over: while anyone works."""
    ends = plan.work_ends
    if ends is None or not paid_in_minor:
        return 0.0
    begins = max(start.month, Month(one.year, 1))
    return paid_in_minor * max(0, min(ends, Month(one.year, 12)) - begins + 1) / MONTHS


def _settle(plan: Plan, one: PlanYear, held: list[Floats], owing: Floats) -> Floats:
    """What a year leaves goes into the first pot, or is drawn in their order; gives what is missing. Held and owing change."""
    taxable = np.full_like(owing, float(sum(one.pensions)))
    outgo = one.spending_minor + sum(cost for _, cost in one.events) + one.debts_minor
    left = np.full_like(owing, float(one.in_minor - outgo)) - _tax(taxable, plan.tax)
    spare = np.maximum(left, 0)
    settled = np.minimum(spare, owing)
    owing -= settled
    if held:
        held[0] = held[0] + spare - settled
    lacking = np.maximum(-left, 0)
    for i, pot in enumerate(plan.pots):
        if one.year < pot.free_from:
            continue
        wanted = _gross(lacking, taxable, plan.tax) if pot.is_taxed else lacking
        take = np.minimum(np.maximum(held[i], 0), wanted)
        on_it = _tax(taxable + take, plan.tax) - _tax(taxable, plan.tax) if pot.is_taxed else 0.0
        taxable = taxable + take if pot.is_taxed else taxable
        held[i] = held[i] - take
        lacking = np.maximum(lacking - (take - on_it), 0)
        lacking[lacking < 1] = 0
    owing += lacking
    return lacking


def _tax(taxable: Floats, steps: Sequence[TaxStep]) -> Floats:
    found = np.zeros_like(taxable)
    for at, step in enumerate(steps):
        top = np.minimum(taxable, steps[at + 1].above_minor) if at + 1 < len(steps) else taxable
        found += np.maximum(top - step.above_minor, 0) * float(step.percent) / 100
    return found


def _gross(net: Floats, taxable: Floats, steps: Sequence[TaxStep]) -> Floats:
    """What is drawn so that so much is left after the tax on it, walking up the steps."""
    gross, left = np.zeros_like(net), net.copy()
    for at in range(-1, len(steps)):
        kept = 1 - (float(steps[at].percent) / 100 if at >= 0 else 0)
        if kept <= 0:
            return net
        room = np.maximum(steps[at + 1].above_minor - taxable - gross, 0) if at + 1 < len(steps) else np.full_like(net, np.inf)
        part = np.minimum(left / kept, room)
        gross += part
        left -= part * kept
    return gross
