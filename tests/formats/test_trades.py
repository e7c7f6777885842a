"""A broker's tables: trades and what was held before, as brokers write them; what does not fit is said, and nothing left out without
a word."""

import unittest
from dataclasses import replace
from datetime import date

from bolsa.errors import InvalidInput, UnreadableFile
from bolsa.formats.csv_table import read_table
from bolsa.formats.trades_guess import CASH, HELD, LEFT_OUT, TRADES, TradeMapping, guess_trades, kind_of, looks_like_trades
from bolsa.formats.trades_read import read_trades

SINCE = date(2023, 1, 1)
E8 = 10**8


def read(text, currency="EUR", holds="", **changed):
    table = read_table(text.encode())
    return read_trades(table, replace(guess_trades(table, holds).mapping, **changed), currency, SINCE)


def trades(text, **changed):
    return [
        (m.day.isoformat(), m.kind, m.name, m.shares_e8 / E8, m.total_minor, m.fee_minor)
        for m in read(text, **changed).shares.moves
    ]


class Trades(unittest.TestCase):
    def test_signs_styles_and_languages_of_one_purchase_and_one_sale(self):
        said = [("2026-05-04", "buy", "Tern", 12.0, -97_590, 150), ("2026-05-05", "sell", "Petrel", -3.5, 34_950, 50)]
        for text in (
            "Date,Type,Security,Shares,Price,Fee,Net amount\n"
            "2026-05-04,Buy,Tern,12,81.20,1.50,-975.90\n2026-05-05,Sell,Petrel,-3.5,100,0.50,349.50\n",
            "Depot 4471-88\n\nHandelsdatum;Transaktionstyp;Wertpapier;Anzahl;Kurs;Gebühr;Betrag netto\n"
            "04.05.2026;Kauf;Tern;12;81,20;1,50;975,90\n05.05.2026;Verkauf;Petrel;3,5;100,00;0,50;349,50\n",
            "Date,Action,Instrument,Quantity,Price,Commission,Gross\n"
            "4 May 2026,Bought,Tern,12,81.20,1.50,974.40\n5 May 2026,Sold,Petrel,3.5,100.00,0.50,350.00\n",
            "Date\tSecurity\tUnits\tPrice\tFee\n2026-05-04\tTern\t12\t81.20\t1.50\n2026-05-05\tPetrel\t-3.5\t100.00\t0.50\n",
        ):
            with self.subTest(text[:40]):
                self.assertTrue(looks_like_trades(read_table(text.encode())))
                self.assertEqual(trades(text), said)

    def test_a_table_of_a_bank_is_none_of_a_broker(self):
        for text in (
            "Date,Payee,Amount\n2026-05-04,Shop,-12.00\n",
            "Datum;Empfänger;Verwendungszweck;Betrag\n04.05.2026;Hafen;Aktien;-12,00\n",
            "Date,Name,Shares\n",
        ):
            self.assertFalse(looks_like_trades(read_table(text.encode())), text)

    def test_words_for_what_happened(self):
        for word, kind in (
            ("Dividend reinvested", "reinvest"), ("Dividend", "dividend"), ("Ausschüttung", "dividend"), ("Return of capital", "return"),
            ("Cash in lieu", "lieu"), ("Stock split 3:1", "split"), ("Transfer in", "in"), ("Auslieferung", "out"), ("Deposit", CASH),
            ("Withdrawal", CASH), ("Wertpapierkauf", "buy"), ("Wertpapierverkauf", "sell"), ("Köp", "buy"), ("Custody fee", "fee"),
            ("Corporate action", ""),
        ):  # fmt: skip
            self.assertEqual(kind_of(word), kind, word)

    def test_distributions_money_and_fees_of_the_account_are_offered_too(self):
        found = read(
            "Date,Type,Security,Shares,Gross,Tax,Total\n"
            "2026-05-04,Dividend,Tern,,15.00,2.25,\n2026-05-05,Dividend,Tern,,,,-3.00\n2026-05-06,Interest,,,,,1.10\n"
            "2026-05-07,Deposit,,,,,500.00\n2026-05-08,Withdrawal,,,,,200.00\n2026-05-09,Custody fee,,,,,4.50\n"
            "2026-05-10,Buy,Tern,1,,,-80.00\n"
        )
        self.assertEqual([(m.kind, m.total_minor, m.withheld_minor) for m in found.shares.moves],
                         [("dividend", 1275, 225), ("dividend", -300, None), ("buy", -8000, None)])  # fmt: skip
        self.assertEqual([row.amount_minor for row in found.rows], [110, 50_000, -20_000, -450])

    def test_an_unknown_word_is_asked_about_and_may_be_left_out(self):
        text = "Date,Type,Security,Shares,Total\n2026-05-04,Buy,Tern,1,-80.00\n2026-05-05,Corporate action,Tern,5,\n"
        with self.assertRaisesRegex(InvalidInput, "Say what “corporate action” means") as caught:
            read(text)
        self.assertEqual(caught.exception.field, "kinds")
        found = read(text, kinds={"buy": "buy", "corporate action": LEFT_OUT})
        self.assertEqual((len(found.shares.moves), found.warnings), (1, ("Line 3: left out, as what it says is chosen to be.",)))

    def test_what_does_not_fit_names_its_line_and_column(self):
        head = "Date,Type,Security,Shares,Price,Fee,Total\n2026-05-03,Buy,Tern,1,80.00,,-80.00\n"
        for row, words in (
            ("2026-05-04,Buy,Tern,twelve,81.20,,-80.00", "Line 3, column 4: This is no number."),
            ("never,Buy,Tern,12,81.20,,-80.00", "Line 3, column 1: This is no date"),
            ("2026-05-04,Buy,Tern,,81.20,,-80.00", "Line 3: Shares were bought"),
            ("2026-05-04,Buy,,12,81.20,,-974.40", "Line 3: This line names no security"),
            ("2026-05-04,Sell,Tern,12,,,", "Line 3: Nothing says what was paid"),
            ("2026-05-04,Buy,Tern,1e15,1,,", "Line 3"),
        ):
            with self.subTest(row), self.assertRaises(UnreadableFile) as caught:
                read(head + row + "\n")
            with self.subTest(row):
                self.assertIn(words, caught.exception.sentence)

    def test_what_is_odd_is_told_with_its_lines(self):
        found = read(
            "Date,Type,Security,Shares,Price,Fee,Total\n2026-05-04,Buy,Tern,12,81.20,1.50,-1500.00\n"
            "2026-05-05,Buy,Tern,-12,81.20,0,975.00\n,,,,,Total,100.00\n"
        )
        self.assertEqual(len(found.shares.moves), 1)
        self.assertEqual([sentence[:6] for sentence in found.warnings], ["Line 2", "Line 3", "Line 4"])

    def test_without_a_column_of_kinds_and_without_signs_it_is_said_that_all_count_as_bought(self):
        found = read("Date,Security,Shares,Total\n2026-05-04,Tern,12,900.00\n2026-05-05,Tern,3,200.00\n")
        self.assertEqual([m.kind for m in found.shares.moves], ["buy", "buy"])
        self.assertIn("all are taken as bought", found.warnings[0])

    def test_amounts_in_another_currency_than_the_account_are_refused(self):
        text = "Date,Type,Security,Shares,Total,Currency\n2026-05-04,Buy,Tern,1,-80.00,USD\n"
        with self.assertRaisesRegex(InvalidInput, "Line 2 is in USD, and the account is kept in EUR"):
            read(text)
        self.assertEqual(trades(text, currency="USD")[0][4], -8000)


class HeldBefore(unittest.TestCase):
    TEXT = 'Security,Symbol,Units,Cost,Acquired\nTern,TERN,40,"2,100.00",2019-03-04\nPetrel,,12.5,,2024-02-01\n'

    def test_each_row_is_an_opening_position_from_the_day_it_was_acquired_or_the_account_begins(self):
        found = read(self.TEXT)
        self.assertEqual(
            [(m.kind, m.day, m.basis_day, m.total_minor) for m in found.shares.moves],
            [
                ("opening", SINCE, date(2019, 3, 4), -210_000),
                ("opening", date(2024, 2, 1), date(2024, 2, 1), None),
            ],
        )
        self.assertEqual(found.warnings, ("Line 3: says no cost; Holdings will ask for it.",))

    def test_the_kind_of_table_is_told_from_its_heads_and_may_be_said(self):
        table = read_table(self.TEXT.encode())
        self.assertEqual(guess_trades(table).mapping.holds, HELD)
        self.assertEqual(guess_trades(table, TRADES).mapping.holds, TRADES)
        with self.assertRaisesRegex(InvalidInput, "which column holds the day"):
            read(self.TEXT, holds=TRADES)

    def test_shares_below_zero_are_no_position(self):
        with self.assertRaises(UnreadableFile):
            read("Security,Units,Cost\nTern,-4,100\n")

    def test_a_mapping_comes_back_as_it_was_kept(self):
        mapping = guess_trades(read_table(self.TEXT.encode())).mapping
        self.assertEqual(TradeMapping.from_json(mapping.to_json()), mapping)


if __name__ == "__main__":
    unittest.main()
