"""How the bank stand-in speaks: OAuth 2.0 authorization code with PKCE, a list of accounts, and OFX 2.2 over POST."""

import json
import re
import time
from datetime import date, datetime
from http.server import ThreadingHTTPServer
from urllib.parse import parse_qs, urlencode, urlsplit

from bolsa.stand_ins.bank import pages
from bolsa.stand_ins.bank.faults import FAULT_BY_KEY, NEW_PASSWORD, SLOW_SECONDS, answer_for
from bolsa.stand_ins.bank.state import Bank, BankAccount
from bolsa.stand_ins.serving import StandInHandler, server_of

MOST_BODY = 100_000
_PASSED_ON = ("redirect_uri", "state", "code_challenge", "code_challenge_method", "client_id", "response_type")


def serve(bank: Bank, port: int) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 takes a free one."""
    return server_of(_Handler, port, bank=bank)


class _Handler(StandInHandler):
    bank: Bank

    def do_GET(self) -> None:
        place = urlsplit(self.path)
        key, _, what = place.path.strip("/").partition("/")
        if place.path == "/bank.css":
            return self._reply(pages.STYLE, "text/css")
        if place.path == "/":
            return self._reply(pages.switches_page(self.bank))
        if place.path == "/institutions":
            return self._json([{"name": i.name, "base_url": f"{self._origin}/{i.key}"} for i in self.bank.institutions.values()])
        if key not in self.bank.institutions:
            return self._reply("There is no such page.", status=404)
        if what == "authorize":
            fields = {name: values[0] for name, values in parse_qs(place.query).items() if name in _PASSED_ON}
            return self._reply(pages.sign_in_page(self.bank.institutions[key], fields, wrong=False))
        if what == "accounts":
            return self._accounts(key)
        return self._reply("There is no such page.", status=404)

    def do_POST(self) -> None:
        key, _, what = urlsplit(self.path).path.strip("/").partition("/")
        body = self.rfile.read(min(int(self.headers.get("Content-Length") or 0), MOST_BODY)).decode("utf-8", "replace")
        if key == "faults" and not what:
            return self._switch(parse_qs(body))
        if key not in self.bank.institutions:
            return self._reply("There is no such page.", status=404)
        if what == "authorize":
            return self._authorize(key, parse_qs(body))
        if what == "token":
            return self._token(parse_qs(body))
        if what == "ofx":
            return self._ofx(key, body)
        return self._reply("There is no such page.", status=404)

    @property
    def _origin(self) -> str:
        port: int = self.server.server_address[1]  # type: ignore[index, assignment]  # of an address on a network
        return f"http://127.0.0.1:{port}"

    def _authorize(self, key: str, form: dict[str, list[str]]) -> None:
        """First the sign-in, then, with its token, the choice of accounts; then back to whoever asked."""
        institution = self.bank.institutions[key]
        fields = {name: form[name][0] for name in _PASSED_ON if name in form}
        if "signed_in" not in form:
            token = self.bank.sign_in(key, form.get("user", [""])[0], form.get("password", [""])[0])
            if token is None:
                return self._reply(pages.sign_in_page(institution, fields, wrong=True), status=401)
            return self._reply(pages.consent_page(institution, fields | {"signed_in": token}))
        back = fields.get("redirect_uri", "")
        if not re.match(r"http://(127\.0\.0\.1|localhost)(:\d+)?/", back):
            return self._reply("The address to return to is not on this machine.", status=400)
        code = self.bank.consent(form["signed_in"][0], form.get("number", []), fields.get("code_challenge", ""), back)
        answer = {"code": code} if code else {"error": "access_denied"}
        self.send_response(303)
        self.send_header("Location", f"{back}?{urlencode(answer | {'state': fields.get('state', '')})}")
        self.end_headers()

    def _token(self, form: dict[str, list[str]]) -> None:
        asked = {name: form.get(name, [""])[0] for name in ("code", "code_verifier", "redirect_uri")}
        token = self.bank.redeem(asked["code"], asked["code_verifier"], asked["redirect_uri"])
        if token is None:
            return self._json({"error": "invalid_grant"}, status=400)
        return self._json({"access_token": token, "token_type": "Bearer"})

    def _switch(self, form: dict[str, list[str]]) -> None:
        """Switches an institution's faults, asked for from the stand-in's own page alone."""
        if not self.is_asked_by_own_page:
            return self._reply("The switches are on the stand-in's own page.", status=403)
        key = form.get("institution", [""])[0]
        if key not in self.bank.institutions:
            return self._reply("There is no such institution.", status=404)
        chosen = frozenset(form.get("fault", [])) & FAULT_BY_KEY.keys()
        self.bank.switch(key, chosen, NEW_PASSWORD)
        name = self.bank.institutions[key].name
        said = f"{name}: {'; '.join(FAULT_BY_KEY[f].words for f in sorted(chosen)) or 'all goes well'}."
        return self._reply(pages.switches_page(self.bank, said))

    def _covered(self, key: str) -> list[BankAccount] | None:
        """The accounts the request's token covers, less the one that is missing; None if it is not valid."""
        faults = self.bank.faults_of(key)
        if "slow" in faults:
            time.sleep(SLOW_SECONDS)
        covered = self.bank.accounts_of(key, self._bearer())
        return covered[1:] if covered and "missing" in faults else covered

    def _accounts(self, key: str) -> None:
        covered = self._covered(key)
        if covered is None:
            return self._json({"error": "invalid_token"}, status=401)
        return self._json([{"number": a.number, "name": a.name, "kind": a.kind, "currency": a.currency} for a in covered])

    def _ofx(self, key: str, body: str) -> None:
        covered = self._covered(key)
        if covered is None:
            return self._json({"error": "invalid_token"}, status=401)
        faults = self.bank.faults_of(key)
        asked = {
            tag: found[1] for tag in ("ACCTID", "DTSTART", "DTCLIENT", "TRNUID") if (found := re.search(rf"<{tag}>([^<]+)", body))
        }
        account = next((a for a in covered if a.number == asked.get("ACCTID")), None)
        if "DTCLIENT" not in asked:
            return self._reply("This OFX request has no date.", status=400)
        if account is None:
            return self._reply(pages.no_account_reply(asked.get("TRNUID", "0")), "application/x-ofx")
        if "half" in faults and account is covered[-1]:
            return self._reply("The machine room is being cleaned.", status=500)
        today = _day(asked["DTCLIENT"])
        first = _day(asked.get("DTSTART", asked["DTCLIENT"]))
        answer = answer_for(account, faults, first, today)
        reply = pages.ofx_reply(account, answer, first, today, asked.get("TRNUID", "0"))
        return self._reply(reply[: len(reply) // 2] if "cut" in faults else reply, "application/x-ofx")

    def _bearer(self) -> str:
        return (self.headers.get("Authorization") or "").removeprefix("Bearer ")

    def _json(self, value: object, status: int = 200) -> None:
        self._reply(json.dumps(value), "application/json", status)


def _day(text: str) -> date:
    return datetime.strptime(text[:8], "%Y%m%d").date()  # noqa: DTZ007 (a bank's calendar day has no zone)
