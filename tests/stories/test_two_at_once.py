"""Two requests in the same instant, for every route that changes something, through a real server with threads: what is there
afterwards is what one of them makes, or what both make one after the other where two are two things; never anything between."""

import http.client
import io
import re
import threading
import unittest
from collections import defaultdict
from contextlib import closing
from dataclasses import replace
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlencode

from waitress.server import create_server
from werkzeug.datastructures import FileStorage, MultiDict
from werkzeug.test import encode_multipart

from bolsa.services.house import files
from bolsa.services.ledger import listing
from bolsa.store.house import whole
from bolsa.web.areas import AREAS
from tests.services.household import picture
from tests.web.harvest import Form, forms_of
from tests.web.lived_in import lived_in
from tests.web.served import an_app

# What changes nothing kept, or needs another service or an empty file; each is lived elsewhere.
ELSEWHERE = {
    "welcome.make": "an empty file: stories/test_first_hour.py", "ahead.begin": "no case yet: services/test_long_view.py",
    "today.begin": "a sitting is begun here", "bringing.connect_finish": "a bank's consent: stories/test_sitting.py",
    "bringing.refresh": "a bank: stories/test_sitting.py", "bringing.refresh_all": "a bank: stories/test_sitting.py",
    "accounts.fetch_rates": "a market: stories/test_accounts.py", "holdings.fetch_prices": "a market: stories/test_holdings.py",
    "bringing.bring_letters": "letters: stories/test_broker_files.py", "due.dates": "shows", "ledger.chosen": "shows",
    "ledger.split_remains": "shows", "house.sit_here": "a cookie",
}  # fmt: skip
TWICE_IS_TWO = {  # what is entered twice is there twice, as two receipts of one shop are; what moves by one moves by two
    "accounts.add_several", "ledger.enter", "ledger.enter_quick_line", "ledger.attach", "holdings.attach", "due.add",
    "due.add_reminder", "holdings.add_trade", "house.undo", "house.next_day", "house.move_category", "accounts.move_account",
    "ahead.move_debt", "ahead.mend", "checking.enter_missing", "budget.shift", "bringing.bring_file", "ahead.toggle_event",
    "ahead.pay_once",
}  # fmt: skip
WRITTEN_ANEW = {"due_mark", "brought_row", "position_note"}  # the same rows, written a second time, have other ids
UPLOADS = {  # field, name, content
    "ledger.attach": ("attachment", "receipt.png", picture((7, 7))),
    "holdings.attach": ("attachment", "advice.png", picture((7, 7))),
    "bringing.bring_file": ("file", "late.csv", b"Date,Payee,Amount\n2026-05-13,Quay Books,-3.30\n"),
}  # fmt: skip
TOLD_ELSEWHERE = {"journal_step", "price", "market_event"}  # steps differ; prices and events come by jobs
EVERY_TABLE = (*whole.WHOLE, "connection", "connection_account")
CHANGED = {  # what a visitor would change in a form before sending it
    "ahead.keep_plan": {"spending": "2100", "name": "Another plan"}, "ahead.pay_once": {"month": "2026-07", "amount": "40"},
    "bringing.link": {"account_id": "3"}, "budget.fill": {"month": "2026-05", "category_id": "8"},
    "budget.set_cell": {"category_id": "8", "cell": "2026-06", "expected": "77"}, "budget.set_placed": {"placed": "1"},
    "due.add_reminder": {"day": "2026-06-12"}, "due.change": {"amount": "1201"},
    "holdings.change_security": {"name": "Skerry Nord"},
    "holdings.change_trade": {"reason": "moved over"}, "holdings.note_positions": {"there": "3"},
    "holdings.say_classes": {"name-1": "Papers"}, "holdings.say_plan": {"contribution": "500"},
    "house.change_category": {"name": "Market"}, "house.choose_reading": {"locale": "de_DE"},
    "house.change_household": {"name": "The barge", "time_zone": "Europe/Oslo"},
    "accounts.note_rate": {"currency": "SEK", "day": "2026-05-13", "rate": "0.0888"},
    "accounts.note_value": {"day": "2026-05-13"},
    "accounts.set_opening": {"opening": "12", "known_on": "2026-05-14"}, "accounts.change_account": {"name": "The first"},
}  # fmt: skip
MADE = (
    ("sorting.file_pile", Form("/sort/file", (("entry_id", "ENTRY"), ("category_id", "8")))),
    ("parts.make_category", Form("/parts/category", (("name", "Quay things"), ("group", "Living")))),
    ("ledger.save_filter", Form("/books/1/filters", (("filter_name", "Quay"), ("text", "quay")))),
    ("ledger.choose_columns", Form("/books/columns", (("column", "memo"),))),
    ("ledger.change_many", Form("/books/1/bulk", (("what", "tag"), ("words", "quay"), ("entry_id", "ENTRY")))),
    ("budget.take_back", Form("/budget/take-back", (("category_id", "8"),))),
    ("budget.set_cells", Form("/budget/year", (("first", "2026-01"), ("c.8.2026-06", "78")))),
    ("ahead.say_terms", Form("/debts/6/terms", (("rate", "4.1"), ("least", "300")))),
    ("accounts.close_account", Form("/books/accounts/3/close", (("day", "2026-05-14"), ("rest_to", "1"), ("happened", "on")))),
    ("accounts.delete_account", Form("/books/accounts/3/delete", (("name", "Studio current"),))),
    ("accounts.add_several", Form("/books/accounts/several", tuple(
        {"name": "Quay", "kind": "current", "institution": "", "number": "", "opening": "1", "opened_on": "2026-05-14",
         "currency": "EUR"}.items()))),
    ("holdings.add_trade", Form("/holdings/trades/new", tuple(
        {"kind": "buy", "account": "14", "security": "Tern Robotics", "day": "2026-05-12", "shares": "3",
         "price": "12.5"}.items()))),
    ("pay.keep", Form("/pay/new/PAY", tuple(
        {"seen": "0", "member_id": "1", "kept_from": "2026-05-14", "id": "", "kind": "earned", "name": "Base pay",
         "amount": "400.00", "to": "c39", "start": ""}.items()))),
)  # fmt: skip


class _Switch:
    """One server, whose application is another for every household."""

    app = None

    def __call__(self, environ, start_response):
        return self.app(environ, start_response)


def state_of(path: Path) -> dict[str, object]:
    """All that a household is but for moments (of which only that they are counts) and the journal."""
    found: dict[str, object] = {}
    with closing(files.make_file(path)) as db:
        for table in EVERY_TABLE:
            if table not in TOLD_ELSEWHERE:
                left = {"at", "started_at"} | ({"id"} if table in WRITTEN_ANEW else set())
                names = [column.name for column in whole.list_columns(db, table) if column.name not in left]
                shown = (f'"{name}" IS NULL' if name.endswith("_at") else f'"{name}"' for name in names)
                found[table] = [tuple(row) for row in db.execute(f'SELECT {", ".join(shown)} FROM "{table}"')]
    return found


def _by_page(forms: list[Form]) -> list[Form]:
    """The first form of every page, then the others."""
    first = list({form.page: form for form in reversed(forms)}.values())[::-1]
    return first + [form for form in forms if form not in first]


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
                endpoint = adapter.match(form.action, method="POST")[0]
                found[endpoint].append(form.with_values(**CHANGED.get(endpoint, {})))
        pay = next(page for page in cls.pages if page.startswith("/pay/new/"))
        for endpoint, form in MADE:
            typed = next(page for page in cls.pages if page.startswith("/entries/")).rpartition("/")[2]
            fields = tuple((name, typed if value == "ENTRY" else value) for name, value in form.fields)
            found[endpoint].insert(0, replace(form, action=form.action.replace("/pay/new/PAY", pay), fields=fields))
        return {endpoint: _by_page(forms) for endpoint, forms in found.items()}, cookie, token

    @classmethod
    def ask(cls, method, address, *, body=None, kind="", cookie=None):
        connection = http.client.HTTPConnection("127.0.0.1", cls.server.effective_port, timeout=60)
        headers = ({"Cookie": cookie} if cookie else {}) | ({"Content-Type": kind} if kind else {})
        connection.request(method, address, body=body, headers=headers)
        reply = connection.getresponse()
        said = reply.status, reply.headers.get("Set-Cookie", ""), reply.read().decode("utf-8", "replace")
        connection.close()
        return said

    def send(self, endpoint: str, form: Form) -> int:
        fields = [(name, value) for name, value in form.fields if name != "csrf_token"] + [("csrf_token", self.token)]
        upload = UPLOADS.get(endpoint)
        if upload is None:
            body, kind = urlencode(fields).encode(), "application/x-www-form-urlencoded"
        else:
            files_of = MultiDict([*fields, (upload[0], FileStorage(io.BytesIO(upload[2]), upload[1]))])
            boundary, body = encode_multipart(files_of)
            kind = f"multipart/form-data; boundary={boundary}"
        status = self.ask("POST", form.action, body=body, kind=kind, cookie=self.cookie)[0]
        for job in list(type(self).switch.app.extensions["jobs"].values()):  # on a busy machine work goes on after the answer
            job.finished.wait(60)
        return status

    def served(self, name: str) -> Path:
        path = self.fresh(name)
        type(self).switch.app = an_app(path, testing=False)
        return path

    def pair(self, endpoint: str, form: Form) -> list[int]:
        """The same request from two threads that wait for each other; their statuses."""
        ready, statuses = threading.Barrier(2), []

        def work():
            ready.wait()
            statuses.append(self.send(endpoint, form))

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
                for form in self.forms.get(endpoint, [])[:14]:
                    one = self.served("one")
                    status = self.send(endpoint, form)
                    self.assertLess(status, 500, form)
                    once = state_of(one)
                    if not difference(once, self.before()):
                        continue
                    changed = True
                    two = self.served("two")
                    statuses = self.pair(endpoint, form)
                    both = state_of(two)
                    self.assertTrue(all(status < 500 for status in statuses), (form, statuses))
                    with closing(files.make_file(two)) as db:
                        self.assertEqual(listing.check(db), [], form)
                    if differing := difference(both, once):
                        self.assertIn(endpoint, TWICE_IS_TWO, (form, differing))
                        self.send_again(one, endpoint, form)
                        self.assertEqual(difference(both, state_of(one)), [], form)
                    break
                if not changed:
                    idle.append(endpoint)
        self.maxDiff = None
        self.assertEqual(idle, [], "what was sent changed nothing")

    def send_again(self, path: Path, endpoint: str, form: Form) -> None:
        type(self).switch.app = an_app(path, testing=False)
        self.send(endpoint, form)


if __name__ == "__main__":
    unittest.main()
