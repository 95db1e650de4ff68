"""Keeps foreign pages out, adds the security headers to every answer, and turns what nobody foresaw into a problem.

That a request names this machine as its host is Starlette's ``TrustedHostMiddleware`` to see to.
"""

from __future__ import annotations

import logging

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from fernbrook.api.frame.problems import problem, unforeseen
from fernbrook.service.services import Services

LOCAL_HOSTS = ["127.0.0.1", "localhost"]

POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "worker-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # the component library writes its styles into the page
        "img-src 'self' data:",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
}

log = logging.getLogger(__name__)


class Guard:
    """The outermost layer. ``origins`` are pages that may ask besides this server's own."""

    def __init__(self, app: ASGIApp, services: Services, origins: frozenset[str] = frozenset()) -> None:
        self._app = app
        self._services = services
        self._origins = origins

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        begun = False

        async def with_headers(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
                if scope["path"] == "/api/docs":  # its one line of script stands in the page itself
                    out["content-security-policy"] = POLICY.replace(
                        "script-src 'self'", "script-src 'self' 'unsafe-inline'"
                    )
            await send(message)

        if not self._is_own(scope, Headers(scope=scope)):
            await problem(403, "Foreign page", "Requests from other sites are refused.")(scope, receive, with_headers)
            return
        try:
            await self._app(scope, receive, with_headers)
        except Exception as error:
            log.exception("%s %s", scope["method"], scope["path"])
            if begun:  # too late to say anything: the connection breaks off
                raise
            await unforeseen(error, self._services)(scope, receive, with_headers)

    def _is_own(self, scope: Scope, headers: Headers) -> bool:
        """Whether a request comes from this server's page, or from no page at all.

        Not every request names its origin: a picture, a form without content. Browsers say of each where it comes from
        (W3C, Fetch Metadata Request Headers). A link to the page itself may stand anywhere.
        """
        origin = headers.get("origin")
        if origin is not None:
            return origin == f"http://{headers.get('host')}" or origin in self._origins
        if headers.get("sec-fetch-site", "none") in ("same-origin", "none"):
            return True
        is_link = scope["method"] == "GET" and headers.get("sec-fetch-mode") == "navigate"
        return is_link and headers.get("sec-fetch-dest") == "document" and not scope["path"].startswith("/api")
