"""What every stand-in's service is made of: a quiet handler on loopback, started by itself or by the demo."""

import argparse
import os
import sys
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer


class StandInHandler(BaseHTTPRequestHandler):
    """Answers with whole texts, and says nothing beside the application."""

    @property
    def is_asked_by_own_page(self) -> bool:
        """Whether a change was asked for from the stand-in's own page, or by no page at all."""
        return self.headers.get("Origin") in (None, f"http://{self.headers.get('Host')}")

    def _reply(self, text: str, kind: str = "text/html", status: int = 200) -> None:
        body = text.encode()
        self.send_response(status)
        self.send_header("Content-Type", f"{kind}; charset=utf-8")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *words: object) -> None:
        """Nothing: the stand-in keeps quiet."""


def server_of(handler: type[StandInHandler], port: int, **state: object) -> ThreadingHTTPServer:
    """A server on loopback, not yet running, whose handlers share the state; port 0 takes a free one."""
    return ThreadingHTTPServer(("127.0.0.1", port), type(handler.__name__, (handler,), state))


def parser_of(name: str, description: str) -> argparse.ArgumentParser:
    """The options every stand-in takes."""
    parser = argparse.ArgumentParser(prog=name, description=description)
    parser.add_argument("--port", type=int, default=0, help="the port; 0 takes a free one")
    parser.add_argument("--until-stdin-closes", action="store_true", help="end with the program that started it")
    return parser


def run(server: ThreadingHTTPServer, *, until_stdin_closes: bool) -> None:
    """Prints the address and serves until stopped."""
    if until_stdin_closes:
        threading.Thread(target=lambda: (sys.stdin.read(), os._exit(0)), daemon=True).start()
    print(f"http://127.0.0.1:{server.server_address[1]}", flush=True)
    server.serve_forever()
