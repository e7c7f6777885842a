"""Who is let in: hosts, pages of other sites, the way back after a change, and where an institution sends a person back to."""

import unittest

from bolsa.errors import InvalidInput
from bolsa.web.gate import LONGEST_ADDRESS, check_address
from bolsa.web.serving import parse_port
from tests.web.served import an_app
from tests.web.test_forms import FormsCase

HIDE = "/books/accounts/1/shown"


class Gate(FormsCase):
    def hide(self, **headers):
        named = {name.replace("_", "-"): value for name, value in headers.items()}
        return self.client.post(HIDE, data={"shown": "0"}, headers=named).status_code

    def is_hidden(self):
        return not self.db.execute("SELECT shown FROM account WHERE id = 1").fetchone()[0]

    def test_a_host_that_is_only_named_like_this_machine_is_refused(self):
        for host in ("evil.example", "127.0.0.1.evil.example", "localhost.evil.example:8030"):
            self.assertEqual(self.client.get("/books", headers={"Host": host}).status_code, 400, host)
        for host in ("localhost:8030", "127.0.0.1:8030"):
            self.assertEqual(self.client.get("/books", headers={"Host": host}).status_code, 200, host)

    def test_what_another_sites_page_sends_changes_nothing(self):
        for headers in (
            {"Sec_Fetch_Site": "cross-site"},
            {"Sec_Fetch_Site": "same-site", "Sec_Fetch_Mode": "navigate"},
            {"Origin": "http://evil.example"},
            {"Origin": "http://localhost:9000"},
            {"Origin": "null"},
        ):
            self.assertEqual(self.hide(**headers), 403, headers)
        self.assertFalse(self.is_hidden())
        self.assertEqual(self.hide(Origin="http://localhost", Sec_Fetch_Site="same-origin"), 303)
        self.assertTrue(self.is_hidden())

    def test_another_sites_page_may_lead_here_and_neither_read_nor_frame(self):
        asked = {"Sec-Fetch-Site": "cross-site"}
        visit = asked | {"Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
        self.assertEqual(self.client.get("/books", headers=visit).status_code, 200)
        for headers in (asked | {"Sec-Fetch-Mode": "no-cors"}, visit | {"Sec-Fetch-Dest": "iframe"}):
            self.assertEqual(self.client.get("/house/backup.bolsa", headers=headers).status_code, 403)

    def test_after_a_change_one_is_led_to_a_page_of_ours(self):
        for referrer, led_to in (
            ("http://localhost/books/1?text=quay", "/books/1?text=quay"),
            ("http://evil.example/books", "/books"),
            ("http://localhost.evil.example/books/1", "/books"),
            ("http://localhost//evil.example/", "/books"),
            ("http://localhost/books?quick=" + "a" * LONGEST_ADDRESS, "/books"),
        ):
            reply = self.client.post("/books/columns", data={}, headers={"Referer": referrer})
            self.assertEqual((reply.status_code, reply.location), (303, led_to), referrer[:60])

    def test_the_cookie_is_our_own_and_bound_to_the_host_over_tls(self):
        self.client.post("/house/sit", data={"member_id": "1"})
        self.assertIsNotNone(self.client.get_cookie("bolsa"))
        app = an_app(self.path, address="https://money.example/")
        app.config["WTF_CSRF_ENABLED"] = False
        reply = app.test_client().post("/house/sit", data={"member_id": "1"}, base_url="https://money.example")
        self.assertRegex(reply.headers["Set-Cookie"], r"^__Host-bolsa=.*Secure.*HttpOnly.*Path=/")
        self.assertNotIn("Domain", reply.headers["Set-Cookie"])

    def test_an_address_and_a_port_are_ones_there_are(self):
        for address in ("money.example", "ftp://money.example", "https://money.example/path", "https://"):
            with self.assertRaises(InvalidInput, msg=address):
                check_address(address)
        self.assertEqual([parse_port(text) for text in ("0", "65535")], [0, 65_535])
        for text in ("65536", "-1", "80a", "²", ""):
            with self.assertRaisesRegex(InvalidInput, "is no port", msg=text):
                parse_port(text)


if __name__ == "__main__":
    unittest.main()
