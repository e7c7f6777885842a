"""The door to outside services against answers made to do harm: nothing hangs, nothing follows, and each gets a sentence."""

import socket
import threading
import unittest
from contextlib import contextmanager

from bolsa.errors import InvalidInput, ServiceUnavailable
from bolsa.services.accounts.market import parse_rate, read_csv, read_number
from bolsa.services.outside import MOST_REPLY_BYTES, Request, check_url, read_json, send_over_http, text_of

OK = b"HTTP/1.1 200 OK\r\n"


@contextmanager
def a_service(*sends, pause=0.0):
    """A service that answers one request with these bytes, a pause between them; gives its address and what it was asked."""
    heard, over = [], threading.Event()
    listening = socket.create_server(("127.0.0.1", 0))

    def answer():
        with listening.accept()[0] as one:
            heard.append(one.recv(65_536))
            for part in sends:
                over.wait(pause)
                try:
                    one.sendall(part)
                except OSError:
                    return

    thread = threading.Thread(target=answer, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{listening.getsockname()[1]}/asked?a=1", heard
    finally:
        over.set()
        thread.join(5)
        listening.close()


class Answers(unittest.TestCase):
    def test_a_good_answer_is_given_and_the_token_stands_in_a_header(self):
        with a_service(OK + b"Content-Length: 2\r\n\r\nhi") as (url, heard):
            self.assertEqual(send_over_http(Request(url, token="secret")), b"hi")
        self.assertIn(b"GET /asked?a=1 HTTP/1.1", heard[0])
        self.assertIn(b"Authorization: Bearer secret", heard[0])

    def test_answers_made_to_do_harm_get_a_sentence(self):
        for name, answer in {
            "a bad first line": b"HELLO\r\n\r\n",
            "two hundred headers": OK + b"".join(b"X-%d: 1\r\n" % i for i in range(200)) + b"\r\n",
            "broken chunks": OK + b"Transfer-Encoding: chunked\r\n\r\nzz\r\nhello\r\n",
            "nothing": b"",
            "less than it says": OK + b"Content-Length: 100\r\n\r\nhi",
            "an error": b"HTTP/1.1 500 No\r\nContent-Length: 0\r\n\r\n",
        }.items():
            with self.subTest(name), a_service(answer) as (url, _), self.assertRaises(ServiceUnavailable):
                send_over_http(Request(url))

    def test_a_token_is_never_carried_to_another_address(self):
        moved = b"HTTP/1.1 302 Found\r\nLocation: http://127.0.0.1:%d/\r\nContent-Length: 0\r\n\r\n"
        with a_service(OK + b"Content-Length: 2\r\n\r\nhi") as (there, heard):
            port = int(there.split(":")[2].split("/")[0])
            with a_service(moved % port) as (url, _), self.assertRaisesRegex(ServiceUnavailable, "another address"):
                send_over_http(Request(url, token="secret"))
            self.assertEqual(heard, [])
            socket.create_connection(("127.0.0.1", port)).close()

    def test_bytes_that_come_one_by_one_have_one_deadline(self):
        drops = [OK + b"Content-Length: 100000\r\n\r\n", *([b"a"] * 1_000)]
        with a_service(*drops, pause=0.05) as (url, _), self.assertRaisesRegex(ServiceUnavailable, "does not answer"):
            send_over_http(Request(url), deadline=0.4)

    def test_more_than_it_takes_in_is_refused(self):
        body = b"a" * (MOST_REPLY_BYTES + 1)
        answer = OK + b"Content-Length: %d\r\n\r\n" % len(body)
        with a_service(answer, body) as (url, _), self.assertRaisesRegex(ServiceUnavailable, "more than Bolsa takes in"):
            send_over_http(Request(url))


class Addresses(unittest.TestCase):
    def test_https_or_this_machine_alone(self):
        for url in ("https://halden.example/ofx", "http://127.0.0.1:9000", "http://localhost/", "http://[::1]:80/"):
            self.assertEqual(check_url(url), url)
        for url in (
            "http://halden.example/", "file:///etc/passwd", "javascript:alert(1)", "https://", "//halden.example", "", "http://127.0.0.1.evil.example/",
            "https://halden.example/a b", "https://halden.example/\r\nX: 1", "https://halden.example:99999/",
        ):  # fmt: skip
            with self.assertRaisesRegex(InvalidInput, "no address Bolsa asks", msg=url):
                check_url(url)
            with self.assertRaises(ServiceUnavailable, msg=url):
                send_over_http(Request(url))


class Contents(unittest.TestCase):
    def test_json_made_to_do_harm(self):
        for content in (b"[" * 100_000, b'{"a": NaN}', b"{", b"\xff\xfe", b"[" * 41 + b"]" * 41):
            with self.assertRaisesRegex(ServiceUnavailable, "not so", msg=content[:9]):
                read_json(content, "not so")
        self.assertEqual(read_json(b"[" * 40 + b"]" * 40, "not so").__class__, list)
        for found in ({}, [], None, {"name": 1}, {"name": ""}, {"name": "a" * 201}, {"name": "a\x00"}):
            with self.assertRaisesRegex(ServiceUnavailable, "not so", msg=str(found)[:20]):
                text_of(found, "name", "not so")
        self.assertEqual(text_of({"name": "a" * 200}, "name", "not so"), "a" * 200)

    def test_numbers_and_tables_made_to_do_harm(self):
        for text in ("NaN", "Infinity", "1e999999", "1" * 41, "1000000000", "x", ""):
            with self.assertRaises(ServiceUnavailable, msg=text[:9]):
                read_number(text)
        self.assertEqual(read_number("999999999.99").as_tuple().exponent, -2)
        for content in (b"day\n2026-01-01\n", b"day,rate\n2026-01-01\n", b"day,rate\n2026-01-01,1\n2026\n"):
            with self.assertRaises(ServiceUnavailable, msg=content):
                read_csv(content, ("day", "rate"))
        for text in ("NaN", "Infinity", "-1", "0", "1e9"):
            with self.assertRaises(InvalidInput, msg=text):
                parse_rate(text)


if __name__ == "__main__":
    unittest.main()
