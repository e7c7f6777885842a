"""Rates of return: money-weighted and time-weighted, as fractions (0.06 is 6 %).

A flow is money put in, above zero, or taken out, below zero, at the end of its day; what is held pays its distributions out.
"""

from bisect import bisect_right
from collections.abc import Sequence
from datetime import date
from itertools import pairwise
from operator import itemgetter
from typing import NamedTuple

import pyxirr

DAYS_A_YEAR = 365
LARGE_PERCENT = 2


class Point(NamedTuple):  # no dataclass: thousands are made for a page
    """What something was worth at the end of a day, and the money that was put in on it (below zero: taken out)."""

    day: date
    value_minor: int
    flow_minor: int = 0


def money_weighted(points: Sequence[Point]) -> float | None:
    """The yearly rate at which the flows grow to what there is at the last point; None where there is no such rate.

    The first point's value counts as put in before its day's flow.
    Formula: 0 = Σ flow × (1 + r)^(−days / 365), Actual/365 fixed, with the value of the first point put in and that of the last
    taken out. Source: the internal rate of return of dated flows, solved by pyxirr.
    """
    if len(points) < 2 or points[-1].day <= points[0].day:
        return None
    flows = [(points[0].day, -(points[0].value_minor - points[0].flow_minor))]
    flows += [(point.day, -point.flow_minor) for point in points if point.flow_minor]
    flows.append((points[-1].day, points[-1].value_minor))
    dated = [(day, float(amount)) for day, amount in flows if amount]
    if not any(amount < 0 for _, amount in dated) or not any(amount > 0 for _, amount in dated):
        return None
    found = pyxirr.xirr(dated, silent=True)
    return found if found is not None and -1 < found < 1e6 else None


def time_weighted(points: Sequence[Point]) -> float | None:
    """What one unit put in at the first point grew by until the last, whenever more was put in; None where nothing was held.

    Formula: the product over stretches of (value at the end − flow at the end) / value at the start, less 1; a stretch that
    begins with nothing counts from its flow. Source: the time-weighted rate with a valuation at every flow (Bank
    Administration Institute, Measuring the Investment Performance of Pension Funds, 1968).
    """
    grown, before, is_any = 1.0, 0, False
    for at, point in enumerate(points):
        if at and before > 0:
            grown *= (point.value_minor - point.flow_minor) / before
            is_any = True
        elif point.flow_minor > 0 and point.value_minor > 0:
            grown *= point.value_minor / point.flow_minor
            is_any = True
        before = point.value_minor
    return grown - 1 if is_any and grown >= 0 else None


def dietz(start: Point, end: Point, flows: Sequence[tuple[date, int]]) -> float | None:
    """The return of one stretch whose flows within are weighted by the days they were there.

    Formula: (end − start − Σ flow) / (start + Σ flow × days left / days). Source: modified Dietz (Dietz, Pension Funds:
    Measuring Investment Performance, 1966).
    """
    days = (end.day - start.day).days
    if days <= 0:
        return None
    weighted = start.value_minor + sum(amount * (end.day - day).days / days for day, amount in flows)
    gained = end.value_minor - start.value_minor - sum(amount for _, amount in flows)
    return gained / weighted if weighted > 0 else None


def by_stretch(points: Sequence[Point], flows: Sequence[tuple[date, int]]) -> list[float | None]:
    """The returns of the stretches between points, each by modified Dietz with the flows of its days (in order); one that begins
    with nothing counts from the flow that ends it."""
    found, at = [], 0
    for start, end in pairwise(points):
        upto = bisect_right(flows, end.day, lo=at, key=itemgetter(0))
        one = dietz(start, end, flows[at:upto])
        found.append(time_weighted([start, end]) if one is None else one)
        at = upto
    return found


def large_flows(flows: Sequence[tuple[date, int]]) -> list[date]:
    """The days of flows so large beside what was put in before that weighting them by day would mislead; flows in order.

    Source: that a portfolio is valued on the days of large cash flows (Global Investment Performance Standards, 2020); what is
    large is ours: more than LARGE_PERCENT of what was put in before, less what was taken out.
    """
    found, total = [], 0
    for day, amount in flows:
        if abs(amount) * 100 > LARGE_PERCENT * total:
            found.append(day)
        total += amount
    return found


def linked(returns: Sequence[float | None]) -> float | None:
    """Returns of stretches that follow each other, as one; None where nothing was held in any."""
    known = [one for one in returns if one is not None]
    grown = 1.0
    for one in known:
        grown *= 1 + one
    return grown - 1 if known else None


def a_year(total: float | None, days: int) -> float | None:
    """A return over some days as a yearly one, Actual/365; one over less than a year stays what it is.

    >>> round(a_year(0.21, 730), 4), a_year(0.02, 90)
    (0.1, 0.02)
    """
    if total is None or days < DAYS_A_YEAR:
        return total
    return float((1 + total) ** (DAYS_A_YEAR / days) - 1)
