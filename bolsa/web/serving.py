"""Serving the pages by waitress, on loopback only until there is a sign-in."""

import ipaddress
import logging
from pathlib import Path

from flask import Flask
from waitress.server import BaseWSGIServer, create_server

from bolsa.errors import BolsaError, InvalidInput, NotAllowed
from bolsa.settings import setting
from bolsa.web.app import create_app

THREADS = 8  # five that wait for another program to let go of the file leave three to serve pages
MOST_CONNECTIONS = 1_000  # half-open ones cost nothing but their place
IDLE_SECONDS = 30  # after which a connection on which nothing comes is closed
LAST_PORT = 65535


def require_loopback(host: str) -> None:
    """Nothing, if the host is on loopback. Raises: NotAllowed."""
    try:
        local = host == "localhost" or ipaddress.ip_address(host).is_loopback
    except ValueError:
        local = False
    if not local:
        raise NotAllowed(f"{host} is not a loopback address. Bolsa has no sign-in yet, so it serves this machine alone.")


def parse_port(text: str) -> int:
    """A port's number. Raises: InvalidInput."""
    if not (text.isascii() and text.isdecimal() and len(text) <= 5 and int(text) <= LAST_PORT):
        raise InvalidInput(f"“{text[:20]}” is no port. A port is a number from 0 to {LAST_PORT}.")
    return int(text)


def make_server(app: Flask, host: str, port: int) -> BaseWSGIServer:
    """The server, not running yet. A body larger than the application takes is refused as soon as its length is known, and
    never written down."""
    return create_server(
        app, host=host, port=port, threads=THREADS, ident=None, connection_limit=MOST_CONNECTIONS, asyncore_use_poll=True,
        channel_timeout=IDLE_SECONDS, max_request_body_size=app.config["MAX_CONTENT_LENGTH"],
    )  # fmt: skip


def serve(
    data_path: Path, *, host: str = "127.0.0.1", port: int | None = None, bank_url: str = "", market_url: str = "",
    mail_folder: Path | None = None,
) -> None:  # fmt: skip
    """Serves until stopped; prints the address first. Raises: NotAllowed, BolsaError if the port is taken."""
    require_loopback(host)
    # A page asks for its styles, scripts and fonts at once; that a request waits a moment for a thread is no news.
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    mail_folder = mail_folder or (Path(setting("mail")).expanduser() if setting("mail") else None)
    bank_url, market_url = bank_url or setting("bank"), market_url or setting("market")
    app = create_app(data_path, bank_url=bank_url, market_url=market_url, mail_folder=mail_folder, address=setting("address"))
    wanted = parse_port(setting("port") if port is None else str(port))
    try:
        server = make_server(app, host, wanted)
    except OSError as error:
        raise BolsaError(f"Port {wanted} is taken. Give another with --port, or --port 0 for a free one.") from error
    app.config["ADDRESS"] = app.config["ADDRESS"] or f"http://{host}:{server.effective_port}"
    print(f"Bolsa is at http://{host}:{server.effective_port}/ (stop it with Ctrl+C)", flush=True)
    try:
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        server.close()
