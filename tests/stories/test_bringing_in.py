"""Bringing in files: a mixed folder at once, a CSV with a nasty preamble, accounts nobody knows, matching by hand."""

from playwright.sync_api import expect

from tests.stories.visitor import Story

OFX = """OFXHEADER:100
DATA:OFXSGML

<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>{number}<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST>
{rows}</BANKTRANLIST><LEDGERBAL><BALAMT>{balance}<DTASOF>20260513</LEDGERBAL></STMTRS></STMTTRNRS>{more}</BANKMSGSRSV1></OFX>"""
ROW = "<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>{day}<TRNAMT>{amount}<FITID>{ref}<NAME>{name}\n"
CAMT = """<?xml version="1.0"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><BkToCstmrStmt><Stmt>
<Acct><Id><Othr><Id>SK7781</Id></Othr></Id><Ccy>SEK</Ccy></Acct><Ntry><Amt Ccy="SEK">312.50</Amt><CdtDbtInd>CRDT</CdtDbtInd>
<Sts><Cd>BOOK</Cd></Sts><BookgDt><Dt>2026-05-12</Dt></BookgDt><AddtlNtryInf>RÄNTA</AddtlNtryInf></Ntry></Stmt></BkToCstmrStmt>
</Document>"""
MT940 = """:20:1
:25:PC20817
:28C:1
:60F:C260430EUR6049,66
:61:2605120512D18,40NTRFNONREF
:86:CLAYWORKS DEPOT INV
 2044
:62F:C260512EUR6031,26
-
"""
NASTY = "\r\n".join(
    (
        "Harbour Bank;;;", "Account;HM 4410 0201;;", "Printed;13.05.2026 08:12;;", ";;;",
        'Buchung;Text;"Betrag\n(EUR)";S/H', '11.05.2026;"TIDE; ""QUAY"" CAFÉ";1.006,60;S',
        "12.05.2026;RÜCKZAHLUNG;500,;H", "13.05.2026;Fähre;,20;S", "Saldo;;9.764,27;H", "",
    )
)  # fmt: skip


class Files(Story):
    def test_a_file_that_is_too_large_is_refused_at_its_field_before_it_is_sent(self):
        v = self.visitor
        v.goes_to("/books/bring-in")
        large = self.folder / "large.csv"
        with large.open("wb") as file:
            file.truncate(40 * 1024 * 1024)
        field = v.page.locator("input[type=file]")
        field.set_input_files(large)
        self.assertEqual(field.evaluate("one => one.validationMessage"), "Together that is 40 MB. Bolsa takes in 33 MB at once.")
        v.page.get_by_role("button", name="Look at it").click()
        self.assertIn("/books/bring-in", v.page.url)
        self.assertNotIn("413", v.text)
        small = self.folder / "small.csv"
        small.write_text("Date,Payee,Amount\n2026-05-01,Quay Books,-1.00\n")
        field.set_input_files(small)
        self.assertEqual(field.evaluate("one => one.validationMessage"), "")

    def drops(self, *names_and_contents: tuple[str, bytes]) -> None:
        paths = []
        for name, content in names_and_contents:
            path = self.folder / name
            path.write_bytes(content)
            paths.append(path)
        v = self.visitor
        v.goes_to("/books/bring-in")
        v.page.get_by_label("From a bank").set_input_files(paths)
        v.clicks("Look at it")
        v.settles()

    def test_a_mixed_folder_goes_each_to_its_own_account(self):
        v = self.visitor
        interest = ROW.format(day="20260513", amount="12.40", ref="z1", name="INTEREST")
        known = OFX.format(number="HM44100777", rows=interest, balance="9", more="")
        self.drops(
            ("reserve.ofx", known.encode()), ("kronor.xml", CAMT.encode()), ("studio.sta", MT940.encode()),
            ("nasty.csv", NASTY.encode("cp1252")), ("notes.pdf", b"%PDF-1.4 nothing"), ("cut.xml", CAMT[:300].encode()),
        )  # fmt: skip
        self.assertIn("4 of 6 files can be read", v.text)
        self.assertIn("cut.xml: Line ", v.text)
        seen = []
        while "would bring" in v.headline:
            seen.append(v.page.locator("table.two-rows tbody tr td:nth-child(3)").first.inner_text())
            with v.page.expect_navigation():
                v.page.get_by_role("button", name="Bring in").first.click()
            v.settles()
            if v.page.get_by_role("link", name="Look at it").count():
                v.page.get_by_role("link", name="Look at it").first.click()
                v.settles()
        self.assertEqual(set(seen), {"Reserve", "Kronor savings", "Studio current", "Household current"})
        v.goes_to("/books/1")
        page = " ".join(v.page.locator("tr[data-row]").all_inner_texts())
        for words in ("−1,006.60", "500.00", "−0.20", "CAFÉ"):
            self.assertIn(words.casefold(), page.casefold())
        v.goes_to("/books/bring-in")
        expect(v.page.locator("tr", has_text="studio.sta")).to_contain_text("MT940")
        self.drops(("reserve again.ofx", known.encode()))
        self.assertIn("1 is already here", v.headline)

    def test_accounts_nobody_knows_are_offered_as_new(self):
        v = self.visitor
        one = OFX.format(
            number="QX-1", rows=ROW.format(day="20260513", amount="-3.20", ref="a", name="MILLSTONE"), balance="96.80",
            more="<STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>QX-2<ACCTTYPE>SAVINGS</BANKACCTFROM><BANKTRANLIST>"
            + ROW.format(day="20260512", amount="7.00", ref="b", name="GIFT") + "</BANKTRANLIST></STMTRS></STMTTRNRS>",
        )  # fmt: skip
        self.drops(("two.ofx", one.encode()))
        self.assertIn("two.ofx holds two accounts, and not all are known here", v.headline)
        v.page.get_by_label("Name of the new account for QX-1").fill("Quay account")
        v.picks(v.page.get_by_role("combobox", name="QX-2 goes to"), "nowhere: leave it out")
        v.clicks("Look at the rows")
        self.assertIn("would bring one new entry", v.headline)
        v.page.get_by_role("button", name="Bring in").first.click()
        v.settles()
        self.assertNotIn("differs from what its bank declares", v.text)
        v.goes_to("/books")
        self.assertIn("Quay account", v.text)
        self.assertNotIn("QX-2", v.text)

    def test_a_row_is_matched_by_hand_and_parted_again(self):
        v = self.visitor
        v.goes_to("/books/1")
        v.fills("Quick line", "the boatyard 88.00 upkeep 2026-05-02")
        v.clicks("Enter")
        rows = ROW.format(day="20260511", amount="-88.00", ref="m1", name="HALDEN MARINE 0012")
        self.drops(("may.ofx", OFX.format(number="HM44100201", rows=rows, balance="1", more="").encode()))
        v.clicks("Match with…", role="link")
        expect(v.page.locator("li").first).to_contain_text("The boatyard")
        v.clicks("It is this one")
        self.assertIn("one match with what is here", v.headline)
        v.page.get_by_role("button", name="Bring in").first.click()
        v.settles()
        v.goes_to("/books/1?text=boatyard")
        v.clicks("boatyard", role="link", within="tr[data-row]")
        v.page.locator("summary", has_text="As the bank sent it").click()
        expect(v.page.locator("tr.opened")).to_contain_text("HALDEN MARINE 0012")
        v.page.get_by_role("button", name="Make them two again").click()
        v.settles()
        v.goes_to("/books/1?least=88&most=88&from=2026-05-01")
        self.assertEqual(v.page.locator("tr[data-row]").count(), 2)
        v.presses("j", "x", "j", "x")
        v.chooses("What to do", "Match the two as one")
        v.clicks("Do it")
        self.assertEqual(v.page.locator("tr[data-row]").count(), 1)
