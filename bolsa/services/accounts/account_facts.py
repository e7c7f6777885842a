"""What follows from an account's terms today: a card's use and days, a loan's next payment and end, a deposit's days."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.loan import Instalment, list_instalments
from bolsa.core.accounts.terms import Terms, next_day_of_month, used_of_limit
from bolsa.core.known import known
from bolsa.core.pay.ceilings import Ceiling
from bolsa.services.clock import By
from bolsa.services.pay.paydays import ceiling_of
from bolsa.store.accounts import terms, values


@dataclass(frozen=True)
class CardFacts:
    """A card's limit, what of it is used (and as a share), and the next days of statement and payment."""

    limit_minor: int | None
    used_minor: int
    used_share: float
    statement_on: date | None
    due_on: date | None


@dataclass(frozen=True)
class LoanFacts:
    """The payments to come (none if it is paid off, or never will be), and what interest they still hold."""

    instalments: tuple[Instalment, ...]
    interest_minor: int
    payment_minor: int
    is_endless: bool


@dataclass(frozen=True)
class DepositFacts:
    """When a deposit ends, the first day it can be taken out, and what that costs before it ends."""

    matures_on: date | None
    free_on: date | None
    exit_cost_minor: int | None


@dataclass(frozen=True)
class ValueFacts:
    """When the value was last noted, and how; None if it never was."""

    noted_on: date | None
    source: str


@dataclass(frozen=True)
class Facts:
    """What follows from an account's terms today; None where it does not apply."""

    terms: Terms
    card: CardFacts | None = None
    loan: LoanFacts | None = None
    deposit: DepositFacts | None = None
    ceiling: Ceiling | None = None
    value: ValueFacts | None = None


def account_facts(db: sqlite3.Connection, by: By, account: Account, balance_minor: int) -> Facts:
    """What follows from the account's terms as of today."""
    own = terms.get_terms(db, account.id)
    card = loan = deposit = ceiling = value = None
    if account.kind == "card":
        used, share = used_of_limit(balance_minor, own.limit_minor or 0)
        statement_on = next_day_of_month(own.statement_day, by.today) if own.statement_day else None
        due_on = next_day_of_month(own.due_day, by.today) if own.due_day else None
        card = CardFacts(own.limit_minor, used, share, statement_on, due_on)
    if account.kind in ("loan", "mortgage") and own.rate is not None and own.payment_minor:
        loan = _loan_facts(own, -balance_minor, by.today)
    if account.kind == "deposit":
        deposit = DepositFacts(own.matures_on, own.free_on, own.exit_cost_minor)
    if own.ceiling_minor:
        ceiling = ceiling_of(db, by, account.id)
    if account.is_valued:
        last = values.list_last_values(db).get(account.id)
        value = ValueFacts(last.day if last else None, last.source if last else "")
    return Facts(own, card, loan, deposit, ceiling, value)


def _loan_facts(own: Terms, owed_minor: int, today: date) -> LoanFacts:
    number = own.first_payment_on.day if own.first_payment_on else 1
    rate, payment = known(own.rate), known(own.payment_minor)
    course = list_instalments(max(0, owed_minor), rate, payment, next_day_of_month(number, today), number)
    interest = sum(one.interest_minor for one in course)
    return LoanFacts(tuple(course), interest, payment, owed_minor > 0 and not course)
