"""`bolsa bench --fuzz`: walks of hostile requests over copies of the demo household, for as long as is asked."""

import random
import re
import tempfile
import time
from contextlib import closing
from pathlib import Path

from flask.testing import FlaskClient

from bolsa.bench.fuzz.walking import Walk
from bolsa.demo.run import prepare_demo
from bolsa.services.house import files
from bolsa.services.ledger import listing
from bolsa.web.app import create_app
from bolsa.web.areas import AREAS

MOST_PAGES = 250


def run(minutes: float, seed: int) -> int:
    """Walks until the time is up; says what went wrong. 1 if anything did."""
    print(f"Seed {seed}.", flush=True)
    until, asked, walks = time.monotonic() + minutes * 60, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "made.bolsa"
        prepare_demo(made)
        with closing(files.make_file(made)) as db:
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        while not walks or time.monotonic() < until:
            path = Path(folder) / f"{walks}.bolsa"
            path.write_bytes(made.read_bytes())
            walk = _walk(path, random.Random(seed + walks))  # noqa: S311 (no secret)
            asked, walks = asked + walk.asked, walks + 1
            with closing(files.make_file(path)) as db:
                for breach in listing.check(db):
                    walk.failed[f"{breach.promise}: {breach.row}"] = ""
            if walk.failed:
                for failure, how in walk.failed.items():
                    print(f"{failure}   {how}")
                print(f"Something went wrong with seed {seed + walks - 1}, after {asked:,} requests.")
                return 1
    print(f"{asked:,} requests in {walks} walks: each was answered in words, and every household is whole.")
    return 0


def _walk(path: Path, dice: random.Random) -> Walk:
    app = create_app(path, testing=True)
    walk = Walk(app, dice)
    pages = _pages_of(walk.client)
    with closing(files.make_file(path)) as db:
        before = list(db.iterdump())
        walk.without_token(pages)
        if list(db.iterdump()) != before:
            walk.failed["something was changed without a token"] = ""
    app.config["WTF_CSRF_ENABLED"] = False
    walk.over_addresses(3, 4)
    walk.over_forms(pages, 2)
    return walk


def _pages_of(client: FlaskClient) -> list[str]:
    """The main views, and the pages they lead to, each kind of them a few times."""
    found = dict.fromkeys(sample for area in AREAS for sample in area.samples)
    for page in list(found):
        for address in re.findall(r'href="(/[^"]*)"', client.get(page).text):
            found.setdefault(address.replace("&amp;", "&"))
    fit = [page for page in found if not page.endswith((".zip", ".bolsa", ".csv", ".ics")) and "/static/" not in page]
    return fit[:MOST_PAGES]
