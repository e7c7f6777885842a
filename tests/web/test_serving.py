"""The server as it stands: with a file that is locked, bodies too large, and connections that never finish."""

import contextlib
import http.client
import re
import socket
import sqlite3
import threading
import unittest
from unittest import mock
from urllib.parse import urlencode

from bolsa.errors import InvalidInput
from bolsa.services.house import open_files
from bolsa.web import serving
from tests.web.served import an_app
from tests.web.test_pages import PagesCase


class Served(PagesCase):
    def setUp(self):
        super().setUp()
        self.app = app = an_app(self.path, testing=False)
        self.server = serving.make_server(app, "127.0.0.1", 0)
        app.config["ADDRESS"] = f"http://127.0.0.1:{self.server.effective_port}"
        threading.Thread(target=self.server.run, daemon=True).start()
        self.addCleanup(self.server.close)
        self.addCleanup(app.extensions["open_files"].close)
        _, headers, page = self.asks("GET", "/books/1")
        self.cookie = headers["Set-Cookie"].split(";")[0]
        self.token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]

    def asks(self, method, address, fields=None, **headers):
        with contextlib.closing(http.client.HTTPConnection("127.0.0.1", self.server.effective_port, timeout=30)) as connection:
            body = urlencode(fields) if fields else None
            kind = {"Content-Type": "application/x-www-form-urlencoded"} if fields else {}
            connection.request(method, address, body, {**kind, **headers})
            reply = connection.getresponse()
            return reply.status, reply.headers, reply.read().decode()

    def enters(self):
        return self.asks("POST", "/books/1/quick", {"csrf_token": self.token, "quick": "quay 3.20"}, Cookie=self.cookie)

    def test_while_another_program_changes_the_file_changes_are_refused_in_words_and_pages_go_on(self):
        with (
            mock.patch.object(open_files, "PATIENCE_MS", 300),
            contextlib.closing(sqlite3.connect(self.path, isolation_level=None)) as other,
        ):
            self.app.extensions["open_files"].close()
            other.execute("BEGIN IMMEDIATE")
            said = []
            waiting = [threading.Thread(target=lambda: said.append(self.enters())) for _ in range(5)]
            for one in waiting:
                one.start()
            self.assertEqual([self.asks("GET", "/books/1", Cookie=self.cookie)[0] for _ in range(6)], [200] * 6)
            for one in waiting:
                one.join()
            other.execute("ROLLBACK")
        self.assertEqual(len(said), 5)
        for status, headers, page in said:
            leads = status == 303
            told = self.asks("GET", headers["Location"], Cookie=headers["Set-Cookie"].split(";")[0])[2] if leads else page
            self.assertIn("busy in another program", told)
            self.assertIn("quay 3.20</textarea>", told)
        self.assertEqual(self.balance(), 98_750)
        self.assertEqual(self.enters()[0], 303)
        self.assertEqual(self.balance(), 98_430)

    def test_a_body_too_large_is_refused_by_its_length_alone(self):
        with socket.create_connection(("127.0.0.1", self.server.effective_port), timeout=10) as line:
            line.sendall(b"POST /books/bring-in HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900000000\r\n\r\n")
            self.assertIn(b" 413 ", line.recv(200))

    def test_half_open_requests_do_not_keep_others_out(self):
        with contextlib.ExitStack() as held:
            for _ in range(130):
                line = held.enter_context(socket.create_connection(("127.0.0.1", self.server.effective_port), timeout=10))
                line.sendall(b"GET /books HTTP/1.1\r\nHost: 127")
            self.assertEqual(self.asks("GET", "/books/1", Cookie=self.cookie)[0], 200)

    def test_an_impossible_port_is_refused(self):
        for port in (-1, 65_536, 10**9):
            with self.subTest(port), self.assertRaisesRegex(InvalidInput, "is no port"):
                serving.serve(self.path, port=port)


class Damaged(PagesCase):
    def test_a_file_that_is_damaged_is_said_so_on_every_page_that_meets_it(self):
        self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        (root,) = self.db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'line'").fetchone()
        content = bytearray(self.path.read_bytes())
        content[(root - 1) * 4096 : root * 4096] = b"x" * 4096
        bad = self.folder / "bad.bolsa"
        bad.write_bytes(content)
        client = an_app(bad).test_client()
        reply = client.get("/books/1")
        self.assertEqual(reply.status_code, 503)
        self.assertIn("is damaged. “bolsa check” says where", reply.text)
        health = client.get("/house/health").text
        self.assertIn("the file is sound", health)
        self.assertIn("table line", health)


if __name__ == "__main__":
    unittest.main()
