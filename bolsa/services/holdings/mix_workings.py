"""The workings of the mix: classes, how far they are off, what counts, bands, tax treatments."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.holdings.mix import in_bands, mix_view
from bolsa.services.working_parts import Make, parse_key


def mix_class(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What of the mix is of a class, row by row; of all of them without a key."""
    view = mix_view(db, by)
    wanted = None if key == "all" else parse_key(key)
    if wanted is not None and wanted not in {one.id for one in view.classes}:
        raise NotFound("There is no such figure.")
    parts = [
        Working(row.name, Money(one.minor, view.home), note=view.class_named(one.class_id) if wanted is None else "")
        for row in view.rows
        for one in row.exposures
        if one.class_id == wanted or (wanted is None and one.class_id)
    ]
    return total_of(view.class_named(wanted) if wanted is not None else "The mix", parts, Money(0, view.home))


def mix_off(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """How far a class is from its target: what is of it, less what would be at the target."""
    view = mix_view(db, by)
    line = next((one for one in view.lines if one.of_class.id == parse_key(key)), None)
    if line is None or line.drift_minor is None:
        raise NotFound("There is no such figure.")
    at_target = f"{line.target or 0} % of {Money(view.whole_minor, view.home)}"
    parts = [
        Working("Worth", Money(line.value_minor, view.home), ref=("mix-class", line.of_class.id)),
        Working("At its target", Money(line.drift_minor - line.value_minor, view.home), note=at_target),
    ]
    return total_of(f"{line.of_class.name}, off its target", parts, Money(0, view.home))


def mix_yearly(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a year costs: twelve times the mean of the last full months."""
    view = mix_view(db, by)
    mean = Money(view.yearly_minor // 12, view.home)
    note = f"the mean of {view.months_counted} full months"
    return total_of(
        "A year at the usual spending", [Working(f"Month {n}", mean, note=note) for n in range(1, 13)], Money(0, view.home)
    )


def mix_row(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a row of the mix is worth, class by class."""
    view = mix_view(db, by)
    row = next((one for one in view.rows if one.key == key), None)
    if row is None:
        raise NotFound("There is no such figure.")
    parts = [Working(view.class_named(one.class_id), Money(one.minor, view.home)) for one in row.exposures]
    return total_of(row.name, parts, Money(0, view.home), ref=("account", row.account.id))


def mix_taxed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What of a class is taxed one way, row by row; the key is such as "2.Taxed"."""
    class_text, _, treatment = key.partition(".")
    view, class_id = mix_view(db, by), parse_key(class_text)
    parts = [
        Working(row.name, Money(one.minor, view.home))
        for row in view.rows
        for one in row.exposures
        if one.class_id == class_id and one.treatment == treatment
    ]
    if not parts:
        raise NotFound("There is no such figure.")
    return total_of(f"{view.class_named(class_id)}, {treatment or 'not said how taxed'}", parts, Money(0, view.home))


def mix_needed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a band asks for: its years at the usual spending."""
    view = mix_view(db, by)
    band = next((one for one in view.bands if one.key == key and one.needed_minor is not None), None)
    if band is None:
        raise NotFound("There is no such figure.")
    year = Money(view.yearly_minor, view.home)
    parts = [Working(f"Year {band.first_year + n}", year, ref=("mix-yearly", "all")) for n in range(1, (band.years or 0) + 1)]
    return total_of(f"{key.capitalize()}: what its years ask for", parts, Money(0, view.home))


def mix_short(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a band lacks: what it asks for, less what is meant for it."""
    view = mix_view(db, by)
    band = next((one for one in view.bands if one.key == key and one.short_minor), None)
    if band is None:
        raise NotFound("There is no such figure.")
    there = [
        Working(row.name, Money(-one.minor, view.home), note=view.class_named(one.class_id))
        for of_band, row, one in in_bands(view.rows, view.classes)
        if of_band == key
    ]
    asked = Working("Asked for", Money(band.needed_minor or 0, view.home), ref=("mix-needed", key))
    return total_of(f"{key.capitalize()}: what is lacking", [asked, *there], Money(0, view.home))


WORKINGS: dict[str, Make] = {
    "mix-class": mix_class, "mix-off": mix_off, "mix-yearly": mix_yearly, "mix-row": mix_row, "mix-taxed": mix_taxed,
    "mix-needed": mix_needed, "mix-short": mix_short,
}  # fmt: skip
