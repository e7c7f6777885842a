"""Aims and their progress in words, with this month's figures."""

from flask import g

from bolsa.core.budget.aims import KeptAim
from bolsa.core.budget.month import CategoryMonth, CategoryPlan
from bolsa.core.budget.progress import Progress
from bolsa.web.filters import money, month_name


def aim_sentence(plan: CategoryPlan, row: CategoryMonth, kept: KeptAim) -> str:
    """The aim of a category, and the need that follows from it this month."""
    needs = f"so it needs {_money(row.need_minor)} in {month_name(row.month)}"
    aim, there = plan.aim, f"{_money(row.carried_minor)} was carried in"
    if row.held_minor:
        there += f", its accounts held {_money(row.held_minor)}"
    if aim.kind == "keep":
        return f"Keep: {_money(aim.amount_minor)} is to be there; {there}, {needs}."
    if aim.kind == "steady":
        return f"Steady: {_money(aim.amount_minor)} every month, whatever is there."
    if aim.kind == "build":
        again = f", and again every {aim.repeat} months" if aim.repeat else ""
        if aim.each_minor is not None:
            return f"Build up: {_money(aim.each_minor)} a month until {_money(aim.amount_minor)} is there; {there}, {needs}."
        due = aim.due_after(row.month)
        if due is None:
            by = month_name(aim.by or row.month)
            return f"Build up: {_money(aim.amount_minor)} was to be there by {by}. Set another day to go on."
        return f"Build up: {_money(aim.amount_minor)} by the end of {month_name(due)}{again}; {there}, {needs}."
    if row.expected_from is None:
        return "Nothing is expected of it: set an amount, and it carries on from that month."
    since = "set this month" if row.is_hand_set else f"set in {month_name(row.expected_from)} and carried on"
    if aim.kind == "spread":
        until = month_name(row.month + (row.need.months - 1))
        if row.need.months == 1 and not row.need_minor:
            return f"Spread: what falls due in the coming two years is there as far as it must; {there}, {needs}."
        return f"Spread: {_money(row.need.aimed_minor)} is expected until {until}; {there}, {needs}."
    carried = f", less {_money(row.carried_minor)} carried in" if row.carried_minor else ""
    return f"Month by month: {_money(row.expected_minor)} expected ({since}){carried}, so it needs {_money(row.need_minor)}."


def progress_sentence(progress: Progress, kept: KeptAim) -> str:
    """Whether an aim is on course, and when it is reached at the present pace."""
    if progress.is_reached:
        return "It is all there."
    if progress.should_minor is None:
        course = ""
    elif progress.is_on_course:
        course = "It is on course. "
    else:
        course = f"It lacks {_money(progress.lacks_minor)} on what should be there by now. "
    if progress.reached_in is None and progress.pace_minor:
        return f"{course}At the present pace it takes more than a century."
    if progress.reached_in is None:
        return f"{course}Nothing was placed lately, so nobody can say when it is reached."
    pace = f"At the present pace of {_money(progress.pace_minor)} a month"
    return f"{course}{pace} it is there in {month_name(progress.reached_in)}."


def _money(amount_minor: int) -> str:
    return money(amount_minor, g.household.home_currency)
