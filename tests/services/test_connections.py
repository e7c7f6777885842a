"""A promise both the stand-in and a broken one are held to: consent, download, what goes wrong is said and kept."""

import json
import re
import threading
import unittest
import urllib.parse
import urllib.request
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta

from bolsa.demo.banks import write_scenario
from bolsa.errors import InvalidInput, ServiceUnavailable, UnreadableFile
from bolsa.services.accounts import openings
from bolsa.services.bringing import bringing_in, connections, previewing, undoing
from bolsa.services.bringing.connections import Institution
from bolsa.services.ledger import entries
from bolsa.services.outside import Request, send_over_http
from bolsa.stand_ins.bank.pages import no_account_reply
from bolsa.stand_ins.bank.state import Bank
from bolsa.stand_ins.bank.wire import serve
from tests.services.household import BY, HouseholdCase

BACK = "http://127.0.0.1:8030/books/connect/back"


class WithTheStandIn(HouseholdCase):
    def setUp(self):
        super().setUp()
        scenario = self.folder / "bank.json"
        write_scenario(scenario)
        self.server = serve(Bank.from_file(scenario), 0)
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        self.addCleanup(self.server.server_close)
        self.addCleanup(self.server.shutdown)
        self.url = f"http://127.0.0.1:{self.server.server_address[1]}"

    def consents(self, institution, numbers):
        """What the person does at the institution's own pages: sign in, choose accounts; gives the code and the consent."""
        asked = connections.ask_consent(institution, BACK)
        form = dict(urllib.parse.parse_qsl(urllib.parse.urlsplit(asked.address).query))
        bank = self.server.RequestHandlerClass.bank
        signed_in = bank.sign_in("halden", "noor", "ferry")
        return bank.consent(signed_in, numbers, form["code_challenge"], BACK), asked

    def connected(self):
        """A connection with its one account linked: its id, and the account's there."""
        institution = connections.list_institutions(self.url, send_over_http)[0]
        code, asked = self.consents(institution, ["HM44100201"])
        connection_id = connections.connect(self.db, institution, code, asked.verifier, BACK, send_over_http)
        (remote,) = connections.get_connection(self.db, connection_id)[1]
        connections.link(self.db, BY, connection_id, remote.id, self.current)
        return connection_id, remote.id

    def rows_of(self, batch_id):
        return sum(previewing.get_preview(self.db, batch_id).counts.values())

    def test_consent_download_and_the_same_again(self):
        institution = connections.list_institutions(self.url, send_over_http)[0]
        self.assertEqual(institution.name, "Halden Mutual")
        code, asked = self.consents(institution, ["HM44100201"])
        with self.assertRaises(ServiceUnavailable):
            connections.connect(self.db, institution, code, "another verifier", BACK, send_over_http)
        code, asked = self.consents(institution, ["HM44100201"])
        connection_id = connections.connect(self.db, institution, code, asked.verifier, BACK, send_over_http)
        _, remotes = connections.get_connection(self.db, connection_id)
        self.assertEqual([r.remote_name for r in remotes], ["Household current"])
        connections.link(self.db, BY, connection_id, remotes[0].id, self.current)
        batch = connections.download(self.db, BY, connection_id, send_over_http).batch_id
        self.assertGreater(bringing_in.bring_in(self.db, BY, batch).made.new, 40)
        self.assertEqual(connections.download(self.db, BY, connection_id, send_over_http), connections.Download(None))

    def test_a_download_that_only_corrects_a_sign_is_shown_and_offered_once(self):
        connection_id, _ = self.connected()
        later = replace(BY, today=BY.today + timedelta(days=1), at="2026-05-15T10:00:00Z")

        def turned(request):
            reply = send_over_http(request).decode()
            return re.sub(r"<TRNAMT>-(\d+\.\d\d)", r"<TRNAMT>\1", reply, count=1).encode()

        batch_id = connections.download(self.db, BY, connection_id, turned).batch_id
        bringing_in.bring_in(self.db, BY, batch_id)
        batch_id = connections.download(self.db, later, connection_id, send_over_http).batch_id
        (changed,) = previewing.get_preview(self.db, batch_id).changed_here
        self.assertEqual(changed.amount_minor, -changed.here_minor)
        previewing.overrule(self.db, batch_id, changed.row_id, "correct")
        bringing_in.bring_in(self.db, later, batch_id)
        self.assertIsNone(connections.download(self.db, later, connection_id, send_over_http).batch_id)

    def test_two_that_ask_at_once_bring_one_preview(self):
        connection_id, _ = self.connected()

        def slow(request):
            connections.download(self.db, BY, connection_id, send_over_http)
            return send_over_http(request)

        second = connections.download(self.db, BY, connection_id, slow)
        (waiting,) = bringing_in.list_waiting(self.db)
        self.assertEqual(second.batch_id, waiting.id)
        row = previewing.get_preview(self.db, waiting.id).rows[0]
        previewing.overrule(self.db, waiting.id, row.id, "leave")
        rows = self.rows_of(waiting.id)
        self.assertEqual(connections.download(self.db, BY, connection_id, send_over_http), second)
        renewed = previewing.get_preview(self.db, waiting.id)
        self.assertEqual((self.rows_of(waiting.id), renewed.left_out), (rows, 1), "what was decided stays decided")

    def asked_for(self, connection_id, by=BY):
        """The first day an institution is asked for, and what came of it."""
        asked = []

        def send(request):
            asked.append(re.search(rb"<DTSTART>(\d{8})", request.body)[1].decode())
            return send_over_http(request)

        done = connections.download(self.db, by, connection_id, send)
        if done.batch_id:
            bringing_in.bring_in(self.db, by, done.batch_id)
        return date.fromisoformat(asked[0]), done

    def test_an_answer_cut_at_any_byte_is_none_and_changes_nothing(self):
        connection_id, _ = self.connected()
        replies = []

        def send(request):
            replies.append(send_over_http(request))
            return replies[-1]

        previewing.discard(self.db, connections.download(self.db, BY, connection_id, send).batch_id)
        no_account = no_account_reply("1").encode()
        for whole in (replies[0], no_account):
            step = max(1, len(whole) // 150)
            for cut in {*range(0, len(whole) - 1, step), *range(len(whole) - 40, len(whole) - 1)}:
                with self.subTest(cut), self.assertRaises((UnreadableFile, ServiceUnavailable)):
                    connections.download(self.db, BY, connection_id, lambda request, part=whole[:cut]: part)
                (remote,) = connections.get_connection(self.db, connection_id)[1]
                self.assertIsNone(remote.missing_since)
        self.assertEqual(bringing_in.list_waiting(self.db), [])
        connections.download(self.db, BY, connection_id, lambda request: no_account)
        self.assertEqual(connections.get_connection(self.db, connection_id)[1][0].missing_since, BY.today)

    def test_after_a_long_gap_it_is_asked_from_the_last_day_covered_on(self):
        connection_id, _ = self.connected()
        january = replace(BY, today=date(2026, 1, 10))
        self.asked_for(connection_id, january)
        first, done = self.asked_for(connection_id)
        self.assertEqual((first, done.problems), (date(2025, 12, 31), ()))
        account = next(
            a for a in self.server.RequestHandlerClass.bank.institutions["halden"].accounts if a.number == "HM44100201"
        )
        told = {r["day"] for r in self.db.execute("SELECT day FROM brought_row WHERE take = 1")}
        since = date(2026, 1, 10) - timedelta(days=90)
        self.assertEqual(told, {row.day.isoformat() for row in account.rows_between(since, BY.today)})

    def test_it_is_asked_back_to_where_the_balances_agree(self):
        connection_id, _ = self.connected()
        self.asked_for(connection_id, replace(BY, today=date(2026, 4, 10)))
        openings.open_as_the_bank_says(self.db, BY, self.current)
        self.assertEqual(self.asked_for(connection_id, replace(BY, today=date(2026, 4, 20)))[0], date(2026, 3, 31))
        sql = "SELECT id FROM line WHERE account_id = ? AND day > '2026-04-10' ORDER BY day LIMIT 1"
        line = self.db.execute(sql, (self.current,)).fetchone()
        entries.delete_entry(self.db, BY, entries.entry_of_line(self.db, line["id"]).id)
        self.assertEqual(self.asked_for(connection_id)[0], date(2026, 3, 31), "on the 20th they agree no more")

    def test_what_the_institution_no_longer_sends_is_said(self):
        connection_id, _ = self.connected()
        self.asked_for(connection_id, replace(BY, today=date(2026, 1, 10)))

        def later(request):
            return send_over_http(replace(request, body=request.body.replace(b"<DTSTART>20251231", b"<DTSTART>20260301")))

        done = connections.download(self.db, BY, connection_id, later)
        self.assertIn("no longer sends 2026-01-11 to 2026-02-28", done.problems[0])

    def test_two_accounts_of_a_bank_never_tell_one_account_here(self):
        institution = connections.list_institutions(self.url, send_over_http)[0]
        code, asked = self.consents(institution, ["HM44100201", "HM44100777"])
        connection_id = connections.connect(self.db, institution, code, asked.verifier, BACK, send_over_http)
        one, other = connections.get_connection(self.db, connection_id)[1]
        connections.link(self.db, BY, connection_id, one.id, self.current)
        with self.assertRaisesRegex(InvalidInput, "is linked to that account already"):
            connections.link(self.db, BY, connection_id, other.id, self.current)

    def test_an_account_that_takes_anothers_place_gets_all_from_the_beginning(self):
        connection_id, remote = self.connected()
        first = connections.download(self.db, BY, connection_id, send_over_http).batch_id
        rows = self.rows_of(first)
        bringing_in.bring_in(self.db, BY, first)
        connections.link(self.db, BY, connection_id, remote, self.an_account("Another", "current"))
        again = connections.download(self.db, BY, connection_id, send_over_http).batch_id
        self.assertEqual(self.rows_of(again), rows)

    def test_what_was_put_aside_or_taken_out_is_sent_again(self):
        connection_id, _ = self.connected()
        first = connections.download(self.db, BY, connection_id, send_over_http).batch_id
        rows = self.rows_of(first)

        def takes_out(db, batch_id):
            bringing_in.bring_in(db, BY, batch_id)
            undoing.undo_batch(db, BY, batch_id)

        for let_go in (previewing.discard, takes_out):
            let_go(self.db, connections.download(self.db, BY, connection_id, send_over_http).batch_id)
            again = connections.download(self.db, BY, connection_id, send_over_http).batch_id
            self.assertLessEqual(rows, self.rows_of(again))

    def test_a_wrong_password_gives_no_consent(self):
        self.assertIsNone(self.server.RequestHandlerClass.bank.sign_in("halden", "noor", "boat"))

    def test_an_answer_gone_wrong_is_kept_in_words_and_changes_nothing(self):
        institution = Institution("Halden Mutual", self.url + "/halden")
        code, asked = self.consents(institution, ["HM44100201"])
        connection_id = connections.connect(self.db, institution, code, asked.verifier, BACK, send_over_http)
        _, remotes = connections.get_connection(self.db, connection_id)
        connections.link(self.db, BY, connection_id, remotes[0].id, self.current)
        for reply in (
            b"<html>Maintenance</html>",
            b"",
            b"<OFX><STATUS><CODE>2000<SEVERITY>ERROR<MESSAGE>Try later</STATUS></OFX>",
        ):
            with self.subTest(reply), self.assertRaises((ServiceUnavailable, UnreadableFile)):
                connections.download(self.db, BY, connection_id, lambda request, reply=reply: reply)
            kept, _ = connections.get_connection(self.db, connection_id)
            self.assertEqual(kept.state, "broken")
            self.assertTrue(kept.last_error.endswith((".", "”.")))
        self.assertEqual(self.balance(), 100_000)
        connections.cut_off(self.db, connection_id)
        self.assertEqual(connections.get_connection(self.db, connection_id)[0].token, "")

    def test_what_is_refused_over_http(self):
        for path, status in (("/halden/accounts", 401), ("/nowhere", 404)):
            with self.subTest(path), self.assertRaises(urllib.error.HTTPError) as caught:
                urllib.request.urlopen(self.url + path)
            self.assertEqual(caught.exception.code, status)
            caught.exception.close()
        with self.assertRaisesRegex(ServiceUnavailable, "The consent has ended"):
            send_over_http(Request(self.url + "/halden/accounts", token="stale"))
        with closing(urllib.request.urlopen(self.url + "/institutions")) as reply:
            self.assertEqual(len(json.load(reply)), 2)


if __name__ == "__main__":
    unittest.main()
