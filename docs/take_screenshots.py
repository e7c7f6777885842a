"""Takes the pictures in docs/screenshots from a fresh demo household: `python docs/take_screenshots.py [NAME ...]`."""

import sys
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bolsa.demo.run import point_connections, prepare_demo, start_bank
from bolsa.web.app import create_app
from bolsa.web.serving import make_server

FOLDER = Path(__file__).parent / "screenshots"
CHROMIUM = {
    "executable_path": "/usr/bin/chromium",
    "args": [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ],
}
WIDE = {"width": 1280, "height": 800}
VIEWS = {
    "today": "/",
    "books": "/books",
    "register": "/books/1",
    "sort": "/sort",
    "rule": "/sort/rules?open=2",
    "budget": "/budget",
    "year": "/budget/year",
    "due": "/due",
    "payslip": "/pay",
    "answers": "/answers/grew?only=group.2&by=category",
    "holdings": "/holdings",
    "mix": "/holdings/mix",
    "debts": "/debts?more=200",
    "long-view": "/ahead",
    "worth": "/worth",
    "house": "/house",
}


def open_slip_in_the_dark(page: Page, address: str) -> None:
    page.emulate_media(color_scheme="dark")
    page.goto(address + "/budget")
    page.locator("#budget-table").get_by_role("link", name="over 84.69").or_(page.locator(".attn a.fig")).first.click()
    page.wait_for_selector("#slip .slip")


def look_narrow(page: Page, address: str) -> None:
    page.set_viewport_size({"width": 380, "height": 800})
    page.goto(address + "/payees/2")


def begin_check(page: Page, address: str) -> None:
    page.goto(address + "/books/1/check")
    page.get_by_role("button", name="Begin the check").click()


# Views that need a few steps first; they come last, because they change the household.
STEPS = {
    "budget-dark": open_slip_in_the_dark,
    "payee-narrow": look_narrow,
    "check": begin_check,
}


def main(names: list[str]) -> None:
    FOLDER.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        path = Path(folder) / "alkyon.bolsa"
        prepare_demo(path)
        bank, bank_url = start_bank(Path(folder))
        point_connections(path, bank_url)
        server = make_server(create_app(path, bank_url=bank_url), "127.0.0.1", 0)
        threading.Thread(target=server.run, daemon=True).start()
        browser = playwright.chromium.launch(**CHROMIUM)
        page = browser.new_page(viewport=WIDE, locale="en-IE")
        base = f"http://127.0.0.1:{server.effective_port}"
        views = {name: lambda page, base, path=path: page.goto(base + path) for name, path in VIEWS.items()} | STEPS
        for name, show in views.items():
            if not names or name in names:
                page.emulate_media(color_scheme="light")
                page.set_viewport_size(WIDE)
                show(page, base)
                page.wait_for_load_state("networkidle")
                page.screenshot(path=FOLDER / f"{name}.png")
        browser.close()
        bank.terminate()


if __name__ == "__main__":
    main(sys.argv[1:])
