"""Reading in passes: a spool is the list it stands for, and no reader's memory grows with the rows of its file."""

import gc
import pickle
import tracemalloc
import unittest
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from bolsa.formats import spool
from bolsa.formats.camt import read_camt
from bolsa.formats.csv_guess import guess_mapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.csv_table import read_table
from bolsa.formats.mt940 import read_mt940
from bolsa.formats.ofx import read_ofx
from bolsa.formats.spool import Spool


class AListInAFile(unittest.TestCase):
    @given(st.lists(st.text(max_size=3), max_size=30), st.integers(-31, 31), st.integers(-31, 31), st.integers(1, 5))
    def test_it_reads_as_the_list(self, items, first, last, step):
        with mock.patch.object(spool, "CHUNK", 4):
            kept = Spool(items)
            self.assertEqual((len(kept), list(kept), list(reversed(kept))), (len(items), items, items[::-1]))
            self.assertEqual(kept[first:last:step], items[first:last:step])
            self.assertEqual(list(kept.from_place(abs(first))), items[abs(first) :])
            self.assertEqual([kept[i] for i in range(len(items))], items)
            with self.assertRaises(IndexError):
                kept[len(items)]

    def test_reading_and_adding_may_alternate(self):
        with mock.patch.object(spool, "CHUNK", 2):
            kept = Spool("abc")
            self.assertEqual(kept[0], "a")
            for letter in "defg":
                kept.append(letter)
                self.assertEqual(kept[-1], letter)
            self.assertEqual("".join(kept), "abcdefg")


def csv_rows(count):
    return "Date,Payee,Amount,Balance\n" + "".join(f"2026-05-{i % 28 + 1:02},Shop {i},-{i % 90}.10,0.00\n" for i in range(count))


def ofx_rows(count):
    rows = "".join(f"<STMTTRN><DTPOSTED>20260504<TRNAMT>-{i % 90}.10<FITID>{i}<NAME>Shop {i}</STMTTRN>\n" for i in range(count))
    return f"<OFX><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1</BANKACCTFROM><BANKTRANLIST>{rows}</BANKTRANLIST></STMTRS></OFX>"


def camt_rows(count):
    rows = "".join(
        f"<Ntry><Amt>{i % 90}.10</Amt><CdtDbtInd>DBIT</CdtDbtInd><BookgDt><Dt>2026-05-04</Dt></BookgDt>"
        f"<AddtlNtryInf>Shop {i}</AddtlNtryInf></Ntry>\n"
        for i in range(count)
    )
    return f"<Document><BkToCstmrStmt><Stmt><Acct><Ccy>EUR</Ccy></Acct>{rows}</Stmt></BkToCstmrStmt></Document>"


def mt940_rows(count):
    rows = "".join(f":61:2605040504D{i % 90},10NTRFNONREF\n:86:Shop {i}\n" for i in range(count))
    return f":20:A\n:25:1\n:60F:C260501EUR0,00\n{rows}-\n"


def read_table_of(content):
    table = read_table(content)
    return [read_csv(table, guess_mapping(table).mapping, "EUR")]


class BoundedMemory(unittest.TestCase):
    def test_what_a_reader_keeps_in_memory_does_not_grow_with_the_rows(self):
        for rows_of, read in ((csv_rows, read_table_of), (ofx_rows, read_ofx), (camt_rows, read_camt), (mt940_rows, read_mt940)):
            with self.subTest(read.__name__), mock.patch.object(spool, "CHUNK", 100):
                kept = []
                for count in (500, 2_500):
                    content = rows_of(count).encode()
                    least = min(self.peak_of(read, content, count) for _ in range(3))  # what ran here before may still be at work
                    kept.append(least - 3 * len(content))  # the text itself, and a copy in which rows are cut or cleaned
                self.assertLess(kept[1] - kept[0], 250_000, f"2,000 more rows take {kept[1] - kept[0]:,} bytes more")

    def peak_of(self, read, content, count):
        gc.collect()
        tracemalloc.start()
        statement = read(content)[0]
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertEqual(len(statement.rows), count)
        return peak

    def test_a_spool_leaves_no_name_behind(self):
        with mock.patch.object(spool, "CHUNK", 1), mock.patch.object(pickle, "dump", wraps=pickle.dump) as written:
            Spool("ab")
        self.assertIsInstance(written.call_args.args[1].name, int)


if __name__ == "__main__":
    unittest.main()
