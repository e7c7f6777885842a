"""Brokers' letters: what is read of them, and what is no confirmation."""

import unittest
from dataclasses import replace
from datetime import UTC, date, datetime

from bolsa.demo.letters import LETTERS
from bolsa.errors import UnreadableFile
from bolsa.formats.letters import MOST_LETTER, describe_letter, looks_like_letter, read_letter
from bolsa.formats.table import recognise
from bolsa.formats.trades_guess import TRADES, guess_trades
from bolsa.formats.trades_read import read_trades
from bolsa.stand_ins.mail.state import SentLetter, letter_bytes


def letter(words="", html="", subject="Confirmation"):
    return letter_bytes(SentLetter("a", "Ana <a@b.example>", subject, datetime(2026, 5, 14, 7, tzinfo=UTC), words, html))


def moves(content, currency="USD"):
    table = read_letter(content)
    found = read_trades(table, guess_trades(table, TRADES).mapping, currency, date(2023, 1, 1))
    return [
        (m.day.isoformat(), m.kind, m.name, m.shares_e8 / 1e8, m.total_minor, m.fee_minor, m.bank_ref) for m in found.shares.moves
    ]


class Letters(unittest.TestCase):
    def test_a_purchase_in_words_and_a_distribution_in_html(self):
        bought, paid, _ = map(letter_bytes, LETTERS)
        self.assertEqual(recognise(bought).key, "letter")
        self.assertEqual(moves(bought), [("2026-05-13", "buy", "Tern Robotics", 6.0, -19_380, 150, "58213")])
        self.assertEqual(moves(paid), [("2026-05-14", "dividend", "Wherry Freight", 0.0, 1219, 0, "58240")])
        self.assertEqual(describe_letter(paid), ("Dividend advice", "Halcyon Brokerage"))

    def test_what_happened_and_the_day_may_stand_in_the_head_alone(self):
        words = "Security ....... Tern\nShares ....... 3\nTotal ....... 96.00\n"
        self.assertEqual(moves(letter(words, subject="Your sale")), [("2026-05-14", "sell", "Tern", -3.0, 9600, 0, "")])

    def test_a_table_of_several_trades_in_html(self):
        html = (
            "<style>td {color: red}</style><table><tr><th>Date</th><th>Type</th><th>Security</th><th>Shares</th><th>Total</th></tr>"
            "<tr><td>2026-05-04</td><td>Buy</td><td>Tern &amp; Sons</td><td>2</td><td>-64.10</td></tr>"
            "<tr><td>2026-05-05</td><td>Sell</td><td>Petrel</td><td>1</td><td>49.00</td></tr></table>"
        )
        self.assertEqual(
            [(m[1], m[2], m[4]) for m in moves(letter("x", html))], [("buy", "Tern & Sons", -6410), ("sell", "Petrel", 4900)]
        )

    def test_a_letter_in_another_currency_than_the_account_is_refused(self):
        with self.assertRaisesRegex(Exception, "is in USD, and the account is kept in EUR"):
            moves(letter_bytes(LETTERS[0]), "EUR")

    def test_what_tells_of_no_trade_is_said(self):
        for content in (
            letter_bytes(LETTERS[2]),
            letter("Total: 12.00\nSubject: lunch\n"),
            letter("", "<table><tr><td>" * 50),
            letter("a" * 100_000 + ": b"),
            replace_body(letter("x"), b"=?bad?="),
        ):
            with self.assertRaises(UnreadableFile):
                read_letter(content)
        with self.assertRaises(UnreadableFile):
            read_letter(letter("x") + b" " * MOST_LETTER)
        for content in (b"Date,Type\n", b"OFXHEADER:100\nDATA:OFXSGML\n\n<OFX>", b"", b"From: a\n\nhello"):
            self.assertFalse(looks_like_letter(content), content)


def replace_body(content, charset):
    return content.replace(b'charset="utf-8"', b'charset="' + charset + b'"')


class TheStandIn(unittest.TestCase):
    def test_the_same_letters_give_the_same_bytes(self):
        for one in LETTERS:
            self.assertEqual(letter_bytes(one), letter_bytes(replace(one)))


if __name__ == "__main__":
    unittest.main()
