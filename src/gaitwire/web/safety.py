"""What guards every request: Host, Origin, and the headers that keep foreign code out."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gaitwire.formats.reading import LIMITS
from gaitwire.store.history import carry
from gaitwire.web.errors import answer_error
from gaitwire.web.headers import protect

LOCAL_HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]"})

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


def _place(origin: str) -> str:
    """Host and port of an origin; '' for what is none."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return ""


def _too_large(headers: Headers) -> bool:
    length = headers.get("content-length", "0")
    sane = length.isdecimal() and len(length) < 12
    return not sane or int(length) > MAX_BODY or "transfer-encoding" in headers


class Guard:
    """Refuses requests for other hosts, writes and sockets that come from other pages, and huge bodies."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = _refusal(scope, headers)
        if refusal and scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": refusal})
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                protect(MutableHeaders(scope=message))
            await send(message)

        carry(headers.get("gw-gesture", "")[:80])
        app = self.app
        if refusal:
            app = answer_error(Request(scope), 403, refusal, "Open the program at the address that it printed.")
        elif scope["type"] == "http" and _too_large(headers):
            message = f"This file is larger than {LIMITS.packed // 10**6} MB."
            app = answer_error(Request(scope), 413, message, "Make its pictures smaller.")
        await app(scope, receive, send_with_headers)


def _refusal(scope: Scope, headers: Headers) -> str:
    """Why a request is not let in, or ''."""
    host = headers.get("host", "")
    if _host(host) not in LOCAL_HOSTS:
        return "This program answers only to its own machine's names."
    if scope["type"] == "http" and scope["method"] in _READS:
        return ""
    if _place(headers.get("origin", "")) != host:
        return "This came from another page, so nothing was changed."
    return ""
