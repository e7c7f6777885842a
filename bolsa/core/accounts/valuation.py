"""Values of what no bank tells: curves between and beyond noted values, month ends to carry to, and holes in the course.

A value is what an account was worth at the end of a day, in minor units. What was paid in or out in between is known from the
books; the rest of the change is gain or loss.
"""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal, localcontext
from itertools import pairwise

from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month, months_between

DAYS_A_YEAR = Decimal("365.25")
DAYS_KNOWN = 100  # many values come once a quarter, a week after its end
IndexPoints = Sequence[tuple[date, Decimal]]


@dataclass(frozen=True)
class Noted:
    """A noted value; `source` is hand, brought, carried, curve, index or between. Of a carried one (of the three in the middle)
    `grown_minor` is what its curve alone added since the value it began from; what flowed since comes on top."""

    day: date
    amount_minor: int
    source: str = "hand"
    grown_minor: int | None = None


def value_on(terms: Terms, noted: Noted, day: date, index: IndexPoints = ()) -> int:
    """What the curve makes of a noted value by a later day, in minor units. Rounding: half up, once.

    Formulas, with v the noted value and d the days since: carried, v; straight, v + (last − v) × d / days to the last day,
    held after it; percent, v × (1 + rate)^(d / 365.25); index, v × index(day) / index(noted day), each the latest known.
    """
    v, days = Decimal(noted.amount_minor), (day - noted.day).days
    if days <= 0:
        return noted.amount_minor
    with localcontext() as context:
        context.prec = 40
        if terms.curve == "straight" and terms.curve_until and terms.curve_last_minor is not None:
            whole = (terms.curve_until - noted.day).days
            v += (terms.curve_last_minor - v) * min(Decimal(days) / whole, Decimal(1)) if whole > 0 else 0
        elif terms.curve == "percent" and terms.curve_rate is not None:
            v *= (1 + terms.curve_rate) ** (days / DAYS_A_YEAR)
        elif terms.curve == "index" and index:
            then, now = _index_on(index, noted.day), _index_on(index, day)
            v = v * now / then if then else v
        return int(v.quantize(Decimal(1), ROUND_HALF_UP))


def _index_on(index: IndexPoints, day: date) -> Decimal:
    """The latest point not after the day, else the first."""
    return index[max(0, bisect_right([d for d, _ in index], day) - 1)][1]


def list_carried(terms: Terms, last: Noted, today: date, index: IndexPoints = ()) -> list[Noted]:
    """A value at each month end after the last noted one and before today, by the curve; none without a curve.

    Each counts from the last value that was not itself carried, so that rounding does not add up.
    """
    if not terms.curve:
        return []
    source = {"carry": "carried", "index": "index"}.get(terms.curve, "curve")
    ends = [month.last_day for month in months_between(Month.of(last.day), Month.of(today))]
    values = [(end, value_on(terms, last, end, index)) for end in ends if last.day < end < today]
    return [Noted(end, amount, source, amount - last.amount_minor) for end, amount in values]


def settled(note: Noted, grown_before: int, held_minor: int, opening_minor: int = 0) -> tuple[int, int]:
    """A noted value as it stands beside what is held without it, and the gain it books.

    `held_minor` is what the account holds by then: the value before and what flowed since. What is noted stays, and the gain is
    the rest; what is carried is what is held and what its curve added since the value before, whatever flowed. `grown_before` is
    what the curve had added by the value before (0 for one that is noted). An account's opening is no flow: where it comes after
    the value before, `opening_minor` takes it out again.

    >>> settled(Noted(date(2026, 5, 1), 120_000), 0, 105_000), settled(Noted(date(2026, 5, 1), 0, "carried", 1_000), 0, 150_000)
    ((120000, 15000), (151000, 1000))
    """
    if note.grown_minor is None:
        return note.amount_minor, note.amount_minor - held_minor
    amount = held_minor - opening_minor + note.grown_minor - grown_before
    return amount, amount - held_minor


@dataclass(frozen=True)
class Gap:
    """Days for which no value is known: after the value before, until the one after (None while it is open)."""

    before: Noted
    after: Noted | None


def find_gaps(notes: Sequence[Noted], today: date) -> list[Gap]:
    """The stretches longer than a quarter without a value, in order; `notes` are in order of day."""
    gaps = [Gap(one, other) for one, other in pairwise(notes) if (other.day - one.day).days > DAYS_KNOWN]
    if notes and (today - notes[-1].day).days > DAYS_KNOWN:
        gaps.append(Gap(notes[-1], None))
    return gaps


def fill_gap(gap: Gap, way: str, today: date) -> list[Noted]:
    """A value at each month end within a gap: "between" draws a straight line to the value after it, "carried" holds the one
    before. An open gap can only be carried."""
    last = gap.after.day if gap.after else today
    ends = [m.last_day for m in months_between(Month.of(gap.before.day), Month.of(last)) if gap.before.day < m.last_day < last]
    if way == "carried" or gap.after is None:
        return [Noted(end, gap.before.amount_minor, "carried", gap.before.grown_minor or 0) for end in ends]
    line = Terms(curve="straight", curve_until=gap.after.day, curve_last_minor=gap.after.amount_minor)
    return [Noted(end, value_on(line, gap.before, end), "between") for end in ends]
