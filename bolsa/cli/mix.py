"""Commands about the mix of what is held, and for which years it is meant."""

import argparse
from collections.abc import Iterator
from fractions import Fraction

from bolsa.cli.common import Commands, household, show
from bolsa.core.money import decimal_text
from bolsa.services.holdings import mix


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    commands.add("mix", run_mix, as_json=True)
    commands.add("bands", run_bands, as_json=True)


def run_mix(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        view = mix.mix_view(db, by)

    def text(minor: int | None) -> str | None:
        return decimal_text(minor, view.home) if minor is not None else None

    classes = [
        {"class": line.of_class.name, "value": text(line.value_minor), "percent": f"{float(line.percent):.4f}",
         "target": str(line.target) if line.target is not None else None, "off_points": _points(line.drift_points),
         "off": text(line.drift_minor), "next": text(view.next_parts[line.of_class.id]) if view.next_parts else None}
        for line in view.lines
    ]  # fmt: skip
    moves = [
        {
            "taxed": move.treatment,
            "sell": view.class_named(move.from_id),
            "buy": view.class_named(move.to_id),
            "amount": text(move.minor),
        }
        for move in view.moves or ()
    ]
    value = {
        "currency": view.home, "total": text(view.whole_minor), "not_said": text(view.unsaid_minor), "classes": classes,
        "contribution": text(view.plan.contribution_minor), "needed": text(view.needed_minor), "months": view.months,
        "sales": moves,
    }  # fmt: skip

    def lines() -> Iterator[str]:
        for one in classes:
            off = f"target {one['target'] or 'none'}, off by {one['off'] or '?'}"
            yield f"{one['class']:<22}{one['value']:>14}{one['percent']:>10} %  {off}"

    show(options, value, lines())


def _points(points: Fraction | None) -> str | None:
    return f"{float(points):.4f}" if points is not None else None


def run_bands(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        view = mix.mix_view(db, by)

    def text(minor: int | None) -> str | None:
        return decimal_text(minor, view.home) if minor is not None else None

    found = [
        {"band": band.key, "first_year": band.first_year, "years": band.years, "there": text(band.there_minor),
         "needed": text(band.needed_minor), "short": text(band.short_minor),
         "mix": {view.class_named(class_id): text(minor) for class_id, minor in band.by_class.items() if minor}}
        for band in view.bands
    ]  # fmt: skip
    locked = [
        {"name": rung.name, "free_on": rung.free_on.isoformat() if rung.free_on else None,
         "ends_on": rung.ends_on.isoformat() if rung.ends_on else None, "amount": text(rung.minor)}
        for rung in view.ladder
    ]  # fmt: skip
    value = {"currency": view.home, "yearly": text(view.yearly_minor), "bands": found, "locked": locked}
    show(
        options,
        value,
        (f"{one['band']:<8}{one['there']:>14} of {one['needed'] or 'no sum'}, short {one['short']}" for one in found),
    )
