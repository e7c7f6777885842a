"""Who may ask: hosts that are trusted, pages of our own, and the addresses one is sent back to.

A browser lets any site send requests to this machine, and any name can be made to point at it. So a request must name a host
that is trusted (loopback names, and that of the address configured), and what another site's page asks for is refused but for a
visit to a page: a link, an institution that sends the person back.
"""

from urllib.parse import urlsplit

from flask import Flask, current_app, request, url_for

from bolsa.errors import InvalidInput, NotAllowed

LOOPBACK_NAMES = ("localhost", "127.0.0.1")  # werkzeug compares no names of IPv6; nothing is served on ::1
LONGEST_ADDRESS = 2_000  # characters; beyond it headers are refused on the way, and the person sees a blank page


def register(app: Flask, address: str) -> None:
    """Lets the loopback names in, and the host of the address the household is reached at from outside, where there is one."""
    outside = check_address(address)
    name = urlsplit(outside).hostname
    app.config["TRUSTED_HOSTS"] = [*LOOPBACK_NAMES, *([name] if name else [])]
    app.config["ADDRESS"] = outside
    is_secure = outside.startswith("https:")
    app.config["SESSION_COOKIE_NAME"] = "__Host-bolsa" if is_secure else "bolsa"
    app.config["SESSION_COOKIE_SECURE"] = is_secure
    app.before_request(require_own_page)
    app.before_request(require_text)


def check_address(address: str) -> str:
    """The address without its end. Raises: InvalidInput unless it is one of http or https, with a host and nothing after it."""
    parts = urlsplit(address)
    if address and (parts.scheme not in ("http", "https") or not parts.hostname or parts.path.strip("/") or parts.query):
        raise InvalidInput(f"“{address}” is no address of a household. Write it like “https://money.example”.")
    return address.rstrip("/")


def require_own_page() -> None:
    """Nothing, unless another site's page asks. Raises: NotAllowed.

    Sec-Fetch-Site and Origin are set by the browser, and no page can change them; a program that is none sends neither.
    """
    site, origin = request.headers.get("Sec-Fetch-Site", "none"), request.headers.get("Origin")
    is_visit = request.method in ("GET", "HEAD") and request.headers.get("Sec-Fetch-Mode") == "navigate"
    is_framed = request.headers.get("Sec-Fetch-Dest", "document") != "document"
    if site not in ("same-origin", "none") and (not is_visit or is_framed):
        raise NotAllowed("Another site’s page asked for this. Nothing was changed.")
    if request.method not in ("GET", "HEAD") and origin is not None and urlsplit(origin).netloc != request.host:
        raise NotAllowed("This was sent from another site’s page. Nothing was changed.")


def require_text() -> None:
    """Nothing, unless a field holds a zero byte, at which a database ends the text. Raises: InvalidInput."""
    for values in (request.args, request.form):
        for name, value in values.items(multi=True):
            if "\x00" in value or "\x00" in name:
                raise InvalidInput("A field holds a zero byte, which is no text. Nothing was changed.")


def outside_address(endpoint: str) -> str:
    """The whole address of a page, for an institution to send the person back to: as it is configured or served, never as the
    request says."""
    return current_app.config["ADDRESS"] + url_for(endpoint, month=None)


def page_before(otherwise: str) -> str:
    """The page of ours the request came from, as path and query; another site's, or a long one, is passed over."""
    parts = urlsplit(request.referrer or "")
    path = f"{parts.path}?{parts.query}" if parts.query else parts.path
    is_ours = parts.netloc == request.host and path.startswith("/") and not path.startswith(("//", "/\\"))
    return path if is_ours and len(path) <= LONGEST_ADDRESS else otherwise
