"""How good suggestions are: a household is sorted month by month, each month judged by what was decided before it. One is the
demo; the others are made up, and noisier.

Their payees are written five ways; some shops sell two or three things, told apart by amount, account, cardholder, weekday, day
of month, or not at all; a category is split half way; there are one-offs, and two decisions in a hundred are wrong. Everything
goes through the application's own services, entry by entry. Beside it stands the least one could do: the last category of the
payee.
"""

import random
import sqlite3
import tempfile
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path

from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.ledger.payees import tidy_payee
from bolsa.core.months import Month, months_between
from bolsa.core.sorting.suggestions import Suggestion
from bolsa.demo.run import prepare_demo
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.changes import note
from bolsa.services.clock import By
from bolsa.services.house import files, households, past
from bolsa.services.house.households import Household
from bolsa.services.sorting import categories, learning
from bolsa.store.ledger import payees
from bolsa.store.sorting import categories as filed
from bolsa.store.sorting.categories import UNSORTED

FIRST, MONTHS = Month(2023, 1), 30
TEACHING = 3  # months, of which nothing is judged
CATEGORIES = 28
WRONG = 0.02  # of all decisions
_WORDS = "Heron Tern Plover Skerry Sluice Grebe Lantern Quay Anchor Cormorant Kelp Barley Millstone Gannet Sorrel Bracken Fathom"
_KINDS = "Grocer Bakery Diesel Chandlery Pharmacy Hardware Market Kiosk Books Cafe Wholefoods Tools Garage"
WORDS, KINDS = tuple(_WORDS.split()), tuple(_KINDS.split())
TOWNS = ("PT HALDEN", "NORTHSHORE", "CORVANE", "SALTBY")
CARDS = ("XX4411", "XX7702", "CARD 8035", "CARD 2290")
CERTAIN = 0.9
BY_CHANCE = 9  # of the twelve kinds of payee, the one whose categories nothing tells apart
DECIDED = """
    SELECT a.day, coalesce(nullif(a.raw_text, ''), p.name) AS raw, a.amount_minor, a.account_id, c.category_id
    FROM entry e JOIN payee p ON p.id = e.payee_id JOIN line a ON a.entry_id = e.id AND a.account_id IS NOT NULL
    JOIN line c ON c.entry_id = e.id AND c.account_id IS NULL JOIN category k ON k.id = c.category_id AND k.role IS NULL
    WHERE e.origin = '' AND a.currency = 'EUR' AND (SELECT count(*) FROM line x WHERE x.entry_id = e.id) = 2
    ORDER BY a.day, e.id"""


@dataclass(frozen=True)
class Bought:
    """One entry as it truly is: its day, the bank's words, amount, account and category."""

    day: date
    raw: str
    amount_minor: int
    account: int
    category: int
    shop: str = ""  # its true name; none for what comes once
    is_told: bool = True  # whether anything but chance tells its category


@dataclass
class Judged:
    """What became of the entries that were judged."""

    entries: int = 0
    suggested: int = 0
    right: int = 0
    certain: int = 0
    certain_right: int = 0
    baseline_right: int = 0
    shops: int = 0
    names: int = 0  # that these shops have in the end
    told: int = 0  # whose category the past could tell
    told_right: int = 0
    by_ten: dict[int, list[bool]] = field(default_factory=lambda: defaultdict(list))

    def lines(self) -> Iterator[str]:
        """The figures, in words and per cent."""

        def percent(part: int, whole: int) -> str:
            return f"{100 * part / whole:5.1f} %" if whole else "    –"

        all_, certain = self.entries, self.certain
        yield f"{all_:,} entries"
        yield f"suggested {percent(self.suggested, all_)}, right of these {percent(self.right, self.suggested)}"
        yield f"right of all {percent(self.right, all_)}; the last category of the payee {percent(self.baseline_right, all_)}"
        yield f"certain at {CERTAIN} or more {percent(certain, all_)}, right of these {percent(self.certain_right, certain)}"
        yield f"of {self.told:,} that anything tells, suggested and right {percent(self.told_right, self.told)}"
        if self.shops:
            yield f"a payee written many ways becomes {self.names / self.shops:.2f} names"
        for ten in sorted(self.by_ten):
            found = self.by_ten[ten]
            yield f"  {ten * 10:>3}–{ten * 10 + 10:<3} sure: {percent(sum(found), len(found))} of {len(found)}"


def live(seed: int) -> list[Bought]:
    """A household's entries, in order of day; the same for the same seed."""
    dice = random.Random(seed)  # noqa: S311 (made-up entries)
    found: list[Bought] = []
    names = [f"{word} {kind}" for word in WORDS for kind in KINDS]
    dice.shuffle(names)
    for at, name in enumerate(names[:70]):
        found += _visits(dice, name, at)
    for _ in range(160):  # one-offs
        day = FIRST.first_day + timedelta(days=dice.randrange(30 * MONTHS))
        raw = f"{dice.choice(WORDS)}{dice.randrange(900)} {dice.choice(KINDS)}"
        found.append(
            Bought(day, raw.upper(), -dice.randint(300, 30_000), dice.randrange(3), dice.randrange(CATEGORIES), "", is_told=False)
        )
    return sorted(found, key=lambda one: (one.day, one.raw))


def _visits(dice: random.Random, name: str, at: int) -> list[Bought]:
    """The entries of one payee, with what tells its categories apart."""
    one, other, third = dice.sample(range(CATEGORIES), 3)
    account, often = dice.randrange(3), dice.choice((1, 1, 1, 2, 4, 6))
    ways = _spellings(dice, name)
    cut, half = dice.randint(1_500, 6_000), FIRST + MONTHS // 2
    cards = dice.sample(CARDS, 2)
    tells: Callable[[int, int, date], int] = [
        lambda amount, where, day: one,
        lambda amount, where, day: one,
        lambda amount, where, day: one,
        lambda amount, where, day: one,
        lambda amount, where, day: one if amount < cut else other,
        lambda amount, where, day: one if where == account else other,
        lambda amount, where, day: one if day.weekday() < 5 else other,
        lambda amount, where, day: one if day.day <= 15 else other,
        lambda amount, where, day: other if Month.of(day) >= half else one,
        lambda amount, where, day: dice.choice((one, one, other)),
        lambda amount, where, day: one if amount < cut else other if amount < 2 * cut else third,
        lambda amount, where, day: one,  # told apart by who pays, below
    ][at % 12]
    usual = dice.randint(800, 9_000)
    found = []
    for month in months_between(FIRST, FIRST + (MONTHS - 1)):
        for _ in range(often):
            day = month.day(dice.randint(1, 28))
            amount = usual if at % 7 == 0 else dice.randint(300, 3 * cut)
            where = account if dice.random() < 0.7 else dice.randrange(3)
            raw, category = dice.choice(ways)(day), tells(amount, where, day)
            if at % 12 == 11:
                card = dice.choice(cards)
                raw, category = f"{raw} {card}", one if card == cards[0] else other
            found.append(Bought(day, raw, -amount, where, category, name, is_told=at % 12 != BY_CHANCE))
    return found


def _spellings(dice: random.Random, name: str) -> list[Callable[[date], str]]:
    shop = dice.randrange(10, 9999)
    return [
        lambda day: f"CARD {name.upper()} {shop:04d}",
        lambda day: f"{name.upper()} {dice.choice(TOWNS)} {day:%d/%m}",
        lambda day: f"POS PURCHASE {name.upper()} #{dice.randrange(9999)}",
        lambda day: name,
        lambda day: f"{name.upper()} LTD REF {dice.randrange(10**6)}",
    ]


def demo_past() -> list[Bought]:
    """What the demo household decided on entries of one account and one category, in order of day."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.bolsa"
        prepare_demo(path)
        with closing(files.make_file(path)) as db:
            rows = db.execute(DECIDED).fetchall()
    account_at, category_at = ({id_: at for at, id_ in enumerate(sorted({row[i] for row in rows}))} for i in (3, 4))
    return [
        Bought(date.fromisoformat(day), raw, amount, account_at[account_id], category_at[category_id])
        for day, raw, amount, account_id, category_id in rows
    ]


def judge(bought: list[Bought], wrong: random.Random | None = None) -> Judged:
    """Sorts what was bought month by month, a few of the decisions wrong where there are dice; the first three months only
    teach."""
    found, last = Judged(), dict[str, int]()
    first, until = Month.of(bought[0].day), Month.of(bought[-1].day)
    with tempfile.TemporaryDirectory() as folder, closing(files.make_file(Path(folder) / "judged.bolsa")) as db:
        account_ids, category_ids = _found(db, first, bought)
        for month in months_between(first, until):
            mine = [one for one in bought if Month.of(one.day) == month]
            truth = _bring(db, mine, account_ids)
            suggested = {
                entry.entry_id: (entry, learner.suggest_for(entry))
                for learner in [learning.Learner(db)]
                for entry in filed.list_unsorted(db, most=10_000)
            }
            decided: dict[int, list[int]] = defaultdict(list)
            for entry_id, one in truth.items():
                entry, suggestion = suggested[entry_id]
                right = category_ids[one.category]
                if month >= first + TEACHING:
                    _count(found, suggestion, right, is_last_right=last.get(entry.payee) == right, is_told=one.is_told)
                said = wrong.choice(category_ids) if wrong and wrong.random() < WRONG else right
                last[entry.payee] = said
                decided[said].append(entry_id)
            with note(db):
                for category_id, ids in decided.items():
                    filed.file_unsorted(db, ids, category_id)
        _count_names(db, found, bought)
    return found


def _count_names(db: sqlite3.Connection, found: Judged, bought: list[Bought]) -> None:
    """How many names each shop has that was written many ways, after joining."""
    learner = learning.Learner(db)
    ids = {one.name.casefold(): one.id for one in payees.list_payees(db)}
    names: dict[str, set[int]] = defaultdict(set)
    for one in bought:
        if one.shop:
            names[one.shop].add(learner.shop_of(ids[tidy_payee(one.raw).casefold()]))
    found.shops += len(names)
    found.names += sum(map(len, names.values()))


def _found(db: sqlite3.Connection, first: Month, bought: list[Bought]) -> tuple[list[int], list[int]]:
    """A household with as many accounts and categories; their ids."""
    by = By(first.first_day, f"{first.first_day}T12:00:00Z")
    households.make_household(db, by, Household("Judged", "EUR", "UTC", by.today), ["Ada"], starter="")
    many = max(one.account for one in bought) + 1
    account_ids = [
        accounts.add_account(db, by, NewAccount(f"Account {n}", "current", opened_on=by.today)).made for n in range(many)
    ]
    many = max(one.category for one in bought) + 1
    return account_ids, [categories.add_category(db, by, f"Group {n // 7}", f"Category {n}").made for n in range(many)]


def _bring(db: sqlite3.Connection, mine: list[Bought], account_ids: list[int]) -> dict[int, Bought]:
    """A month's entries as a bank brings them: unsorted, with tidied payees."""
    written = []
    for one in mine:
        line = Line(one.amount_minor, "EUR", account_id=account_ids[one.account], day=one.day, state="cleared", raw_text=one.raw)
        waits = Line(-one.amount_minor, "EUR", category_id=UNSORTED, day=one.day)
        written.append(Entry(one.day, tidy_payee(one.raw), (line, waits)))
    made = past.record_history(db, written)
    return {entry_id: one for (entry_id, _), one in zip(made, mine, strict=True)}


def _count(found: Judged, suggestion: Suggestion | None, right: int, *, is_last_right: bool, is_told: bool) -> None:
    found.entries += 1
    found.told += is_told
    found.baseline_right += is_last_right
    if suggestion is None:
        return
    first = suggestion.choices[0]
    is_right = first.category_id == right
    found.by_ten[min(9, int(first.certainty * 10))].append(is_right)
    if suggestion.is_guess:
        found.suggested += 1
        found.right += is_right
        found.told_right += is_right and is_told
    if suggestion.is_guess and first.certainty >= CERTAIN:
        found.certain += 1
        found.certain_right += is_right


def run(seeds: list[int]) -> None:
    """Judges the demo, then households of some seeds, and prints the figures, of these all together."""
    print("The demo household")
    print("\n".join(judge(demo_past()).lines()))
    whole = Judged()
    for seed in seeds:
        one = judge(live(seed), random.Random(seed + 1))  # noqa: S311
        for name in (
            "entries",
            "suggested",
            "right",
            "certain",
            "certain_right",
            "baseline_right",
            "shops",
            "names",
            "told",
            "told_right",
        ):
            setattr(whole, name, getattr(whole, name) + getattr(one, name))
        for ten, cases in one.by_ten.items():
            whole.by_ten[ten] += cases
    print(f"\n{len(seeds)} noisy households")
    print("\n".join(whole.lines()))
