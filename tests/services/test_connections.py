"""A promise both the stand-in and a broken one are held to: consent, download, what goes wrong is said and kept."""

import json
import threading
import unittest
import urllib.parse
import urllib.request
from contextlib import closing

from bolsa.demo.banks import write_scenario
from bolsa.errors import ServiceUnavailable, UnreadableFile
from bolsa.services.bringing import bringing_in, connections, previewing, undoing
from bolsa.services.bringing.connections import Institution
from bolsa.services.outside import Request, send_over_http
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

    def test_two_that_ask_at_once_bring_one_preview(self):
        connection_id, _ = self.connected()

        def slow(request):
            connections.download(self.db, BY, connection_id, send_over_http)
            return send_over_http(request)

        second = connections.download(self.db, BY, connection_id, slow)
        (waiting,) = bringing_in.list_waiting(self.db)
        self.assertEqual(second.batch_id, waiting.id)
        self.assertIn("still waits", second.problems[0])
        self.assertEqual(connections.download(self.db, BY, connection_id, send_over_http), second)

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
