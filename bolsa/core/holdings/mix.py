"""The mix: what part of all is of which class, how far that is from its target, and what to move to get there.

Parts are exact: what is worth so much is divided by its per cents so that nothing is lost. Targets are per cent of all.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from bolsa.core.money import split_minor
from bolsa.core.percents import PLACES, parse_percent
from bolsa.errors import InvalidInput

BANDS = ("near", "middle", "far")
WHOLE = Decimal(100)
PARTS_A_PERCENT = 10**PLACES
MOST_MONTHS = 1200
UNSAID = 0  # the class of what nobody said a class of
_FORMULA = re.compile(r"(?:(\d{1,3})\s*-\s*)?age(?:\s*([+-])\s*(\d{1,3}))?")


@dataclass(frozen=True)
class AssetClass:
    """A class of the household's; `band` is for which years its money is meant, `target` per cent or a formula of age."""

    id: int
    name: str
    position: int
    band: str
    target: str = ""


@dataclass(frozen=True)
class MixPlan:
    """How long the bands are, what is put in a month, in home currency, and whose age formulas go by."""

    near_years: int = 2
    middle_years: int = 5
    contribution_minor: int = 0
    aged_id: int | None = None


@dataclass(frozen=True)
class Exposure:
    """What of one row is of one class (0: nobody said), in home currency; `treatment` is how it is taxed, by that facet."""

    key: str
    class_id: int
    minor: int
    treatment: str = ""


def target_percent(text: str, age: int | None, field: str = "target") -> Decimal | None:
    """What a target comes to: per cent as they are, or a formula of age, kept from 0 to 100; None where none is set or the age is
    not known. Raises: InvalidInput.

    >>> target_percent("110 - age", 42), target_percent("age", 42), target_percent("", 42), target_percent("age - 10", None)
    (Decimal('68'), Decimal('42'), None, None)
    """
    words = " ".join(text.casefold().split())
    found = _FORMULA.fullmatch(words)
    if not words:
        return None
    if found is None:
        if "age" in words:
            raise InvalidInput("A formula is like “110 - age”, “age” or “age - 10”.", field=field)
        return parse_percent(words, field)
    if age is None:
        return None
    first, sign, more = found.groups()
    value = int(first) - age if first else age
    value += int(more) * (1 if sign == "+" else -1) if more else 0
    return Decimal(max(0, min(100, value)))


def divide(key: str, minor: int, parts: Mapping[int, Decimal], treatment: str = "") -> list[Exposure]:
    """A row's worth by class; what its per cents leave is of no class."""
    weights = {class_id: int(percent * PARTS_A_PERCENT) for class_id, percent in parts.items() if percent}
    rest = 100 * PARTS_A_PERCENT - sum(weights.values())
    if rest > 0:
        weights[UNSAID] = rest
    amounts = split_minor(minor, list(weights.values()))
    return [Exposure(key, class_id, amount, treatment) for class_id, amount in zip(weights, amounts, strict=True)]


@dataclass(frozen=True)
class MixLine:
    """One class: what is of it, what part of all, its target, and how far off: points of per cent, and money (above zero: too
    much)."""

    of_class: AssetClass
    value_minor: int
    percent: Fraction
    target: Decimal | None
    drift_minor: int | None

    @property
    def drift_points(self) -> Fraction | None:
        return self.percent - Fraction(self.target) if self.target is not None else None


def mix_lines(classes: Sequence[AssetClass], exposures: Sequence[Exposure], age: int | None) -> list[MixLine]:
    """Each class with its drift, in the household's order. What is of no class counts in no part: it is said apart."""
    values = values_by_class(classes, exposures)
    whole = sum(values.values())
    wanted = wanted_minor(classes, values, age)
    lines = []
    for one in classes:
        percent = Fraction(values[one.id] * 100, whole) if whole > 0 else Fraction(0)
        drift = values[one.id] - wanted[one.id] if wanted else None
        lines.append(MixLine(one, values[one.id], percent, target_percent(one.target, age), drift))
    return lines


def values_by_class(classes: Sequence[AssetClass], exposures: Sequence[Exposure]) -> dict[int, int]:
    """By class: what is of it."""
    values = {one.id: 0 for one in classes}
    for exposure in exposures:
        if exposure.class_id in values:
            values[exposure.class_id] += exposure.minor
    return values


def weights_of(classes: Sequence[AssetClass], age: int | None) -> dict[int, int] | None:
    """By class: its target in ten-thousandths of per cent; None where targets do not make a hundred per cent."""
    known = {one.id: target_percent(one.target, age) or Decimal(0) for one in classes}
    return {id_: int(value * PARTS_A_PERCENT) for id_, value in known.items()} if sum(known.values()) == WHOLE else None


def wanted_minor(classes: Sequence[AssetClass], values: Mapping[int, int], age: int | None) -> dict[int, int] | None:
    """By class: what would be of it at the targets; they sum to what there is. None without targets of a hundred per cent."""
    weights = weights_of(classes, age)
    whole = sum(values.values())
    if weights is None or whole <= 0:
        return None
    return dict(zip(weights, split_minor(whole, list(weights.values())), strict=True))


def share_contribution(values: Mapping[int, int], weights: Mapping[int, int], amount_minor: int) -> dict[int, int]:
    """How a contribution is divided so that it brings the mix nearer without selling: among the classes that lack something of
    their target once it is there, by what they lack. The parts sum to it, and none goes beyond its target by more than a unit."""
    whole = sum(values.values()) + amount_minor
    wanted = (
        dict(zip(weights, split_minor(whole, list(weights.values())), strict=True)) if whole > 0 else dict.fromkeys(weights, 0)
    )
    lacking = {id_: max(0, wanted[id_] - values[id_]) for id_ in weights}
    if not sum(lacking.values()):
        return dict.fromkeys(weights, 0)
    return dict(zip(lacking, split_minor(amount_minor, list(lacking.values())), strict=True))


def needed_minor(values: Mapping[int, int], weights: Mapping[int, int]) -> int | None:
    """What has to be put in, and nothing sold, until every class is at its target: the largest value / target of any class, less
    what there is. Rounding: up. None where a class without a target holds something, which only a sale can mend."""
    if any(values[id_] > 0 and not weight for id_, weight in weights.items()):
        return None
    most = max(
        (Fraction(values[id_] * 100 * PARTS_A_PERCENT, weight) for id_, weight in weights.items() if weight), default=Fraction(0)
    )
    return max(0, -int(-most // 1) - sum(values.values()))


def months_needed(needed: int | None, monthly_minor: int) -> int | None:
    """In how many months contributions alone bring the mix to its targets; None where they never do."""
    if needed is None or (needed and monthly_minor <= 0):
        return None
    months = -(-needed // monthly_minor) if needed else 0
    return months if months <= MOST_MONTHS else None


@dataclass(frozen=True)
class Move:
    """Money to move from one class to another; `treatment` says where both lie, "" where that is not possible inside one."""

    treatment: str
    from_id: int
    to_id: int
    minor: int


def moves_with_sales(exposures: Sequence[Exposure], wanted: Mapping[int, int], taxed_last: Sequence[str] = ()) -> list[Move]:
    """What to sell and buy so that every class is at its target: each within one tax treatment, those named in `taxed_last` after
    the others, so that as little as can be is sold where a gain is taxed. What is over and what is lacking are met exactly."""
    values: dict[int, int] = dict.fromkeys(wanted, 0)
    there: dict[tuple[str, int], int] = {}
    for exposure in exposures:
        if exposure.class_id in values:
            values[exposure.class_id] += exposure.minor
            place = (exposure.treatment, exposure.class_id)
            there[place] = there.get(place, 0) + exposure.minor
    over = {id_: values[id_] - wanted[id_] for id_ in wanted if values[id_] > wanted[id_]}
    lacking = {id_: wanted[id_] - values[id_] for id_ in wanted if values[id_] < wanted[id_]}
    treatments = sorted({treatment for treatment, _ in there}, key=lambda name: (name in taxed_last, name))
    found = []
    for treatment in treatments:
        for from_id in sorted(over, key=lambda id_: -over[id_]):
            for to_id in sorted(lacking, key=lambda id_: -lacking[id_]):
                minor = min(over[from_id], lacking[to_id], max(0, there.get((treatment, from_id), 0)))
                if minor > 0:
                    found.append(Move(treatment, from_id, to_id, minor))
                    over[from_id] -= minor
                    lacking[to_id] -= minor
                    there[treatment, from_id] -= minor
    return found
