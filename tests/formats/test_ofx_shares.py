"""Investment statements: moves and positions as the standard has them, and as institutions send them."""

import unittest
from datetime import date

from bolsa.core.holdings.shares import E8
from bolsa.errors import UnreadableFile
from bolsa.formats.ofx import read_ofx


def security(code="ZZ00TERN0003", name="Tern Robotics"):
    return f"<STOCKINFO><SECINFO><SECID><UNIQUEID>{code}<UNIQUEIDTYPE>ISIN</SECID><SECNAME>{name}</SECINFO></STOCKINFO>"


def trade(kind="BUYSTOCK", units="10", total="-820.50", ref="t1", code="ZZ00TERN0003", more=""):
    inner = "INVSELL" if kind.startswith("SELL") else "INVBUY"
    body = (
        f"<INVTRAN><FITID>{ref}<DTTRADE>20260413101500[-5:EST]<DTSETTLE>20260415</INVTRAN>"
        f"<SECID><UNIQUEID>{code}<UNIQUEIDTYPE>ISIN</SECID><UNITS>{units}<UNITPRICE>82.05<TOTAL>{total}{more}"
    )
    return f"<{kind}><{inner}>{body}</{inner}></{kind}>" if kind not in ("TRANSFER", "REINVEST") else f"<{kind}>{body}</{kind}>"


def position(units="40", kind="POSSTOCK", code="ZZ00TERN0003", more=""):
    inner = f"<SECID><UNIQUEID>{code}<UNIQUEIDTYPE>ISIN</SECID><HELDINACCT>CASH{more}<UNITS>{units}<UNITPRICE>82<MKTVAL>1<DTPRICEASOF>20260429"
    return f"<{kind}><INVPOS>{inner}</INVPOS></{kind}>"


def investments(trades="", positions="", securities=None, number="HD20881"):
    return (
        "OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><INVSTMTMSGSRSV1><INVSTMTTRNRS><INVSTMTRS><DTASOF>20260430<CURDEF>USD"
        f"<INVACCTFROM><BROKERID>halcyon<ACCTID>{number}</INVACCTFROM><INVTRANLIST><DTSTART>20260401<DTEND>20260430{trades}"
        f"</INVTRANLIST><INVPOSLIST>{positions}</INVPOSLIST></INVSTMTRS></INVSTMTTRNRS></INVSTMTMSGSRSV1>"
        f"<SECLISTMSGSRSV1><SECLIST>{security() if securities is None else securities}</SECLIST></SECLISTMSGSRSV1></OFX>"
    )


def shares(**parts):
    return read_ofx(investments(**parts).encode())[0].shares


class InvestmentStatements(unittest.TestCase):
    def test_a_statement_names_its_account_moves_and_positions(self):
        statement = read_ofx(investments(trade(), position()).encode())[0]
        self.assertEqual((statement.number, statement.kind, statement.currency), ("HD20881", "INVESTMENT", "USD"))
        move, listed = statement.shares.moves[0], statement.shares.positions[0]
        self.assertEqual((move.name, move.day, move.kind, move.shares_e8), ("Tern Robotics", date(2026, 4, 13), "buy", 10 * E8))
        self.assertEqual((move.total_minor, move.bank_ref), (-82050, "t1"))
        self.assertEqual((listed.day, listed.shares_e8), (date(2026, 4, 30), 40 * E8))

    def test_every_kind_of_move_has_its_direction_whatever_the_sign_sent(self):
        cases = (
            ("BUYMF", "3.25", "", "buy", 3.25), ("SELLSTOCK", "-4", "", "sell", -4), ("SELLMF", "4", "", "sell", -4),
            ("REINVEST", "0.8124", "", "reinvest", 0.8124), ("TRANSFER", "5", "<TFERACTION>IN", "in", 5),
            ("TRANSFER", "5", "<TFERACTION>OUT", "out", -5),
        )  # fmt: skip
        for kind, units, more, expected, count in cases:
            with self.subTest(kind=kind, units=units):
                move = shares(trades=trade(kind, units, more=more)).moves[0]
                self.assertEqual((move.kind, move.shares_e8), (expected, round(count * E8)))
        self.assertTrue(shares(trades=trade("TRANSFER", "5", more="<TFERACTION>IN")).moves[0].reason)

    def test_a_split_brings_the_new_units_less_the_old(self):
        split = (
            "<SPLIT><INVTRAN><FITID>s1<DTTRADE>20260420</INVTRAN><SECID><UNIQUEID>ZZ00TERN0003<UNIQUEIDTYPE>ISIN</SECID>"
            "<SUBACCTSEC>CASH<OLDUNITS>40<NEWUNITS>120<NUMERATOR>3<DENOMINATOR>1</SPLIT>"
        )
        move = shares(trades=split).moves[0]
        self.assertEqual((move.kind, move.shares_e8, move.reason), ("split", 80 * E8, "split 3 for 1"))

    def test_positions_in_cash_and_margin_are_one_and_a_short_one_is_negative(self):
        self.assertEqual(shares(positions=position("40") + position("2.5")).positions[0].shares_e8, round(42.5 * E8))
        self.assertEqual(shares(positions=position("3", more="<POSTYPE>SHORT")).positions[0].shares_e8, -3 * E8)

    def test_a_security_the_file_does_not_list_goes_by_its_code(self):
        self.assertEqual(shares(positions=position(), securities="").positions[0].name, "ZZ00TERN0003")

    def test_what_lacks_units_or_a_day_is_refused_with_its_element(self):
        for trades, words in (
            (trade(units=""), "BUYSTOCK"),
            (trade().replace("20260413101500[-5:EST]", ""), "DTTRADE"),
            (trade(units="9" * 14), "a billion"),
        ):
            with self.subTest(words), self.assertRaises(UnreadableFile) as caught:
                shares(trades=trades)
            self.assertIn(words, caught.exception.sentence)

    def test_the_money_in_an_investment_account_does_not_become_rows(self):
        cash = "<INVBANKTRAN><STMTTRN><TRNTYPE>CREDIT<DTPOSTED>20260401<TRNAMT>5<FITID>c</STMTTRN><SUBACCTFUND>CASH</INVBANKTRAN>"
        statement = read_ofx(investments(trade() + cash).encode())[0]
        self.assertEqual((len(statement.rows), len(statement.shares.moves)), (0, 1))


if __name__ == "__main__":
    unittest.main()
