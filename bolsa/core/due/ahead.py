"""The days ahead of the everyday money: balances from what is due, lowest points, floors, and what mends a crossing."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.dues import Due


@dataclass(frozen=True)
class CurvePoint:
    """The money in everyday accounts at the end of a day."""

    day: date
    balance_minor: int


def money_curve(balance_minor: int, today: date, days: int, changes: Iterable[tuple[date, int]]) -> list[CurvePoint]:
    """The balance at the end of today and of each of the next `days` days, as the changes come."""
    by_day: dict[date, int] = {}
    for day, amount_minor in changes:
        by_day[day] = by_day.get(day, 0) + amount_minor
    points = []
    for i in range(days + 1):
        day = today + timedelta(days=i)
        balance_minor += by_day.get(day, 0)
        points.append(CurvePoint(day, balance_minor))
    return points


@dataclass(frozen=True)
class Lane:
    """One everyday account ahead: its balance at each day's end, what is due on it, and its floor."""

    account: Account
    now_minor: int
    curve: tuple[CurvePoint, ...]
    dues: tuple[Due, ...]
    dated: tuple[tuple[date, int], ...]  # entries dated ahead already: day and amount
    floor_minor: int | None

    @property
    def open_dues(self) -> tuple[Due, ...]:
        """What is awaited or late. What was due before today may come any day, or has and is not known: it counts today."""
        return tuple(due for due in self.dues if due.state in ("awaited", "late"))

    @property
    def lowest(self) -> CurvePoint:
        return min(self.curve, key=lambda point: (point.balance_minor, point.day))

    @property
    def crossing(self) -> CurvePoint | None:
        """The first day on which it ends below its floor, or below nothing where it has none and is no debt."""
        if self.account.side == "liability" and self.floor_minor is None:
            return None
        floor = self.floor_minor or 0
        return next((point for point in self.curve if point.balance_minor < floor), None)


@dataclass(frozen=True)
class Mending:
    """What would keep an account at its floor: so much moved to it from another that can spare it, by the day it would cross."""

    source: Account
    amount_minor: int
    by_day: date


def find_mending(lanes: Sequence[Lane], lane: Lane) -> Mending | None:
    """The move that mends a lane that falls below its floor, from the account that keeps most above its own; None if none can."""
    lacking = (lane.floor_minor or 0) - lane.lowest.balance_minor
    able = [
        (other.lowest.balance_minor - (other.floor_minor or 0), other) for other in lanes
        if other is not lane and other.account.side == "asset" and other.account.currency == lane.account.currency
    ]  # fmt: skip
    spare, source = max(able, key=lambda pair: pair[0], default=(0, None))
    if source is None or spare < lacking or lane.crossing is None:
        return None
    return Mending(source.account, lacking, lane.crossing.day)
