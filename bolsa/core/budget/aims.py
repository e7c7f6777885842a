"""Aims: how what is expected of a category, and what it holds, become the need of a month. In minor units of home currency.

month by month   need = expected − what is there, not below 0
spread           need(m) = the largest over k = m … m + SPREAD_OVER of ceil((expected(m) + … + expected(k) − there) / (k − m +
1)),
                 not below 0, so that a yearly or half-yearly bill is there when it falls due
build            need = ceil((amount − there) / months left, this one included), or so much a month until it is reached
keep             need = amount − there, not below 0
steady           need = amount, whatever is there

What is there is what was carried in, and what the accounts hold that the aim stands on.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.months import Month
from bolsa.errors import InvalidInput

KINDS = ("month", "spread", "build", "keep", "steady")
SPREAD_OVER = 24  # months ahead that a spread aim looks at
MOST_REPEAT = 120  # months


@dataclass(frozen=True)
class Aim:
    """How a category's needs come about. `amount_minor` is what is built up, kept or given; of a build, `by` is the month at
    whose end it is to be there, or `each_minor` what is given every month until it is; `repeat` after how many months it is to
    be there again (0: never). `since` is the month the aim was set in."""

    kind: str = "month"
    amount_minor: int = 0
    by: Month | None = None
    each_minor: int | None = None
    repeat: int = 0
    since: Month | None = None

    @property
    def grows(self) -> bool:
        """Whether it is about an amount that is to be there, more than about a month's spending."""
        return self.kind in ("build", "keep")

    def due_after(self, month: Month) -> Month | None:
        """The month a build is for next, seen from one: its own, or one so many months on if it repeats. None once it is past,
        and where it has no month."""
        if self.by is None or month <= self.by:
            return self.by
        return month + (self.by - month) % self.repeat if self.repeat else None

    def begins(self, month: Month) -> Month | None:
        """The month from which the build of a month is built up: that of the aim, or the one after it was there before."""
        due = self.due_after(month)
        if due is None or self.by is None or due == self.by:
            return self.since
        return due + (1 - self.repeat)


MONTH_BY_MONTH = Aim()


@dataclass(frozen=True)
class KeptAim:
    """An aim as it is kept: with its day, the accounts it stands on, and its sign or the hash of its picture."""

    aim: Aim = MONTH_BY_MONTH
    by_day: date | None = None
    account_ids: tuple[int, ...] = ()
    mark: str = ""
    sha256: str | None = None


def check_aim(aim: Aim, *, on_accounts: bool = False) -> Aim:
    """The aim, if it can be kept; `on_accounts`, whether it stands on accounts, where an amount below zero is a debt that may
    stay.

    Raises: InvalidInput naming the field.
    """
    if aim.kind not in KINDS:
        raise InvalidInput(f"An aim is one of: {', '.join(KINDS)}.", field="aim")
    if aim.kind in ("build", "keep", "steady") and aim.amount_minor <= 0 and not (on_accounts and aim.grows):
        raise InvalidInput("Say how much, above zero.", field="amount")
    if aim.kind == "build" and (aim.by is None) == (aim.each_minor is None):
        raise InvalidInput("Say by when it is to be there, or how much comes each month.", field="by")
    if aim.each_minor is not None and aim.each_minor <= 0:
        raise InvalidInput("Say how much each month, above zero.", field="each")
    if not 0 <= aim.repeat <= MOST_REPEAT:
        raise InvalidInput(f"It comes again after 1 to {MOST_REPEAT} months.", field="repeat")
    if aim.repeat and aim.by is None:
        raise InvalidInput("Say by when it is to be there for the first time.", field="by")
    return aim


@dataclass(frozen=True)
class Need:
    """What a category should get in a month, as the parts it is made of: what the aim asks for in all, what of it is there
    already (below zero) or missing besides, and what is left to the months after (below zero). `months` is over how many it is
    spread, this one included; `expected_minor` what this month is expected to take."""

    expected_minor: int
    aimed_minor: int
    there_part_minor: int
    later_part_minor: int = 0
    months: int = 1

    @property
    def amount_minor(self) -> int:
        return self.aimed_minor + self.there_part_minor + self.later_part_minor


def need_of(aim: Aim, month: Month, expected: Sequence[int], there_minor: int) -> Need:
    """The need of a month. `expected` are the expected amounts from the month on: one, or those of SPREAD_OVER months more where
    the aim is *spread*.

    >>> [need_of(Aim(), Month(2026, 5), [30_000], there).amount_minor for there in (4_500, 45_000)]
    [25500, 0]
    >>> need_of(Aim("spread"), Month(2026, 5), [0, 129_000], 9_000).amount_minor
    60000
    >>> need_of(Aim("build", 150_000, by=Month(2026, 10)), Month(2026, 5), [0], 30_000).amount_minor
    20000
    """
    this = expected[0]
    if aim.kind == "spread":
        return _spread(expected, there_minor)
    if aim.kind == "keep":
        return _made(this, aim.amount_minor, there_minor, max(0, aim.amount_minor - there_minor))
    if aim.kind == "steady":
        return Need(this, aim.amount_minor, 0)
    if aim.kind == "build":
        return _build(aim, month, this, there_minor)
    return Need(this, this, -min(this, there_minor))


def _spread(expected: Sequence[int], there_minor: int) -> Need:
    total, found = 0, (0, expected[0], 1)
    for months, amount in enumerate(expected, 1):
        if not amount and months > 1:
            continue  # what is no more in all is no larger over more months
        total += amount
        share = _up((total - there_minor), months)
        if share > found[0]:
            found = share, total, months
    need, aimed, months = found
    return _made(expected[0], aimed, there_minor, need, months)


def _build(aim: Aim, month: Month, expected_minor: int, there_minor: int) -> Need:
    missing = max(0, aim.amount_minor - there_minor)
    if aim.each_minor is not None:
        return _made(expected_minor, aim.amount_minor, there_minor, min(aim.each_minor, missing))
    due = aim.due_after(month)
    if due is None:
        return Need(expected_minor, 0, 0)
    months = due - month + 1
    return _made(expected_minor, aim.amount_minor, there_minor, _up(missing, months), months)


def _made(expected_minor: int, aimed_minor: int, there_minor: int, need_minor: int, months: int = 1) -> Need:
    if not need_minor:
        return Need(expected_minor, aimed_minor, -aimed_minor, 0, months)
    return Need(expected_minor, aimed_minor, -there_minor, need_minor - (aimed_minor - there_minor), months)


def _up(amount_minor: int, months: int) -> int:
    """An amount over so many months, rounded up.

    >>> _up(1000, 3), _up(-1000, 3)
    (334, -333)
    """
    return -(-amount_minor // months)
