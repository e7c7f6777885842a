"""What every page promises: headers, no change by GET, tokens on every change, errors in words; and the command line."""

import io
import json
import re
import unittest
from contextlib import closing, redirect_stderr, redirect_stdout
from datetime import date

from flask import url_for

from bolsa import cli
from bolsa.bench.fuzz.values import EXAMPLES
from bolsa.core.months import Month
from bolsa.errors import NotAllowed
from bolsa.services.accounts import accounts
from bolsa.services.house import files
from bolsa.services.house.exports import safe_cell
from bolsa.services.ledger import attaching
from bolsa.web.serving import require_loopback
from bolsa.web.working.views import slip_address
from tests.formats.test_ofx import ofx
from tests.formats.test_ofx_shares import investments, position, trade
from tests.services.household import BY, HouseholdCase, picture
from tests.web.served import an_app


class PagesCase(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.spends(1250)
        self.app = an_app(self.path)
        self.client = self.app.test_client()

    def addresses(self, method):
        adapter = self.app.url_map.bind("localhost")
        for one in self.app.url_map.iter_rules():
            if method in one.methods:
                yield adapter.build(one.endpoint, {name: EXAMPLES[name] for name in one.arguments}, method=method)

    def rows(self):
        tables = [
            r["name"] for r in self.db.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%'")
        ]
        return {t: self.db.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables if t != "setting"}


class EveryPage(PagesCase):
    def test_nothing_changes_by_get_and_every_answer_is_guarded(self):
        before = self.rows()
        for address in self.addresses("GET"):
            with self.subTest(address), closing(self.client.get(address)) as reply:
                self.assertLess(reply.status_code, 500)
                policy = reply.headers["Content-Security-Policy"]
                self.assertIn("default-src 'none'", policy)
                self.assertNotIn("unsafe", policy)
                self.assertEqual(reply.headers["X-Content-Type-Options"], "nosniff")
                if "/static/" not in address:
                    self.assertEqual(reply.headers["Cache-Control"], "no-store")
                if reply.mimetype == "text/html":
                    self.assertNotRegex(reply.text, r"<script(?! src)|\sstyle=|\son\w+=")
        self.assertEqual(self.rows(), before)

    def test_an_attachment_is_sent_by_what_it_holds_and_a_pdf_for_saving(self):
        for at, (content, kind, way) in enumerate(
            ((picture(), "image/png", "inline"), (picture(kind="PDF"), "application/pdf", "attachment")), 1
        ):
            attaching.attach(self.db, BY, 1, "page.html", content)
            with closing(self.client.get(f"/attachments/{at}")) as reply:
                self.assertEqual(reply.mimetype, kind)
                self.assertTrue(reply.headers["Content-Disposition"].startswith(way))
                self.assertEqual(reply.headers["X-Content-Type-Options"], "nosniff")

    def test_a_mistake_of_ours_is_a_number_on_the_page_and_in_the_log(self):
        app = an_app(self.path, testing=False)
        app.add_url_rule("/fails", "fails", view_func=lambda: 1 / 0)
        with self.assertLogs("bolsa", "ERROR") as log:
            reply = app.test_client().get("/fails?token=kept-to-itself")
        self.assertEqual(reply.status_code, 500)
        number = re.search(r"The log knows it as (\w+)", reply.text)[1]
        self.assertIn(number, log.output[0])
        self.assertNotIn("ZeroDivision", reply.text)
        self.assertNotIn("kept-to-itself", "".join(log.output))

    def test_amounts_of_a_register_are_numbers_in_its_csv(self):
        self.spends(1_250, payee="=1+1")
        table = self.client.get("/books/1.csv").text
        self.assertIn("'=1+1", table)
        self.assertIn(",-12.50,EUR,", table)

    def test_days_and_months_nobody_means_are_answered_in_words(self):
        far, long = "from=9999-01-01&to=9999-12-31", "from=0001-01-01&to=9999-12-31"
        questions, pages = (
            ("where", "normal", "changed", "grew", "tags", "flow"),
            ("/", "/books", "/budget", "/due", "/worth", "/answers"),
        )
        asked = [f"/answers/{question}?{days}" for question in questions for days in (far, long)]
        asked += [f"{page}?month={month}" for page in pages for month in ("0001-01", "1899-12", "2201-01", "9999-12")]
        asked += ["/budget/year?first=9999-12", "/working/answer/spent~0001-01-01~9999-12-31", "/working/year-left/9999-12.11"]
        for address in asked:
            with self.subTest(address), closing(self.client.get(address)) as reply:
                self.assertIn(reply.status_code, (400, 404))
        for address in (*pages, "/budget/year", "/answers/changed"):
            for month in ("1900-01", "2200-12"):
                with self.subTest(address, month=month), closing(self.client.get(f"{address}?month={month}")) as reply:
                    self.assertEqual(reply.status_code, 200)

    def test_the_address_of_a_slip_is_that_of_its_page(self):
        keys = ("all", 7, "7.150", "2026-05-14@own1.A%2FB@class.Éte %", "1..2:market", "b?c#d&e=f+g")
        for chosen in ("", "?month=2026-03"):
            with self.app.test_request_context(f"/budget{chosen}"):
                self.app.preprocess_request()
                for key in keys:
                    for month in ({}, {"month": Month(2026, 4)}):
                        expected = url_for("working.slip", kind="left", key=key, **month)
                        self.assertEqual(slip_address("left", key, **month), expected)

    def test_every_change_needs_its_token(self):
        before = self.rows()
        for address in self.addresses("POST"):
            with self.subTest(address), closing(self.client.post(address, data={})) as reply:
                self.assertEqual(reply.status_code, 400)
                self.assertIn("Nothing was changed", reply.text)
        self.assertEqual(self.rows(), before)

    def test_what_people_type_is_never_markup(self):
        self.spends(100, payee="<script>alert(1)</script>")
        for address in ("/books/1", "/sort", "/working/balance/1", "/house"):
            self.assertNotIn("<script>alert", self.client.get(address).text)

    def test_a_partial_is_the_very_rows_of_the_page(self):
        slip = self.client.get("/working/unplaced/all", headers={"HX-Request": "true"}).text
        self.assertNotIn("<html", slip)
        self.assertIn(re.sub(r"\s+", " ", slip).strip(), re.sub(r"\s+", " ", self.client.get("/working/unplaced/all").text))

    def test_a_large_upload_is_refused_in_words(self):
        reply = self.client.post("/books/bring-in/file", data={"file": (io.BytesIO(b"x" * 40_000_000), "big.csv")})
        self.assertEqual(reply.status_code, 413)
        self.assertIn("larger than Bolsa takes in", reply.text)

    def test_an_empty_file_leads_to_the_first_page(self):
        client = an_app(self.folder / "empty.bolsa").test_client()
        self.assertEqual(client.get("/budget").headers["Location"], "/welcome")


class Serving(unittest.TestCase):
    def test_only_loopback_is_served(self):
        for host in ("127.0.0.1", "::1", "localhost", "127.8.0.1"):
            require_loopback(host)
        for host in ("0.0.0.0", "192.168.1.4", "::", "example.org"):
            with self.subTest(host), self.assertRaises(NotAllowed):
                require_loopback(host)

    def test_no_cell_is_a_formula(self):
        begun = ("=1+1", "+1", "-2+3", "@SUM(A1)", "\tx", "\nx", "\uff1d1", "\uff0b1", "\ufe631", "\uff201", "\u22121")
        for text in (*begun, " =1", "\u200b=1", "\ufeff\u00a0\uff1d1", "\u2028@x"):
            self.assertTrue(safe_cell(text).startswith("'"), repr(text))
        for text in ("Grebe", " Grebe", "(=1)", "4 = 2 + 2", "é-1", "-2", "-202.00", "", None):
            self.assertEqual(safe_cell(text), text or "")


class CommandLine(PagesCase):
    def run_(self, *words):
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = cli.main([*words, "--data", str(self.path)])
        return code, out.getvalue(), err.getvalue()

    def test_a_folder_of_files_one_line_of_json_each(self):
        good, bad = self.folder / "good.csv", self.folder / "bad.ofx"
        good.write_text("Date,Payee,Amount\n2026-05-01,Grocer,-1.00\n")
        bad.write_text("<OFX><BANKTRANLIST><STMTTRN>")
        code, out, _ = self.run_("import", str(good), str(bad), "--account", "current", "--json")
        first, second = map(json.loads, out.splitlines())
        self.assertEqual(code, 1)
        self.assertEqual(
            {k: first[k] for k in ("new", "matched", "known", "refused", "error")},
            {"new": 1, "matched": 0, "known": 0, "refused": 0, "error": None},
        )
        self.assertEqual((second["refused"], second["new"]), (1, 0))
        self.assertIn("cut short", second["error"])

    def test_entries_and_balances_as_json(self):
        entry = json.loads(self.run_("entries", "--account", "Current", "--from", "2026-05-01", "--json")[1])[0]
        self.assertEqual(
            (entry["date"], entry["payee"], entry["amount"], entry["state"], entry["category"]),
            ("2026-05-14", "Grebe Street Grocer", "-12.50", "pending", "Groceries"),
        )
        balances = {b["account"]: b["balance"] for b in json.loads(self.run_("balances", "--on", "2026-05-13", "--json")[1])}
        self.assertEqual(balances, {"Current": "1000.00", "Reserve": "0.00"})

    def test_errors_are_one_sentence_on_standard_error(self):
        code, out, err = self.run_("entries", "--account", "Nowhere")
        self.assertEqual((code, out), (1, ""))
        self.assertEqual(err, "bolsa: There is no account “Nowhere”. Accounts: Current, Reserve.\n")
        with redirect_stderr(io.StringIO()) as said:
            self.assertEqual(cli.main(["check", "--data", str(self.folder / "none.bolsa")]), 1)
        self.assertIn("is not there. Make a household with", said.getvalue())
        with redirect_stderr(io.StringIO()), self.assertRaises(SystemExit) as caught:
            cli.main(["account", "add", "X", "--kind", "sock"])
        self.assertEqual(caught.exception.code, 2)

    def test_check_export_backup_and_restore(self):
        self.assertEqual(self.run_("check")[:2], (0, "Everything holds.\n"))
        self.run_("export", str(self.folder / "out"))
        exported = json.loads((self.folder / "out" / "bolsa.json").read_text())
        self.assertIn("-12.50", {line["amount"] for line in exported["lines"]})
        backup = self.folder / "copy.bolsa"
        self.assertEqual(self.run_("backup", str(backup))[0], 0)
        self.spends(999)
        self.assertEqual(self.run_("restore", str(backup))[0], 0)
        with closing(files.open_household(self.path)) as db:
            self.assertEqual(accounts.get_account_state(db, self.current).balance_minor, 98_750)
        (self.folder / "junk.bolsa").write_text("junk" * 999)
        code, _, err = self.run_("restore", str(self.folder / "junk.bolsa"))
        self.assertEqual(code, 1)
        self.assertIn("is not a Bolsa household", err)
        self.assertEqual(self.run_("restore", str(backup))[0], 0)
        self.assertEqual(len(list(self.folder.glob("a.bolsa.*.before-restore"))), 2)  # nothing that was there is overwritten

    def test_damage_is_found_and_named(self):
        self.db.execute("UPDATE line SET amount_minor = amount_minor + 1 WHERE account_id IS NOT NULL AND amount_minor < 0")
        code, out, _ = self.run_("check")
        self.db.execute("UPDATE line SET amount_minor = amount_minor - 1 WHERE account_id IS NOT NULL AND amount_minor < 0")
        self.assertEqual(code, 1)
        self.assertIn("every entry sums to zero in each currency: entry", out)

    def test_a_household_from_nothing(self):
        path = self.folder / "new.bolsa"
        with redirect_stdout(io.StringIO()):
            self.assertEqual(cli.main(["init", "--currency", "SEK", "--data", str(path)]), 0)
            add = ["account", "add", "Lön", "--kind", "current", "--opening", "1,234.50", "--on", "2026-01-01"]
            self.assertEqual(cli.main([*add, "--data", str(path)]), 0)
        with closing(files.open_household(path)) as db:
            account = accounts.list_accounts(db)[0]
            self.assertEqual((account.currency, accounts.get_account_state(db, account.id).balance_minor), ("SEK", 123_450))

    def test_files_make_the_accounts_of_a_household_that_follows_the_clock(self):
        path, bank, depot = self.folder / "new.bolsa", self.folder / "bank.ofx", self.folder / "depot.ofx"
        bank.write_text(ofx())
        depot.write_text(investments(trade(), position("10")))
        with redirect_stdout(io.StringIO()) as said:
            self.assertEqual(cli.main(["init", "--data", str(path)]), 0)
            self.assertEqual(cli.main(["import", str(bank), str(depot), "--data", str(path)]), 0)
        self.assertIn("shares: 1 new, 1 listed", said.getvalue())
        with closing(files.open_household(path)) as db:
            made = {a.kind: a.opened_on for a in accounts.list_accounts(db)}
        self.assertEqual(made, {"current": date(2026, 5, 14), "brokerage": date(2026, 4, 13)})


if __name__ == "__main__":
    unittest.main()
