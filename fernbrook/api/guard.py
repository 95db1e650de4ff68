"""Keeps other sites and other machines out: the Host and Origin of each request, and what a page may load."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from fernbrook.api.problems import problem

LOCAL_HOSTS = frozenset({"127.0.0.1", "localhost", "::1"})

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


class Guard:
    """Refuses requests that do not come from this machine's own page, and adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if not _is_local(f"//{headers.get('host', '')}"):
            await problem(421, "Wrong host", "This server answers to localhost only.")(scope, receive, send)
            return
        origin = headers.get("origin")
        if origin is not None and not _is_local(origin):
            await problem(403, "Foreign page", "Requests from other sites are refused.")(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
                if scope["path"] == "/api/docs":  # its one line of script stands in the page itself
                    out["content-security-policy"] = POLICY.replace(
                        "script-src 'self'", "script-src 'self' 'unsafe-inline'"
                    )
            await send(message)

        await self._app(scope, receive, with_headers)


def _is_local(url: str) -> bool:
    try:
        return urlsplit(url).hostname in LOCAL_HOSTS
    except ValueError:
        return False
