"""Takes the pictures in docs/screenshots from a fresh demo household: `python docs/take_screenshots.py [NAME ...]`."""

import sys
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import sync_playwright
from waitress.server import create_server

from bolsa.demo.run import point_connections, prepare_demo, start_bank
from bolsa.web.app import create_app

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
VIEWS = {
    "today": "/",
    "books": "/books",
    "register": "/books/1",
    "bring-in": "/books/bring-in",
    "sort": "/sort",
    "check": "/books/1/check",
    "budget": "/budget",
    "budget-opened": "/budget?open=6",
    "worth": "/worth",
    "house": "/house",
}


def main(names: list[str]) -> None:
    FOLDER.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        path = Path(folder) / "alkyon.bolsa"
        prepare_demo(path)
        bank, bank_url = start_bank(Path(folder))
        point_connections(path, bank_url)
        server = create_server(create_app(path, bank_url=bank_url), host="127.0.0.1", port=0)
        threading.Thread(target=server.run, daemon=True).start()
        browser = playwright.chromium.launch(**CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for name, address in VIEWS.items():
            if not names or name in names:
                page.goto(f"http://127.0.0.1:{server.effective_port}{address}")
                page.wait_for_load_state("networkidle")
                page.screenshot(path=FOLDER / f"{name}.png")
        browser.close()
        bank.terminate()


if __name__ == "__main__":
    main(sys.argv[1:])
