"""The mix and the bands of what is held, read from the books; what would bring them to their targets; what is said of them."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.terms import Terms
from bolsa.core.holdings import mix
from bolsa.core.holdings.bands import Band, Rung, band_of, bands, ladder
from bolsa.core.holdings.mix import BANDS, UNSAID, WHOLE, AssetClass, Exposure, MixLine, MixPlan, Move
from bolsa.core.house.kept import Member
from bolsa.core.units import Money
from bolsa.core.worth.rates import rate_on
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services.answers.answers import normal_month
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings.book import Book, holdings_on
from bolsa.store.accounts import accounts, terms
from bolsa.store.connection import reading
from bolsa.store.holdings import mixes
from bolsa.store.house import household

BY_KIND = {"share": 1, "fund": 1, "bond": 2}  # the classes of 0010_mix.sql that stand for a kind until something else is said
CASH = 3
MONTHS = 12  # of which the normal month is the mean
TAXED_LAST = ("Taxed", "Taxed each year")
MOST_NAME = 40


@dataclass(frozen=True)
class MixRow:
    """Something that counts in the mix: its parts (its own, or its kind's: `is_said` tells), its band and how that came."""

    key: str
    name: str
    account: Account
    security_id: int | None
    minor: int
    parts: Mapping[int, Decimal]
    is_said: bool
    band: str
    hand: str
    free_on: date | None
    exposures: tuple[Exposure, ...]


@dataclass(frozen=True)
class MixView:
    """The mix of today: its classes with drift, what is of no class, what the next contribution would do, what sales would; and
    the bands."""

    home: str
    classes: tuple[AssetClass, ...]
    lines: tuple[MixLine, ...]
    rows: tuple[MixRow, ...]
    unsaid_minor: int
    plan: MixPlan
    members: tuple[Member, ...]
    age: int | None
    next_parts: Mapping[int, int] | None
    months: int | None
    needed_minor: int | None
    moves: tuple[Move, ...] | None
    treatments: Mapping[tuple[str, int], int]
    yearly_minor: int
    months_counted: int
    bands: tuple[Band, ...]
    ladder: tuple[Rung, ...]
    others: tuple[Account, ...]

    @property
    def whole_minor(self) -> int:
        return sum(line.value_minor for line in self.lines)

    @property
    def worst(self) -> MixLine | None:
        """The class farthest from its target."""
        known = [line for line in self.lines if line.drift_points is not None and line.drift_minor]
        return max(known, key=lambda line: abs(line.drift_minor or 0), default=None)

    @property
    def born(self) -> int | None:
        """The year of birth that formulas go by."""
        return next((one.birth_year for one in self.members if one.id == self.plan.aged_id), None)

    def class_named(self, class_id: int) -> str:
        return next((one.name for one in self.classes if one.id == class_id), "Not said")


def mix_view(db: sqlite3.Connection, by: By, book: Book | None = None) -> MixView:
    """What the page of mix and bands shows; `book` is what is held today, where it is known already."""
    with reading(db):
        home = household.get_household(db).home_currency
        classes, plan, members = mixes.list_classes(db), mixes.get_plan(db), household.list_members(db)
        rows, others = _rows(db, book or holdings_on(db, by.today), plan, classes)
        normal = normal_month(db, by, "group", MONTHS, ())
        rungs = _rungs(db, rows)
    age = _age(members, plan, by.today)
    exposures = [exposure for row in rows for exposure in row.exposures]
    values = mix.values_by_class(classes, exposures)
    weights, wanted = mix.weights_of(classes, age), mix.wanted_minor(classes, values, age)
    needed = mix.needed_minor(values, weights) if weights else None
    treatments: dict[tuple[str, int], int] = {}
    for exposure in exposures:
        place = (exposure.treatment, exposure.class_id)
        treatments[place] = treatments.get(place, 0) + exposure.minor
    yearly = normal.mean(normal.answer.whole) * 12
    return MixView(
        home, tuple(classes), tuple(mix.mix_lines(classes, exposures, age)), tuple(rows),
        sum(one.minor for one in exposures if one.class_id == UNSAID), plan, tuple(members), age,
        mix.share_contribution(values, weights, plan.contribution_minor) if weights and plan.contribution_minor else None,
        mix.months_needed(needed, plan.contribution_minor) if weights else None, needed,
        tuple(mix.moves_with_sales(exposures, wanted, TAXED_LAST)) if wanted else None, treatments, yearly, len(normal.months),
        bands([(band, one) for band, _, one in in_bands(rows, classes)], plan.near_years, plan.middle_years, yearly),
        tuple(ladder(rungs, by.today)), tuple(others),
    )  # fmt: skip


def in_bands(rows: Sequence[MixRow], classes: Sequence[AssetClass]) -> list[tuple[str, MixRow, Exposure]]:
    """Every part of a row in its band: its row's, where that is set by hand or by a day; a mixed fund lies in those of its
    classes."""
    bands_of = {one.id: one.band for one in classes}
    return [
        (row.band if row.hand or row.free_on else bands_of.get(one.class_id, row.band), row, one)
        for row in rows
        for one in row.exposures
    ]


def _age(members: Sequence[Member], plan: MixPlan, today: date) -> int | None:
    born = next((one.birth_year for one in members if one.id == plan.aged_id), None)
    return today.year - born if born else None


def _rows(db: sqlite3.Connection, book: Book, plan: MixPlan, classes: Sequence[AssetClass]) -> tuple[list[MixRow], list[Account]]:
    """Everything that counts, the largest first; and the accounts one may count too."""
    of_securities, of_accounts = mixes.list_parts(db)
    by_hand, own_terms = mixes.list_bands(db), terms.list_terms(db)
    treated = treatments(db)
    ids = {one.id for one in classes}
    bands_of = {one.id: one.band for one in classes}
    found, seen = [], set()

    def add(key: str, name: str, account: Account, security_id: int | None, minor: int, said: Mapping[int, Decimal] | None,
            usual: int, free_on: date | None) -> None:  # fmt: skip
        parts = said if said is not None else {usual: WHOLE} if usual in ids else {}
        hand = by_hand.get((account.id, security_id), "")
        largest = max(parts, key=lambda id_: parts[id_], default=UNSAID)
        band = band_of(hand, free_on, bands_of.get(largest), book.day, plan.near_years, plan.middle_years)
        exposures = tuple(mix.divide(key, minor, parts, treated.get(account.id, "")))
        found.append(MixRow(key, name, account, security_id, minor, parts, said is not None, band, hand, free_on, exposures))

    for row in book.rows:
        if row.is_sold_out or not row.home_minor:
            continue
        seen.add(row.account.id)
        if row.security is not None:
            name = f"{row.name}, {row.account.name}"
            add(row.key, name, row.account, row.security.id, row.home_minor, of_securities.get(row.security.id),
                BY_KIND.get(row.security.kind, UNSAID), row.security.matures_on)  # fmt: skip
        elif row.is_cash:
            add(row.key, f"Cash, {row.account.name}", row.account, None, row.home_minor, None, CASH, None)
        else:
            usual = CASH if row.account.kind == "deposit" else UNSAID
            add(row.key, row.account.name, row.account, None, row.home_minor, of_accounts.get(row.account.id), usual,
                _free_on(own_terms.get(row.account.id)))  # fmt: skip
    others = []
    for account, minor in _other_accounts(db, book.day, seen):
        if account.id in of_accounts:
            add(f"{account.id}-all", account.name, account, None, minor, of_accounts[account.id], UNSAID, None)
        else:
            others.append(account)
    return sorted(found, key=lambda row: (-row.minor, row.name)), others


def _free_on(own: Terms | None) -> date | None:
    return (own.matures_on or own.free_on) if own else None


def treatments(db: sqlite3.Connection) -> dict[int, str]:
    """By account: how it is taxed, by the household's facet whose name says tax; nothing where there is none."""
    facet = next((id_ for id_, name in terms.list_facets(db).items() if "tax" in name.casefold()), None)
    return {id_: own.get(facet, "") for id_, own in terms.list_facet_values(db).items()} if facet is not None else {}


def _other_accounts(db: sqlite3.Connection, today: date, seen: set[int]) -> list[tuple[Account, int]]:
    """The open accounts one owns that are no holdings, with what they are worth in home currency."""
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    found = []
    for account in accounts.list_accounts(db):
        rate = rate_on(account.currency, today, home, rates)
        if account.id not in seen and account.side == "asset" and account.closed_on is None and rate is not None:
            balance = Money(accounts.sum_balance(db, account.id, today), account.currency)
            found.append((account, rate.convert(balance).minor))
    return found


def _rungs(db: sqlite3.Connection, rows: Sequence[MixRow]) -> list[Rung]:
    own = terms.list_terms(db)
    found = []
    for row in rows:
        mine = own.get(row.account.id)
        if row.security_id is None and mine is not None and (mine.free_on or mine.matures_on):
            found.append(Rung(row.name, mine.free_on, mine.matures_on, row.minor, mine.exit_cost_minor))
        elif row.security_id is not None and row.free_on is not None:
            found.append(Rung(row.name, None, row.free_on, row.minor, None))
    return found


def get_row(db: sqlite3.Connection, by: By, key: str) -> MixRow:
    """One row of the mix, or an account that may be counted. Raises: NotFound."""
    view = mix_view(db, by)
    found = next((row for row in view.rows if row.key == key), None)
    other = next((one for one in view.others if f"{one.id}-all" == key), None)
    if found is None and other is not None:
        minor = next(amount for account, amount in _other_accounts(db, by.today, set()) if account.id == other.id)
        return MixRow(key, other.name, other, None, minor, {}, False, "far", "", None, ())
    if found is None:
        raise NotFound("There is nothing of that in the mix.")
    return found


# --- what is said -----------------------------------------------------------------------------------------------------


def say_parts(db: sqlite3.Connection, by: By, key: str, parts: Mapping[int, Decimal], band: str = "") -> Done:
    """Says what a security, or an account, is made of, and for which years it is meant. A security's parts hold wherever it lies.

    Raises: InvalidInput unless the parts make a hundred per cent, or there are none: then they are its kind's again.
    """
    with change(db, by) as done:
        row = get_row(db, by, key)
        kept = {class_id: percent for class_id, percent in parts.items() if percent}
        if kept and sum(kept.values()) != WHOLE:
            raise InvalidInput(f"The parts make {sum(kept.values())} per cent, not 100.", field="parts")
        if band and band not in BANDS:
            raise InvalidInput("Choose near, middle or far.", field="band")
        done.sentence = f"Said what {row.name} is made of"
        if row.security_id is not None:
            mixes.put_parts(db, kept, security_id=row.security_id)
        elif not key.endswith("-cash"):
            mixes.put_parts(db, kept, account_id=row.account.id)
        if band != row.hand:
            mixes.put_band(db, row.account.id, row.security_id, band)
    return done


def say_classes(db: sqlite3.Connection, by: By, typed: Sequence[AssetClass]) -> Done:
    """Keeps the classes as they are typed; one with the id 0 is new, one that is not among them goes.

    Raises: InvalidInput naming the field of a class, or where targets make more or less than a hundred per cent.
    """
    with change(db, by) as done:
        members, plan = household.list_members(db), mixes.get_plan(db)
        _check_classes(typed, _age(members, plan, by.today))
        done.sentence = "Set the classes and their targets"
        kept = {one.id for one in mixes.list_classes(db)}
        if any(one.id and one.id not in kept for one in typed):
            raise Conflict("A class was taken out meanwhile. Look again.")
        for class_id in kept - {one.id for one in typed}:
            mixes.remove_class(db, class_id)
        for at, one in enumerate(typed, 1):
            placed = replace(one, position=at)
            if one.id:
                mixes.change_class(db, placed)
            else:
                mixes.insert_class(db, placed)
    return done


def _check_classes(typed: Sequence[AssetClass], age: int | None) -> None:
    names = [one.name.casefold() for one in typed]
    for one in typed:
        if not one.name or len(one.name) > MOST_NAME or names.count(one.name.casefold()) > 1:
            raise InvalidInput(f"Every class has a name of its own, of up to {MOST_NAME} letters.", field=f"name-{one.id}")
        if one.band not in BANDS:
            raise InvalidInput("Choose near, middle or far.", field=f"band-{one.id}")
        mix.target_percent(one.target, age, f"target-{one.id}")
    _check_targets(typed, age)


def _check_targets(typed: Sequence[AssetClass], age: int | None) -> None:
    if not any(one.target for one in typed):
        return
    if age is None and any("age" in one.target.casefold() for one in typed):
        raise InvalidInput("Say first whose age the formula goes by, and the year of birth.", field="target")
    whole = sum((mix.target_percent(one.target, age) or Decimal(0) for one in typed), Decimal(0))
    if whole != WHOLE:
        raise InvalidInput(f"The targets make {whole} per cent, not 100.", field="target")


def say_plan(db: sqlite3.Connection, by: By, plan: MixPlan, birth_year: int | None = None) -> Done:
    """Keeps how long the bands are, what is put in a month, and whose age counts."""
    with change(db, by) as done:
        for name, years in (("near_years", plan.near_years), ("middle_years", plan.middle_years)):
            if not 0 <= years <= 60:
                raise InvalidInput("A band is of 0 to 60 years.", field=name)
        if plan.contribution_minor < 0:
            raise InvalidInput("What is put in is zero or more.", field="contribution")
        if birth_year is not None and not 1850 <= birth_year <= by.today.year:
            raise InvalidInput("A year of birth is like 1984.", field="birth_year")
        done.sentence = "Set the bands and what is put in"
        mixes.change_plan(db, plan)
        if plan.aged_id is not None and birth_year is not None:
            mixes.change_birth_year(db, plan.aged_id, birth_year)
        aged = _age(household.list_members(db), plan, by.today)
        _check_targets(mixes.list_classes(db), aged)
    return done
