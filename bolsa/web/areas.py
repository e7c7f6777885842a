"""The one list of the areas, in the order of work."""

from bolsa.web import (
    accounts,
    ahead,
    answers,
    bringing,
    budget,
    checking,
    due,
    find,
    holdings,
    house,
    ledger,
    parts,
    pay,
    sorting,
    today,
    welcome,
    working,
    worth,
)
from bolsa.web.area import Area

AREAS: tuple[Area, ...] = tuple(
    room.AREA
    for room in (
        welcome, today, accounts, ledger, bringing, sorting, checking, budget, due, pay, holdings, worth, answers, ahead,
        house, working,
        find, parts,
    )
)  # fmt: skip
