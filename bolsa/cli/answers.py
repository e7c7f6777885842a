"""The command about answers: `answer spent --by category --from DAY --to DAY`."""

import argparse
import sqlite3
from collections.abc import Iterator
from dataclasses import replace

from bolsa.cli.common import Commands, a_day, household, show
from bolsa.core.answers.cut import DIMENSIONS, MEASURES, Condition, Cut, Part
from bolsa.core.money import decimal_text, mean_of, median_of
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.answers import answers

STAYED = "stayed"


def enter(commands: Commands) -> None:
    """Enters the command of this module."""
    one = commands.add("answer", run_answer, as_json=True)
    one.add_argument("measure", choices=(*MEASURES, STAYED), metavar="MEASURE", help="spent, received or stayed")
    one.add_argument("--by", choices=("month", *DIMENSIONS), default="category", help="the parts it is taken apart into")
    one.add_argument("--from", dest="first", type=a_day, default=None, metavar="DAY", help="the month's first day otherwise")
    one.add_argument("--to", dest="last", type=a_day, default=None, metavar="DAY", help="the month's last day otherwise")
    for name, words in (("--only", "these alone, such as category=Groceries or tag=van"), ("--without", "all but these")):
        one.add_argument(name, action="append", default=[], metavar="DIMENSION=NAME", help=words)


def run_answer(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        first = options.first or Month.of(options.last or by.today).first_day
        last = options.last or Month.of(first).last_day
        if first > last:
            raise InvalidInput("The first day is after the last.", field="from")
        named = [(text, False) for text in options.only] + [(text, True) for text in options.without]
        conditions = tuple(_condition(db, text, is_left_out=out) for text, out in named)
        dimension = "" if options.by == "month" else options.by
        sides = MEASURES if options.measure == STAYED else (options.measure,)
        found = [answers.answer(db, Cut(side, first, last, conditions), dimension) for side in sides]
        full = answers.full_months_of(db, by)
    amounts: dict[str, int] = {}
    names: dict[str, str] = {}
    for one in found:
        sign = -1 if options.measure == STAYED and one.cut.measure == "spent" else 1
        for key, name, amount in _rows(one, by_month=options.by == "month"):
            amounts[key] = amounts.get(key, 0) + sign * amount
            names[key] = name
    home = found[0].currency
    months = [month for month in found[0].cut.months if month in full]
    by_month = [_stayed_or_own(found, month, options.measure) for month in months]
    keys = sorted(amounts) if options.by == "month" else sorted(amounts, key=lambda key: (-amounts[key], key))
    value = {
        "measure": options.measure, "by": options.by, "from": first.isoformat(), "to": last.isoformat(), "currency": home,
        "total": decimal_text(sum(amounts.values()), home),
        "parts": [{"key": key, "name": names[key], "amount": decimal_text(amounts[key], home)} for key in keys],
        "full_months": [str(month) for month in months], "mean": decimal_text(mean_of(by_month), home),
        "median": decimal_text(median_of(by_month), home), "without_rate": list(found[0].without_rate),
    }  # fmt: skip

    def lines() -> Iterator[str]:
        for key in keys:
            yield f"{names[key]:<32}{decimal_text(amounts[key], home):>14}"
        yield f"{'all':<32}{value['total']:>14}"

    show(options, value, lines())


def _rows(one: answers.Answer, *, by_month: bool) -> Iterator[tuple[str, str, int]]:
    if by_month:
        yield from ((str(m), str(m), one.whole.by_month.get(m, 0)) for m in one.cut.months)
    else:
        yield from ((named.part.key, named.name, named.amount_minor) for named in one.parts)


def _stayed_or_own(found: list[answers.Answer], month: Month, measure: str) -> int:
    whole: list[tuple[int, Part]] = [(-1 if measure == STAYED and one.cut.measure == "spent" else 1, one.whole) for one in found]
    return sum(sign * part.by_month.get(month, 0) for sign, part in whole)


def _condition(db: sqlite3.Connection, text: str, *, is_left_out: bool) -> Condition:
    dimension, _, name = text.partition("=")
    if dimension not in (*DIMENSIONS, "tag") or not name:
        raise InvalidInput(f"“{text}” is no condition. Write it like category=Groceries.", field="only")
    found = answers.find_part(db, dimension, name)
    if found is None:
        raise NotFound(f"There is no {dimension} called “{name}”.")
    return replace(Condition.parse(f"{dimension}.{found}"), is_left_out=is_left_out)
