"""What an edit's answer holds for each page: one registry of builders."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from starlette.responses import HTMLResponse

from gaitwire.services.session.workspace import Workspace
from gaitwire.web.context import Standing
from gaitwire.web.templating import render

FragmentBuilder = Callable[[Workspace, Standing, str], HTMLResponse]

FRAGMENTS: dict[str, FragmentBuilder] = {}
"""Page kind to the builder of the fragments that show its document as it now stands."""


class Offers(NamedTuple):
    """What the remark of an answer offers besides its words."""

    undo: bool = False
    """To take the step back: it is of something elsewhere than where the hand is."""
    act: tuple[str, str] | None = None
    """To post to an address, with words for that."""
    go: tuple[str, str] | None = None
    """To go to an address, with words for that."""


NONE = Offers()


def answer(state: Standing, remark: str, *pieces: str, offers: Offers = NONE) -> HTMLResponse:
    """Fragments with the new standing and revision. Every piece names its own target."""
    top = render("shared/standing.html", standing=state)
    said = render("shared/remark_swap.html", message=remark, offers=offers) if remark else ""
    headers = {"Gw-Revision": str(state.revision), "HX-Reswap": "none"}
    return HTMLResponse("\n".join([top, said, *pieces]), headers=headers)
