"""The narrow door to outside services: one request, one reply, by a callable that a stand-in or a test may take the place of.

Only https leaves this machine, or http on loopback. A reply that leads elsewhere is not followed: the token would go with it.
All of it together has a deadline, however slowly the bytes come, and a size.
"""

import contextlib
import http.client
import ipaddress
import json
import socket
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from bolsa.errors import InvalidInput, ServiceUnavailable

DEADLINE_SECONDS = 30
MOST_REPLY_BYTES = 16 * 1024 * 1024
MOST_DEEP = 40  # nested lists and objects in a JSON reply


class ConsentEnded(ServiceUnavailable):
    """The institution no longer lets Bolsa read: the consent ran out, was taken back, or ended with a changed password."""


@dataclass(frozen=True)
class Request:
    """What is asked of an institution: GET without a body, POST with one."""

    url: str
    body: bytes | None = None
    content_type: str = ""
    token: str = ""


Send = Callable[[Request], bytes]


def is_loopback(host: str) -> bool:
    """Whether a host is this machine."""
    try:
        return host == "localhost" or ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def check_url(url: str) -> str:
    """The address as it is. Raises: InvalidInput unless it is https, or http on loopback."""
    try:
        parts = urlsplit(url)
        is_fit = parts.port is None or parts.port > 0
    except ValueError:
        parts, is_fit = urlsplit(""), False
    host = parts.hostname or ""
    is_safe = parts.scheme == "https" or (parts.scheme == "http" and is_loopback(host))
    if not (is_fit and host and is_safe and url.isascii() and url.isprintable() and " " not in url):
        raise InvalidInput(f"“{url[:80]}” is no address Bolsa asks: https, or http on this machine.")
    return url


def send_over_http(request: Request, *, deadline: float = DEADLINE_SECONDS) -> bytes:
    """The reply's body. Raises: ServiceUnavailable with what to do."""
    try:
        parts = urlsplit(check_url(request.url))
    except InvalidInput as error:
        raise ServiceUnavailable(error.sentence) from error
    kind = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
    asked = kind(parts.hostname or "", parts.port, timeout=deadline)
    overdue = threading.Event()
    watch = threading.Timer(deadline, _hang_up, [asked, overdue])
    watch.daemon = True
    watch.start()
    try:
        body = _ask(asked, request, f"{parts.path or '/'}?{parts.query}" if parts.query else parts.path or "/")
        if overdue.is_set():
            raise TimeoutError("the end of the reply is where the talk was ended")
        return body
    except (OSError, ValueError, http.client.HTTPException) as error:
        raise ServiceUnavailable("The institution does not answer. Nothing was changed; try again later.") from error
    finally:
        watch.cancel()
        asked.close()


def _hang_up(asked: http.client.HTTPConnection, overdue: threading.Event) -> None:
    """Ends a talk in the middle: each byte may come in time, and all of them never."""
    overdue.set()
    with contextlib.suppress(OSError):
        if asked.sock is not None:
            asked.sock.shutdown(socket.SHUT_RDWR)


def _ask(asked: http.client.HTTPConnection, request: Request, path: str) -> bytes:
    headers = {"Content-Type": request.content_type} if request.content_type else {}
    if request.token:
        headers["Authorization"] = f"Bearer {request.token}"
    asked.request("POST" if request.body is not None else "GET", path, request.body, headers)
    with asked.getresponse() as reply:
        if reply.status in (401, 403):
            raise ConsentEnded("The consent has ended. Renew it to go on; nothing that is here is lost.")
        if 300 <= reply.status < 400:
            raise ServiceUnavailable("The institution answered from another address, which is not followed. Connect to it anew.")
        if reply.status != 200:
            raise ServiceUnavailable(f"The institution answered with an error ({reply.status}). Try again later.")
        body = reply.read(MOST_REPLY_BYTES + 1)
        if reply.length and len(body) <= MOST_REPLY_BYTES:
            raise http.client.IncompleteRead(body, reply.length)
    if len(body) > MOST_REPLY_BYTES:
        raise ServiceUnavailable("The institution answered with more than Bolsa takes in at once. Ask for a shorter time.")
    return body


def read_json(content: bytes, problem: str) -> Any:
    """What a JSON reply holds, not deeper than it may be. Raises: ServiceUnavailable saying the problem."""
    depth = deepest = 0
    for byte in content:
        depth += (byte in b"[{") - (byte in b"]}")
        deepest = max(deepest, depth)
    try:
        if deepest > MOST_DEEP:
            raise ValueError("too deep")
        return json.loads(content, parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        raise ServiceUnavailable(problem) from error


def _no_number(_: str) -> None:
    raise ValueError("NaN and infinity are no JSON")


def text_of(found: Any, name: str, problem: str, *, most: int = 200) -> str:
    """The text of a JSON object under a name. Raises: ServiceUnavailable saying the problem if there is none, or a longer one."""
    value = found.get(name) if isinstance(found, dict) else None
    if not isinstance(value, str) or not value or len(value) > most or not value.isprintable():
        raise ServiceUnavailable(problem)
    return value
