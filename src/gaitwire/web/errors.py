"""Errors as pages and as fragments: what is wrong, and what to do about it."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic import ValidationError
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, JSONResponse, Response

from gaitwire.core.errors import (
    AlreadyDoneError,
    ConflictError,
    GaitWireError,
    HistoryError,
    InvalidInputError,
    JobError,
    LockedError,
    NotFoundError,
    TooLargeError,
    UnansweredError,
)
from gaitwire.core.explaining import explained
from gaitwire.services.session.journal import log, put_down
from gaitwire.services.session.rest_compensation import NeedsWordError
from gaitwire.store.faults import FullDiskError, StoreError
from gaitwire.web.headers import protect
from gaitwire.web.templating import render

_STATUS: tuple[tuple[type[GaitWireError], int], ...] = (
    (AlreadyDoneError, 208),
    (NotFoundError, 404),
    (ConflictError, 409),
    (HistoryError, 409),
    (TooLargeError, 413),
    (LockedError, 422),
    (InvalidInputError, 422),
    (JobError, 500),
    (FullDiskError, 507),
    (StoreError, 503),
)


def status_of(error: GaitWireError) -> int:
    """The HTTP status that fits an error."""
    return next((status for kind, status in _STATUS if isinstance(error, kind)), 500)


def answer_error(request: Request, status: int, message: str, hint: str, number: str = "") -> Response:
    """An error as the asker wants it: a fragment, JSON or a page. `number`: where it stands in the log."""
    headers = {"Gw-Reason": quote(message)}
    if "hx-request" in request.headers:
        # htmx swaps it into the place for remarks, whatever the request's own target was.
        headers |= {"HX-Retarget": "#remarks", "HX-Reswap": "innerHTML"}
        text = render("shared/remark.html", message=message, hint=hint, kind="error", number=number)
        return HTMLResponse(text, status, headers)
    if "application/json" in request.headers.get("accept", ""):
        return JSONResponse({"message": message, "hint": hint, "number": number}, status, headers)
    return HTMLResponse(render("shared/error.html", message=message, hint=hint, number=number), status, headers)


async def _ours(request: Request, error: Exception) -> Response:
    assert isinstance(error, GaitWireError)
    if isinstance(error, StoreError):
        log.warning("%s at %s %s", type(error).__name__, request.method, request.url.path)
    return answer_error(request, status_of(error), error.message, error.hint)


async def _needs_word(request: Request, error: Exception) -> Response:
    """A change of rest that moves pictures: what it would do, where the page asks about such things."""
    assert isinstance(error, NeedsWordError)
    if "hx-request" not in request.headers:
        return answer_error(request, _ASKS, error.message, error.hint)
    text = render("bench/ask.html", report=error.report)
    return HTMLResponse(text, _ASKS, {"HX-Retarget": "#ask", "HX-Reswap": "innerHTML"})


async def _unanswered(request: Request, error: Exception) -> Response:
    """A gesture that waits until it is said how it is meant."""
    assert isinstance(error, UnansweredError)
    if "hx-request" not in request.headers:
        return answer_error(request, _ASKS, error.message, "")
    text = render("shared/question.html", question=error)
    return HTMLResponse(text, _ASKS, {"HX-Retarget": "#ask", "HX-Reswap": "innerHTML"})


_ASKS = 428
"""Precondition required: the same once more, with a word on it."""


async def _invalid(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    field = " ".join(str(p) for p in first["loc"][1:]) or "form"
    return answer_error(request, 422, f"The {field.replace('_', ' ')} cannot be used.", f"{first['msg']}.")


_HTTP = {
    404: ("There is nothing here.", "Go back to the Shelf."),
    400: ("This could not be read.", "Reload the page and try again."),
    405: ("That cannot be done here.", "Go back and try another way."),
    413: ("That is too large.", "Choose a smaller file."),
}


async def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    message, hint = _HTTP.get(error.status_code, (str(error.detail), "Go back and try again."))
    return answer_error(request, error.status_code, message, hint)


async def _out_of_bounds(request: Request, error: Exception) -> Response:
    """A value that a model of the core does not take, wherever on the way that came out."""
    assert isinstance(error, ValidationError)
    message, hint = explained(error)
    return answer_error(request, 422, message, hint)


async def _unforeseen(request: Request, error: Exception) -> Response:
    """A mistake of this program. Its answer goes out around the guard, which adds the headers of all others."""
    number = put_down(error, f"{request.method} {request.url.path}")
    hint = "What you did was not stored. Try it another way; if it stays so, send a report with its number."
    answer = answer_error(request, 500, "Something went wrong in the program.", hint, number)
    protect(answer.headers)
    return answer


def install(app: FastAPI) -> None:
    """Register the handlers."""
    app.add_exception_handler(GaitWireError, _ours)
    app.add_exception_handler(NeedsWordError, _needs_word)
    app.add_exception_handler(UnansweredError, _unanswered)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(ValidationError, _out_of_bounds)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(Exception, _unforeseen)
