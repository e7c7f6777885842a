"""A person at the pages: a server with a household of its own, a Chromium, and verbs for what the person does."""

import contextlib
import functools
import logging
import re
import tempfile
import threading
import unittest
from collections.abc import Callable
from multiprocessing.util import Finalize
from pathlib import Path

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Frame, Locator, Page, Request, ViewportSize, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from bolsa.demo.letters import LETTERS
from bolsa.demo.run import point_connections, start_bank, start_market
from bolsa.services.house import files
from bolsa.services.ledger import listing
from bolsa.stand_ins.mail.state import write_letters
from bolsa.web.serving import make_server
from tests.demo_file import demo_file
from tests.web.served import borrow, give_back

logging.getLogger("waitress.queue").setLevel(logging.ERROR)
CHROMIUM = {
    "executable_path": "/usr/bin/chromium",
    "args": ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
}
PATIENCE_MS = 20_000  # how long a verb waits before it fails; a busy machine takes its time
A_MOMENT_MS = 60
expect.set_options(timeout=PATIENCE_MS)
PICTURES = Path(__file__).parent / "failed"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 380, "height": 760}


@functools.cache
def the_browser() -> Browser:
    """One Chromium a process."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(**CHROMIUM)
    # A process of a pool ends without atexit.
    Finalize(None, lambda: (browser.close(), playwright.stop()), exitpriority=10)
    return browser


_IDLE: list[Page] = []


def borrow_page(viewport: ViewportSize) -> Page:
    """A page from those not in use: making one costs more than three loads. What the story before kept belongs to another
    address, its cookies are gone."""
    page = _IDLE.pop() if _IDLE else the_browser().new_context(viewport=viewport, locale="en-IE").new_page()
    page.set_viewport_size(viewport)
    return page


def give_back_page(page: Page) -> None:
    """Lets another story have the page."""
    page.context.clear_cookies()
    page.mouse.move(0, 0)
    page.emulate_media(color_scheme="light")
    page.unroute_all()
    _IDLE.append(page)


class Visitor:
    """Someone at the pages, with `page` for what no verb says."""

    def __init__(self, page: Page, address: str):
        self.page, self.address = page, address
        page.set_default_timeout(PATIENCE_MS)
        self.has_arrived = False  # until then it is the page of the story before
        self.problems: list[str] = []
        self.under_way: set[Request] = set()
        self.listeners: dict[str, Callable[..., object]] = {
            "framenavigated": self._arrives, "request": self._begins, "requestfinished": self._ends, "requestfailed": self._ends,
            "pageerror": lambda error: self._notes(str(error)),
            "console": lambda said: said.type == "error" and self._notes(said.text),
        }  # fmt: skip
        for event, hears in self.listeners.items():
            page.on(event, hears)

    def leaves(self) -> None:
        for event, hears in self.listeners.items():
            self.page.remove_listener(event, hears)

    def _arrives(self, frame: Frame) -> None:
        self.has_arrived = self.has_arrived or frame.url.startswith(self.address)

    def _begins(self, request: Request) -> None:
        self.under_way.add(request)

    def _ends(self, request: Request) -> None:
        self.under_way.discard(request)

    def _notes(self, words: str) -> None:
        """Keeps what the console complains of; that htmx gave up a request for a newer one is no complaint."""
        if self.has_arrived and not words.startswith(("htmx:sendAbort", "htmx:afterRequest")):
            self.problems.append(words)

    def goes_to(self, path: str) -> None:
        self.page.goto(self.address + path)

    def presses(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def presses_and_waits(self, key: str) -> None:
        """Presses a key that leads to another page or swaps this one, and waits for the answer."""
        with self.page.expect_response(lambda reply: reply.request.method == "GET" and "/static/" not in reply.url):
            self.page.keyboard.press(key)
        self.settles()

    def goes_by_keys(self, letter: str) -> None:
        self.presses("Escape", "g")
        self.presses_and_waits(letter)

    def clicks(self, words: str, role: str = "button", within: str = "body") -> None:
        self.page.locator(within).get_by_role(role, name=words).first.click()
        self.settles()

    def settles(self) -> None:
        """Waits until nothing is under way any more: no request, no swap, no long work that is watched."""
        busy = self.page.locator(".htmx-request, .htmx-swapping, [hx-get^='/progress/']")
        for _ in range(PATIENCE_MS // A_MOMENT_MS):
            self.page.wait_for_timeout(A_MOMENT_MS)  # what a key or a click asks for has begun by then
            if not self.under_way and not busy.count():
                break
        self.page.wait_for_load_state("load")  # work that is done leads to a page, whose keys are heard once it has loaded
        expect(busy).to_have_count(0)

    def fills(self, label: str, text: str) -> None:
        self.page.get_by_label(label, exact=True).first.fill(text)

    def chooses(self, label: str, option: str) -> None:
        """Chooses by the picker's letters where there is one, else from a plain select."""
        self.picks(self.page.get_by_label(label).first, option)

    def picks(self, field: Locator, option: str) -> None:
        """Chooses in a field that is at hand."""
        if field.get_attribute("role") != "combobox":
            with contextlib.suppress(PlaywrightError):  # the picker took its place meanwhile
                field.select_option(label=option)
                return
        field.fill(option)
        field.press("Enter")

    @property
    def headline(self) -> str:
        return " ".join(self.page.locator("h1").first.inner_text().split())

    @property
    def text(self) -> str:
        return " ".join(self.page.locator("#work").inner_text().split())

    def amount(self, pattern: str) -> str:
        """The first amount in the page's words that stands where the pattern's group is."""
        return re.search(pattern, self.text)[1]

    def opens_slip(self, figure: str, within: str = "#work") -> str:
        """Opens a figure's working and gives its words."""
        self.page.locator(within).get_by_role("link", name=figure, exact=True).first.click()
        self.page.wait_for_selector("#slip .slip")
        return " ".join(self.page.locator("#slip").inner_text().split())


class Story(unittest.TestCase):
    """A test with a visitor. `demo` says whether the household is the one of Port Halden, else the file is empty."""

    demo = True
    bank = False
    market = False
    mail = False
    market_url = ""
    viewport = WIDE

    def setUp(self):
        stack = contextlib.ExitStack()
        self.addCleanup(stack.close)
        self.folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        self.path = self.folder / "household.bolsa"
        bank_url = ""
        if self.demo:
            self.path.write_bytes(demo_file())
        if self.bank:
            process, bank_url = start_bank(self.folder)
            self.bank_url = bank_url
            stack.callback(process.stdout.close)
            stack.callback(process.stdin.close)
            stack.callback(process.wait)
            stack.callback(process.terminate)
            point_connections(self.path, bank_url)
        if self.market:
            process, self.market_url = start_market()
            stack.callback(process.stdout.close)
            stack.callback(process.stdin.close)
            stack.callback(process.wait)
            stack.callback(process.terminate)
        if self.mail:
            write_letters(self.folder / "mail", LETTERS)
        mail_folder = self.folder / "mail" if self.mail else None
        app = borrow(self.path, bank_url=bank_url, market_url=self.market_url, mail_folder=mail_folder)
        server = make_server(app, "127.0.0.1", 0)
        app.config["ADDRESS"] = f"http://127.0.0.1:{server.effective_port}"
        serving = threading.Thread(target=server.run, daemon=True)
        serving.start()
        stack.callback(give_back, app)
        stack.callback(server.close)
        page = borrow_page(self.viewport)
        stack.callback(give_back_page, page)
        self.visitor = Visitor(page, f"http://127.0.0.1:{server.effective_port}")
        stack.callback(self.visitor.leaves)

    def tearDown(self):
        self.leaves_a_picture_if_it_failed()
        with contextlib.closing(files.make_file(self.path)) as db:
            self.assertEqual(listing.check(db), [], "the ledger's promises hold after the story")
        self.assertEqual(self.visitor.problems, [], "the browser has nothing to complain about")

    def leaves_a_picture_if_it_failed(self) -> None:
        """A failed story leaves a picture of where it stood, and says where."""
        result = self._outcome.result
        if any(test is self for test, _ in (*result.failures, *result.errors)):
            PICTURES.mkdir(exist_ok=True)
            path = PICTURES / f"{self.id().rpartition('.')[2]}.png"
            with contextlib.suppress(PlaywrightError):
                self.visitor.page.screenshot(path=path)
                print(f"The story stood here when it failed: {path}")

    def assert_accessible(self, *, only_contrast: bool = False, without_contrast: bool = False) -> None:
        """The page has nothing the accessibility engine objects to; a theme changes contrast alone."""
        asked = {"type": "rule", "values": ["color-contrast"]} if only_contrast else ["wcag2a", "wcag2aa", "best-practice"]
        options = {
            "runOnly": asked,
            "resultTypes": ["violations"],
            "rules": {"color-contrast": {"enabled": not without_contrast}},
        }
        found = Axe().run(self.visitor.page, options=options).response["violations"]
        words = [f"{v['id']}: {v['help']} {[n['html'][:160] for n in v['nodes'][:3]]}" for v in found]
        self.assertEqual(words, [])
