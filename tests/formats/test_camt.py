"""camt.053 and camt.052 as banks send them, after the published message definitions; and what is refused."""

import unittest
from datetime import date

from bolsa.errors import UnreadableFile
from bolsa.formats.camt import read_camt
from bolsa.formats.table import recognise

NAMESPACE = "urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"


def amount(value, mark="CRDT", currency="EUR"):
    return f'<Amt Ccy="{currency}">{value}</Amt><CdtDbtInd>{mark}</CdtDbtInd>'


def balance(code, value, day, mark="CRDT", currency="EUR"):
    return f"<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp>{amount(value, mark, currency)}<Dt><Dt>{day}</Dt></Dt></Bal>"


def entry(value, mark="DBIT", day="2026-05-04", inner="", more="", currency="EUR", status="<Sts>BOOK</Sts>"):
    details = f"<NtryDtls>{inner}</NtryDtls>" if inner else ""
    return (
        f"<Ntry>{amount(value, mark, currency)}{more}{status}<BookgDt><Dt>{day}</Dt></BookgDt><ValDt><Dt>2026-05-05</Dt></ValDt>"
        f"<AcctSvcrRef>R{value}</AcctSvcrRef>{details}</Ntry>"
    )


def details(name="Grebe Street Grocer", party="Cdtr", text="Bread and tea"):
    return f"<TxDtls><RltdPties><{party}><Nm>{name}</Nm></{party}></RltdPties><RmtInf><Ustrd>{text}</Ustrd></RmtInf></TxDtls>"


def camt(
    body,
    account="<IBAN>XX12 3456</IBAN>",
    holder="Stmt",
    head='<?xml version="1.0" encoding="UTF-8"?>',
    currency="<Ccy>EUR</Ccy>",
):
    outer = {"Stmt": "BkToCstmrStmt", "Rpt": "BkToCstmrAcctRpt"}[holder]
    return (
        f'{head}<Document xmlns="{NAMESPACE}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" '
        f'xsi:schemaLocation="{NAMESPACE} http://127.0.0.1:9/never-fetched.xsd"><{outer}><GrpHdr><MsgId>1</MsgId></GrpHdr>'
        f"<{holder}><Id>1</Id><Acct><Id>{account}</Id>{currency}</Acct>{body}</{holder}></{outer}></Document>"
    )


def one(text):
    return read_camt(text.encode())[0]


class WhatBanksSend(unittest.TestCase):
    def test_a_statement_with_its_rows_and_balance(self):
        body = (
            balance("PRCD", "100.00", "2026-05-01") + balance("CLBD", "1587.70", "2026-05-14") + entry("12.30", inner=details())
        )
        body += entry("1500.00", "CRDT", inner=details("Port Halden Ferry Company", "Dbtr", "Pay"))
        statement = one(camt(body))
        self.assertEqual((statement.number, statement.currency, statement.balance_minor), ("XX12 3456", "EUR", 158770))
        self.assertEqual(statement.balance_day, date(2026, 5, 14))
        self.assertEqual(statement.warnings, ())
        rows = [(str(r.day), r.amount_minor, r.payee, r.memo, r.bank_ref, str(r.value_day)) for r in statement.rows]
        self.assertEqual(rows[0], ("2026-05-04", -1230, "Grebe Street Grocer", "Bread and tea", "R12.30", "2026-05-05"))
        self.assertEqual(rows[1][1:4], (150000, "Port Halden Ferry Company", "Pay"))

    def test_the_balance_before_the_first_entry_is_read_where_the_entries_lead_from_it(self):
        body = balance("PRCD", "100.00", "2026-05-01") + balance("CLBD", "87.70", "2026-05-14") + entry("12.30")
        self.assertEqual(one(camt(body)).balances, [(date(2026, 5, 3), 10_000), (date(2026, 5, 14), 8_770)])
        self.assertEqual(one(camt(body.replace("87.70", "87.60"))).balances, [(date(2026, 5, 14), 8_760)])

    def test_totals_the_statement_declares_are_counted(self):
        entries = entry("12.30") + entry("5.00", "CRDT")
        for totals, said in (
            ("<TtlNtries><NbOfNtries>2</NbOfNtries><Sum>17.30</Sum></TtlNtries>", ()),
            ("<TtlNtries><NbOfNtries>3</NbOfNtries></TtlNtries>", ("The file declares 3 entries and holds 2.",)),
            ("<TtlDbtNtries><NbOfNtries>1</NbOfNtries><Sum>12.30</Sum></TtlDbtNtries>", ()),
            ("<TtlDbtNtries><NbOfNtries>1</NbOfNtries><Sum>12.40</Sum></TtlDbtNtries>",
             ("The file’s entries out do not come to the total it declares.",)),
            ("<TtlCdtNtries><NbOfNtries>0</NbOfNtries></TtlCdtNtries>", ("The file declares 0 entries in and holds 1.",)),
        ):  # fmt: skip
            with self.subTest(totals):
                self.assertEqual(one(camt(f"<TxsSummry>{totals}</TxsSummry>{entries}")).warnings, said)

    def test_versions_encodings_and_a_report(self):
        for text, encoding in (
            (camt(entry("1.00")).replace("053.001.02", "053.001.08"), "utf-8"),
            (camt(entry("1.00"), head='<?xml version="1.0" encoding="ISO-8859-1"?>'), "latin-1"),
            (camt(entry("1.00"), head=""), "utf-8-sig"),
            (camt(entry("1.00"), holder="Rpt"), "utf-8"),
            (camt(entry("1.00"), head='<?xml version="1.0" encoding="UTF-16"?>'), "utf-16"),
            (camt(entry("1.00", status="<Sts><Cd>BOOK</Cd></Sts>")), "utf-8"),
        ):
            with self.subTest(encoding):
                content = text.replace("Bread", "Bröd").encode(encoding)
                self.assertEqual(recognise(content).key, "camt")
                self.assertEqual(read_camt(content)[0].rows[0].amount_minor, -100)

    def test_a_batch_is_one_row_of_the_entrys_amount(self):
        row = one(camt(entry("30.00", inner=details("Anna") + details("Bo"), more="<AddtlNtryInf>Wages</AddtlNtryInf>"))).rows[0]
        self.assertEqual((row.amount_minor, row.payee, row.memo), (-3000, "Wages", "Anna, Bo, Bread and tea, Bread and tea"))
        self.assertEqual(one(camt(entry("30.00", more="<AddtlNtryInf>Wages</AddtlNtryInf>"))).rows[0].payee, "Wages")

    def test_a_reversal_has_its_own_direction_and_charges_do_not_count(self):
        foreign = "<TxDtls><AmtDtls><TxAmt><Amt Ccy='SEK'>999.00</Amt></TxAmt></AmtDtls><Chrgs><Amt Ccy='EUR'>1.50</Amt></Chrgs></TxDtls>"
        rows = one(camt(entry("8.00", "CRDT", more="<RvslInd>true</RvslInd>") + entry("9.50", inner=foreign))).rows
        self.assertEqual([r.amount_minor for r in rows], [800, -950])

    def test_what_is_not_booked_yet_is_pending_and_what_only_informs_is_left_out(self):
        statement = one(camt(entry("1.00", status="<Sts>PDNG</Sts>") + entry("2.00") + entry("3.00", status="<Sts>INFO</Sts>")))
        self.assertEqual([(r.amount_minor, r.pending) for r in statement.rows], [(-200, False), (-100, True)])
        self.assertEqual([r.amount_minor for r in statement.rows if not r.pending], [-200])
        self.assertTrue(statement.lists_pending)
        self.assertIn("for information only", statement.warnings[0])

    def test_masked_ids_no_balances_no_rows(self):
        statement = one(camt("", account="<Othr><Id>****1234</Id></Othr>", currency=""))
        self.assertEqual(
            (statement.number, len(statement.rows), statement.balance_minor, statement.currency), ("****1234", 0, None, "")
        )

    def test_balances_that_do_not_follow_are_told(self):
        body = balance("OPBD", "5.00", "2026-05-01") + balance("CLBD", "100.00", "2026-05-14") + entry("12.30")
        self.assertIn("do not lead", one(camt(body)).warnings[0])

    def test_one_number_in_two_currencies_is_two_accounts(self):
        inner = camt(entry("1.00"))
        both = inner.replace("</Stmt>", "</Stmt><Stmt><Acct><Id><IBAN>XX12 3456</IBAN></Id><Ccy>SEK</Ccy></Acct></Stmt>")
        self.assertEqual([s.number for s in read_camt(both.encode())], ["XX12 3456EUR", "XX12 3456SEK"])


class WhatIsRefused(unittest.TestCase):
    def test_what_says_that_it_is_utf8_and_is_not_is_refused(self):
        whole = camt(entry("12.30", inner=details(name="Müller")))
        for text in (whole, whole.replace(' encoding="UTF-8"', "")):
            with self.assertRaisesRegex(UnreadableFile, "says that it is UTF-8") as caught:
                read_camt(text.encode("latin-1"))
            self.assertIn("Mü", caught.exception.found)
        (statement,) = read_camt(whole.replace("UTF-8", "ISO-8859-1").encode("latin-1"))
        self.assertEqual(statement.rows[0].payee, "Müller")

    def test_each_refusal_says_why(self):
        whole = camt(entry("12.30"))
        bomb = '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + camt(entry("1.00"), head="").replace("R1.00", "&b;")
        outside = '<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + camt(entry("1.00"), head="").replace("R1.00", "&a;")
        known = {
            "cut short": (whole[:-200], "breaks off"),
            "an entity bomb": (bomb, "declares entities"),
            "a file of this machine": (outside, "declares entities"),
            "no amount": (whole.replace("12.30</Amt>", "</Amt>", 1), "has no amount"),
            "no date": (
                whole.replace("<BookgDt><Dt>2026-05-04</Dt></BookgDt><ValDt><Dt>2026-05-05</Dt></ValDt>", ""),
                "has no date",
            ),
            "no statement": (whole.replace("Stmt>", "Other>").replace("camt", "camt"), "no statement"),
        }
        for name, (text, words) in known.items():
            with self.subTest(name), self.assertRaises(UnreadableFile) as caught:
                read_camt(text.encode())
            self.assertIn(words, caught.exception.sentence)


if __name__ == "__main__":
    unittest.main()
