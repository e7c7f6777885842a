"""A walk over every address and every form with values nobody means: no answer is a mistake of ours."""

import random
from collections.abc import Iterable
from contextlib import closing
from urllib.parse import quote

from flask import Flask
from werkzeug.routing import Rule

from bolsa.bench.fuzz.forms import Form, forms_of
from bolsa.bench.fuzz.values import ASKED, EMPTIES, EXAMPLES, HOSTILE

Sent = dict[str, list[str]]


class Walk:
    """Someone who sends what dice say. `failed` holds, by what went wrong, the request that did it; `asked` counts requests."""

    def __init__(self, app: Flask, dice: random.Random):
        self.app, self.dice = app, dice
        self.client = app.test_client()
        self.failed: dict[str, str] = {}
        self.asked = 0

    def ask(self, method: str, address: str, data: Sent | None = None) -> None:
        """Sends a request, and notes what it should not answer."""
        self.asked += 1
        try:
            with closing(self.client.open(address, method=method, data=data)) as reply:
                said = f"{reply.status_code}" if reply.status_code >= 500 and reply.status_code != 503 else ""
        except Exception as error:  # whatever it is, it is what is looked for
            said = f"{type(error).__name__}: {error}"[:150]
        if said:
            self.failed.setdefault(f"{method} {address.partition('?')[0][:60]} {said}", f"{address[:120]} {str(data)[:200]}")

    def over_addresses(self, each_argument: int, each_page: int) -> None:
        """Every address with so many hostile values in each of its parts, and so many arguments asked for on each page."""
        for rule in self.app.url_map.iter_rules():
            if rule.endpoint == "static":
                continue
            method = "GET" if "GET" in (rule.methods or ()) else "POST"
            for wild in rule.arguments or {""}:
                for value in self.dice.sample(HOSTILE, each_argument):
                    self.ask(method, _address_of(rule, {**EXAMPLES, wild: value}))
            if method == "GET":
                address = _address_of(rule, EXAMPLES)
                for name in self.dice.sample(ASKED, each_page):
                    self.ask("GET", f"{address}?{name}={quote(self.dice.choice(HOSTILE), safe='')}")

    def over_forms(self, pages: Iterable[str], each_field: int) -> None:
        """Every form of the pages, each kind of it once, with so many hostile values in each of its fields."""
        seen = set()
        for page in pages:
            for form in forms_of(page, self.client.get(page).text):
                names = {name for name, _ in form.fields} - {"csrf_token"}
                kind = ("".join(c for c in form.action if not c.isdecimal()), tuple(sorted(names)))
                if kind in seen or form.action == EMPTIES:
                    continue
                seen.add(kind)
                for name in sorted(names):
                    for value in self.dice.sample(HOSTILE, each_field):
                        self.ask("POST", form.action, _sent(form, name, value))
                self.ask("POST", form.action, {})

    def without_token(self, pages: Iterable[str]) -> None:
        """Every form as it stands, each kind of it once, but without its token: each must be refused."""
        seen = set()
        for page in pages:
            for form in forms_of(page, self.client.get(page).text):
                kind = "".join(c for c in form.action if not c.isdecimal())
                if kind in seen:
                    continue
                seen.add(kind)
                self.asked += 1
                data = [(name, value) for name, value in form.fields if name != "csrf_token"]
                with closing(self.client.post(form.action, data=dict(data))) as reply:
                    if reply.status_code not in (400, 403):
                        self.failed.setdefault(f"without a token {form.action} answers {reply.status_code}", str(data)[:200])


def _address_of(rule: Rule, filled: dict[str, object]) -> str:
    address = rule.rule
    for name in rule.arguments:
        for converter in ("int:", "path:", ""):
            address = address.replace(f"<{converter}{name}>", quote(str(filled[name]), safe=""))
    return address


def _sent(form: Form, name: str, value: str) -> Sent:
    """The form as it is sent with this value in one field."""
    data: Sent = {}
    for one, kept in form.with_values(**{name: value}).fields:
        data.setdefault(one, []).append(kept)
    return data
