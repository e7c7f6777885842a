"""The days at whose ends net worth is looked at: weeks, months, quarters, years."""

from datetime import date, timedelta

from bolsa.core.months import Month, months_between
from bolsa.errors import InvalidInput

EVERY = {"week": 0, "month": 1, "quarter": 3, "year": 12}  # months of a step; a week has none


def period_ends(first: date, last: date, every: str, week_start: int = 0) -> list[date]:
    """The end of each period from first to last, in order; the last day itself ends the list where its period is not over.

    `week_start` is the first day of the week, Monday 0. Raises: InvalidInput for a step there is not.

    >>> [day.isoformat() for day in period_ends(date(2026, 1, 31), date(2026, 5, 14), "quarter")]
    ['2026-03-31', '2026-05-14']
    """
    if every not in EVERY:
        raise InvalidInput("It goes by week, month, quarter or year.", field="every")
    if first > last:
        return []
    if every == "week":
        week_end = first + timedelta(days=(week_start - 1 - first.weekday()) % 7)
        ends = [week_end + timedelta(days=7 * n) for n in range(((last - week_end).days) // 7 + 1)]
    else:
        step = EVERY[every]
        ends = [m.last_day for m in months_between(Month.of(first), Month.of(last)) if m.number % step == 0]
    ends = [day for day in ends if first <= day <= last]
    return ends if ends and ends[-1] == last else [*ends, last]
