"""`bolsa bench --load`: thirty readers and five writers at once, against a server in a process of its own."""

import http.client
import random
import re
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing
from pathlib import Path
from urllib.parse import urlencode

from bolsa.core.known import known
from bolsa.demo.run import prepare_demo
from bolsa.services.house import files
from bolsa.services.ledger import listing

READERS, WRITERS, SECONDS = 30, 5, 20
PAUSE_SECONDS = 0.2  # of a writer between two changes
PAGES = ("/", "/books", "/books/1", "/sort", "/budget", "/due", "/worth", "/answers", "/holdings", "/house")


class _Visitors:
    """Who asks at once, and how long each answer took, in seconds, by whether it was a page or a change."""

    def __init__(self, port: int):
        self.port = port
        self.took: dict[str, list[float]] = {"GET": [], "POST": []}
        self.refused = 0
        _, cookie, page = self._ask("GET", "/books/1", "", {})
        self.cookie = cookie.split(";")[0]
        self.token = known(re.search(r'csrf_token" value="([^"]+)"', page))[1]

    def _ask(self, method: str, address: str, cookie: str, fields: dict[str, str]) -> tuple[int, str, str]:
        headers = {"Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded"}
        with closing(http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)) as connection:
            connection.request(method, address, urlencode(fields) or None, headers)
            reply = connection.getresponse()
            return reply.status, reply.headers.get("Set-Cookie", ""), reply.read().decode("utf-8", "replace")

    def come(self, until: float, *, writing: bool) -> None:
        """Asks until the time is up."""
        while time.monotonic() < until:
            began = time.monotonic()
            if writing:
                fields = {"csrf_token": self.token, "quick": "mill 2.20"}
                status = self._ask("POST", "/books/4/quick", self.cookie, fields)[0]
            else:
                status = self._ask("GET", random.choice(PAGES), self.cookie, {})[0]  # noqa: S311 (no secret)
            self.took["POST" if writing else "GET"].append(time.monotonic() - began)
            self.refused += status not in (200, 303)
            if writing:
                time.sleep(PAUSE_SECONDS)


def run() -> int:
    """Measures, prints, and checks the file; 1 if an answer was none, or a promise is broken."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.bolsa"
        prepare_demo(path)
        command = [sys.executable, "-m", "bolsa", "serve", "--data", str(path), "--port", "0"]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
            try:
                port = int(known(re.search(r":(\d+)/", known(server.stdout).readline()))[1])
                visitors = _Visitors(port)
                alone = _visit(visitors, 1, 0, 3)
                together = _visit(visitors, READERS, WRITERS, SECONDS)
            finally:
                server.terminate()
        print(f"{alone:.1f} pages a second for one reader alone; {together:.1f} for {READERS} with {WRITERS} writers beside.")
        for method, words in (("GET", "a page"), ("POST", "a change")):
            took = sorted(visitors.took[method])
            print(f"{words}: half within {took[len(took) // 2]:.2f} s, 95 of 100 within {took[len(took) * 95 // 100]:.2f} s")
        with closing(files.make_file(path)) as db:
            breaches = listing.check(db)
    print(f"{visitors.refused} refused; {'everything holds' if not breaches else breaches[0].row}.")
    return int(bool(breaches or visitors.refused))


def _visit(visitors: _Visitors, readers: int, writers: int, seconds: float) -> float:
    """So many at once for so long; pages a second."""
    visitors.took = {"GET": [], "POST": []}
    until = time.monotonic() + seconds
    coming = [
        threading.Thread(target=visitors.come, args=(until,), kwargs={"writing": i < writers}) for i in range(readers + writers)
    ]
    for one in coming:
        one.start()
    for one in coming:
        one.join()
    return len(visitors.took["GET"]) / seconds
