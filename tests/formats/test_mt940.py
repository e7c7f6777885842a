"""MT940 in its dialects, after the published field formats; reversals, pages, broken words; and what is refused."""

import random
import unittest
from datetime import date

from bolsa.errors import BolsaError, UnreadableFile
from bolsa.formats.mt940 import read_mt940
from bolsa.formats.table import recognise

PLAIN = """:20:START
:25:12345678/0000987654
:28C:5/1
:60F:C260501EUR1000,00
:61:2605040504D12,30NMSCNONREF//B1
:86:166?00SEPA?20SVWZ+Bread and tea?32Grebe Street ?33Grocer
:61:2605080508C1498,60NTRFPAY
:86:/TRTP/SEPA/NAME/Port Halden Ferry Company/REMI/USTD//Pay May/EREF/77
:62F:C260514EUR2486,30
-
"""


def rows(text):
    return [(str(r.day), r.amount_minor, r.payee, r.memo, r.bank_ref) for s in read_mt940(text.encode()) for r in s.rows]


class WhatBanksSend(unittest.TestCase):
    def test_a_statement(self):
        self.assertEqual(recognise(PLAIN.encode()).key, "mt940")
        statement = read_mt940(PLAIN.encode())[0]
        self.assertEqual((statement.number, statement.currency, statement.balance_minor), ("0000987654", "EUR", 248630))
        self.assertEqual((statement.balance_day, statement.warnings), (date(2026, 5, 14), ()))
        self.assertEqual(
            rows(PLAIN),
            [
                ("2026-05-04", -1230, "Grebe Street Grocer", "Bread and tea", "B1"),
                ("2026-05-08", 149860, "Port Halden Ferry Company", "Pay May", ""),
            ],
        )

    def test_envelopes_line_ends_and_page_marks(self):
        wrapped = "{1:F01BANKXXXX0000000000}{2:O9400000}{4:\n" + PLAIN.replace("-\n", "-}\n{5:}\n")
        for text in (
            wrapped,
            PLAIN.replace("\n", "\r\n"),
            "\n\n" + PLAIN,
            "{1:F01X}{4:" + PLAIN,
            PLAIN + PLAIN.replace("987654", "111"),
        ):
            with self.subTest(text[:12]):
                self.assertEqual(len(rows(text)) % 2, 0)
                self.assertEqual(rows(text)[:2], rows(PLAIN))

    def test_pages_of_one_account_are_one_statement(self):
        first = PLAIN.replace(":62F:", ":62M:")
        second = (
            ":20:2\n:25:12345678/0000987654\n:28C:5/2\n:60M:C260514EUR2486,30\n:61:260515D6,30NMSCX\n:62F:C260515EUR2480,00\n-\n"
        )
        found = read_mt940((first + second).encode())
        self.assertEqual((len(found), len(found[0].rows), found[0].balance_minor, found[0].warnings), (1, 3, 248000, ()))

    def test_marks_have_their_true_sign(self):
        known = {"C": 500, "D": -500, "RC": -500, "RD": 500, "ED": -500, "EC": 500}
        for mark, expected in known.items():
            with self.subTest(mark):
                text = PLAIN.replace("0504D12,30NMSC", f"0504{mark}5,NMSC")
                self.assertEqual(rows(text)[0][1], expected)

    def test_funds_codes_missing_dates_and_turns_of_the_year(self):
        known = {
            ":61:260504DR12,30NMSCX": ("2026-05-04", -1230), ":61:2601020102C0,50N010X": ("2026-01-02", 50),
            ":61:2512311231D1,NTRFX//Y": ("2025-12-31", -100), ":61:2512310102D1,NTRFX": ("2026-01-02", -100),
            ":61:2602300230C1.234,56NTRFX": ("2026-02-28", 123456), ":61:260504D12,30": ("2026-05-04", -1230),
        }  # fmt: skip
        for line, expected in known.items():
            with self.subTest(line):
                text = PLAIN.replace(":61:2605040504D12,30NMSCNONREF//B1", line)
                self.assertEqual(rows(text)[0][:2], expected)

    def test_words_broken_in_mid_word_and_repeated(self):
        full = "A payment for the half-yearly mooring lease of the barge in the inner harbour of Port Halden"[:65]
        words = ":86:166?00SEPA?20SVWZ+Bread and tea?32Grebe Street ?33Grocer"
        text = PLAIN.replace(words, f":86:{full}\nmore of it\n:86:berth 12")
        self.assertEqual(rows(text)[0][2], f"{full}more of it berth 12")
        split = PLAIN.replace("?20SVWZ+Bread and tea", "?20SVWZ+Mooring lease second h?21alf of the year")
        self.assertEqual(rows(split)[0][3], "Mooring lease second half of the year")

    def test_a_balance_without_its_currency_takes_the_one_before_or_the_accounts(self):
        (first,) = read_mt940(PLAIN.replace("EUR2486,30", "2486,30").encode())
        self.assertEqual((first.currency, first.balance_minor, first.warnings), ("EUR", 248_630, ()))
        (second,) = read_mt940(PLAIN.replace("260501EUR", "260501").replace("260514EUR", "260514").encode(), "SEK")
        self.assertEqual((second.currency, second.balance_minor), ("SEK", 248_630))

    def test_no_words_no_rows_no_balance(self):
        bare = ":20:X\n:25:1\n:60F:C260501EUR0,\n:61:260504D12,30NMSCBREAD\n:62F:D260504EUR12,30\n"
        self.assertEqual(rows(bare)[0][2], "BREAD")
        self.assertEqual(rows(":20:X\n:25:1\n:60F:C260501EUR0,\n:62F:C260504EUR0,\n"), [])

    def test_balances_that_do_not_follow_are_told(self):
        self.assertIn("do not lead", read_mt940(PLAIN.replace("2486,30", "2486,31").encode())[0].warnings[0])


class WhatIsRefused(unittest.TestCase):
    def test_the_line_is_named(self):
        for old, new, line in ((":61:2605040504D12,30", ":61:soon", 5), (":60F:C260501EUR1000,00", ":60F:plenty", 4)):
            with self.subTest(new), self.assertRaises(UnreadableFile) as caught:
                read_mt940(PLAIN.replace(old, new).encode())
            self.assertEqual(caught.exception.line, line)
        with self.assertRaisesRegex(UnreadableFile, "before any account"):
            read_mt940(b":20:X\n:61:260504D1,NMSCX\n:25:1\n")

    def test_damage_of_any_kind_is_refused_in_words(self):
        dice = random.Random(11)
        for _ in range(500):
            content, at = bytearray(PLAIN.encode()), dice.randrange(len(PLAIN))
            content[at : at + dice.randrange(30)] = dice.choice([b"", b":61:", b"\n:86:", b"\xff\x00", b"9" * 30, b"{4:", b"?20"])
            try:
                read_mt940(bytes(content))
            except BolsaError:
                continue


if __name__ == "__main__":
    unittest.main()
