"""What is expected as people type it: an amount that carries on, comes every so many months, or counts once."""

import re
from dataclasses import dataclass
from decimal import Decimal

from bolsa.core.amounts import MOST_UNITS, parse_amount
from bolsa.core.budget.month import MOST_EVERY, ONCE
from bolsa.core.percents import parse_percent
from bolsa.errors import InvalidInput

MOST_MINOR = 1_000 * MOST_UNITS  # what a person may mean, in the smallest units there are
MOST_RAISE = 1000  # per cent
_RAISE = re.compile(r"(?P<sign>[+−-])\s*(?P<amount>\S+?)\s*%")
_RHYTHM = re.compile(r"(?P<amount>.*?)\s*(?:every\s+(?P<every>\S+)(?:\s+months?)?|(?P<once>once))\s*", re.IGNORECASE)


@dataclass(frozen=True)
class Expectation:
    """An amount in minor units, and how many months lie from one to the next: 1 carries on, ONCE counts in its month alone."""

    amount_minor: int
    every: int = 1


def parse_expectation(text: str, currency: str, decimal_mark: str = ".", field: str = "expected") -> Expectation | None:
    """What is typed, such as "430", "1290 every 6" or "700 once"; None for nothing, which clears the figure.

    Raises: InvalidInput for what is no amount, one below zero, or a rhythm there is not.

    >>> parse_expectation("1290 every 6", "EUR"), parse_expectation("700 once", "EUR"), parse_expectation(" ", "EUR")
    (Expectation(amount_minor=129000, every=6), Expectation(amount_minor=70000, every=0), None)
    """
    if not text.strip():
        return None
    found = _RHYTHM.fullmatch(text.strip())
    amount = parse_amount(found["amount"] if found else text, currency, decimal_mark=decimal_mark, field=field)
    every = _months(found["every"], field) if found and found["every"] else 1
    return check_expectation(Expectation(amount, ONCE if found and found["once"] else every), field)


def parse_raise(text: str, field: str = "expected") -> Decimal | None:
    """The per cent of what is typed as a change, such as "+3 %" or "−2.5%"; None for anything else.

    Raises: InvalidInput for one that takes all, or more than multiplies by eleven.

    >>> parse_raise("+3 %"), parse_raise("-2.5%"), parse_raise("430"), parse_raise("3 %")
    (Decimal('3'), Decimal('-2.5'), None, None)
    """
    found = _RAISE.fullmatch(text.strip())
    if not found:
        return None
    amount = parse_percent(found["amount"], field, highest=MOST_RAISE)
    if found["sign"] != "+" and amount >= 100:
        raise InvalidInput("Less than nothing cannot be expected. Type 0 instead.", field=field)
    return amount if found["sign"] == "+" else -amount


def check_expectation(typed: Expectation, field: str = "expected") -> Expectation:
    """The expectation, if it can be kept. Raises: InvalidInput."""
    if typed.amount_minor < 0:
        raise InvalidInput("An expected amount is zero or more.", field=field)
    if typed.amount_minor > MOST_MINOR:
        raise InvalidInput("That is more than anybody can expect.", field=field)
    if not ONCE <= typed.every <= MOST_EVERY:
        raise InvalidInput(f"It comes every 1 to {MOST_EVERY} months.", field=field)
    return typed


def _months(text: str, field: str) -> int:
    if not text.isascii() or not text.isdecimal() or not 1 <= int(text[:4]) <= MOST_EVERY:
        raise InvalidInput(
            f"“every {text[:12]}” is no rhythm. Write a number of months from 1 to {MOST_EVERY}, such as “1290 every 6”.",
            field=field,
        )
    return int(text)
