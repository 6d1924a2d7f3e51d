"""Jinja, and the one builder of addresses."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape
from starlette.responses import HTMLResponse

from gaitwire.core.scene import Scene
from gaitwire.core.timing.timecode import timecode
from gaitwire.services.gait.named_walks import figure_of
from gaitwire.web.static_files import stamp


class Urls:
    """Every address of the program, in one place."""

    shelf = "/"
    keeping = "/keeping"

    def copy(self, name: str, action: str = "") -> str:
        return f"/keeping/copies/{quote(name)}" + (f"/{action}" if action else "")

    def static(self, name: str) -> str:
        return f"/static/{stamp()}/{name}"

    def bench(self, puppet_id: str, action: str = "") -> str:
        return f"/bench/{puppet_id}" + (f"/{action}" if action else "")

    def floor(self, scene_id: str, action: str = "") -> str:
        return f"/floor/{scene_id}" + (f"/{action}" if action else "")

    def send_off(self, scene_id: str, action: str = "") -> str:
        return f"/send-off/{scene_id}" + (f"/{action}" if action else "")

    def stride(self, ref: str = "", action: str = "", on: str = "") -> str:
        path = "/stride" + (f"/{ref}" if ref else "") + (f"/{action}" if action else "")
        return path + (f"?on={on}" if on else "")

    def picture(self, kind: str, document_id: str, revision: int, small: bool = False) -> str:
        return f"/pictures/{kind}/{document_id}.png?r={revision}{'&small=1' if small else ''}"

    def phrase_picture(self, ref: str, puppet_id: str, revision: int) -> str:
        return f"/pictures/phrase/{ref}/{puppet_id}.png?r={revision}"

    def phrase_file(self, ref: str) -> str:
        return f"/shelf/phrases/{ref}/phrase.json"

    def history(self, kind: str, document_id: str, direction: str) -> str:
        return f"/history/{kind}/{document_id}/{direction}"


urls = Urls()


def _code(frame: float, scene: Scene) -> str:
    """The time code of a frame of a scene."""
    return timecode(max(0, int(frame)), scene.rate)


def plain_number(value: float, decimals: int = 1) -> str:
    """A number as people type it: no noughts that say nothing, no minus nought."""
    text = f"{value:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


environment = Environment(
    loader=PackageLoader("gaitwire.web"),
    autoescape=select_autoescape(default=True),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
environment.globals["urls"] = urls
environment.globals["walk_figure"] = figure_of
environment.filters["number"] = plain_number
environment.filters["timecode"] = _code


def render(template: str, **context: Any) -> str:
    """A template as text."""
    return environment.get_template(template).render(**context)


def page(template: str, **context: Any) -> HTMLResponse:
    """A template as a response."""
    return HTMLResponse(render(template, **context))
