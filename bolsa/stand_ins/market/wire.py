"""How the market stand-in speaks: GET /rates.csv, /indexes.csv, /index.csv, /securities.csv, /prices.csv and /events.csv,
each CSV (RFC 4180); its own page switches it off."""

import csv
import io
from collections.abc import Iterable
from datetime import date
from http.server import ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

from bolsa.stand_ins.market.state import INDEXES, Market
from bolsa.stand_ins.serving import StandInHandler, server_of

LAST_DAY = date(2030, 12, 31)
_PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Market stand-in</title>
<link rel="icon" href="data:,"></head><body><main><h1>Market stand-in</h1><p role="status">It is {state}.</p>
<form method="post" action="/switch"><button>{words}</button></form></main></body></html>"""


def serve(market: Market, port: int) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 takes a free one."""
    return server_of(_Handler, port, market=market)


class _Handler(StandInHandler):
    market: Market

    def do_GET(self) -> None:
        place = urlsplit(self.path)
        asked = {name: values[0] for name, values in parse_qs(place.query).items()}
        if place.path == "/":
            return self._page()
        if self.market.is_down:
            return self._reply("The market is closed for repairs.", "text/plain", 503)
        try:
            return self._answer(place.path, asked)
        except (KeyError, ValueError):
            return self._reply("This request is not understood.", "text/plain", 400)

    def _answer(self, path: str, asked: dict[str, str]) -> None:
        if path == "/rates.csv":
            days = (date.fromisoformat(asked["from"]), date.fromisoformat(asked["to"]))
            return self._csv(("day", "rate"), self.market.rates(asked["base"], asked["currency"], *days))
        if path == "/indexes.csv":
            return self._csv(("name",), ((name,) for name in INDEXES))
        if path == "/index.csv":
            return self._csv(("day", "value"), self.market.index(asked["name"], LAST_DAY))
        if path == "/securities.csv":
            head = ("name", "isin", "symbol", "market", "currency", "kind")
            return self._csv(head, (one.words for one in self.market.find_listed(asked.get("q", ""))))
        if path == "/prices.csv":
            days = (date.fromisoformat(asked["from"]), date.fromisoformat(asked["to"]))
            return self._csv(("day", "price"), self.market.prices(asked["symbol"], asked["market"], *days))
        if path == "/events.csv":
            head = ("kind", "day", "pay_day", "amount", "new", "old")
            return self._csv(head, self.market.events(asked["symbol"], asked["market"], LAST_DAY))
        return self._reply("There is no such page.", "text/plain", 404)

    def do_POST(self) -> None:
        if self.path != "/switch" or not self.is_asked_by_own_page:
            return self._reply("There is no such page.", "text/plain", 404)
        self.market.is_down = not self.market.is_down
        return self._page()

    def _page(self) -> None:
        state, words = ("down", "Let it answer again") if self.market.is_down else ("answering", "Switch it off")
        self._reply(_PAGE.format(state=state, words=words), "text/html")

    def _csv(self, head: Iterable[str], rows: Iterable[Iterable[object]]) -> None:
        out = io.StringIO(newline="")
        writer = csv.writer(out)
        writer.writerow(head)
        writer.writerows(rows)
        self._reply(out.getvalue(), "text/csv")
