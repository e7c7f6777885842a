"""Every address and every form with values nobody means: each gets an answer in words, and the household stays whole."""

import random
import unittest
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory

from bolsa.bench.fuzz.walking import Walk
from bolsa.services.house import files
from bolsa.services.ledger import listing
from tests.web.lived_in import lived_in
from tests.web.served import an_app


class Hostile(unittest.TestCase):
    maxDiff = None

    def setUp(self):
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "a.bolsa"
        content, self.pages = lived_in()
        self.path.write_bytes(content)
        self.app = an_app(self.path)
        self.walk = Walk(self.app, random.Random(7))

    def assert_whole(self):
        failed = self.walk.failed
        self.assertEqual(failed, {}, "\n".join(f"{failure}   {how}" for failure, how in failed.items()))
        with closing(files.make_file(self.path)) as db:
            self.assertEqual(listing.check(db), [])

    def test_addresses(self):
        self.app.config["WTF_CSRF_ENABLED"] = False
        self.walk.over_addresses(each_argument=1, each_page=2)
        self.assert_whole()

    def test_forms(self):
        self.app.config["WTF_CSRF_ENABLED"] = False
        self.walk.over_forms(self.pages, each_field=1)
        self.assert_whole()

    def test_no_form_changes_anything_without_its_token(self):
        with closing(files.make_file(self.path)) as db:
            before = list(db.iterdump())
            self.walk.without_token(self.pages)
            self.assertEqual(list(db.iterdump()), before)
        self.assert_whole()


if __name__ == "__main__":
    unittest.main()
