"""What guards every request: Host, Origin, and the headers that keep foreign code out."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gaitwire.formats.reading import LIMITS
from gaitwire.web.errors import answer_error

LOCAL_HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]"})

POLICY = "; ".join(
    [
        "default-src 'none'",
        "script-src 'self'",
        "worker-src 'self'",
        "style-src 'self'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    ]
)

_HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}

_READS = ("GET", "HEAD", "OPTIONS")

MAX_BODY = LIMITS.packed + 2_000_000
"""Bytes of a request; what is larger is refused before it is read."""


def _host(value: str) -> str:
    """Host without its port, lower case; '' for what is none."""
    try:
        parts = urlsplit(f"//{value}")
        host = parts.hostname or ""
    except ValueError:
        return ""
    return f"[{host}]" if ":" in host else host


def _too_large(headers: Headers) -> bool:
    length = headers.get("content-length", "0")
    return not length.isdecimal() or int(length) > MAX_BODY or "transfer-encoding" in headers


class Guard:
    """Refuses requests for other hosts, writes and sockets that come from other pages, and huge bodies."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if refusal := self._refusal(scope, headers):
            if scope["type"] == "websocket":
                await receive()
                await send({"type": "websocket.close", "code": 1008, "reason": refusal})
                return
            await PlainTextResponse(f"{refusal}\n", 403)(scope, receive, send)
            return
        if scope["type"] == "http" and _too_large(headers):
            message = f"This file is larger than {LIMITS.packed // 10**6} MB."
            answer = answer_error(Request(scope), 413, message, "Make its pictures smaller.")
            await answer(scope, receive, send)
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    out.setdefault(name, value)
            await send(message)

        await self.app(scope, receive, send_with_headers)

    @staticmethod
    def _refusal(scope: Scope, headers: Headers) -> str:
        host = headers.get("host", "")
        if _host(host) not in LOCAL_HOSTS:
            return "This program answers only to its own machine's names."
        if scope["type"] == "http" and scope["method"] in _READS:
            return ""
        origin = headers.get("origin")
        if origin is None or urlsplit(origin).netloc != host:
            return "This came from another page, so nothing was changed."
        return ""
