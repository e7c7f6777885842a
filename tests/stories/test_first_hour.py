"""The first hour: an empty file, the first account, files of one's own, sorted, checked and placed to zero."""

from playwright.sync_api import expect

from tests.stories.visitor import Story

CSV = """Konto;DE00 1234;;
Zeitraum;01.05.2026 bis 14.05.2026;;

Buchungstag;Empfänger;Verwendungszweck;Betrag
04.05.2026;Bakkerij Zeewind;Brood;-4,20
05.05.2026;Stadtwerk;"Abschlag
Mai";-88,00
08.05.2026;Werkstatt Nord;Lohn;1.500,00
Endsaldo;;;1.507,80
"""
OFX = """OFXHEADER:100
DATA:OFXSGML
VERSION:102
SECURITY:NONE
ENCODING:USASCII
CHARSET:1252
COMPRESSION:NONE
OLDFILEUID:NONE
NEWFILEUID:NONE

<OFX><SIGNONMSGSRSV1><SONRS><STATUS><CODE>0<SEVERITY>INFO</STATUS><DTSERVER>20260514<LANGUAGE>ENG</SONRS></SIGNONMSGSRSV1>
<BANKMSGSRSV1><STMTTRNRS><TRNUID>1<STATUS><CODE>0<SEVERITY>INFO</STATUS><STMTRS><CURDEF>EUR
<BANKACCTFROM><BANKID>1<ACCTID>77<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST><DTSTART>20260501<DTEND>20260514
<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260511<TRNAMT>-12.30<FITID>x1<NAME>Marktplatz</STMTTRN>
<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260511<TRNAMT>-12.30<FITID>x2<NAME>Marktplatz</STMTTRN>
</BANKTRANLIST><LEDGERBAL><BALAMT>1483.20<DTASOF>20260514</LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>
"""


class TheFirstHour(Story):
    demo = False

    def brings(self, name: str, content: str) -> None:
        v = self.visitor
        path = self.folder / name
        path.write_text(content, encoding="utf-8")
        v.goes_to("/books/bring-in")
        v.page.get_by_label("From a bank or a broker").set_input_files(path)
        v.clicks("Look at it")

    def test_from_nothing_to_the_budget_equation(self):
        v = self.visitor
        v.goes_to("/")
        self.assertIn("keeps a household’s money in order", v.headline)
        v.clicks("Make the household")
        self.assertIn("Name at least one person", v.text)
        v.problems.clear()  # the browser notes the 400
        v.fills("Name of the household", "Quay Street")
        v.fills("Who belongs to it, with commas between", "Ana, Bo")
        v.clicks("Make the household")
        self.assertIn("The books are empty", v.headline)
        self.assert_accessible()

        v.clicks("Add an account", role="link")
        v.fills("Name", "Current")
        v.fills("It held (a debt with a minus)", "100")
        v.fills("on this day", "2026-05-01")
        v.clicks("Add the account")
        self.assertIn("Current is added", v.text)

        # Files that are not what they say are refused beside the field, and nothing is kept.
        self.brings("broken.ofx", OFX.partition("<FITID>x2")[0])
        self.assertIn("The file is cut short", v.text)
        v.problems.clear()  # the browser notes the 400
        self.brings("bank.csv", CSV)
        self.assertIn("bank.csv would bring three new entries", v.headline)
        v.clicks("Bring in 3")
        self.brings("bank.csv", CSV)
        self.assertIn("would bring no new entries; 3 are already here", v.headline)
        v.clicks("Nothing new: put it away")
        self.brings("bank.ofx", OFX)
        self.assertIn("would bring two new entries", v.headline)
        v.clicks("Bring in 2")

        v.goes_to("/sort")
        for payee, category in (
            ("Marktplatz", "Groceries"),
            ("Bakkerij", "Groceries"),
            ("Stadtwerk", "Power and water"),
            ("Werkstatt", "Pay"),
        ):
            v.clicks(payee, role="link", within="aside")
            v.chooses("Another category", category)
            v.settles()  # picking files it
        self.assertEqual(v.headline, "Every entry has its category.")

        # The statement shows ten cents less than the lines: written off, then locked.
        v.goes_to("/books/1/check")
        v.fills("The statement closes on", "2026-05-14")
        v.fills("with a balance of", "1483.10")
        v.clicks("Begin the check")
        self.assertIn("−€0.10 of Current is not explained yet", v.headline)
        v.chooses("Cannot be found? Enter the difference under", "Bank charges")
        v.clicks("Write it off")
        v.clicks("Reconcile and lock")
        self.assertIn("Current is checked until 14 May 2026", v.headline)

        # Place to zero: expect something, fill the needs, give the rest to one category.
        v.goes_to("/budget?month=2026-05")
        unplaced = v.amount(r"= (€[\d,.]+) unplaced")
        self.assertEqual(unplaced, "€1,600.00")
        v.clicks("Groceries", role="link", within="tr:has-text('Groceries')")
        v.page.get_by_label("Expected from May 2026 on").fill("200")
        v.clicks("Set")
        v.goes_to("/budget?month=2026-05")
        v.clicks("Fill all needs in order")
        field = v.page.get_by_label("Placed for Holidays")
        field.fill("1400.00")  # May is past, and June meets what is over in it
        field.press("Enter")
        expect(v.page.locator("body")).to_contain_text("€1,311.90 is there to be placed in May 2026, and no more")
        v.problems.clear()  # the browser notes the 400
        field = v.page.get_by_label("Placed for Holidays")
        field.fill("1311.90")
        field.press("Enter")
        expect(v.page.locator("h1")).to_contain_text("€88.10 is unplaced")
        slip = v.opens_slip("€88.10")
        self.assertIn("In everyday accounts 1,483.10", slip)
        self.assertIn("Holidays −1,311.90", slip)
        v.presses("Escape")

        # A month ahead knows what carries on; the month before knows nothing.
        v.goes_to("/budget?month=2026-06")
        v.clicks("Groceries", role="link", within="tr:has-text('Groceries')")
        self.assertIn("set in May 2026 and carried on", v.text)
