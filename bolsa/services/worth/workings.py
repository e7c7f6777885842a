"""The working of net worth."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.core.worth.rates import rate_on
from bolsa.services.clock import By
from bolsa.services.working_parts import Make
from bolsa.services.worth.worth import worth_view
from bolsa.store.accounts import accounts


def net_worth(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """Net worth at the month's end: every account, foreign ones at that day's rate."""
    view = worth_view(db, month, 1)
    rates = accounts.list_rates(db)
    parts = []
    for row in view.rows:
        note = ""
        rate = rate_on(row.currency, month.last_day, view.currency, rates)
        if row.currency != view.currency and rate is not None:
            note = f"{Money(row.balance_minor, row.currency)} at {rate}"
        parts.append(Working(row.name, Money(row.home_minor, view.currency), note=note, ref=("account", row.account_id)))
    return total_of("Net worth", parts, Money(0, view.currency))


WORKINGS: dict[str, Make] = {"net-worth": net_worth}
