"""The workings of Due's figures."""

import sqlite3
from datetime import date

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.due.dues import dues_view
from bolsa.services.working_parts import Make, parse_key


def balance_ahead(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What an everyday account holds at the end of a day ahead (key: account.day): what it holds now and what is due."""
    account_text, _, day_text = key.partition(".")
    view = dues_view(db, by)
    lane = next((lane for lane in view.lanes if lane.account.id == parse_key(account_text)), None)
    try:
        day = date.fromisoformat(day_text)
    except ValueError as error:
        raise NotFound("That is no day.") from error
    if lane is None or not view.today <= day <= view.until:
        raise NotFound("That account is not looked ahead so far.")
    currency = lane.account.currency
    due = [one for one in lane.open_dues if max(one.day, by.today) <= day]
    parts = [Working("It holds today", Money(lane.now_minor, currency), ref=("account", lane.account.id))]
    parts += [
        Working(
            one.series.payee, Money(one.expected_minor, currency), note=f"late since {one.day}" if one.late_days else f"{one.day}"
        )
        for one in due
    ]
    parts += [Working("Entered ahead", Money(amount, currency), note=f"{on}") for on, amount in lane.dated if on <= day]
    return total_of(f"{lane.account.name} at the end of {day}", parts, Money(0, currency))


WORKINGS: dict[str, Make] = {"ahead": balance_ahead}
