"""CSV of any bank: what the guess finds, what the reader reads, and which line is named when it cannot."""

import csv
import io
import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.errors import UnreadableFile
from bolsa.formats.csv_guess import CsvMapping, guess_mapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.csv_table import read_table
from bolsa.formats.dates import read_day


def read(text, encoding="utf-8", **changed):
    table = read_table(text.encode(encoding) if isinstance(text, str) else text)
    mapping = guess_mapping(table).mapping
    return read_csv(table, CsvMapping(**{**vars(mapping), **changed}), "EUR")


def rows(text, **more):
    return [(str(r.day), r.amount_minor, r.payee) for r in read(text, **more).rows]


class Guessing(unittest.TestCase):
    def test_files_of_many_banks(self):
        known = {
            "signed amount and balance": (
                "Date,Description,Amount,Balance\n2026-05-01,Grocer,-12.30,100.00\n2026-05-13,Pay,1000.00,1100.00\n",
                [("2026-05-01", -1230, "Grocer"), ("2026-05-13", 100000, "Pay")],
            ),
            "preamble, footer, comma, quoted newline": (
                "Konto;DE123;\nStand;14.05.2026;\n\nBuchungstag;Valuta;Empfänger;Zweck;Betrag;Währung\n"
                '01.05.2026;02.05.2026;"Laden; Nord";"Zeile\nzwei";-1.006,60;EUR\n13.05.2026;13.05.2026;Arbeit;Lohn;500,;EUR\nEnde;;;;1,00;EUR\n',
                [("2026-05-01", -100660, "Laden; Nord"), ("2026-05-13", 50000, "Arbeit")],
            ),
            "no head, in and out, trailing columns": (
                "05/13/2026\tShop\t12.00\t\t\n05/14/2026\tWork\t\t99.00\t\n",
                [("2026-05-13", -1200, "Shop"), ("2026-05-14", 9900, "Work")],
            ),
            "sign letter": (
                "Datum;Naam;Af Bij;Bedrag (EUR);Mededelingen\n20260514;Winkel;Af;12,50;x\n20260513;Werk;Bij;100,00;y\n",
                [("2026-05-14", -1250, "Winkel"), ("2026-05-13", 10000, "Werk")],
            ),
            "the sign wins over the row's type": (
                "Date,Type,Payee,Amount\n14 May 2026,Credit,Refund shop,-5.00\n13 May 2026,Debit,Other,-7.00\n",
                [("2026-05-14", -500, "Refund shop"), ("2026-05-13", -700, "Other")],
            ),
            "debits with a minus of their own": (
                "Date,Payee,Debit,Credit\n2026-05-14,A,-12.00,\n2026-05-13,B,,5.00\n",
                [("2026-05-14", -1200, "A"), ("2026-05-13", 500, "B")],
            ),
            "sep line, bars, month names": (
                "sep=|\nWhen|Merchant|Amount\n5 Jan 26|Otter Books|-7,00\n31. Dez. 2025|Paper Heron|-8,10\n",
                [("2026-01-05", -700, "Otter Books"), ("2025-12-31", -810, "Paper Heron")],
            ),
            "balances brought and carried forward": (
                "Date,Details,Paid out,Paid in,Balance\n01 May 2026,Brought forward,,,100.00\n02 May 2026,Grocer,12.50,,87.50\n03 May 2026,Pay,,50.00,137.50\n",
                [("2026-05-02", -1250, "Grocer"), ("2026-05-03", 5000, "Pay")],
            ),
            "gross, fee and net; text marks": (
                "Date,Name,Gross,Fee,Net,Account Number\n14/05/2026,'Gallery,\"100,00\",\"-3,50\",\"96,50\",'0123\n13/05/2026,'t Hof,\"-10,00\",\"0,00\",\"-10,00\",'0123\n",
                [("2026-05-14", 9650, "Gallery"), ("2026-05-13", -1000, "'t Hof")],
            ),
            "points that group": ("01.05.2026;A;-1.234\n13.05.2026;B;-2.500\n", [("2026-05-01", -123400, "A"), ("2026-05-13", -250000, "B")]),
            "commas that group between semicolons": ("01.05.2026;A;-1,234\n", [("2026-05-01", -123400, "A")]),
            "points that group between commas": ("01.05.2026,A,-1.234\n", [("2026-05-01", -123400, "A")]),
            "heads repeated on the next page": (
                "Date,Payee,Amount\n2026-05-01,A,-1.00\nDate,Payee,Amount\n2026-05-13,B,-2.00\nTotal,,-3.00\n",
                [("2026-05-01", -100, "A"), ("2026-05-13", -200, "B")],
            ),
            "one row": ("2026-05-01,Solo,-4\n", [("2026-05-01", -400, "Solo")]),
            "a stray quote": ('Date,Payee,Amount\n2026-05-01,6" pipe,-4.00\n', [("2026-05-01", -400, '6" pipe')]),
        }  # fmt: skip
        for name, (text, expected) in known.items():
            with self.subTest(name):
                self.assertEqual(rows(text), expected)

    def test_encodings(self):
        text = "Datum;Mottagare;Belopp\n2026-05-01;Fågelhuset;-12,00\n"
        for encoding in ("utf-8", "utf-8-sig", "cp1252", "utf-16", "utf-16-be"):
            with self.subTest(encoding):
                self.assertEqual(rows(text, encoding=encoding)[0][2], "Fågelhuset")

    def test_doubt_is_told_only_where_the_data_leave_it(self):
        self.assertTrue(guess_mapping(read_table(b"Date,Payee,Amount\n05/04/2026,A,-1.00\n")).doubts)
        self.assertFalse(guess_mapping(read_table(b"Date,Payee,Amount\n05.04.2026,A,-1.00\n")).doubts)
        self.assertFalse(guess_mapping(read_table(b"Date,Payee,Amount\n05/14/2026,A,-1.00\n")).doubts)
        self.assertIn("The comma", guess_mapping(read_table(b"Date;Payee;Amount\n05.04.2026;A;-1,000\n")).doubts[0])

    def test_a_shape_stays_the_same_from_file_to_file(self):
        shapes = {guess_mapping(read_table(f"Date,Payee,Amount\n2026-05-0{i},A,-{i}.00\n".encode())).shape for i in (1, 2)}
        self.assertEqual(len(shapes), 1)

    def test_a_file_of_heads_alone_is_an_empty_period(self):
        self.assertEqual(rows("Date,Payee,Amount\n"), [])

    def test_the_running_balance_is_that_after_the_latest_row(self):
        newest_first = "Date,Payee,Amount,Balance\n2026-05-03,C,-3,94\n2026-05-02,B,-2,97\n2026-05-01,A,-1,99\n"
        statement = read(newest_first)
        self.assertEqual((statement.balance_minor, statement.balance_day), (9400, date(2026, 5, 3)))
        odd = newest_first.replace(",97", ",98")
        self.assertIn("do not follow", " ".join(read(odd, balance=3).warnings))

    def test_turning_every_sign(self):
        self.assertEqual(rows("Date,Payee,Amount\n2026-05-01,A,4.00\n", flip=True), [("2026-05-01", -400, "A")])

    @given(
        st.lists(
            st.tuples(st.dates(date(2001, 1, 13), date(2060, 12, 31)), st.integers(-(10**7), 10**7), st.text("abcdefgh ,;\"'", min_size=3).filter(str.strip)),
            min_size=4, max_size=20,
        )
    )  # fmt: skip
    def test_what_is_written_is_read_again(self, entries):
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(["Date", "Payee", "Amount"])
        writer.writerows([day.isoformat(), f"Shop {text}", f"{amount / 100:.2f}"] for day, amount, text in entries)
        found = [(r.day, r.amount_minor) for r in read(out.getvalue()).rows]
        self.assertEqual(found, [(day, amount) for day, amount, _ in entries])


class Refusing(unittest.TestCase):
    def test_a_row_in_between_that_does_not_fit_is_named(self):
        with self.assertRaises(UnreadableFile) as caught:
            read("Date,Description,Amount\n2026-05-01,A,-1.00\n2026-05-02,B,zzz\n2026-05-03,C,-3.00\n")
        self.assertEqual((caught.exception.line, caught.exception.column, caught.exception.found), (3, 3, "zzz"))

    def test_zero_bytes_in_the_middle_are_refused_and_those_that_fill_up_the_end_are_not(self):
        head = b"Date,Description,Amount\n2026-05-01,A,-1.00\n" + b"2026-05-02,Shop by the harbour,-2.00\n" * 40
        with self.assertRaisesRegex(UnreadableFile, "It holds zero bytes") as caught:
            read(head + b"2026-05-02,B\x00\x07\xfe,-2.00\n2026-05-03,C,-3.00\n")
        self.assertEqual(caught.exception.line, 43)
        self.assertEqual(len(read(head + b"\x00" * 12).rows), 41)

    def test_what_is_no_table(self):
        for content in (b"<html><body>Sign in</body></html>", b'{"error": 1}', b"\x00\x01\x02" * 50, b"PK\x03\x04..."):
            with self.subTest(content[:8]), self.assertRaises(UnreadableFile):
                read(content)


class Days(unittest.TestCase):
    def test_days_by_order(self):
        known = [
            ("14/05/2026", "dmy", date(2026, 5, 14)), ("05/14/2026", "mdy", date(2026, 5, 14)), ("2026.05.14", "mdy", date(2026, 5, 14)),
            ("14.5.26", "dmy", date(2026, 5, 14)), ("26-05-14", "ymd", date(2026, 5, 14)), ("20260514", "dmy", date(2026, 5, 14)),
            ("14052026", "dmy", date(2026, 5, 14)), ("Thu 14 May 2026", "dmy", date(2026, 5, 14)), ("May 14, 2026", "mdy", date(2026, 5, 14)),
            ("30/02/2026", "dmy", date(2026, 2, 28)), ("13/13/2026", "dmy", None), ("12.50", "dmy", None), ("", "dmy", None),
        ]  # fmt: skip
        for text, order, expected in known:
            with self.subTest(text):
                self.assertEqual(read_day(text, order), expected)


if __name__ == "__main__":
    unittest.main()
