"""Every figure that opens, on every page of three households, against its slip: the slip ends with what the page shows."""

import contextlib
import re
import tempfile
import unittest
from datetime import date
from pathlib import Path

from bolsa.core.due.rhythm import Rhythm
from bolsa.core.months import Month
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.budget import expecting, placing
from bolsa.services.due import keeping
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house import files, households
from bolsa.services.house.households import Household
from bolsa.services.ledger import entries
from bolsa.services.sorting import categories
from bolsa.web.areas import AREAS
from tests.demo_file import demo_file
from tests.services.household import BY, TODAY
from tests.web.served import an_app

FIGURE = re.compile(r'<a class="fig[^"]*" href="([^"]+)" data-slip>([^<]+)</a>')
SUM = re.compile(r'<p class="sum">.*?<span class="n">([^<]+)</span>', re.DOTALL)

SAMPLES = list(dict.fromkeys(sample for area in AREAS for sample in area.samples))


def digits(text: str) -> str:
    """The digits of a figure alone: its sign and its currency's place differ by where it stands."""
    return re.sub(r"[^0-9]", "", text)


def is_same(shown: str, slip: str) -> bool:
    """Whether two figures are one: a page may leave out decimals that are all nothing."""
    here, there = digits(shown), digits(slip)
    return here == there or there in (f"{here}00", f"{here}000")


def a_household(path: Path, home: str, foreign: str) -> None:
    """A small household of one home currency, with an account in another."""
    with contextlib.closing(files.make_file(path)) as db:
        households.make_household(db, BY, Household("Quay", home, "UTC", TODAY), ["Ana"])
        opened = {"opened_on": date(2026, 1, 1)}
        current = accounts.add_account(db, BY, NewAccount("Current", "current", opening_minor=2_000_000, **opened)).made
        accounts.add_account(db, BY, NewAccount("Card", "card", opening_minor=-54_321, **opened))
        accounts.add_account(db, BY, NewAccount("Abroad", "savings", foreign, 123_456, **opened))
        accounts.add_account(db, BY, NewAccount("Odd", "savings", opening_minor=777, group="Ours//hers, 100 % #1?", **opened))
        for day in range(1, 14):
            entries.record_quick_line(db, BY, current, f"Grebe {day * 101} groceries 2026-05-{day:02d}")
        month, groceries = Month(2026, 5), categories.resolve_category(db, "Groceries").id
        expecting.set_expected(db, BY, groceries, month, 1_500_000)
        placing.fill(db, BY, month, [])
        rent = TypedSeries("Kiln Lane", current, Rhythm("FREQ=MONTHLY", date(2026, 5, 20)), -1_900_000)
        keeping.add_series(db, BY, rent)


class FigureWalk(unittest.TestCase):
    def walk(self, path: Path, addresses: list[str], least: int) -> None:
        client, seen = an_app(path).test_client(), set()
        for address in addresses:
            for month in ("", "2026-04"):
                page = client.get(address + (("&" if "?" in address else "?") + f"month={month}" if month else ""))
                for link, shown in FIGURE.findall(page.get_data(as_text=True)):
                    if (link, shown) in seen:
                        continue
                    seen.add((link, shown))
                    slip = client.get(link.replace("&amp;", "&"), headers={"HX-Request": "true"}).get_data(as_text=True)
                    found = SUM.search(slip)
                    self.assertIsNotNone(found, f"{address}: {link} has no slip")
                    self.assertTrue(is_same(shown, found[1]), f"{address} in {month}: {link} {shown} is not {found[1]}")
        self.assertGreaterEqual(len(seen), least)

    def walk_demo(self, addresses: list[str], least: int) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "demo.bolsa"
            path.write_bytes(demo_file())
            self.walk(path, addresses, least)


# Two classes, so that two cores can walk at once.
class TheDemoWithoutTheBudget(FigureWalk):
    def test_every_figure_is_its_slip(self):
        self.walk_demo([one for one in SAMPLES if "budget" not in one], 600)


class TheBudgetOfTheDemo(FigureWalk):
    def test_every_figure_is_its_slip(self):
        self.walk_demo([one for one in SAMPLES if "budget" in one], 300)


class HouseholdsInYenAndDinar(FigureWalk):
    def test_every_figure_is_its_slip(self):
        for home, foreign in (("JPY", "EUR"), ("KWD", "SEK")):
            with self.subTest(home), tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "a.bolsa"
                a_household(path, home, foreign)
                self.walk(path, SAMPLES, 25)


if __name__ == "__main__":
    unittest.main()
