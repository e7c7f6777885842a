"""Two requests in the same instant, for every route that changes something, through a real server with threads: what is there
afterwards is what one of them makes, or what both make one after the other where two are two things; never anything between."""

import http.client
import io
import re
import sqlite3
import threading
import unittest
from collections import defaultdict
from contextlib import closing, suppress
from dataclasses import replace
from functools import cache
from html import unescape
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import parse_qsl, urlencode, urlsplit

from flask import Flask
from werkzeug.datastructures import FileStorage, MultiDict
from werkzeug.test import encode_multipart

from bolsa.bench.fuzz.forms import Form, forms_of
from bolsa.demo.banks import write_scenario
from bolsa.demo.letters import LETTERS
from bolsa.demo.run import point_connections
from bolsa.services import changes
from bolsa.services.house import files
from bolsa.services.ledger import listing
from bolsa.stand_ins.bank import wire as bank_wire
from bolsa.stand_ins.bank.state import Bank
from bolsa.stand_ins.mail.state import write_letters
from bolsa.stand_ins.market import wire as market_wire
from bolsa.stand_ins.market.state import Market
from bolsa.store.house import household, whole
from bolsa.web.areas import AREAS
from bolsa.web.serving import make_server
from tests.services.household import picture
from tests.web.lived_in import lived_in
from tests.web.served import an_app, point

# What changes nothing that is kept.
SHOWS = {"due.dates", "jobs.stop", "ledger.chosen", "ledger.split_remains", "house.sit_here", "sorting.say_rule"}
# What has nothing to do in the household lived in: what is taken out of it before.
BEFORE = {
    "today.begin": "DELETE FROM sitting WHERE finished_at IS NULL", "ahead.begin": "DELETE FROM plan_case",
    "bringing.connect_finish": "DELETE FROM connection_account; DELETE FROM connection",
    "budget.take_back_promised":
        "INSERT INTO placing (category_id, month, amount_minor, made_on) VALUES (8, '2026-06', 99999, '2026-05-14')",
    "accounts.fetch_rates": "DELETE FROM rate", "holdings.fetch_prices": "DELETE FROM price; DELETE FROM market_event",
}  # fmt: skip
OWN_SESSION = {"welcome.make": "/welcome", "bringing.connect_finish": "/books/connect"}  # the page that begins it
TWICE_IS_TWO = {  # what is entered twice is there twice, as two receipts of one shop are; what moves by one moves by two
    "accounts.add_several", "ledger.enter", "ledger.enter_quick_line", "ledger.attach", "holdings.attach", "due.add",
    "due.add_reminder", "holdings.add_trade", "house.undo", "house.next_day", "house.move_category", "accounts.move_account",
    "ahead.move_debt", "ahead.mend", "checking.enter_missing", "budget.shift", "bringing.bring_file", "ahead.toggle_event",
    "ahead.pay_once",
}  # fmt: skip
WRITTEN_ANEW = {
    "due_mark",
    "brought_row",
    "position_note",
    "coverage",
    "bank_balance",
}  # the same rows, written a second time, have other ids
UPLOADS = {  # field, name, content
    "ledger.attach": ("attachment", "receipt.png", picture((7, 7))),
    "holdings.attach": ("attachment", "advice.png", picture((7, 7))),
    "budget.bring_year_in":
        ("file", "year.csv", b"group,category,type,figure,2026-09\nLiving,Groceries,spending,expected,701.00\n"),
    "sorting.bring_rules": ("file", "rules.json", b"""{"bolsa_rules": 1, "rules": [
        {"when": [{"payee": {"is": ["Quay Books"]}}], "then": [{"file": "Presents"}]}]}"""),
    "budget.set_sign": ("picture", "kiln.png", picture((8, 8))),
    "bringing.bring_file": ("file", "late.csv", b"Date,Payee,Amount\n2026-05-13,Quay Books,-3.30\n"),
}  # fmt: skip
STEPS = {"journal_step"}  # two of them are two
EVERY_TABLE = (*whole.WHOLE, "connection", "connection_account")
CHANGED = {  # what a visitor would change in a form before sending it
    "ahead.keep_plan": {"spending": "2100", "name": "Another plan"}, "ahead.pay_once": {"month": "2026-07", "amount": "40"},
    "bringing.link": {"account_id": "3"}, "budget.fill": {"month": "2026-05", "category_id": "8"},
    "budget.set_cell": {"category_id": "8", "cell": "2026-06", "expected": "77"}, "budget.set_placed": {"placed": "1"},
    "budget.move_entry": {"to": "8"}, "budget.put_trial_by": {"name": "Another"}, "budget.shift": {"amount": "1"},
    "budget.try_without": {"category_id": "8", "from": "2026-09"}, "budget.set_rules": {"note": "quay"},
    "budget.try_other_aim": {"category_id": "8", "aim": "steady", "steady": "7"},
    "budget.set_aim": {"aim": "steady", "steady": "7"}, "budget.set_order": {"move": "9", "way": "top"},
    "due.add_reminder": {"day": "2026-06-12"}, "due.change": {"amount": "1201"},
    "holdings.change_security": {"name": "Skerry Nord"},
    "holdings.change_trade": {"reason": "moved over"}, "holdings.note_positions": {"there": "3"},
    "holdings.say_classes": {"name-1": "Papers"}, "holdings.say_plan": {"contribution": "500"},
    "house.change_category": {"name": "Market"}, "house.end_category": {"into": "9"},
    "house.change_group": {"way": "", "name": "Quayside"}, "house.change_tag": {"name": "quay", "note": "the quay"},
    "sorting.change_payee": {"name": "Quay"}, "sorting.answer_question": {"answer": "for the hull"},
    "sorting.ask_about": {"asking": "what is it?"}, "house.choose_reading": {"locale": "de_DE"},
    "house.change_household": {"name": "The barge", "time_zone": "Europe/Oslo"},
    "accounts.note_rate": {"currency": "SEK", "day": "2026-05-13", "rate": "0.0888"},
    "accounts.note_value": {"day": "2026-05-13"},
    "accounts.set_opening": {"opening": "12", "known_on": "2026-05-14"}, "accounts.change_account": {"name": "The first"},
}  # fmt: skip
MADE = (
    ("today.begin", Form("/sitting/begin", ())),
    ("ahead.begin", Form("/ahead", (("born-1", "1984"), ("born-2", "1986")))),
    ("welcome.make", Form("/welcome", tuple(
        {"name": "Quay", "members": "Ana, Bo", "currency": "EUR", "time_zone": "UTC", "starter": "plain"}.items()))),
    ("bringing.connect_finish", Form("/books/connect/finish", ())),
    ("sorting.file_pile", Form("/sort/file", (("entry_id", "ENTRY"), ("category_id", "8")))),
    ("sorting.keep_rule", Form("/sort/rules/keep", tuple(
        {"rule_id": "0", "when-0-kind": "payee", "when-0-how": "contains", "when-0-value": "grebe", "then-0-kind": "file",
         "then-0-value": "8", "way": "apply"}.items()))),
    ("sorting.set_rule_order", Form("/sort/rules/order?way=down", tuple(
        [("rule_id", str(id_)) for id_ in range(1, 7)] + [("move", "1"), ("seen", "99999")]))),
    ("sorting.keep_apart", Form("/sort/apart", (("payee_id", "5"),))),
    ("sorting.merge_payees", Form("/payees/merge", (("kept_id", "5"), ("other_id", "6")))),
    ("sorting.take_back_question", Form("/sort/questions/1/back", ())),
    ("house.write_lines", Form("/house/categories/lines", (("lines", "Quay:\n  Ropes\n  Paint"), ("way", "add")))),
    ("parts.make_category", Form("/parts/category", (("name", "Quay things"), ("group", "Living")))),
    ("ledger.save_filter", Form("/books/1/filters", (("filter_name", "Quay"), ("text", "quay")))),
    ("ledger.choose_columns", Form("/books/columns", (("column", "memo"),))),
    ("ledger.change_many", Form("/books/1/bulk", (("what", "tag"), ("words", "quay"), ("entry_id", "ENTRY")))),
    ("budget.take_back_promised", Form("/budget/promised", ())), ("budget.plan", Form("/budget/38/plan", ())),
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


# Rows have keys, so that as many of them, each of which is in the other too, are the same.
DIFFERS = """
    SELECT 1 WHERE (SELECT count(*) FROM main.{table}) <> (SELECT count(*) FROM other.{table})
        OR EXISTS (SELECT {shown} FROM main.{table} EXCEPT SELECT {shown} FROM other.{table})"""


@cache
def what_counts() -> dict[str, str]:
    """All that a household is but for the journal, by table: of moments only that they are counts."""
    shown = {}
    with TemporaryDirectory() as folder, closing(files.make_file(Path(folder) / "empty.bolsa")) as db:
        for table in set(EVERY_TABLE) - STEPS:
            left = {"at", "started_at", "token", "last_success"} | ({"id"} if table in WRITTEN_ANEW else set())
            names = [column.name for column in whole.list_columns(db, table) if column.name not in left]
            shown[table] = ", ".join(f'"{name}" IS NULL' if name.endswith("_at") else f'"{name}"' for name in names)
    return shown


def _by_page(forms: list[Form]) -> list[Form]:
    """The first form of every page, then the others."""
    first = list({form.page: form for form in reversed(forms)}.values())[::-1]
    return first + [form for form in forms if form not in first]


def difference(one: Path, other: Path, begun: bytes) -> list[str]:
    """The tables in which two households differ that began as the same file."""
    with closing(sqlite3.connect(one)) as db:
        db.execute("ATTACH ? AS other", (str(other),))
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # of both: what is in the files is read beside SQLite
        touched = tables_touched(one.read_bytes(), begun) | tables_touched(other.read_bytes(), begun)
        return [
            table
            for table, shown in what_counts().items()
            if table in touched and db.execute(DIFFERS.format(table=table, shown=shown)).fetchone()
        ]


def tables_touched(now: bytes, begun: bytes) -> set[str]:
    """The tables with a page that is not as it was in the file from which this one began: comparing pages is a hundred times
    faster than comparing rows. A tree that gets a new page is changed in an old one as well."""
    owners = owners_of_pages(begun)
    if not owners:  # as of a household that begins with nothing
        return {*EVERY_TABLE}
    size = int.from_bytes(begun[16:18], "big")  # of a page, by the file's header
    pages = ((name, slice((page - 1) * size, page * size)) for page, name in owners.items())
    return {name for name, at in pages if now[at] != begun[at]}


@cache
def owners_of_pages(begun: bytes) -> dict[int, str]:
    """The table of each page of a file; none where SQLite was built without that knowledge, or nothing is there."""
    alone = begun[:18] + b"\1\1" + begun[20:]  # not in WAL mode: there is no file beside it
    with closing(sqlite3.connect(":memory:")) as db, suppress(sqlite3.DatabaseError):
        db.deserialize(alone)
        return dict(db.execute("SELECT pageno, name FROM dbstat"))
    return {}


class TwoAtOnce(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = TemporaryDirectory()
        folder = Path(cls.folder.name)
        cls.content, cls.pages = lived_in()
        write_scenario(folder / "bank.json")
        write_letters(folder / "mail", LETTERS)
        cls.bank, cls.market = bank_wire.serve(Bank.from_file(folder / "bank.json"), 0), market_wire.serve(Market(), 0)
        for service in (cls.bank, cls.market):
            threading.Thread(target=service.serve_forever, daemon=True).start()
        cls.bank_url, cls.market_url = (f"http://127.0.0.1:{one.server_address[1]}" for one in (cls.bank, cls.market))
        (folder / "pointed.bolsa").write_bytes(cls.content)
        point_connections(folder / "pointed.bolsa", cls.bank_url)
        cls.content = (folder / "pointed.bolsa").read_bytes()
        cls.app = cls.make_app()
        cls.server = make_server(cls.app, "127.0.0.1", 0)
        threading.Thread(target=cls.server.run, daemon=True).start()
        cls.forms, cls.cookie, cls.token = cls.gather()

    @classmethod
    def tearDownClass(cls):
        cls.server.close()
        for service in (cls.bank, cls.market):
            service.shutdown()
            service.server_close()
        cls.folder.cleanup()

    @classmethod
    def fresh(cls, name: str, endpoint: str = "") -> Path:
        """The household lived in, as it must be for a route to have something to do."""
        path = Path(cls.folder.name) / f"{name}.bolsa"
        for ending in ("", "-wal", "-shm"):
            Path(f"{path}{ending}").unlink(missing_ok=True)
        if endpoint == "welcome.make":
            with closing(files.make_file(path)) as db, changes.note(db):
                household.put_setting(db, "secret key", "the same for all of them")
        else:
            path.write_bytes(cls.content)
        if endpoint in BEFORE:
            with closing(files.make_file(path)) as db, changes.note(db):
                for statement in BEFORE[endpoint].split(";"):
                    db.execute(statement)
        return path

    @classmethod
    def make_app(cls) -> Flask:
        services = {"bank_url": cls.bank_url, "market_url": cls.market_url, "mail_folder": Path(cls.folder.name) / "mail"}
        app = an_app(cls.fresh("gather"), testing=False, **services)
        app.config |= {"ADDRESS": "http://127.0.0.1", "PROPAGATE_EXCEPTIONS": False}
        return app

    @classmethod
    def gather(cls):
        app = cls.app
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
        pair = next(value for form in found["sorting.merge_transfer"] for name, value in form.fields if name == "pair").split("-")
        found["sorting.mend_transfer"] = [Form("/sort/transfers/mend", (("out", pair[0]), ("into", pair[1])))]
        undone = found["house.undo"]
        found["house.undo_with_later"] = [replace(form, action=f"{form.action}/with-later") for form in undone]
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
        own = dict(form.fields) if endpoint in OWN_SESSION else {}
        fields = [(name, value) for name, value in form.fields if name not in ("csrf_token", "cookie")]
        fields.append(("csrf_token", own.get("csrf_token", self.token)))
        upload = UPLOADS.get(endpoint)
        if upload is None:
            body, kind = urlencode(fields).encode(), "application/x-www-form-urlencoded"
        else:
            files_of = MultiDict([*fields, (upload[0], FileStorage(io.BytesIO(upload[2]), upload[1]))])
            boundary, body = encode_multipart(files_of)
            kind = f"multipart/form-data; boundary={boundary}"
        status = self.ask("POST", form.action, body=body, kind=kind, cookie=own.get("cookie", self.cookie))[0]
        for job in list(self.app.extensions["jobs"].values()):  # on a busy machine work goes on after the answer
            job.finished.wait(60)
        return status

    def served(self, name: str, endpoint: str, form: Form) -> tuple[Path, Form]:
        """A household that is served now, and the form as it is sent there, with a session of its own where that needs one."""
        path = self.fresh(name, endpoint)
        point(self.app, path)
        if endpoint not in OWN_SESSION:
            return path, form
        _, cookie, html = self.ask("GET", OWN_SESSION[endpoint])
        cookie = cookie.split(";")[0]
        agreed = self.agreed(html) if endpoint == "bringing.connect_finish" else {}
        if agreed:
            html = self.ask("GET", f"/books/connect/back?{urlencode(agreed)}", cookie=cookie)[2]
        token = re.search(r'name="csrf_token" value="([^"]+)"', html).group(1)
        return path, replace(form, fields=(*form.fields, *agreed.items(), ("cookie", cookie), ("csrf_token", token)))

    def agreed(self, html: str) -> dict[str, str]:
        """What an institution sends a person back with who signed in there, from the page of institutions."""
        address = unescape(re.search(r'href="(http[^"]+/halden/authorize[^"]+)"', html).group(1))
        asked = dict(parse_qsl(urlsplit(address).query))
        bank = self.bank.RequestHandlerClass.bank
        signed_in = bank.sign_in("halden", "noor", "ferry")
        code = bank.consent(signed_in, ["HM44100201"], asked["code_challenge"], asked["redirect_uri"])
        return {"code": code, "state": asked["state"]}

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
    def before(self, endpoint: str = ""):
        return self.fresh(f"before {endpoint}", endpoint)

    def test_every_route_that_changes_something(self):
        endpoints = {r.endpoint for r in self.app.url_map.iter_rules() if "POST" in r.methods}
        idle = []
        for endpoint in sorted(endpoints - SHOWS):
            with self.subTest(endpoint):
                changed, begun = False, b"" if endpoint == "welcome.make" else self.content
                for form in self.forms.get(endpoint, [])[:14]:
                    one, sent = self.served("one", endpoint, form)
                    status = self.send(endpoint, sent)
                    self.assertLess(status, 500, form)
                    if not difference(one, self.before(endpoint if endpoint in (*BEFORE, "welcome.make") else ""), begun):
                        continue
                    changed = True
                    two, sent = self.served("two", endpoint, form)
                    statuses = self.pair(endpoint, sent)
                    refused = 503 if endpoint == "bringing.connect_finish" else 0  # a bank takes a code once
                    self.assertTrue(all(status < 500 or status == refused for status in statuses), (form, statuses))
                    if differing := difference(
                        two, one, begun
                    ):  # what is as one of them makes it is checked by that route's own tests
                        with closing(files.make_file(two)) as db:
                            self.assertEqual(listing.check(db), [], form)
                        self.assertIn(endpoint, TWICE_IS_TWO, (form, differing))
                        self.send_again(one, endpoint, form)
                        self.assertEqual(difference(two, one, begun), [], form)
                    break
                if not changed:
                    idle.append(endpoint)
        self.maxDiff = None
        self.assertEqual(idle, [], "what was sent changed nothing")

    def send_again(self, path: Path, endpoint: str, form: Form) -> None:
        point(self.app, path)
        self.send(endpoint, form)


if __name__ == "__main__":
    unittest.main()
