"""The first plan: what follows from the books until a person says otherwise."""

from collections.abc import Sequence, Set
from decimal import Decimal

from bolsa.core.accounts.account import Account
from bolsa.core.ahead.plan import EVERYDAY, Income, Person, Plan, Pot, TaxStep
from bolsa.core.house.kept import Member
from bolsa.core.months import Month

WORKS_UNTIL = 67  # the age people work to
GROWN_UP = 18
# What an account of a kind earns a year and how it swings, per cent; another earns its own rate, or nothing.
USUAL = {"brokerage": ("5", "15"), "pension": ("4", "10"), "benefit": ("1", "0")}
USUAL_TAX = (TaxStep(0, Decimal(0)), TaxStep(1_200_000, Decimal(20)))
# In which order kinds are drawn from: what is at hand first, what is taxed last.
_PLACES = {"savings": 0, "deposit": 1, "brokerage": 2, "benefit": 3, "pension": 4}


def first_plan(
    members: Sequence[Member], income: Sequence[tuple[int, str, int]], held: Sequence[tuple[Account, Decimal | None]],
    taxed: Set[int], year: int,
) -> Plan:  # fmt: skip
    """The plan of grown-ups who work to the usual age, with income by category (its id, name, and amount a year) and pots from
    everyday money to pensions; an income whose name holds a person's is that person's. `held` are accounts with their yearly
    rates, as fractions; of those in `taxed` what is drawn is taxed."""
    people = tuple(
        Person(one.id, one.name, one.birth_year, Month(one.birth_year + WORKS_UNTIL, 12))
        for one in members
        if one.birth_year is not None and year - one.birth_year >= GROWN_UP
    )
    incomes = []
    for category_id, name, _ in sorted(income, key=lambda one: -one[2]):
        person = next((one.member_id for one in people if one.name.casefold() in name.casefold()), None)
        incomes.append(Income(name, None, category_id, person))
    pots = [Pot(EVERYDAY, "Everyday money")]
    for account, rate in sorted(held, key=lambda one: (_PLACES.get(one[0].kind, 2), one[0].id)):
        earns, swings = USUAL.get(account.kind, (str(rate * 100 if rate else 0), "0"))
        is_taxed = account.id in taxed or account.kind == "pension"
        pots.append(Pot(account.id, account.name, Decimal(earns), Decimal(swings), is_taxed))
    return Plan(people, tuple(incomes), pots=tuple(pots), tax=USUAL_TAX)
