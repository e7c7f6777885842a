"""OFX as banks send it: headers, encodings, missing ends, odd amounts and dates; and what is refused."""

import contextlib
import random
import re
import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.errors import BolsaError, UnreadableFile
from bolsa.formats.ofx import read_ofx
from bolsa.formats.ofx_leaves import text_of
from bolsa.formats.ofx_tree import _by_library, _plain_row, _recover

SGML_HEADER = "OFXHEADER:100\r\nDATA:OFXSGML\r\nVERSION:102\r\nSECURITY:NONE\r\nENCODING:USASCII\r\nCHARSET:1252\r\n\r\n"
XML_HEADER = '<?xml version="1.0" encoding="UTF-8"?>\n<?OFX OFXHEADER="200" VERSION="220" SECURITY="NONE"?>\n'
ROW = "<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260514<TRNAMT>-12.30<FITID>a1<NAME>Grebe Street Grocer</STMTTRN>"
CLOSED_ROW = (
    "<STMTTRN><TRNTYPE>DEBIT</TRNTYPE><DTPOSTED>20260514</DTPOSTED><TRNAMT>-12.30</TRNAMT><FITID>a1</FITID>"
    "<NAME>Grebe Street Grocer</NAME></STMTTRN>"
)


def ofx(rows=ROW, header=SGML_HEADER, currency="<CURDEF>EUR", account="<ACCTID>123", balance="<BALAMT>87.70<DTASOF>20260514"):
    return (
        f"{header}<OFX><SIGNONMSGSRSV1><SONRS><STATUS><CODE>0<SEVERITY>INFO</STATUS></SONRS></SIGNONMSGSRSV1><BANKMSGSRSV1>"
        f"<STMTTRNRS><TRNUID>1<STMTRS>{currency}<BANKACCTFROM><BANKID>1{account}<ACCTTYPE>CHECKING</BANKACCTFROM>"
        f"<BANKTRANLIST><DTSTART>20260501<DTEND>20260514\r\n{rows}\r\n</BANKTRANLIST><LEDGERBAL>{balance}</LEDGERBAL>"
        "</STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
    )


def one(text, encoding="utf-8"):
    return read_ofx(text.encode(encoding))[0]


class WhatBanksSend(unittest.TestCase):
    def test_headers_of_every_kind_lead_to_the_same_statement(self):
        plain = one(ofx())
        self.assertEqual((plain.number, plain.currency, plain.balance_minor), ("123", "EUR", 8770))
        variants = {
            "blank lines before": "\r\n\r\n\n" + ofx(),
            "header on one line": ofx(header=SGML_HEADER.replace("\r\n", " ") + "\n"),
            "header lines missing": ofx(header="OFXHEADER:100\n"),
            "no header at all": ofx(header=""),
            "XML declaration, unclosed tags": ofx(header=XML_HEADER),
            "SGML header, closed tags": ofx(rows=CLOSED_ROW),
            "CR CR LF": ofx().replace("\r\n", "\r\r\n"),
            "lower case tags": ofx().replace("STMTTRN", "stmttrn").replace("TRNAMT", "trnamt"),
            "rows never closed": ofx().replace("</STMTTRN>", "").replace("</BANKTRANLIST>", ""),
            "two documents in one": ofx(rows="") + "\n" + ofx(),
            "a namespace": ofx().replace("<OFX>", '<OFX xmlns="urn:ofx">'),
            "tags outside the standard": ofx(rows=ROW.replace("<NAME>", "<X.BANKOWN>7<NAME>")),
        }
        for name, text in variants.items():
            with self.subTest(name):
                rows = [row for statement in read_ofx(text.encode()) for row in statement.rows]
                self.assertEqual(
                    [(r.day, r.amount_minor, r.payee, r.bank_ref) for r in rows],
                    [(date(2026, 5, 14), -1230, "Grebe Street Grocer", "a1")],
                )

    def test_encodings_are_believed_by_what_they_hold(self):
        text = ofx(rows=ROW.replace("Grebe Street Grocer", "Café Ængus"))
        for encoding in ("utf-8", "cp1252", "utf-16", "utf-8-sig", "utf-16-le"):
            with self.subTest(encoding):
                self.assertEqual(one(text, encoding).rows[0].payee, "Café Ængus")
        self.assertEqual(one(text.replace("CHARSET:1252", "CHARSET:850").replace("Æ", "A"), "cp850").rows[0].payee, "Café Angus")

    def test_amounts_and_dates(self):
        amounts = {"-1.006,60": -100660, "+1 006,60": 100660, "500,": 50000, "-.02": -2, "-00012": -1200, "1,234.50": 123450}
        for text, expected in amounts.items():
            with self.subTest(text):
                self.assertEqual(one(ofx(rows=ROW.replace("-12.30", text))).rows[0].amount_minor, expected)
        days = {
            "20260514120000.000[-5:EST]": date(2026, 5, 14), "20260514235959[0:GMT]": date(2026, 5, 14),
            "20260230": date(2026, 2, 28), "2026-05-14": date(2026, 5, 14), "202605141200": date(2026, 5, 14),
        }  # fmt: skip
        for text, expected in days.items():
            with self.subTest(text):
                self.assertEqual(one(ofx(rows=ROW.replace("20260514", text))).rows[0].day, expected)

    def test_soft_hyphens_and_control_bytes_do_not_break_words(self):
        for name, read in (("So\u00adft", "Soft"), ("Two\x07words", "Two words")):
            with self.subTest(read):
                self.assertEqual(one(ofx(ROW.replace("Grebe Street Grocer", name))).rows[0].payee, read)

    def test_what_a_bank_may_leave_out(self):
        self.assertEqual(one(ofx(currency="")).currency, "")
        self.assertIsNone(one(ofx(balance="")).balance_minor)
        for missing in ("<FITID>a1", "<FITID>0", "<FITID>NONE"):
            self.assertEqual(
                one(ofx(rows=ROW.replace("<FITID>a1", missing if missing.endswith(("0", "E")) else ""))).rows[0].bank_ref, ""
            )
        self.assertEqual(one(ofx(rows=ROW.replace("<NAME>", "<MEMO>"))).rows[0].payee, "Grebe Street Grocer")
        self.assertEqual(one(ofx(rows=ROW.replace("<NAME>Grebe Street Grocer", ""))).rows[0].payee, "Debit")
        self.assertEqual(one(ofx(rows=ROW.replace("<NAME>", "<MEMO><NAME>"))).rows[0].payee, "Grebe Street Grocer")
        self.assertEqual(len(one(ofx(rows="")).rows), 0)

    def test_marks_in_words(self):
        rows = ROW.replace("Grebe Street Grocer", "Kelp &amp; Barley<MEMO><![CDATA[table <4>]]>")
        row = one(ofx(rows=rows)).rows[0]
        self.assertEqual((row.payee, row.memo), ("Kelp & Barley", "table <4>"))
        self.assertEqual(one(ofx(rows=ROW.replace("Grebe", "Gre\xadbe\x07"))).rows[0].payee.replace(" ", ""), "GrebeStreetGrocer")

    def test_the_payee_aggregate_and_a_row_in_its_own_currency(self):
        rows = ROW.replace("<NAME>Grebe Street Grocer", "<PAYEE><NAME>Otter Books<CITY>Port Halden</PAYEE>")
        self.assertEqual(one(ofx(rows=rows)).rows[0].payee, "Otter Books")
        rows = ROW.replace("-12.30", "-100.00").replace("<NAME>", "<CURRENCY><CURRATE>0.5<CURSYM>SEK</CURRENCY><NAME>")
        self.assertEqual(one(ofx(rows=rows)).rows[0].amount_minor, -5000)
        rows = rows.replace("CURRENCY>", "ORIGCURRENCY>")
        self.assertEqual(one(ofx(rows=rows)).rows[0].amount_minor, -10000)

    def test_several_accounts_and_a_card(self):
        text = ofx() + ofx(header="", account="<ACCTID>456").replace("BANKMSGSRSV1", "CREDITCARDMSGSRSV1").replace(
            "STMTRS>", "CCSTMTRS>"
        ).replace("BANKACCTFROM", "CCACCTFROM")
        joined = text.replace("</OFX><OFX>", "")
        found = read_ofx(joined.encode())
        self.assertEqual([(s.number, s.kind) for s in found], [("123", "CHECKING"), ("456", "CREDITCARD")])

    def test_the_library_and_our_parser_build_the_same_tree(self):
        body = ofx(rows=ROW * 3)[len(SGML_HEADER) :]
        closed = set(re.findall(r"</(\w+)>", body))
        roots = (_by_library(body, "OFX"), _recover(body, closed))
        trees = [[(e.tag, (e.text or "").strip()) for e in tree.iter()] for tree in roots]
        self.assertEqual(*trees)


class WhatIsRefused(unittest.TestCase):
    def refusal(self, content):
        with self.assertRaises(UnreadableFile) as caught:
            read_ofx(content if isinstance(content, bytes) else content.encode())
        return caught.exception

    def test_each_refusal_says_why_and_where(self):
        known = {
            "empty": (b"", "The file is empty."),
            "a PDF": (b"%PDF-1.7 ...", "The file is a PDF"),
            "cut short": (ofx(rows=ROW * 3)[:-150].rpartition("</STMTTRN>")[0], "cut short: it ends inside <STMTTRN>"),
            "entities": ('<!DOCTYPE a [<!ENTITY b "c">]>' + ofx(header=""), "declares entities"),
            "no statement": ("<OFX></OFX>", "holds no statement"),
            "an error of the bank": (
                "<OFX><STATUS><CODE>15500<SEVERITY>ERROR<MESSAGE>Signon invalid</STATUS></OFX>",
                "Signon invalid",
            ),
            "no amount": (ofx(rows=ROW.replace("-12.30", "plenty")), "has no amount (TRNAMT)"),
            "no date": (ofx(rows=ROW.replace("20260514", "soon")), "has no date (DTPOSTED)"),
        }
        for name, (content, words) in known.items():
            with self.subTest(name):
                self.assertIn(words, self.refusal(content).sentence)

    def test_a_second_document_cut_short_is_refused_though_the_first_is_whole(self):
        whole = ofx()
        self.assertIn("cut short", self.refusal(whole + "\n" + whole[: whole.index("<FITID>")]).sentence)

    def test_the_line_of_the_row_is_named(self):
        rows = f"{ROW}\r\n{ROW}\r\n" + ROW.replace("-12.30", "plenty")
        self.assertEqual(self.refusal(ofx(rows=rows)).line, 11)

    def test_damage_of_any_kind_is_refused_in_words(self):
        dice, whole = random.Random(7), ofx(rows=ROW * 3).encode()
        for _ in range(400):
            content, at = bytearray(whole), dice.randrange(len(whole))
            content[at : at + dice.randrange(40)] = dice.choice(
                [b"", b"<", b"</STMTTRN>", b"\xff\x00", b"9" * 30, b"<![CDATA[", b"&#0;"]
            )
            with contextlib.suppress(BolsaError):
                read_ofx(bytes(content))

    def test_deep_nesting_does_not_run_away(self):
        self.assertIn("nests", self.refusal(f"<ofx>{'<A>' * 5000}<STMTRS>{'</A>' * 5000}<stmttrn></stmttrn>").sentence)


LEAVES = st.sampled_from(["TRNTYPE", "DTPOSTED", "TRNAMT", "FITID", "NAME", "MEMO", "CURRENCY", "BANK.ID"])
WORDS = st.text(st.characters(codec="latin-1", exclude_characters="<>", exclude_categories=["Cc"]), min_size=1, max_size=12)


class PlainRows(unittest.TestCase):
    @given(st.lists(st.tuples(LEAVES, WORDS, st.booleans(), st.sampled_from(["", "\n", " "])), min_size=1, max_size=8))
    def test_a_plain_row_reads_as_the_library_reads_it(self, leaves):
        text = "".join(f"<{tag}>{words}{f'</{tag}>' if closed else ''}{gap}" for tag, words, closed, gap in leaves)
        plain = _plain_row(text)
        if plain is None:
            self.assertTrue(any("&" in words or not words.strip() for _, words, *_ in leaves), text)
            return
        whole = _by_library(f"<STMTTRN>{text}</STMTTRN>", "STMTTRN")
        if whole is not None:
            for tag in (*(e.tag for e in whole), "NOWHERE", "PAYEE/NAME"):
                self.assertEqual(text_of(plain, tag), text_of(whole, tag))

    def test_rows_that_hold_others_or_entities_are_for_the_library(self):
        for text in (
            "<CURRENCY><CURSYM>SEK<CURRATE>1</CURRENCY>",
            "<NAME>A &amp; B",
            "<name>small",
            "<NAME>",
            "<NAME>x</MEMO>",
            "words",
            "",
        ):
            with self.subTest(text):
                self.assertIsNone(_plain_row(text))

    def test_a_hostile_row_takes_no_time(self):
        text = "<NAME>" + "x " * 20_000 + "<MEMO>" * 5_000 + "&"
        self.assertIsNone(_plain_row(text))


if __name__ == "__main__":
    unittest.main()
