"""What is typed into the pages' forms: taken, or answered at the field with what was typed still there."""

import io
import re
import unittest
from datetime import date

from flask import Flask, g
from werkzeug.datastructures import MultiDict

from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.months import Month
from bolsa.core.reader import USUAL
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting, expecting, placing
from bolsa.services.house import past
from bolsa.web import filters, forms
from bolsa.web.budget.track import draw_track
from tests.services.household import BY, TODAY
from tests.services.test_bringing_in import CSV
from tests.web.test_pages import PagesCase


class FormsCase(PagesCase):
    def setUp(self):
        super().setUp()
        self.app.config["WTF_CSRF_ENABLED"] = False

    def post(self, address, data=None, follow=True, **more):
        return self.client.post(
            address, data=data or {}, follow_redirects=follow, headers={"Referer": "http://localhost/"}, **more
        )

    def words(self, reply):
        main = reply.text.partition('<main id="work"')[2]
        return " ".join(re.sub(r"<[^>]+>", " ", main).split())


class Refusals(FormsCase):
    def test_a_refusal_before_the_file_is_open_says_what_waits_to_be_said(self):
        self.post("/books/1/quick", {"quick": "quay 1234.20"}, follow=False)
        reply = self.client.get("/books/1?q=%00")
        self.assertEqual(reply.status_code, 400)
        self.assertIn("zero byte", reply.text)
        self.assertIn("1,234.20", reply.text)

    def test_a_choice_that_is_not_here_any_more_is_said_and_changes_nothing(self):
        sent = {"near_years": "2", "middle_years": "5", "contribution": "480.00", "aged": "77"}
        reply = self.client.post("/holdings/mix/plan", data=sent)
        self.assertEqual(reply.status_code, 409)
        self.assertIn("not here any more", reply.text)


class Accounts(FormsCase):
    def test_a_wrong_account_keeps_what_was_typed(self):
        typed = {"name": "Current", "kind": "cash", "opened_on": "2026-05-01", "opening": "12", "currency": "EUR", "note": "kept"}
        reply = self.post("/books/accounts/new", typed)
        self.assertEqual(reply.status_code, 400)
        self.assertIn("There is an account “Current” already.", reply.text)
        self.assertIn('value="kept"', reply.text)
        reply = self.post("/books/accounts/new", typed | {"name": "Tin", "opening": "twelve"})
        self.assertIn("“twelve” is not an amount", reply.text)
        reply = self.post("/books/accounts/new", typed | {"name": "Tin", "opened_on": "someday"})
        self.assertIn("is not a day", reply.text)
        self.assertIn("Tin is added", self.words(self.post("/books/accounts/new", typed | {"name": "Tin"})))

    def test_editing_hiding_and_showing(self):
        edit = {"name": "Main", "kind": "current", "everyday": "everyday", "institution": "Halden Mutual"}
        self.assertIn("Main is changed", self.words(self.post("/books/accounts/1/edit", edit)))
        self.assertIn("hidden; it stays in every total", self.words(self.post("/books/accounts/1/shown", {"shown": "0"})))
        self.assertIn("1 hidden account", self.words(self.client.get("/books")))
        self.assertIn("Main", self.words(self.client.get("/books?hidden=1")))


class Pay(FormsCase):
    LINES = (("earned", "Base", "2000", "c{pay}"), ("tax", "Tax", "500.13", ""), ("before", "Pension", "6 %", "a{reserve}"))

    def keep(self, **more):
        rows = [tuple(text.format(pay=self.category("Pay"), reserve=self.reserve) for text in row) for row in self.LINES]
        columns = zip(*rows, strict=True)
        form = MultiDict({"kept_from": "2026-05-08", "member_id": "1"} | more)
        for name, values in zip(("kind", "name", "amount", "to"), columns, strict=True):
            form.setlist(name, list(values))
        form.setlist("id", [""] * 3)
        form.setlist("start", [""] * 3)
        return self.post("/pay/new/1", form)

    def test_without_any_the_page_says_what_comes_first(self):
        self.assertIn("First its rhythm is kept", self.words(self.client.get("/pay", follow_redirects=True)))
        self.comes_in()
        self.assertIn(
            "Which of what comes in again and again has a payslip?", self.words(self.client.get("/pay", follow_redirects=True))
        )
        self.assertEqual(self.client.get("/pay/1").status_code, 404)

    def comes_in(self):
        typed = {"payee": "Ferry", "account_id": self.current, "direction": "in", "amount": "1500", "rhythm": "FREQ=WEEKLY",
                 "start": "2026-05-08", "category_id": self.category("Pay")}  # fmt: skip
        self.post("/due/new", typed)

    def test_a_pay_is_kept_and_a_payday_confirmed_before_it_came(self):
        self.comes_in()
        self.assertIn("the payslip says €1,379.87 , and it is late", self.words(self.keep()))
        self.assertIn("“soon” is not a day", self.words(self.keep(kept_from="soon")))
        self.assertIn("is taken apart already", self.words(self.keep()))
        for form, words in (
            ({"line-1": "x"}, "“x” is not an amount"), ({"new-name": "Bonus"}, "A line has a name and an amount"),
            ({"line-2": "5000", "act": "confirm"}, "More is taken off"), ({"act": "confirm", "new-name": "B", "new-amount": "5",
             "new-kind": "earned", "new-to": f"a{self.reserve}"}, "B cannot go to that account"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, self.words(self.post("/pay/1/2026-05-08", form)))
        self.assertIn("Confirmed the pay of Ferry of 8 May 2026", self.words(self.post("/pay/1/2026-05-08", {"act": "confirm"})))
        self.assertEqual(self.balance(self.reserve), 12_000)
        self.assertEqual(self.client.get("/pay/1?day=2026-05-09").status_code, 404)
        self.assertEqual(self.client.get("/pay/99999999999999999999").status_code, 404)
        for form in ({"use": "²:5"}, {"use": "1:99999999999999999999"}, {"seen": "²"}):
            self.assertLess(self.post("/pay/1/2026-05-15", form).status_code, 500)
        self.assertEqual(self.client.get("/pay/1?day=soon").status_code, 404)
        self.assertIn("A payday of it is confirmed", self.words(self.post("/pay/1/lines", {"act": "forget"})))


class Answers(FormsCase):
    def test_of_more_parts_than_are_listed_the_rest_stands_in_one_row(self):
        typed = [Entry(date(2026, 4, 2), f"Shop {n}", (Line(-100 - n, "EUR", self.current, day=date(2026, 4, 2)),
                 Line(100 + n, "EUR", None, self.category("Groceries"), date(2026, 4, 2)))) for n in range(210)]  # fmt: skip
        past.record_history(self.db, typed)
        for address, rest in (("/answers/where?by=payee&from=2026-04-01&to=2026-04-30", 10), ("/answers/normal?by=payee", 10)):
            words = self.words(self.client.get(address))
            self.assertIn(f"and {rest} more", words)
            self.assertIn("Shop 209", words)
            self.assertNotIn("Shop 3 ", words)


class Entries(FormsCase):
    def entry(self, **more):
        return {"day": "2026-05-10", "payee": "Otter Books", "direction": "out", "amount": "7.00"} | more

    def test_one_category_takes_all_and_an_open_part_the_rest(self):
        groceries, presents = self.category("Groceries"), self.category("Presents")
        self.post("/books/1/new", self.entry(category_id=str(presents), share=""))
        self.assertIn("Presents", self.words(self.client.get("/books/1?text=otter")))
        split = MultiDict(
            [
                *self.entry(payee="Fair").items(),
                ("category_id", presents),
                ("part", "2.50"),
                ("category_id", groceries),
                ("part", ""),
            ]
        )
        self.post("/books/1/new", split)
        self.assertIn("split: Presents, Groceries", self.words(self.client.get("/books/1?text=fair")))

    def test_money_in_turns_the_signs(self):
        self.post("/books/1/new", self.entry(direction="in", amount="1,200", category_id=str(self.category("Pay")), share=""))
        self.assertEqual(self.balance(), 100_000 - 1_250 + 120_000)

    def test_wrong_entries_are_answered(self):
        known = {
            "“plenty” is not an amount": {"amount": "plenty"},
            "Say who it was paid to": {"payee": " "},
            "That day is too far away": {"day": "2096-05-10"},
            "A transfer needs another account.": {"other_account": "1"},
            "Say which category this part belongs to.": {"category_id": "", "part": "3"},
        }
        for words, typed in known.items():
            with self.subTest(words):
                reply = self.post("/books/1/new", self.entry(**typed))
                self.assertEqual(reply.status_code, 400)
                self.assertIn(words, reply.text)
        self.assertEqual(self.balance(), 98_750)

    def test_a_loan_payment_is_edited_without_losing_its_interest(self):
        loan = self.an_account("Loan", kind="loan", opening_minor=-500_000)
        interest = self.category("Bank charges")
        typed = MultiDict(
            [*self.entry(amount="612", payee="Loan", other_account=loan).items(), ("category_id", interest), ("part", "180")]
        )
        self.post("/books/1/new", typed)
        entry_id = self.db.execute("SELECT max(id) FROM entry").fetchone()[0]
        page = self.client.get(f"/entries/{entry_id}").text
        self.assertIn('value="180.00"', page)
        self.post(f"/entries/{entry_id}", MultiDict([*typed.items(multi=True), ("from", "1"), ("memo", "May")]))
        self.assertEqual(self.balance(loan), -456_800)

    def test_several_at_once_as_one_step(self):
        ids = [self.spends(amount) for amount in (100, 200)]
        self.assertIn("Choose at least one entry", self.words(self.post("/books/1/bulk", {"what": "delete"})))
        chosen = MultiDict([("entry_id", i) for i in ids])
        said = self.words(self.post("/books/1/bulk", MultiDict([*chosen.items(multi=True), ("what", "cleared")])))
        self.assertIn("Marked as cleared: 2 entries", said)
        filed = MultiDict([*chosen.items(multi=True), ("what", "file"), ("category_id", self.category("Clothes"))])
        self.assertIn("Filed 2 entries", self.words(self.post("/books/1/bulk", filed)))
        self.assertEqual(self.balance(), 98_450)


class BringingIn(FormsCase):
    def upload(self, text, name="bank.csv"):
        return self.post("/books/bring-in/file", {"account_id": "1", "file": (io.BytesIO(text.encode()), name)})

    def test_a_preview_can_be_overruled_mapped_anew_and_put_aside(self):
        said = self.words(self.upload(CSV))
        self.assertIn("bank.csv would bring three new entries.", said)
        row = self.db.execute("SELECT min(id) FROM brought_row").fetchone()[0]
        said = self.words(self.post(f"/books/bring-in/1/row/{row}", {"decision": "leave"}))
        self.assertIn("would bring two new entries; 1 left out.", said)
        self.assertIn("cannot be decided", self.words(self.post(f"/books/bring-in/1/row/{row}", {"decision": "burn"})))
        mapping = {"column-0": "day", "column-1": "payee", "date_order": "ymd", "decimal_mark": ".", "delimiter": ","}
        self.assertIn("cannot be read yet", self.words(self.post("/books/bring-in/1/mapping", mapping)))
        twice = mapping | {"column-1": "day"}
        self.assertIn("Two columns cannot both be “Date”", self.words(self.post("/books/bring-in/1/mapping", twice)))
        self.assertIn("would bring three", self.words(self.post("/books/bring-in/1/mapping", mapping | {"column-2": "amount"})))
        self.assertIn("nothing was brought in", self.words(self.post("/books/bring-in/1/discard")))
        self.assertEqual(self.balance(), 98_750)

    def test_bringing_in_and_taking_out_again(self):
        self.upload(CSV)
        self.assertIn("3 new, 0 matched with what was here, 0 already here", self.words(self.post("/books/bring-in/1/bring")))
        self.assertIn("decided already", self.words(self.post("/books/bring-in/1/bring")))
        self.assertIn("3 entries of “bank.csv” are out again", self.words(self.post("/books/bring-in/1/undo")))

    def test_a_file_that_cannot_be_read_is_refused_beside_the_field(self):
        for content, words in (
            ("", "The file is empty."),
            ("%PDF-1.4", "a PDF"),
            ("<?xml version='1.0'?><a/>", "XML, but neither OFX nor camt"),
        ):
            with self.subTest(words):
                reply = self.upload(content)
                self.assertEqual(reply.status_code, 400)
                self.assertIn(words, reply.text)
        self.assertIn("Choose a file first.", self.words(self.post("/books/bring-in/file", {"account_id": "1"})))

    def test_a_name_is_never_a_path(self):
        self.assertIn("passwd would bring", self.words(self.upload(CSV, "../../etc/passwd")))


class House(FormsCase):
    def test_categories_are_added_moved_changed_and_retired(self):
        self.assertIn("Kiln is added", self.words(self.post("/house/categories", {"name": "Kiln", "group": "Studio"})))
        self.assertEqual(self.post("/house/categories", {"name": "kiln", "group": "Studio"}).status_code, 400)
        kiln = self.category("Kiln")
        self.post(f"/house/categories/{kiln}/move", {"way": "up"})
        changed = {"name": "Kiln fund", "group": "Far", "carries": "1", "in_budget": "1", "note": "2027"}
        self.assertIn("Kiln fund is changed", self.words(self.post(f"/house/categories/{kiln}", changed)))
        self.post(f"/house/categories/{kiln}", changed | {"retired": "1"})
        self.assertNotIn("Kiln fund", self.words(self.client.get("/budget")))

    def test_undo_of_what_was_undone_is_refused_in_words(self):
        self.spends(500)
        step = self.db.execute("SELECT max(id) FROM journal_step").fetchone()[0]
        self.assertIn("Undone: Entered", self.words(self.post(f"/house/undo/{step}")))
        self.assertIn("undone already", self.words(self.post(f"/house/undo/{step}")))

    def test_a_partial_takes_no_message_from_the_page(self):
        self.post("/budget/4/placed", {"placed": "lots"}, follow=False)
        self.client.get("/budget/selection?category_id=4", headers={"HX-Request": "true"})
        self.assertIn("“lots” is not an amount", self.words(self.client.get("/budget")))

    def test_who_sits_here_stands_in_the_journal(self):
        self.post("/house/sit", {"member_id": "2"})
        self.post("/books/1/quick", {"quick": "otter 7 presents"})
        self.assertRegex(self.words(self.client.get("/house")), r"Entered Otter, −€7\.00 Bo")

    def test_everything_can_be_taken_out(self):
        for address, kind in (
            ("/house/export.zip", "application/zip"),
            ("/house/backup.bolsa", "application/vnd.sqlite3"),
            ("/worth.csv", "text/csv"),
        ):
            with self.subTest(address):
                reply = self.client.get(address)
                self.assertEqual((reply.status_code, reply.mimetype), (200, kind))
                self.assertGreater(len(reply.data), 50)
                reply.close()

    def test_the_emptied_trash_can_be_undone(self):
        entry = self.spends(500)
        self.post(f"/entries/{entry}/trash")
        self.assertIn("1 entries are gone", self.words(self.post("/house/trash/empty")))
        self.assertIn("The trash is empty", self.words(self.client.get("/house")))


class Parts(unittest.TestCase):
    def setUp(self):
        context = Flask("parts").app_context()
        context.push()
        self.addCleanup(context.pop)
        g.reader = USUAL

    def test_days_as_people_type_them(self):
        for text, day in (
            ("2026-05-10", date(2026, 5, 10)),
            ("yesterday", date(2026, 5, 13)),
            ("12 may", date(2026, 5, 12)),
            ("today", TODAY),
        ):
            with self.subTest(text):
                self.assertEqual(forms.parse_day(MultiDict({"day": text}), "day", TODAY), day)
        for text in ("", "soon", "2026-13-01"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                forms.parse_day(MultiDict({"day": text}), "day", TODAY)

    def test_figures_as_they_are_shown(self):
        self.assertEqual(filters.amount(-8435, "EUR"), "−84.35")
        self.assertEqual(filters.amount(131840, "EUR"), "1,318.40")
        self.assertEqual(filters.amount(1500, "JPY"), "1,500")
        self.assertEqual(
            [filters.count(n, "entry", "entries") for n in (0, 1, 12, 1300)],
            ["no entries", "one entry", "twelve entries", "1,300 entries"],
        )
        self.assertEqual(filters.month_short(Month(2026, 9)), "Sep")

    def test_sentences_are_worded_for_their_reader(self):
        for said, shown in (
            ("Checked Current to 2026-05-14", "Checked Current to 14 May 2026"),
            ("Filled 3 needs of 2026-05", "Filled 3 needs of May 2026"),
            ("Corrected Otter to -31.74 EUR", "Corrected Otter to −€31.74"),
            ("Corrected Otter to −31.74 EUR", "Corrected Otter to −€31.74"),
            ("announced with 1500 JPY before", "announced with JP¥1,500 before"),
            ("2 CSV files of 2026-13-40", "2 CSV files of 2026-13-40"),
            ("“2026-99” is no month. Write it like “2026-05”.", "“2026-99” is no month. Write it like “2026-05”."),
        ):
            with self.subTest(said):
                self.assertEqual(filters.sentence(said), shown)


class Tracks(FormsCase):
    def track(self, expected, placed, spent):
        expecting.set_expected(self.db, BY, self.category("Clothes"), Month(2026, 5), expected)
        if placed:
            placing.place(self.db, BY, self.category("Clothes"), Month(2026, 5), placed)
        if spent:
            self.spends(spent, "Clothes")
        return draw_track(budgeting.budget_view(self.db, BY, Month(2026, 5)).budget.row_of(self.category("Clothes")))

    def test_half_spent_of_a_need_that_is_met(self):
        track = self.track(8000, 8000, 4000)
        self.assertEqual((track.held, track.spent, track.over, track.tick), (236, 118, 0, 236))

    def test_what_is_over_begins_where_the_money_ended(self):
        track = self.track(8000, 6000, 7135)
        self.assertEqual((track.held, track.spent, track.over_x), (177, 177, 177))
        self.assertAlmostEqual(track.over, 33.5)

    def test_spending_with_nothing_planned_is_all_hatch(self):
        track = self.track(0, 0, 1000)
        self.assertEqual((track.held, track.spent, track.tick), (0, 0, None))
        self.assertGreater(track.over, 200)

    def test_accounts_by_name_or_number(self):
        self.assertEqual(accounts.resolve_account(self.db, "CURRENT").id, self.current)


if __name__ == "__main__":
    unittest.main()
