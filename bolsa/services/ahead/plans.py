"""The long view: cases with their plans, begun from the books; their years, what mends them, the fan; changing them."""

import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.core.ahead.beginning import first_plan
from bolsa.core.ahead.mending import Mend, find_mends
from bolsa.core.ahead.plan import EVERYDAY, Case, Plan, check_plan
from bolsa.core.ahead.years import PlanYear, Start, first_below, run
from bolsa.core.house.kept import Member
from bolsa.core.months import Month
from bolsa.core.worth.net_worth import INVESTED, MONEY, class_of
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services.ahead.debts import debt_view
from bolsa.services.answers.answers import normal_month
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.holdings.mix import treatments
from bolsa.services.worth import worth
from bolsa.store.accounts import accounts, terms
from bolsa.store.ahead import cases
from bolsa.store.connection import reading
from bolsa.store.holdings import mixes
from bolsa.store.house import household

MONTHS = 12
MOST_NAME = 60
FIRST_CASE = "As it stands"


@dataclass(frozen=True)
class Books:
    """What the books say that plans begin with: income by category, spending, what each pot holds; amounts a year in home
    currency. `spending_minor` is without the interest of debts, which the plan counts by itself."""

    home: str
    month: Month
    months_counted: int
    income: dict[int, int]
    names: dict[int, str]
    spending_minor: int
    interest_minor: int
    pots: dict[int, int]
    accounts: dict[int, Account]
    debts: dict[int, tuple[int, int]]


@dataclass(frozen=True)
class CaseView:
    """A case and its years."""

    case: Case
    start: Start
    years: tuple[PlanYear, ...]

    @property
    def below(self) -> PlanYear | None:
        """The first year in which money is missing."""
        return first_below(self.years)

    @property
    def left_minor(self) -> int:
        return self.years[-1].total_minor


def read_books(db: sqlite3.Connection, by: By) -> Books:
    """What the books say today."""
    with reading(db):
        home = household.get_household(db).home_currency
        received = normal_month(db, by, "category", MONTHS, (), measure="received")
        spent = normal_month(db, by, "group", MONTHS, ())
        rows = worth.worth_on(db, by.today).rows
        kept = {account.id: account for account in accounts.list_accounts(db)}
        debts = debt_view(db, by)
    pots = {EVERYDAY: sum(row.home_minor for row in rows if kept[row.account_id].everyday)}
    for row in rows:
        account = kept[row.account_id]
        if not account.everyday and class_of(account.kind, account.side) in (INVESTED, MONEY) and account.closed_on is None:
            pots[account.id] = row.home_minor
    by_year: dict[int, tuple[int, int]] = {}
    interest = 0
    for course in debts.planned.courses:
        if kept[course.debt.id].everyday:
            continue  # what a card owes is in the everyday pot
        for at, payment in enumerate(course.payments):
            back, more = by_year.get(payment.month.year, (0, 0))
            paid_back = payment.paid_minor - payment.interest_minor
            by_year[payment.month.year] = (back + paid_back, more + payment.interest_minor)
            interest += payment.interest_minor if at < MONTHS else 0
    income = {int(one.part.key): received.mean(one.part) * MONTHS for one in received.answer.parts if one.part.key.isdecimal()}
    whole = spent.mean(spent.answer.whole) * MONTHS
    names = {int(one.part.key): one.name for one in received.answer.parts if one.part.key.isdecimal()}
    return Books(
        home, Month.of(by.today) + 1, len(spent.months), {id_: minor for id_, minor in income.items() if minor > 0}, names,
        max(0, whole - interest), min(interest, whole), pots, kept, by_year,
    )  # fmt: skip


def start_of(plan: Plan, books: Books) -> Start:
    """Where a plan begins."""
    return Start(
        books.month, [books.pots.get(pot.account_id, 0) for pot in plan.pots],
        [one.yearly_minor if one.yearly_minor is not None else books.income.get(one.category_id or 0, 0) for one in plan.incomes],
        books.spending_minor, books.debts,
    )  # fmt: skip


def list_views(db: sqlite3.Connection, books: Books) -> list[CaseView]:
    """Every case with its years, the first one first."""
    return [_view(case, books) for case in cases.list_cases(db)]


def _view(case: Case, books: Books) -> CaseView:
    start = start_of(case.plan, books)
    return CaseView(case, start, tuple(run(case.plan, start)))


def get_view(db: sqlite3.Connection, books: Books, case_id: int) -> CaseView:
    """A case and its years. Raises: NotFound."""
    return _view(get_case(db, case_id), books)


def list_mends(view: CaseView) -> list[Mend]:
    """The smallest single changes that make a case hold."""
    return find_mends(view.case.plan, view.start)


def list_members(db: sqlite3.Connection) -> list[Member]:
    """The members, with the years they were born in."""
    return household.list_members(db)


def get_case(db: sqlite3.Connection, case_id: int) -> Case:
    """Raises: NotFound."""
    found = next((case for case in cases.list_cases(db) if case.id == case_id), None)
    if found is None:
        raise NotFound("There is no such case.")
    return found


# --- changing ---------------------------------------------------------------------------------------------------------


def begin(db: sqlite3.Connection, by: By, born: dict[int, int]) -> Done:
    """Makes the first case out of the books, for members whose years of birth are said; makes its id. Raises: InvalidInput."""
    with change(db, by) as done:
        if cases.list_cases(db):
            raise Conflict("There is a long view already.")
        for member_id, year in born.items():
            if not 1850 <= year <= by.today.year:
                raise InvalidInput("A year of birth is like 1984.", field=f"born-{member_id}")
            mixes.change_birth_year(db, member_id, year)
        books, own = read_books(db, by), terms.list_terms(db)
        income = [(id_, books.names[id_], minor) for id_, minor in books.income.items()]
        held = [(books.accounts[id_], own[id_].rate if id_ in own else None) for id_ in books.pots if id_ != EVERYDAY]
        plan = first_plan(household.list_members(db), income, held, _taxed_accounts(db), by.today.year)
        check_plan(plan, by.today.year)
        done.sentence = "Began the long view"
        done.made = cases.insert_case(db, Case(0, FIRST_CASE, 1, plan))
    return done


def _taxed_accounts(db: sqlite3.Connection) -> set[int]:
    """The accounts of which what is drawn is taxed, by the household's facet about tax."""
    treated = treatments(db).items()
    return {id_ for id_, words in treated if any(word in words.casefold() for word in ("drawn", "taken"))}


def change_plan(
    db: sqlite3.Connection, by: By, case_id: int, plan: Plan, *, seen: int | None = None, name: str | None = None
) -> Done:
    """Keeps a case's plan as it is typed. Raises: InvalidInput naming the field; Conflict if someone changed it since."""
    with change(db, by) as done:
        require_version(db, "plan_case", case_id, seen, "another plan")
        case = get_case(db, case_id)
        kept = _name(db, name, case_id) if name is not None else case.name
        done.sentence = f"Changed the case {kept}"
        cases.change_case(db, replace(case, name=kept, plan=check_plan(plan, by.today.year)))
    return done


def add_case(db: sqlite3.Connection, by: By, name: str, plan: Plan) -> Done:
    """Keeps a plan as a new case beside the others; makes its id."""
    with change(db, by) as done:
        known = cases.list_cases(db)
        case = Case(0, _name(db, name), max((one.position for one in known), default=0) + 1, check_plan(plan, by.today.year))
        done.sentence = f"Kept the case {case.name}"
        done.made = cases.insert_case(db, case)
    return done


def mend_case(
    db: sqlite3.Connection, by: By, case_id: int, kind: str, event_id: int = 0, member_id: int = 0, name: str = ""
) -> Done:
    """Keeps the smallest change of a kind as a new case, tried again from the books of now. Raises: Conflict if none does."""
    with change(db, by) as done:
        books = read_books(db, by)
        case = get_case(db, case_id)
        found = next(
            (
                mend
                for mend in find_mends(case.plan, start_of(case.plan, books))
                if mend.kind == kind and mend.is_enough and (mend.event.id if mend.event else 0) == event_id
                and (mend.person.member_id if mend.person else 0) == member_id
            ),
            None,
        )  # fmt: skip
        if found is None:
            raise Conflict("That does not mend it any more. Look at what would now.")
        made = add_case(db, by, _free_name(db, name or found.name or kind), found.plan)
        done.sentence, done.made = made.sentence, made.made
    return done


def remove_case(db: sqlite3.Connection, by: By, case_id: int) -> Done:
    """Drops a case."""
    with change(db, by) as done:
        case = get_case(db, case_id)
        done.sentence = f"Dropped the case {case.name}"
        cases.remove_case(db, case_id)
    return done


def put_first(db: sqlite3.Connection, by: By, case_id: int) -> Done:
    """Makes a case the one the others are compared with."""
    with change(db, by) as done:
        case = get_case(db, case_id)
        done.sentence = f"{case.name} is the first case"
        cases.change_case(db, replace(case, position=1))
        for at, other in enumerate([one for one in cases.list_cases(db) if one.id != case_id], 2):
            cases.change_case(db, replace(other, position=at))
    return done


def _name(db: sqlite3.Connection, text: str, besides: int = 0) -> str:
    name = " ".join(text.split())
    if not name or len(name) > MOST_NAME:
        raise InvalidInput(f"A case has a name of up to {MOST_NAME} letters.", field="name")
    if any(case.name.casefold() == name.casefold() and case.id != besides for case in cases.list_cases(db)):
        raise Conflict(f"There is a case called {name} already.")
    return name


def _free_name(db: sqlite3.Connection, text: str) -> str:
    known = {case.name.casefold() for case in cases.list_cases(db)}
    name, number = text[: MOST_NAME - 4], 2
    while name.casefold() in known:
        name = f"{text[: MOST_NAME - 4]} {number}"
        number += 1
    return name
