"""Hostile files of twice the size take twice the time: what a reader does for each mark does not look through all that follows.

Time of the processor is compared within one run, and only where a quadratic reader would take minutes.
"""

import contextlib
import time
import unittest

from bolsa.errors import UnreadableFile
from bolsa.formats.camt import read_camt
from bolsa.formats.csv_table import read_table
from bolsa.formats.mt940 import read_mt940
from bolsa.formats.ofx import read_ofx

MARKS = 20_000
OFX = b"OFXHEADER:100\n\n<OFX><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1</BANKACCTFROM><BANKTRANLIST>%s</BANKTRANLIST></STMTRS></OFX>"
ROW = b"<STMTTRN><DTPOSTED>20260501<TRNAMT>-1.00<FITID>1<NAME>%s</STMTTRN>"
SMALL = b"<lower>a</lower>"  # the library refuses small letters, so that the recovering parser reads it
CAMT = (
    b'<?xml version="1.0"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"><BkToCstmrStmt><Stmt><Acct><Id><IBAN>NL1'
    b"</IBAN></Id><Ccy>EUR</Ccy></Acct>%s</Stmt></BkToCstmrStmt></Document>"
)
MT940 = b":20:A\n:25:NL1/1\n:28C:1\n:60F:C260501EUR1,00\n:61:260501D1,00NMSC1\n:86:%s\n:62F:C260501EUR0,00\n-"
CSV = b"Date,Payee,Amount\n%s"
HOSTILE = {
    "OFX comments": (read_ofx, OFX % (SMALL + ROW % b"a" + b"%s"), b"<!--"),
    "OFX instructions": (read_ofx, OFX % (SMALL + ROW % b"a" + b"%s"), b"<?"),
    "OFX CDATA": (read_ofx, OFX % b"%s", b"<![CDATA["),
    "OFX tags": (read_ofx, OFX % (SMALL + b"%s"), b"<A "),
    "OFX statements in statements": (read_ofx, OFX % b"%s", b"<BANKTRANLIST><STMTRS>"),
    "OFX comments in a row": (read_ofx, OFX % ROW % b"%s", b"<!--"),
    "OFX leaves in a row": (read_ofx, OFX % ROW % b"%s", b"<A> "),
    "OFX entities": (read_ofx, OFX % ROW % b"%s", b"&#"),
    "camt comments": (read_camt, CAMT, b"<!--"),
    "camt elements in elements": (read_camt, CAMT, b"<a>"),
    "MT940 marks in a detail": (read_mt940, MT940, b"?20"),
    "MT940 slashes in a detail": (read_mt940, MT940, b"/REMI"),
    "MT940 lines of a detail": (read_mt940, MT940, b"a\n"),
    "MT940 blocks": (read_mt940, b"%s" + MT940 % b"a", b"{4:\n"),
    "CSV cells": (lambda content, _: read_table(content), CSV, b",,,,"),
    "CSV quotes": (lambda content, _: read_table(content), CSV, b'""""'),
    "CSV quotes left open": (lambda content, _: read_table(content), CSV, b'"a\n'),
}


def seconds(read, content):
    """What reading takes of the processor; a refusal is an answer too."""
    begun = time.process_time()
    with contextlib.suppress(UnreadableFile):
        read(content, "EUR")
    return time.process_time() - begun


class Linear(unittest.TestCase):
    def test_twice_the_marks_take_twice_the_time(self):
        for name, (read, frame, mark) in HOSTILE.items():
            with self.subTest(name):
                once = seconds(read, frame.replace(b"%s", mark * MARKS))
                self.assertLess(once, 10, "so many marks take minutes where each looks through all that follow")
                twice = seconds(read, frame.replace(b"%s", mark * (2 * MARKS)))
                self.assertLess(twice, 4 * max(once, 0.5))


if __name__ == "__main__":
    unittest.main()
