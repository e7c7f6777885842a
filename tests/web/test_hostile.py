"""Every address and every form with values nobody means: each gets an answer in words, and the household stays whole."""

import random
import unittest
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import quote

from bolsa.services.house import files
from bolsa.services.ledger import listing
from tests.web.harvest import forms_of
from tests.web.lived_in import lived_in
from tests.web.served import an_app
from tests.web.test_pages import EXAMPLES

# Grown with each finding.
HOSTILE = (
    "", "0", "-1", "9" * 19, str(2**63), str(-(2**63) - 1), "9" * 5_000, "1e400", "NaN", "-Infinity", "²", "٣", "1.5", "0,005",
    "x", "'; DROP TABLE line; --", "<script>alert(1)</script>", "=cmd|' /C calc'!A0", "\x00", "\ud7ff\uffff", "a\r\nX: 1",
    "🜚" * 300, "9999-12", "9999-12-31", "0001-01-01", "2026-02-30", "2026-13", "31.2.2026", "%00", "../../etc/passwd",
    "{{ 7*7 }}", "new", "none", "-", "+", "1/0", "1+", "12..5", "--5", "a" * 3_000,
)  # fmt: skip
ASKED = (
    "month", "from", "to", "first", "day", "q", "text", "sort", "order", "after", "page", "state", "category", "tag", "member",
    "amount", "by", "only", "without", "every", "way", "quick", "kind", "case", "year", "method", "name", "code", "filter",
    "check", "hidden", "top",
)  # fmt: skip
EACH_ARGUMENT, EACH_PAGE, EACH_FIELD = 3, 4, 1  # hostile values for each
WITHOUT = {"/house/trash/empty"}  # it would leave other forms nothing to do


class Hostile(unittest.TestCase):
    maxDiff = None

    def setUp(self):
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "a.bolsa"
        content, self.pages = lived_in()
        self.path.write_bytes(content)
        self.app = an_app(self.path)
        self.app.config["WTF_CSRF_ENABLED"] = False
        self.client = self.app.test_client()
        self.dice = random.Random(7)
        self.failed = {}

    def ask(self, method, address, data=None):
        try:
            with closing(self.client.open(address, method=method, data=data)) as reply:
                said = f"{reply.status_code}" if reply.status_code >= 500 and reply.status_code != 503 else ""
        except Exception as error:
            said = f"{type(error).__name__}: {error}"[:150]
        if said:
            self.failed.setdefault(f"{method} {address.partition('?')[0][:60]} {said}", f"{address[:120]} {str(data)[:200]}")

    def assert_whole(self):
        self.assertEqual(self.failed, {}, "\n".join(f"{k}   {v}" for k, v in self.failed.items()))
        with closing(files.make_file(self.path)) as db:
            self.assertEqual(listing.check(db), [])

    def test_addresses(self):
        for rule in self.app.url_map.iter_rules():
            if rule.endpoint == "static":
                continue
            method = "GET" if "GET" in rule.methods else "POST"
            for wild in rule.arguments or {""}:
                for value in self.dice.sample(HOSTILE, EACH_ARGUMENT):
                    filled = {**EXAMPLES, wild: value}
                    address = rule.rule
                    for name in rule.arguments:
                        for converter in ("int:", "path:", ""):
                            address = address.replace(f"<{converter}{name}>", quote(str(filled[name]), safe=""))
                    self.ask(method, address)
            if method == "GET":
                address = self.app.url_map.bind("localhost").build(rule.endpoint, {n: EXAMPLES[n] for n in rule.arguments})
                for name in self.dice.sample(ASKED, EACH_PAGE):
                    self.ask("GET", f"{address}?{name}={quote(self.dice.choice(HOSTILE), safe='')}")
        self.assert_whole()

    def test_forms(self):
        seen = set()
        for page in self.pages:
            for form in forms_of(page, self.client.get(page).text):
                names = {name for name, _ in form.fields} - {"csrf_token"}
                kind = ("".join(c for c in form.action if not c.isdecimal()), tuple(sorted(names)))
                if kind in seen or form.action in WITHOUT:
                    continue
                seen.add(kind)
                for name in sorted(names):
                    for value in self.dice.sample(HOSTILE, EACH_FIELD):
                        self.ask("POST", form.action, form.with_values(**{name: value}).fields and self.sent(form, name, value))
                self.ask("POST", form.action, {})
        self.assert_whole()

    def sent(self, form, name, value):
        """The form as it is sent with this value in one field."""
        data = {}
        for one, kept in form.with_values(**{name: value}).fields:
            data.setdefault(one, []).append(kept)
        return data


if __name__ == "__main__":
    unittest.main()
