"""The measurements run: every page's figure at a small size (the imports, which take long, one of them)."""

import contextlib
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from bolsa import bench
from bolsa.bench import holdings, imports, timing
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


if __name__ == "__main__":
    unittest.main()
