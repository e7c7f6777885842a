"""The command line as a script uses it: a household made, filled, changed and undone from outside, amounts exact to the cent."""

import contextlib
import io
import sqlite3
import unittest

from bolsa import cli
from tests.cli.command_case import CommandCase


class Commands(CommandCase):
    def test_a_course_of_net_worth_by_month_and_what_changed_it(self):
        self.ok("enter", "grebe 23.40 groceries 2026-04-03", "--account", "Current")
        course = self.json("worth", "--from", "2026-03-15", "--every", "month")
        self.assertEqual([point["day"] for point in course["points"]], ["2026-03-31", "2026-04-30", "2026-05-14"])
        self.assertEqual(course["points"][-1]["net"], "976.60")
        self.assertEqual((course["changed"]["saved"], course["changed"]["all"]), ("-23.40", "-23.40"))
        self.assertEqual(self.run_("worth", "--from", "2026-05-14", "--to", "2026-05-01")[0], 1)

    def test_an_import_names_the_row_that_would_explain_what_its_balance_lacks(self):
        self.ok("enter", "grebe 23.40 groceries 2026-04-03", "--account", "Current")
        bank = self.path.parent / "bank.csv"
        rows = ("2026-04-03,GREBE,-23.40,976.60", "2026-04-04,QUAY,5.00,971.60", "2026-04-05,TERN,-7.00,964.60")
        bank.write_text("\n".join(("Date,Payee,Amount,Balance", *rows)))
        said = self.json("import", str(bank), "--account", "Current", "--dry-run")
        (proof,) = said["proof"]
        self.assertEqual((proof["comes_to"], proof["declared"], proof["by"]), ("974.60", "964.60", "-10.00"))
        self.assertEqual([(one["amount"], one["payee"]) for one in proof["explained"]], [("5.00", "QUAY")])
        self.assertIn("QUAY is counted the other way round", self.ok("import", str(bank), "--account", "Current"))

    def test_a_year_with_a_half_yearly_bill_and_one_that_comes_once(self):
        self.ok("expect", "Groceries", "600", "--from", "2026-01")
        self.ok("expect", "Insurance", "450", "--from", "2026-03", "--every", "6")
        self.ok("expect", "Groceries", "900", "--from", "2026-10", "--once")
        self.ok("expect", "Pay", "2500", "--from", "2026-05")
        year = self.json("budget", "--year", "2026-01")
        rows = {row["category"]: row for row in year["rows"]}
        self.assertEqual(rows["Insurance"]["expected"], ["0.00", "0.00", "450.00", *["0.00"] * 5, "450.00", *["0.00"] * 3])
        self.assertEqual(rows["Groceries"]["expected"][8:], ["600.00", "900.00", "600.00", "600.00"])
        self.assertEqual(year["left_over"], [*["0.00"] * 4, *["1900.00"] * 4, "1450.00", "1600.00", "1900.00", "1900.00"])
        self.assertEqual(self.run_("expect", "Groceries", "6", "--from", "2026-01", "--every", "121")[0], 1)

    def test_aims_needs_shifts_a_baseline_and_a_month_that_is_closed(self):
        for month in ("03", "04"):
            self.ok("enter", f"grebe 60.00 groceries 2026-{month}-03", "--account", "Current")
        self.ok("expect", "Insurance", "129", "--from", "2026-07", "--every", "6")
        self.assertEqual(self.json("aim", "Insurance", "spread")["need"], "43.00")
        made = self.json("aim", "Holidays", "build", "1200", "--by", "2026-12-31", "--repeat", "12")
        self.assertEqual((made["sentence"], made["need"]), ("Set the aim of Holidays: built up by 2026-12-31", "150.00"))
        self.assertEqual(self.json("aim", "Repairs", "build", "500", "--each", "40")["need"], "40.00")
        self.assertEqual(self.json("aim", "Presents", "keep", "75")["need"], "75.00")
        self.assertEqual(self.json("aim", "Hobbies", "steady", "20")["need"], "20.00")
        for wrong in (("Holidays", "build", "5"), ("Holidays", "keep"), ("Holidays", "month", "5"), ("Pay", "keep", "5")):
            self.assertEqual(self.run_("aim", *wrong)[0], 1, wrong)
        self.assertEqual(self.json("fill", "Insurance", "Holidays", "--month", "2026-05")["placed"], "193.00")
        self.ok("shift", "Holidays", "Repairs", "50")
        rows = {row["category"]: row for row in self.json("budget", "2026-05")["rows"]}
        self.assertEqual(
            (rows["Holidays"]["aim"], rows["Holidays"]["placed"], rows["Repairs"]["placed"]), ("build", "100.00", "50.00")
        )
        self.assertEqual(
            (rows["Groceries"]["aim"], rows["Insurance"]["expected"], rows["Insurance"]["carried"]), ("month", "0.00", "0.00")
        )
        shown = self.json("baseline", "--months", "2", "--median", "--dry-run")
        self.assertEqual({r["category"]: r["amount"] for r in shown["rows"]}["Groceries"], "60.00")
        self.assertIsNone(shown["step"])
        self.ok("baseline", "Groceries", "--last")
        self.assertEqual(self.json("fill", "Groceries", "--way", "usual", "--months", "1")["placed"], "60.00")
        year = self.json("budget", "--year", "2026-03")["months"]
        self.assertEqual([one["month"] for one in year][:2], ["2026-03", "2026-04"])
        figures = ("expected_in", "expected_out", "actual_in", "actual_out", "left_over")
        self.assertEqual([year[0][name] for name in figures], ["0.00", "0.00", "0.00", "60.00", "-60.00"])
        self.assertEqual([year[4][name] for name in figures[:2]], ["0.00", "189.00"])
        closed = self.json("close-month", "2026-04")
        self.assertIn({"point": "All checked", "done": False, "open": "Current"}, closed["checklist"])
        self.assertEqual(self.run_("close-month", "2026-04")[0], 1)
        self.assertEqual(self.json("budget", "2026-04")["closed_on"], "2026-05-14")

    def test_questions_are_answered_by_dimension_and_condition(self):
        for text in ("grebe 23.40 groceries 2026-04-03", "plover 60 clothes 2026-04-09", "grebe 10 groceries 2026-05-02 #van"):
            self.ok("enter", text, "--account", "Current")
        asked = ("--from", "2026-04-01", "--to", "2026-05-31")
        found = self.json("answer", "spent", "--by", "category", *asked)
        self.assertEqual(
            (found["total"], [(p["name"], p["amount"]) for p in found["parts"]]),
            ("93.40", [("Clothes", "60.00"), ("Groceries", "33.40")]),
        )
        self.assertEqual((found["full_months"], found["mean"]), (["2026-04"], "83.40"))
        for by in ("group", "payee", "tags", "member", "account", "month"):
            self.assertEqual(self.json("answer", "spent", "--by", by, *asked)["total"], "93.40")
        self.assertEqual(self.json("answer", "spent", "--only", "tag=van", *asked)["total"], "10.00")
        self.assertEqual(self.json("answer", "spent", "--without", "category=Clothes", *asked)["total"], "33.40")
        self.assertEqual(self.json("answer", "stayed", "--by", "month", *asked)["parts"][0]["amount"], "-83.40")
        self.assertEqual(self.run_("answer", "spent", "--only", "category=Nonsense")[0], 1)

    def test_a_quick_line_is_entered_filed_and_undone(self):
        made = self.json("enter", "grebe 23.40 groceries yesterday", "--account", "Current")
        entry = self.json("entries", "--account", "Current")[-1]
        kept = {name: entry[name] for name in ("id", "date", "category", "state", "amount", "currency")}
        expected = {"id": made["entry"], "date": "2026-05-13", "category": "Groceries", "state": "pending"}
        self.assertEqual(kept, expected | {"amount": "-23.40", "currency": "EUR"})
        filed = self.json("file", str(made["entry"]), "Household")
        self.assertEqual(self.json("entries", "--account", "Current")[-1]["category"], "Household")
        self.ok("undo", str(filed["step"]))
        self.assertEqual(self.json("entries", "--account", "Current")[-1]["category"], "Groceries")
        self.assertEqual([s["undone"] for s in self.json("steps", "--last", "2")], [False, True])

    def test_what_comes_again_is_kept_looked_ahead_and_written_as_a_calendar(self):
        for month in (2, 3, 4):
            self.ok("enter", f"tidewater 91.90 groceries 2026-{month:02d}-08", "--account", "Current")
        (found,) = self.json("series", "find", "--keep")
        self.assertEqual((found["payee"], found["rrule"], found["amount"]), ("Tidewater", "FREQ=MONTHLY", "-91.90"))
        rule = ("--rrule", "FREQ=MONTHLY;BYMONTHDAY=31", "--start", "2026-05-31")
        made = self.json("series", "add", "Kiln Lane", "-800", "--account", "Current", *rule, "--weekend", "before")
        kept = {one["payee"]: (one["id"], one["next"], one["rhythm"]) for one in self.json("series")}
        self.assertEqual(kept["Kiln Lane"], (made["series"], "2026-05-29", "monthly on the 31st"))
        self.assertEqual([d["state"] for d in self.json("due") if d["payee"] == "Tidewater"][-2:], ["awaited", "awaited"])
        (current,) = self.json("forecast")
        self.assertEqual((current["lowest"], current["below_floor_on"]), ("-259.50", "2026-05-29"))
        days = self.json("dates", *rule, "--from", "2027-01-01", "--to", "2027-03-31", "--short", "skip")
        self.assertEqual(days, ["2027-01-31", "2027-03-31"])
        out = self.path.parent / "due.ics"
        self.ok("calendar", str(out))
        self.assertIn("DTSTART;VALUE=DATE:20260529", out.read_text(encoding="utf-8"))
        self.ok("undo", str(made["step"]))
        self.assertNotIn("Kiln Lane", {one["payee"] for one in self.json("series")})
        wrong = ("--account", "Current", "--rrule", "now", "--start", "2026-05-31")
        self.assertEqual(self.run_("series", "add", "X", "1", *wrong)[0], 1)

    def test_what_a_file_does_not_say_is_answered_by_options_or_refused(self):
        self.ok("account", "add", "Reserve", "--kind", "savings")
        table, odd = self.path.parent / "bank.csv", self.path.parent / "odd.csv"
        table.write_text("When,Shop,Sum,Kept\n04/05/2026,Otter Books,7.00,1\n", encoding="utf-8")
        odd.write_text("a;b;c\nx;y;z\n", encoding="utf-8")
        code, _, err = self.run_("import", str(table))
        self.assertEqual((code, "Name it with --account." in err), (1, True), err)
        to_current = ("import", str(table), "--account", "Current")
        for wrong in ("day=When,amount=Nothing", "when=1"):
            self.assertEqual(self.run_(*to_current, "--columns", wrong)[0], 1)
        self.json(*to_current, "--columns", "day=When,payee=2,amount=Sum", "--dates", "mdy", "--flip")
        entry = self.json("entries", "--account", "Current")[-1]
        self.assertEqual((entry["date"], entry["payee"], entry["amount"]), ("2026-04-05", "Otter Books", "-7.00"))
        code, _, err = self.run_("import", str(odd), "--account", "Current")
        self.assertEqual((code, "Say it with --columns." in err), (1, True), err)

    def test_the_accounts_of_a_file_go_where_options_say(self):
        statement = (
            "<STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>{0}<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST><STMTTRN>"
            "<DTPOSTED>20260511<TRNAMT>-5.00<FITID>{0}<NAME>Otter</STMTTRN></BANKTRANLIST></STMTRS></STMTTRNRS>"
        )
        path = self.path.parent / "two.ofx"
        path.write_text(f"<OFX><BANKMSGSRSV1>{statement.format('77')}{statement.format('88')}</BANKMSGSRSV1></OFX>")
        said = self.json("import", str(path), "--to", "77=Current", "--to", "88=leave")
        self.assertEqual((said["new"], self.json("worth")["net"]), (1, "995.00"))
        self.assertEqual(self.run_("import", str(path), "--to", "88")[0], 1)

    def test_money_set_by_leaves_the_budget(self):
        self.ok("account", "add", "Fund", "--kind", "pension")
        entry = self.json("enter", "Fund 200", "--account", "Current")["entry"]
        self.ok("transfer", str(entry), "Fund", "--set-by", "Set by")
        budget = self.json("budget", "2026-05")
        self.assertEqual(budget["balance"], "800.00")
        self.assertEqual(next(r for r in budget["rows"] if r["category"] == "Set by")["spent"], "200.00")
        self.assertEqual(self.json("worth")["net"], "1000.00")

    def test_a_month_is_expected_placed_and_filled(self):
        self.ok("expect", "Groceries", "300", "--from", "2026-05")
        self.ok("place", "Groceries", "120/2")
        self.assertEqual(self.json("fill")["placed"], "240.00")
        budget = self.json("budget")
        row = next(r for r in budget["rows"] if r["category"] == "Groceries")
        self.assertEqual((budget["unplaced"], row["need"], row["placed"], row["left"]), ("700.00", "300.00", "300.00", "300.00"))

    def test_accounts_change_take_values_and_close(self):
        self.ok("account", "add", "Flat", "--kind", "property")
        self.ok("account", "value", "Flat", "90000", "--on", "2026-05-01")
        self.assertEqual(self.json("worth", "--on", "2026-04-30")["owned"], "1000.00")
        self.assertEqual(self.json("worth")["owned"], "91000.00")
        self.ok("account", "add", "Tin", "--kind", "cash", "--opening", "20")
        self.ok("account", "set", "Tin", "--hidden")
        self.ok("account", "close", "Tin", "--rest-to", "Current")
        self.assertEqual(self.json("balances")[0]["balance"], "1020.00")

    def test_what_is_refused_says_why_and_changes_nothing(self):
        for arguments, words in (
            (("account", "add", "Krona", "--kind", "savings", "--currency", "SEK", "--everyday"), "keep this account apart"),
            (("file", "1", "Nowhere"), "Categories: Groceries"),
            (("place", "Groceries", "much"), "is not an amount"),
            (("undo", "999"), "no such step"),
        ):
            with self.subTest(arguments):
                code, _, err = self.run_(*arguments)
                self.assertEqual(code, 1)
                self.assertIn(words, err)
        self.assertTrue(self.json("check")["holds"])

    def test_a_backup_is_checked_byte_by_byte_and_stays_as_it_is(self):
        self.path, household = self.path.with_name("copy.bolsa"), self.path
        with contextlib.redirect_stdout(io.StringIO()):
            self.assertEqual(cli.main(["backup", str(self.path), "--data", str(household)]), 0)
        content = self.path.read_bytes()
        self.assertIn("Everything holds", self.ok("check"))
        self.assertEqual(self.path.read_bytes(), content)
        for at, said in (
            (content.index(b"Ana"), "as it was written, byte by byte"),
            (len(content) - 1, "the file is sound: malformed"),
        ):
            self.path.write_bytes(content[:at] + bytes([content[at] ^ 1]) + content[at + 1 :])
            with self.subTest(said):
                code, out, _ = self.run_("check")
                self.assertEqual(code, 1)
                self.assertIn(said, out)

    def test_check_names_what_is_damaged_also_where_nothing_else_can_be_read(self):
        for table in ("line", "household", "setting"):
            with contextlib.closing(sqlite3.connect(self.path)) as db:
                db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                (root,) = db.execute("SELECT rootpage FROM sqlite_master WHERE name = ?", (table,)).fetchone()
            whole = self.path.read_bytes()
            self.path.write_bytes(whole[: (root - 1) * 4096] + b"x" * 4096 + whole[root * 4096 :])
            with self.subTest(table):
                code, out, err = self.run_("check")
                self.assertEqual((code, err), (1, ""))
                self.assertIn(f"the file is sound: database disk image is malformed: table {table}", out)
                code, _, err = self.run_("entries", "--account", "Current")
                self.assertEqual(code, 1)
                self.assertIn("is damaged. “bolsa check” says where", err)
            self.path.write_bytes(whole)

    def test_the_clock_is_set_for_trials(self):
        self.ok("day", "2026-06-01")
        self.ok("enter", "grebe 5 groceries today", "--account", "Current")
        self.assertEqual(self.json("entries", "--account", "Current")[-1]["date"], "2026-06-01")


if __name__ == "__main__":
    unittest.main()
