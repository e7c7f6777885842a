"""The measurements run: every page's figure at a small size (the imports, which take long, one of them)."""

import contextlib
import tempfile
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

from bolsa import bench
from bolsa.bench import holdings, imports, learning, timing
from bolsa.bench.identity import running as identity
from bolsa.bench.soak import banking
from bolsa.services.house import files
from bolsa.services.ledger import listing


class Bench(unittest.TestCase):
    def test_every_measure_gives_a_figure(self):
        with tempfile.TemporaryDirectory() as folder, contextlib.closing(files.make_file(Path(folder) / "a.bolsa")) as db:
            by = bench.build(db, 2_000)
            fewer = (
                mock.patch.multiple(imports, IMPORT_ROWS=300, IMPORT_ROUNDS=1),
                mock.patch.multiple(timing, ROUNDS=1, REQUESTS=1),
            )
            with fewer[0], fewer[1]:
                for name, measure in bench.MEASURES.items():
                    with self.subTest(name):
                        self.assertGreater(measure(db, by)[0], 0)
            self.assertEqual(listing.check(db), [])

    def test_every_page_about_what_is_held_gives_a_figure(self):
        with tempfile.TemporaryDirectory() as folder, contextlib.closing(files.make_file(Path(folder) / "a.bolsa")) as db:
            with mock.patch.multiple(holdings, SECURITIES=4), mock.patch.multiple(timing, REQUESTS=1):
                by = holdings.build_holder(db, 200)
                for name, measure in bench.HOLDING_MEASURES.items():
                    with self.subTest(name):
                        self.assertGreater(measure(db, by)[0], 0)
            self.assertEqual(listing.check(db), [])

    def test_suggestions_are_judged_without_the_future(self):
        judged = {5: [], 7: []}
        for months, noted in judged.items():
            bought = [one for one in learning.live(3) if one.day < (learning.FIRST + months).first_day]
            notes = lambda found, suggestion, *others, to=noted, **more: to.append(suggestion)  # noqa: E731
            with mock.patch.object(learning, "_count", notes):
                learning.judge(bought)
        self.assertGreater(len(judged[5]), 150)
        self.assertEqual(judged[7][: len(judged[5])], judged[5])

    def test_one_truth_through_six_layouts_is_there_once(self):
        with tempfile.TemporaryDirectory() as folder:
            for seed in range(1, 7):
                found = identity.live_one(seed, Path(folder))
                self.assertEqual((found.too_many, found.lost - found.lost_asked, found.rows > 150), (0, 0, True), seed)

    def test_with_two_banks_faults_mended_each_account_holds_what_its_bank_holds(self):
        self.assertEqual(banking.run(4, 1), [])

    def test_the_demo_is_judged_as_well(self):
        demo = [one for one in learning.demo_past() if one.day < date(2023, 9, 1)]
        found = learning.judge(demo)
        self.assertGreater(found.suggested, 0.8 * found.entries)
        self.assertGreater(found.right, 0.95 * found.suggested)


if __name__ == "__main__":
    unittest.main()
