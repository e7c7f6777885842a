"""Two requests in the same instant, for every route that changes something, through a real server with threads: what is there
afterwards is what one of them makes, or what both make one after the other where two are two things; never anything between."""

import http.client
import re
import threading
import unittest
from collections import defaultdict
from contextlib import closing
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlencode

from waitress.server import create_server

from bolsa.services.house import files
from bolsa.services.ledger import listing
from bolsa.store.house import whole
from bolsa.web.areas import AREAS
from tests.web.harvest import Form, forms_of
from tests.web.lived_in import lived_in
from tests.web.served import an_app

# What changes nothing kept, or needs another service or an empty file; each is lived elsewhere.
ELSEWHERE = {
    "welcome.make": "an empty file: stories/test_first_hour.py", "bringing.connect_finish": "a bank's consent: stories/test_sitting.py",
    "bringing.refresh": "a bank", "bringing.refresh_all": "a bank", "accounts.fetch_rates": "a market", "holdings.fetch_prices": "a market",
    "bringing.bring_letters": "a folder of letters: stories/test_broker_files.py", "due.dates": "shows", "ledger.chosen": "shows",
    "ledger.split_remains": "shows", "house.sit_here": "a cookie",
}  # fmt: skip
TWICE_IS_TWO = {  # what is entered twice is there twice, as two receipts of one shop are
    "accounts.add_several", "ledger.enter", "ledger.enter_quick_line", "ledger.attach", "holdings.attach", "due.add", "due.add_reminder",
    "holdings.add_trade", "house.undo", "house.next_day", "house.move_category", "accounts.move_account", "ahead.move_debt", "ahead.mend",
    "checking.enter_missing", "budget.shift", "bringing.bring_file", "ahead.keep_plan", "ahead.toggle_event", "ahead.pay_once",
}  # fmt: skip
WRITTEN_ANEW = {"due_mark", "brought_row"}  # the same rows, written a second time, have other ids
MADE = (
    ("parts.make_category", Form("/parts/category", (("name", "Quay things"), ("type", "spending")))),
    ("ledger.save_filter", Form("/books/1/filters", (("name", "Quay"), ("address", "/books/1?q=quay")))),
    ("budget.take_back", Form("/budget/take-back", (("month", "2026-05"),))),
)


class _Switch:
    """One server, whose application is another for every household."""

    app = None

    def __call__(self, environ, start_response):
        return self.app(environ, start_response)


def state_of(path: Path) -> dict[str, list]:
    """All that a household is but for moments and the journal."""
    found = {}
    with closing(files.make_file(path)) as db:
        breaches = listing.check(db)
        for table in whole.WHOLE:
            if table not in ("journal_step", "sitting", "setting"):
                left = {"id"} if table in WRITTEN_ANEW else set()
                rows = [
                    {k: v for k, v in row.items() if not k.endswith("_at") and k not in left}
                    for row in whole.list_rows(db, table)
                ]
                found[table] = rows
    return found | {"breaches": breaches}


def difference(one: dict, other: dict) -> list[str]:
    return [table for table in one if one[table] != other[table]]


class TwoAtOnce(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = TemporaryDirectory()
        cls.content, cls.pages = lived_in()
        cls.switch = _Switch()
        cls.server = create_server(cls.switch, host="127.0.0.1", port=0, threads=4)
        threading.Thread(target=cls.server.run, daemon=True).start()
        cls.forms, cls.cookie, cls.token = cls.gather()

    @classmethod
    def tearDownClass(cls):
        cls.server.close()
        cls.folder.cleanup()

    @classmethod
    def fresh(cls, name: str) -> Path:
        path = Path(cls.folder.name) / f"{name}.bolsa"
        for ending in ("", "-wal", "-shm"):
            Path(f"{path}{ending}").unlink(missing_ok=True)
        path.write_bytes(cls.content)
        return path

    @classmethod
    def gather(cls):
        app = an_app(cls.fresh("gather"), testing=False)
        app.config["PROPAGATE_EXCEPTIONS"] = False
        cls.switch.app = app
        adapter, found = app.url_map.bind("localhost"), defaultdict(list)
        reply = cls.ask("GET", "/books/1")
        cookie = reply[1].split(";")[0]
        token = re.search(r'name="csrf_token" value="([^"]+)"', reply[2]).group(1)
        for page in dict.fromkeys([*cls.pages, *(sample for area in AREAS for sample in area.samples)]):
            html = cls.ask("GET", page, cookie=cookie)[2]
            for form in forms_of(page, html):
                found[adapter.match(form.action, method="POST")[0]].append(form)
        for endpoint, form in MADE:
            found[endpoint].append(form)
        return found, cookie, token

    @classmethod
    def ask(cls, method, address, *, body=None, cookie=None):
        connection = http.client.HTTPConnection("127.0.0.1", cls.server.effective_port, timeout=60)
        headers = {"Cookie": cookie} if cookie else {}
        if body is not None:
            headers["Content-Type"] = "application/x-www-form-urlencoded"
        connection.request(method, address, body=body, headers=headers)
        reply = connection.getresponse()
        said = reply.status, reply.headers.get("Set-Cookie", ""), reply.read().decode("utf-8", "replace")
        connection.close()
        return said

    def send(self, form: Form) -> int:
        fields = [(name, value) for name, value in form.fields if name != "csrf_token"]
        body = urlencode([*fields, ("csrf_token", self.token)])
        return self.ask("POST", form.action, body=body, cookie=self.cookie)[0]

    def served(self, name: str) -> Path:
        path = self.fresh(name)
        type(self).switch.app = an_app(path, testing=False)
        return path

    def pair(self, form: Form) -> list[int]:
        """The same request from two threads that wait for each other; their statuses."""
        ready, statuses = threading.Barrier(2), []

        def work():
            ready.wait()
            statuses.append(self.send(form))

        threads = [threading.Thread(target=work) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return statuses

    @cache  # noqa: B019 (a test case lives as long as its class)
    def before(self):
        return state_of(self.fresh("before"))

    def test_every_route_that_changes_something(self):
        endpoints = {r.endpoint for r in type(self).switch.app.url_map.iter_rules() if "POST" in r.methods}
        idle = []
        for endpoint in sorted(endpoints - ELSEWHERE.keys()):
            with self.subTest(endpoint):
                changed = False
                for form in self.forms[endpoint][:12]:
                    one = self.served("one")
                    status = self.send(form)
                    self.assertLess(status, 500, form)
                    once = state_of(one)
                    if not difference(once, self.before()):
                        continue
                    changed = True
                    two = self.served("two")
                    statuses = self.pair(form)
                    both = state_of(two)
                    self.assertTrue(all(status < 500 for status in statuses), (form, statuses))
                    self.assertEqual(both["breaches"], once["breaches"], form)
                    if differing := difference(both, once):
                        self.assertIn(endpoint, TWICE_IS_TWO, (form, differing))
                        self.send_again(one, form)
                        self.assertEqual(difference(both, state_of(one)), [], form)
                    break
                if not changed:
                    idle.append(endpoint)
        self.maxDiff = None
        self.assertEqual(idle, [], "what was sent changed nothing")

    def send_again(self, path: Path, form: Form) -> None:
        type(self).switch.app = an_app(path, testing=False)
        self.send(form)


if __name__ == "__main__":
    unittest.main()
