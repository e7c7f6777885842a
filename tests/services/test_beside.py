"""Large files are read in a process of their own: with the same outcome, a limit, and a way to stop it."""

import threading
import time
import unittest
from datetime import date
from unittest import mock

from bolsa.errors import BolsaError, UnreadableFile
from bolsa.formats.ofx import read_ofx
from bolsa.services import beside
from bolsa.services.bringing import bringing_in, previewing, taking_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.progress import silent
from bolsa.web import jobs
from tests.formats.test_ofx import ofx
from tests.services.household import BY, HouseholdCase

ROW = "<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260501<TRNAMT>-1.{:02}<FITID>{}<NAME>Quay Books {}</STMTTRN>"
MANY = "".join(ROW.format(i % 100, i, "x" * 40) for i in range(5_200))


def many_rows(content: str) -> bytes:
    return content.replace("</BANKTRANLIST>", MANY + "</BANKTRANLIST>").encode()


class Beside(HouseholdCase):
    def test_what_is_read_is_the_same(self):
        content = many_rows(ofx())
        self.assertGreater(len(content), beside.LARGE)
        here = read_ofx(content, "EUR")
        there = beside.call(read_ofx, content, "EUR", report=silent, words="Reading")
        self.assertEqual([list(one.rows) for one in there], [list(one.rows) for one in here])
        self.assertEqual([one.declared for one in there], [one.declared for one in here])

    def test_large_files_of_both_kinds_are_brought_in(self):
        batch = taking_in.take_in(self.db, BY, "a.ofx", many_rows(ofx()), Answers(self.current)).batch_id
        self.assertGreater(previewing.get_preview(self.db, batch).counts["new"], 5_000)
        previewing.discard(self.db, batch)
        rows = "".join(f"2026-05-01,Quay Books {'x' * 30},-{i}.01\n" for i in range(1, 6_101))
        batch = taking_in.take_in(self.db, BY, "a.csv", f"Date,Payee,Amount\n{rows}".encode(), Answers(self.current)).batch_id
        self.assertEqual(bringing_in.bring_in(self.db, BY, batch).made.new, 6_100)
        self.assertEqual(self.balance(), 100_000 - sum(i * 100 + 1 for i in range(1, 6_101)))

    def test_what_is_wrong_is_told_as_if_it_were_read_here(self):
        with self.assertRaises(UnreadableFile) as here:
            read_ofx(b"<OFX>" + b"x" * 300, "EUR")
        with self.assertRaises(UnreadableFile) as there:
            beside.call(read_ofx, b"<OFX>" + b"x" * 300, "EUR", report=silent, words="Reading")
        self.assertEqual(there.exception.sentence, here.exception.sentence)

    def test_one_that_takes_too_long_or_too_much_is_ended(self):
        with mock.patch.object(beside, "DEADLINE_SECONDS", 0.3), self.assertRaisesRegex(UnreadableFile, "longer to read"):
            beside.call(time.sleep, 60, report=silent, words="Reading")
        with self.assertRaisesRegex(UnreadableFile, "more memory"):
            beside.call(bytes, beside.MOST_MEMORY + 1, report=silent, words="Reading")
        with self.assertRaisesRegex(UnreadableFile, "longer to read"):
            beside.call(date, 1, report=silent, words="Reading")  # which fails for no reason a reader has

    def test_it_is_stopped_and_nothing_is_kept(self):
        job = jobs.Job("Reading", "/books")
        threading.Timer(0.3, job.stopped.set).start()
        with self.assertRaises(jobs.Stopped):
            beside.call(time.sleep, 60, report=job.report, words="Reading")
        with self.assertRaises(BolsaError):
            taking_in.take_in(self.db, BY, "a.ofx", many_rows(ofx()), Answers(self.current), job.report)
        self.assertEqual(bringing_in.list_waiting(self.db), [])


if __name__ == "__main__":
    unittest.main()
