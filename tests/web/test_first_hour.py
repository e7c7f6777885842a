"""A first hour on the pages: checking a card, rows in checked days, forms that were refused, the household itself."""

from datetime import date

from bolsa.services.accounts import accounts, openings
from bolsa.services.bringing import bringing_in, previewing, taking_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from tests.services import test_first_hour as first_hour
from tests.services.household import BY
from tests.services.test_first_hour import ofx
from tests.web.test_forms import FormsCase

APRIL = first_hour.Checked.FILE  # three rows, two of them in days that are checked


class Checking(FormsCase):
    def setUp(self):
        super().setUp()
        self.card = self.an_account("Card", "card")

    def closing(self, typed, account):
        self.post(f"/books/{account}/check", {"closing_day": "2026-05-13", "closing": typed})
        page = checking.check_page(self.db, account)
        checking.abandon_statement(self.db, BY, page.statement.id)
        return page.statement.closing_minor

    def test_a_bill_is_typed_as_it_stands_and_what_the_card_owes_with_a_plus(self):
        self.assertIn("Write what is owed as the bill does, without a sign", self.client.get(f"/books/{self.card}/check").text)
        for typed, closing in (("705.28", -70_528), ("-705.28", -70_528), ("+5", 500)):
            self.assertEqual(self.closing(typed, self.card), closing, typed)
        self.assertEqual(self.closing("705.28", self.current), 70_528)

    def test_a_missing_line_is_entered_here_and_mending_one_leads_back_here(self):
        self.spends(900, day=date(2025, 12, 30), account=self.card, payee="Quay Books")
        statement_id = checking.begin_statement(self.db, BY, self.card, date(2026, 5, 13), -2_000).made
        page = self.words(self.client.get(f"/books/{self.card}/check"))
        self.assertIn("30 Dec 2025", page)
        self.assertIn("Enter a line the statement shows and that is missing here", page)
        missing = {"missing_day": "2026-05-14", "missing_payee": "Grebe", "missing_amount": "-20"}
        wrong = self.post(f"/statements/{statement_id}/enter", missing)
        self.assertEqual(wrong.status_code, 400)
        self.assertIn("closes on 13 May 2026; this is dated later", self.words(wrong))
        self.assertIn('value="Grebe"', wrong.text)
        reply = self.post(f"/statements/{statement_id}/enter", missing | {"missing_day": "2026-05-02"})
        self.assertIn("Card agrees with the statement", self.words(reply))
        entry_id = self.db.execute("SELECT max(id) FROM entry").fetchone()[0]
        form = self.client.get(f"/entries/{entry_id}?from={self.card}&check=1").text
        self.assertIn('name="check" value="1"', form)
        change = {"from": self.card, "check": "1", "day": "2026-05-02", "payee": "Grebe", "direction": "out", "amount": "20"}
        self.assertEqual(self.post(f"/entries/{entry_id}", change, follow=False).location, f"/books/{self.card}/check")


class Refused(FormsCase):
    def test_a_form_that_was_refused_and_is_asked_for_again_leads_to_its_page(self):
        for address, page in (("/books/accounts/1/close", "/books/accounts/1"), ("/house/trash/empty", "/house")):
            refused = self.client.get(address)
            self.assertEqual(refused.status_code, 303)
            self.assertIn(refused.location, (page, "/books"))
        self.assertEqual(self.client.get("/nowhere").status_code, 404)

    def test_closing_asks_whether_what_is_pending_happened(self):
        close = {"day": "2026-05-14", "rest_to": self.reserve}
        reply = self.post("/books/accounts/1/close", close)
        self.assertEqual(reply.status_code, 400)
        self.assertIn("An entry is still pending", self.words(reply))
        self.assertIn("Current is closed", self.words(self.post("/books/accounts/1/close", close | {"happened": "on"})))

    def test_a_quick_line_names_what_it_did_not_understand(self):
        said = self.client.get("/books/1/understood?quick=grebe+4.20+groceries+31.2.2026+oddly").text
        self.assertIn("not understood, so kept as the memo: 31.2.2026 oddly", said)


class Openings(FormsCase):
    def test_what_it_held_is_said_on_its_form_and_one_button_meets_the_bank(self):
        fresh = self.an_account("Fresh", opening_minor=10_000, opened_on=date(2026, 5, 14), number="123")
        self.assertIn("Its opening balance follows", self.client.get(f"/books/accounts/{fresh}/edit").text)
        wrong = self.post(f"/books/accounts/{fresh}/opening", {"opening": "much", "known_on": "2026-05-14"})
        self.assertIn("“much” is not an amount", self.words(wrong))
        self.post(f"/books/accounts/{fresh}/opening", {"opening": "120", "known_on": "2026-05-14"})
        self.assertEqual(openings.find_known(self.db, fresh).amount_minor, 12_000)
        bringing_in.import_file(self.db, BY, "a.ofx", ofx("99.00"), Answers(fresh))
        page = self.words(self.client.get(f"/books/{fresh}"))
        self.assertIn("its opening balance may be off by 21.00", page)
        reply = self.post(f"/books/accounts/{fresh}/opening/bank")
        self.assertIn("Let Fresh open so that it meets what its bank says", self.words(reply))
        self.assertNotIn("may be off", self.words(reply))


class InCheckedDays(FormsCase):
    def setUp(self):
        super().setUp()
        checking.reconcile(self.db, BY, checking.begin_statement(self.db, BY, self.current, date(2026, 4, 30), 100_000).made)

    def test_rows_in_checked_days_stand_in_a_question_of_their_own_and_known_ones_are_folded(self):
        bringing_in.import_file(self.db, BY, "a.csv", APRIL, Answers(self.current))
        batch_id = taking_in.take_in(self.db, BY, "b.csv", APRIL, Answers(self.current)).batch_id
        page = self.client.get(f"/books/bring-in/{batch_id}")
        self.assertIn("1 is already here; 2 in checked days", self.words(page))
        self.assertIn("One row already here", self.words(page))
        self.post(f"/books/bring-in/{batch_id}/asked", {"decision": "bring", "which": "checked"})
        self.assertEqual(previewing.get_preview(self.db, batch_id).counts["new"], 2)


class TheHousehold(FormsCase):
    def test_it_is_changed_and_members_come_and_go(self):
        page = self.words(self.client.get("/house/household"))
        self.assertIn("It stays: accounts are kept in it.", page)
        wrong = self.post("/house/household", {"name": "", "currency": "EUR", "time_zone": "UTC"})
        self.assertIn("The household needs a name", self.words(wrong))
        self.post("/house/household", {"name": "The quay", "currency": "EUR", "time_zone": "Europe/Oslo"})
        self.assertIn("The quay counts in EUR", self.words(self.client.get("/house/household")))
        wrong = self.post("/house/members", {"member": "Cy", "birth_year": "99"})
        self.assertIn("year of birth in four digits", self.words(wrong))
        self.assertIn('value="Cy"', wrong.text)
        self.post("/house/members", {"member": "Cy", "birth_year": "1999"})
        self.assertIn("Cy", self.words(self.client.get("/house")))
        member_id = self.db.execute("SELECT max(id) FROM member").fetchone()[0]
        reply = self.post("/house/members", {"member_id": member_id, "member": "Cy", "way": "remove"})
        self.assertIn("Cy belongs to the household no more", self.words(reply))

    def test_a_home_currency_is_one_there_is(self):
        reply = self.post(
            "/books/accounts/new", {"name": "Odd", "kind": "cash", "opened_on": "2026-05-01", "currency": "quatsch"}
        )
        self.assertIn("“quatsch” is no currency", self.words(reply))
        self.assertEqual([one.name for one in accounts.list_accounts(self.db)], ["Current", "Reserve"])
