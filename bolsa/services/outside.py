"""The narrow door to outside services: one request, one reply, by a callable that a stand-in or a test may take the place of."""

import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass

from bolsa.errors import ServiceUnavailable

TIMEOUT_SECONDS = 15
MOST_REPLY_BYTES = 16 * 1024 * 1024


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


def send_over_http(request: Request) -> bytes:
    """The reply's body. Raises: ServiceUnavailable with what to do."""
    headers = {"Content-Type": request.content_type} if request.content_type else {}
    if request.token:
        headers["Authorization"] = f"Bearer {request.token}"
    asked = urllib.request.Request(request.url, data=request.body, headers=headers)  # noqa: S310 (addresses the household typed)
    try:
        with urllib.request.urlopen(asked, timeout=TIMEOUT_SECONDS) as reply:  # noqa: S310
            return reply.read(MOST_REPLY_BYTES)
    except urllib.error.HTTPError as error:
        if error.code in (401, 403):
            raise ConsentEnded("The consent has ended. Renew it to go on; nothing that is here is lost.") from error
        raise ServiceUnavailable(f"The institution answered with an error ({error.code}). Try again later.") from error
    except (OSError, ValueError) as error:
        raise ServiceUnavailable("The institution does not answer. Nothing was changed; try again later.") from error
