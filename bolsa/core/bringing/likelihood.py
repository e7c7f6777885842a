"""How likely a row and a booking that is here are one: the weights by which rows are assigned (matching.py).

Source: the log likelihood ratio of "one booking, told twice" against "two bookings"; the single costs are judgements, tried on
households with known truth by `bolsa bench --identity`.
"""

import re
from bisect import bisect_left, bisect_right
from calendar import monthrange
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from functools import lru_cache

from bolsa.core.bringing.bookings import Booking, Here, OpenLine, Source, Told, Verdict
from bolsa.core.bringing.coverage import DAYS_MOVED, Habit, cost_of_missing
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import clean_text, likeness

DAYS_APART = 6  # what is typed when it is bought reaches the statement within a slow long weekend, and before a week is over
DAYS_APART_UNLIKE = 4  # the same, where the words differ
DAYS_TO_BOOK = 10  # from announced to booked
DAYS_SAME_ID = 10  # a bank may move a booking's day; beyond that the id was given out again
LIKE_ENOUGH = 60
LIKE_SURELY = 85

_OTHER_WORDS = 2.5  # costs, in −ln of a likelihood
_SOME_WORDS = 0.8
_NEAR_WORDS = 0.3
_OTHER_ID = 2.0
_SAME_ID = -6.0
_ONE_PAID_DAY = 0.3
_OTHER_PAID_DAY = 1.5
_MOVED_FAR = 6.0
_TYPED_UNTOLD = 5.0  # a typed entry the bank never tells of is rare
_TYPED_DAY = 0.35
_TYPED_OTHER_WORDS = 4.2
_ANNOUNCED_UNBOOKED = 6.0  # what was announced is booked but for one in hundreds
_ANNOUNCED_DAY = 0.25
_FAR_SIDE_WORDS = 0.3  # the far side of a transfer bears the other account's words
_RARE, _ROUND, _TWICE = 3.0, 1.5, 0.5  # what one amount in two places speaks for
ROUND_MINOR = 500  # multiples of five are common
FEWEST_SEEN = 3  # bookings both sources surely tell, before they say how the days of the two lie
PERCENT_OFF_PAYSLIP = 2
NEAR = 7  # days in which an amount is counted


_DAY_IN_WORDS = re.compile(r"(?<![\d./-])(\d{1,2})[./-](\d{1,2})(?![\d])")


class PairWeights:
    """What each pair of a row and a booking or open line weighs: its cost, less what it would cost to leave both alone."""

    def __init__(self, rows: Sequence[BroughtRow], here: Here, source: Source, known: Mapping[int, Verdict]):
        self.source, self.covered = source, here.covered
        self.days_of_rows = _days_by_amount((row.amount_minor, row.day) for row in rows)
        self.days_here = _days_by_amount(
            [(told.amount_minor, told.day) for one in here.bookings for told in one.told[:1]]
            + [(line.amount_minor, line.day) for line in here.open_lines]
        )
        self.seen: dict[str, list[tuple[date, date]]] = defaultdict(list)
        self.elsewhere = _days_elsewhere(here.bookings, source.layout)
        self._learn(rows, here.bookings, known)
        self.habits: dict[str, Habit] = {}
        self.missing_here: dict[date, float] = {}

    def _learn(self, rows: Sequence[BroughtRow], bookings: Sequence[Booking], known: Mapping[int, Verdict]) -> None:
        """Notes how the days of sources lie beside each other: of amounts that both tell once near a day, in like words."""
        by_key = {one.key: one for one in bookings}
        by_amount: dict[int, list[Booking]] = defaultdict(list)
        for one in bookings:
            by_amount[one.told[0].amount_minor].append(one)
        for i, row in enumerate(rows):
            verdict = known.get(i)
            if verdict and (booking := by_key.get(verdict.known_id or 0)):
                pairs = [(told, row) for told in booking.told]
            elif verdict or self._most_near(row.amount_minor, row.day) != 1:
                continue
            else:
                near = (one for one in by_amount.get(row.amount_minor, ()) if _days_between(one, row) <= DAYS_MOVED)
                pairs = [(told, row) for one in near for told in one.told if likeness(told.text, row.raw_text) >= LIKE_ENOUGH]
            for told, _ in pairs:
                self.seen[told.layout].append((told.day, row.day))

    def _habit(self, layout: str) -> Habit:
        if layout not in self.habits:
            seen = self.seen[layout] if len(self.seen[layout]) >= FEWEST_SEEN else ()
            elsewhere = self.elsewhere.get(layout, ()) if layout != self.source.layout else ()
            self.habits[layout] = Habit(is_same_layout=layout == self.source.layout, seen=seen, elsewhere=elsewhere)
        return self.habits[layout]

    def _most_near(self, amount_minor: int, day: date) -> int:
        """How often the amount is told near a day, by the rows or here, whichever is more."""
        return max(_count_near(days.get(amount_minor, ()), day) for days in (self.days_of_rows, self.days_here))

    def _by_chance(self, amount_minor: int, day: date) -> float:
        """What it speaks for a pair that both are of this amount."""
        times = self._most_near(amount_minor, day)
        if times == 1:
            return _ROUND if amount_minor % ROUND_MINOR == 0 else _RARE
        return _TWICE if times == 2 else 0.0

    def weigh(self, rows: Sequence[BroughtRow], bookings: Sequence[Booking], lines: Sequence[OpenLine]) -> list[dict[int, float]]:
        """For each row, by the place of a booking or, behind those, of an open line: the weight of that pair."""
        by_amount: dict[int, list[int]] = defaultdict(list)
        for place, booking in enumerate(bookings):
            for amount in booking.amounts:
                by_amount[amount].append(place)
        lines_by_amount: dict[int, list[int]] = defaultdict(list)
        for place, line in enumerate(lines):
            lines_by_amount[line.amount_minor].append(place)
        any_payday = any(line.is_payday for line in lines)
        weights: list[dict[int, float]] = []
        for row in rows:
            found: dict[int, float] = {}
            for place in by_amount.get(row.amount_minor, ()):
                if (weight := self._of_booking(row, bookings[place])) is not None:
                    found[place] = weight
            for place in lines_by_amount.get(row.amount_minor, ()):
                if (weight := self._of_line(row, lines[place])) is not None:
                    found[len(bookings) + place] = weight
            for place, line in enumerate(lines) if any_payday else ():
                if line.is_payday and (weight := _of_payday(row, line)) is not None:
                    found[len(bookings) + place] = weight
            weights.append(found)
        return weights

    def _of_booking(self, row: BroughtRow, booking: Booking) -> float | None:
        if booking.left_out and any(_has_other_id(row, told, self.source.layout) for told in booking.told):
            return None  # what was left out is that row alone, and not another like it
        costs = [
            (cost, told)
            for told in booking.told
            if told.amount_minor == row.amount_minor and (cost := self._cost(row, told)) is not None
        ]
        if not costs:
            return None
        cost, told = min(costs, key=lambda one: one[0])
        habit = self._habit(told.layout)
        covered = max((habit.covered(one, told.day, is_here=False) for one in self.source.stretches), default=0.0)
        left_here = cost_of_missing(covered)
        return cost - self._left_over(row.day) - left_here - self._by_chance(row.amount_minor, row.day)

    def _left_over(self, day: date) -> float:
        """What it costs that no other source told of a row of this day."""
        if day not in self.missing_here:
            covered = (self._habit(one.layout).covered(one, day, is_here=True) for one in self.covered)
            self.missing_here[day] = cost_of_missing(max(covered, default=0.0))
        return self.missing_here[day]

    def _cost(self, row: BroughtRow, told: Told) -> float | None:
        """−ln of how likely one booking is told once so and once so; None if never."""
        same_source = told.layout == self.source.layout
        is_same_id = same_source and bool(row.bank_ref) and row.bank_ref == told.bank_ref
        days = (row.day - told.day).days
        costs = [self._habit(told.layout).cost(told.day, row.day)]
        paid_here, paid_there = (
            find_paid_day(one.day, one.value_day, words) for one, words in ((row, row.raw_text), (told, told.text))
        )
        if paid_here and paid_there:
            if paid_here == paid_there:
                costs.append(_ONE_PAID_DAY)
            else:
                costs = [cost + _OTHER_PAID_DAY for cost in costs if cost is not None]
        elif row.day == paid_there or paid_here == told.day:
            costs.append(_ONE_PAID_DAY * 2)
        if is_same_id and abs(days) <= DAYS_SAME_ID:
            costs.append(_MOVED_FAR)
        day_cost = min((cost for cost in costs if cost is not None), default=None)
        if day_cost is None:
            return None
        if is_same_id and not days:
            return day_cost + _SAME_ID
        ids = _OTHER_ID if same_source and row.bank_ref and told.bank_ref and not is_same_id else 0.0
        return day_cost + ids + _cost_of_words(row.raw_text, told.text)

    def _of_line(self, row: BroughtRow, line: OpenLine) -> float | None:
        paid = find_paid_day(row.day, row.value_day, row.raw_text) or row.day
        apart = min(abs((line.day - row.day).days), abs((line.day - paid).days))
        if line.is_announced:
            return _of_announced(row, line, apart)
        if apart > DAYS_APART:
            return None
        cost = _TYPED_DAY * apart - _TYPED_UNTOLD
        if likeness(line.payee, row.raw_text) >= LIKE_ENOUGH:
            return cost
        if apart > DAYS_APART_UNLIKE:
            return None
        if line.is_far_side:
            return cost + _FAR_SIDE_WORDS
        return cost + _TYPED_OTHER_WORDS - (self._by_chance(row.amount_minor, row.day) if apart <= 1 else 0.0)


def _days_elsewhere(bookings: Sequence[Booking], but_of: str) -> dict[str, list[tuple[date, date]]]:
    """By layout: its days beside those that further ones give for the same bookings, a layout at hand aside."""
    found: dict[str, list[tuple[date, date]]] = defaultdict(list)
    for booking in bookings:
        for told in booking.told:
            found[told.layout] += [(told.day, other.day) for other in booking.told if other.layout not in (told.layout, but_of)]
    return found


def _has_other_id(row: BroughtRow, told: Told, layout: str) -> bool:
    return told.layout == layout and bool(row.bank_ref) and bool(told.bank_ref) and row.bank_ref != told.bank_ref


@lru_cache(20_000)
def find_paid_day(day: date, value_day: date | None, words: str) -> date | None:
    """The day something was paid, where a source tells it beside the booking day: in its words, or as another value day.

    >>> find_paid_day(date(2026, 3, 16), None, "CARD PURCHASE GREBE GROCER 0093 12/03")
    datetime.date(2026, 3, 12)
    """
    found = set()
    for one, other in _DAY_IN_WORDS.findall(words):
        for number, month in ((int(one), int(other)), (int(other), int(one))):
            for year in (day.year, day.year - 1):
                if 1 <= month <= 12 and 1 <= number <= monthrange(year, month)[1]:
                    said = date(year, month, number)
                    if 0 <= (day - said).days <= DAYS_SAME_ID:
                        found.add(said)
    if len(found) == 1:
        return found.pop()
    return value_day if value_day and value_day != day else None


def _of_payday(row: BroughtRow, line: OpenLine) -> float | None:
    """The weight of a deposit that is not quite what the payslip said."""
    apart, off = abs((line.day - row.day).days), abs(row.amount_minor - line.amount_minor)
    if not off or apart > DAYS_APART or off * 100 > PERCENT_OFF_PAYSLIP * abs(line.amount_minor):
        return None
    return _TYPED_DAY * apart - _TYPED_UNTOLD + (0.0 if likeness(line.payee, row.raw_text) >= LIKE_ENOUGH else _SOME_WORDS)


def _of_announced(row: BroughtRow, line: OpenLine, apart: int) -> float | None:
    if apart > DAYS_TO_BOOK:
        return None
    if row.bank_ref and row.bank_ref == line.bank_ref:
        return _SAME_ID
    if likeness(line.payee, row.raw_text) < LIKE_ENOUGH:
        return None
    return _ANNOUNCED_DAY * apart - _ANNOUNCED_UNBOOKED


def _cost_of_words(one: str, other: str) -> float:
    if in_one_form(one) == in_one_form(other):
        return 0.0
    alike = likeness(one, other)
    return _NEAR_WORDS if alike >= LIKE_SURELY else _SOME_WORDS if alike >= LIKE_ENOUGH else _OTHER_WORDS


def in_one_form(text: str) -> str:
    """A bank's words in the form in which they are compared letter by letter."""
    return clean_text(text).casefold()


def _days_by_amount(found: Iterable[tuple[int, date]]) -> dict[int, list[int]]:
    days: dict[int, list[int]] = defaultdict(list)
    for amount_minor, day in found:
        days[amount_minor].append(day.toordinal())
    for one in days.values():
        one.sort()
    return days


def _count_near(days: Sequence[int], day: date) -> int:
    middle = day.toordinal()
    return bisect_right(days, middle + NEAR) - bisect_left(days, middle - NEAR)


def _days_between(booking: Booking, row: BroughtRow) -> int:
    return min(abs((told.day - row.day).days) for told in booking.told)
