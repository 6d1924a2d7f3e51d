"""Headers that every answer carries, whatever it is, so that foreign code stays out."""

from __future__ import annotations

from starlette.datastructures import MutableHeaders

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


def protect(headers: MutableHeaders) -> None:
    """Add them where the answer has none of its own."""
    for name, value in _HEADERS.items():
        headers.setdefault(name, value)
