"""Measuring Bolsa: each figure as a time, as a ratio to the least that does the same work, and as growth with the household.

Everything is measured in one run on one machine, so that the ratios mean something where the times do not. Times are the middle
of several; a figure taken while the machine was busy with something else is marked. Begin with `run`; the households are made
in household.py and holdings.py, the measures stand in pages.py (what a page reads), sorting.py, served.py (the 95th percentile
of whole pages) and imports.py.
"""

import json
import random
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from bolsa.bench import imports, pages, served, sorting
from bolsa.bench.holdings import TRADES, build_holder
from bolsa.bench.household import build
from bolsa.bench.timing import Machine
from bolsa.services.clock import By
from bolsa.services.house import files

Measure = Callable[[sqlite3.Connection, By], tuple[Any, ...]]
MEASURES: dict[str, Measure] = pages.MEASURES | sorting.MEASURES | served.MEASURES | imports.MEASURES
HOLDING_MEASURES: dict[str, Measure] = dict(served.HOLDING_MEASURES)


@dataclass(frozen=True)
class Figure:
    """One measured thing at one size (entries, or trades): milliseconds or lines a second (the middle of several), and times the
    floor's; whether the machine was busy."""

    name: str
    size: int
    value: float
    ratio: float | None
    unit: str
    busy: bool
    counted: str = "entries"


def run(sizes: list[int], *, as_json: bool) -> None:
    """Measures every size and prints the figures as they come, then how each grew from the smallest to the largest."""
    machine = Machine()
    figures: list[Figure] = []
    with tempfile.TemporaryDirectory() as folder:
        for size in sizes:
            with closing(files.make_file(Path(folder) / f"{size}.bolsa")) as db:
                by = build(db, size)
                figures += _measured(machine, _at_rest(db), by, MEASURES, size, "entries", is_said=not as_json)
        with closing(files.make_file(Path(folder) / "holder.bolsa")) as db:
            by = build_holder(db)
            figures += _measured(machine, _at_rest(db), by, HOLDING_MEASURES, TRADES, "trades", is_said=not as_json)
    growth = _growth(figures, sizes)
    if as_json:
        print(json.dumps({"figures": [vars(f) for f in figures], "growth": growth}))
        return
    if len(sizes) > 1:
        print(f"\nGrowth from {sizes[0]:,} to {sizes[-1]:,} entries")
        for name, times in growth.items():
            print(f"  {name:<34} {times:5.2f} ×")
    busy = sum(figure.busy for figure in figures)
    if busy:
        print(f"\nThe machine was busy with something else during {busy} of {len(figures)} figures, marked with a tilde.")


def soak(steps: int, seed: int | None) -> int:
    """Lives households at random beside a model, and says with which seed; 1 if a figure was wrong, which is named."""
    from bolsa.bench.soak import banking, living

    first = random.randrange(10**6) if seed is None else seed  # noqa: S311 (no secret)
    try:
        lived = living.run(steps, first)
    except living.Broken as broken:
        print(f"\n{broken}")
        return 1
    wrong = banking.run(lived, first)
    print(
        f"{lived - len(wrong)} of {lived} households with two faulty banks hold what the banks' own books hold.", *wrong, sep="\n"
    )
    return 1 if wrong else 0


def judge_suggestions(seed: int | None) -> None:
    """Judges suggestions on three noisy households, month by month, and prints the figures of all together."""
    from bolsa.bench import learning

    first = 1 if seed is None else seed
    learning.run([first, first + 1, first + 2])


def identify(households: int, seed: int | None) -> int:
    """Brings one truth in through files of six layouts, in so many households; 1 if a booking is there twice, or lost."""
    from bolsa.bench.identity import running

    return running.run(households, 1 if seed is None else seed)


def fuzz(minutes: float, seed: int | None) -> int:
    """Sends hostile requests for so long, and says with which seed; 1 if an answer was a mistake of ours."""
    from bolsa.bench.fuzz import running

    return running.run(minutes, random.randrange(10**6) if seed is None else seed)  # noqa: S311 (no secret)


def _at_rest(db: sqlite3.Connection) -> sqlite3.Connection:
    """The household as it is found in the morning: what was written lies in its file, not in the log beside it."""
    db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return db


def _measured(
    machine: Machine, db: sqlite3.Connection, by: By, measures: dict[str, Measure], size: int, counted: str, *, is_said: bool
) -> list[Figure]:
    found = []
    for name, measure in measures.items():
        with machine.watched() as was_busy:
            value, ratio, unit = (*measure(db, by), "ms")[:3]
        found.append(Figure(name, size, value, ratio, unit, was_busy(), counted))
        if is_said:
            print(_line(found[-1]), flush=True)
    return found


def _line(figure: Figure) -> str:
    ratio = f"{figure.ratio:6.1f} × the floor" if figure.ratio else ""
    mark = "~" if figure.busy else " "
    return f"{figure.size:>8,} {figure.counted:<8} {figure.name:<34} {mark}{figure.value:>10,.1f} {figure.unit:<7} {ratio}"


def _growth(figures: list[Figure], sizes: list[int]) -> dict[str, float]:
    by_key = {(f.name, f.size): f.value for f in figures if f.unit == "ms" and f.counted == "entries"}
    names = dict.fromkeys(name for name, _ in by_key)
    return {name: round(by_key[name, sizes[-1]] / by_key[name, sizes[0]], 2) for name in names}
