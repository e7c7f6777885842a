"""Debts out of the books: how they are paid off by the plan, against the least payments alone; changing the plan."""

import sqlite3
from dataclasses import dataclass, replace
from decimal import Decimal

from bolsa.core.accounts.account import Account
from bolsa.core.ahead import debts
from bolsa.core.ahead.debts import ORDERS, Debt, DebtPlan, Payoff
from bolsa.core.money import convert_minor
from bolsa.core.months import Month
from bolsa.core.worth.rates import rate_on
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.accounts import accounts, terms
from bolsa.store.ahead import debts as debt_store
from bolsa.store.connection import reading
from bolsa.store.house import household


@dataclass(frozen=True)
class DebtView:
    """All debts of today, in home currency, and where each plan leads: the household's, and the least payments alone.

    `lacking` are debts of which no rate or no least payment is known. `too_little` are those whose least payment does not cover
    the interest. `without_rate` are in a currency for which no rate of exchange is known.
    """

    home: str
    plan: DebtPlan
    first: Month
    planned: Payoff
    least: Payoff
    lacking: tuple[Account, ...]
    too_little: tuple[Debt, ...]
    without_rate: tuple[Account, ...]
    accounts: tuple[Account, ...]

    @property
    def owed_minor(self) -> int:
        return sum(course.debt.owed_minor for course in self.planned.courses)

    @property
    def saved_minor(self) -> int | None:
        """The interest the plan saves; None where one of the two never ends."""
        planned, least = self.planned.interest_minor, self.least.interest_minor
        return None if planned is None or least is None else least - planned


def debt_view(db: sqlite3.Connection, by: By, more_minor: int | None = None, order: str | None = None) -> DebtView:
    """The debts by the household's plan, or by another sum and order that is tried."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        plan = debt_store.get_plan(db)
        plan = replace(plan, more_minor=plan.more_minor if more_minor is None else more_minor, order=order or plan.order)
        own = terms.list_terms(db)
        found, lacking, bare, kept = [], [], [], []
        for account in accounts.list_accounts(db):
            balance = accounts.sum_balance(db, account.id, by.today) if account.side == "liability" else 0
            if balance >= 0 or account.closed_on is not None:
                continue
            kept.append(account)
            rate = rate_on(account.currency, by.today, home, rates)
            if rate is None:
                bare.append(account)
                continue
            mine = own.get(account.id)
            if mine is None or mine.rate is None or not mine.payment_minor:
                lacking.append(account)
            least = convert_minor(mine.payment_minor, rate.e8, account.currency, home) if mine and mine.payment_minor else 0
            owed = convert_minor(-balance, rate.e8, account.currency, home)
            found.append(Debt(account.id, account.name, owed, (mine.rate if mine else None) or Decimal(0), least))
    ordered = debts.in_order(found, plan.order, plan.places)
    first = Month.of(by.today) + 1
    return DebtView(
        home, plan, first, debts.pay_off(ordered, first, plan.more_minor, plan.once), debts.pay_off(ordered, first, rolls=False),
        tuple(lacking), tuple(debt for debt in ordered if debts.is_too_little(debt)), tuple(bare), tuple(kept),
    )  # fmt: skip


def change_plan(db: sqlite3.Connection, by: By, more_minor: int, order: str) -> Done:
    """Keeps what is paid beyond the least payments, and the order. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        if more_minor < 0:
            raise InvalidInput("What is paid more is zero or above.", field="more")
        if order not in ORDERS:
            raise InvalidInput("Debts are paid by rate, by balance or by hand.", field="order")
        done.sentence = f"Debts are paid by {ORDERS[order]}" if order != "hand" else "Debts are paid in an order by hand"
        debt_store.change_plan(db, more_minor, order)
    return done


def move_debt(db: sqlite3.Connection, by: By, account_id: int, places: int) -> Done:
    """Moves a debt up (less than 0) or down in the order by hand, which begins with the one that is shown. Raises: NotFound."""
    with change(db, by) as done:
        view = debt_view(db, by)
        ids = [course.debt.id for course in view.planned.courses]
        if account_id not in ids:
            raise NotFound("There is no such debt.")
        at = ids.index(account_id)
        ids.insert(max(0, min(len(ids) - 1, at + places)), ids.pop(at))
        name = next(course.debt.name for course in view.planned.courses if course.debt.id == account_id)
        done.sentence = f"Moved {name} in the order of debts"
        debt_store.put_places(db, ids)
        debt_store.change_plan(db, view.plan.more_minor, "hand")
    return done


def say_terms(db: sqlite3.Connection, by: By, account_id: int, rate: Decimal, least_minor: int) -> Done:
    """Says a debt's yearly rate (a fraction) and its least payment a month, in its currency. Raises: InvalidInput."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        if account.side != "liability":
            raise NotFound("There is no such debt.")
        if not 0 <= rate <= 1:
            raise InvalidInput("A yearly rate is from 0 to 100 per cent.", field=f"rate-{account_id}")
        if least_minor <= 0:
            raise InvalidInput("Write what is paid a month at least.", field=f"least-{account_id}")
        done.sentence = f"Said the rate and the least payment of {account.name}"
        terms.put_terms(db, account_id, replace(terms.get_terms(db, account_id), rate=rate, payment_minor=least_minor))
    return done


def pay_once(db: sqlite3.Connection, by: By, month: Month, amount_minor: int) -> Done:
    """Plans a single payment in a month to come; nothing takes it out. Raises: InvalidInput."""
    with change(db, by) as done:
        if month <= Month.of(by.today):
            raise InvalidInput("Choose a month to come.", field="month")
        if amount_minor < 0:
            raise InvalidInput("Write what is paid, above zero.", field="amount")
        done.sentence = f"{'Planned' if amount_minor else 'Took out'} a single payment in {month}"
        debt_store.put_payment(db, month, amount_minor)
    return done
