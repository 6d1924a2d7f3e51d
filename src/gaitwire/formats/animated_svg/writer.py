"""The file: nested groups of bones in drawing order, and the parts that hang in them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from operator import mul

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.frames import Frames, PointRange
from gaitwire.core.geometry import affine
from gaitwire.core.geometry.path import number
from gaitwire.core.puppet.model import Puppet
from gaitwire.formats.animated_svg.bending import bent_paths, flip_book
from gaitwire.formats.animated_svg.bones import BoneGroup, Writer, layers_of, opened, sampled_layers
from gaitwire.formats.animated_svg.elements import animation, label, title
from gaitwire.formats.animated_svg.order import movers, places
from gaitwire.formats.exporting import Production, SvgSettings


def _names(puppets: Sequence[Puppet]) -> dict[str, str]:
    return {b.id: b.name for p in puppets for b in p.bones} | {q.id: q.name for p in puppets for q in p.parts}


@dataclass(frozen=True)
class _Part:
    """A part among those of the whole scene, and in its own puppet."""

    index: int
    puppet: CompiledPuppet
    own: int
    first_node: int

    @property
    def key(self) -> tuple[str, str]:
        return self.puppet.parts.owners[self.own]

    def corrected(self, writer: Writer) -> bool:
        """Whether a bend fix, pad or gauge places it on its bone, or fades it."""
        return self.own in writer.corrected[self.key[0]]

    def soft(self, writer: Writer) -> PointRange | None:
        return writer.frames.soft.get(self.index)


def _bends_alone(writer: Writer, puppet: CompiledPuppet, node: int) -> bool:
    """Whether a limb's bone is stretched or skewed, which what hangs from it does not share."""
    key = puppet.nodes.owners[node]
    return node in puppet.skeleton.limb and any((*key, p) in writer.keys for p in ("stretch", "widen", "skew"))


def _stands_alone(writer: Writer, puppet: CompiledPuppet, node: int) -> bool:
    """Whether a node is written by where it is on every frame, and not as what hangs from its parent."""
    parent = int(puppet.skeleton.parent[node])
    if puppet.nodes.owners[node] in writer.solved:
        return True
    return parent >= 0 and _bends_alone(writer, puppet, parent)


def _chain(writer: Writer, puppet: CompiledPuppet, node: int) -> list[int]:
    """Nodes from the outermost group to the part's own."""
    chain = [node]
    parent = int(puppet.skeleton.parent[node])
    while parent >= 0 and not _stands_alone(writer, puppet, chain[-1]):
        chain.append(parent)
        parent = int(puppet.skeleton.parent[parent])
    return chain[::-1]


def _layers(writer: Writer, part: _Part, node: int) -> list[BoneGroup]:
    if _stands_alone(writer, part.puppet, node):
        return sampled_layers(writer, writer.frames.nodes[:, part.first_node + node])
    return layers_of(writer, part.puppet, node)


def _parts(writer: Writer) -> list[_Part]:
    found: list[_Part] = []
    node = 0
    for puppet in writer.production.compiled.compiled_puppets:
        found += [_Part(len(found) + n, puppet, n, node) for n in range(len(puppet.parts.owners))]
        node += len(puppet.nodes.owners)
    return found


def _body(writer: Writer) -> str:
    """All parts in drawing order; groups stay open while the next part hangs in them too."""
    compiled = writer.production.compiled
    names = _names(list(compiled.puppets.values())) | {i.id: i.name for i in compiled.scene.instances}
    parts = _parts(writer)
    order = writer.frames.order[:-1]
    out: list[str] = []
    open_: list[tuple[tuple[str, str], int]] = []  # (node and how many groups it opened)
    groups: dict[tuple[str, str], str] = {}
    for index, seen in places(order, movers(order)):
        part = parts[index]
        if part.puppet.parts.opacity[part.own] <= 0:
            continue
        shown = _opaque(writer, part) if part.corrected(writer) else writer.visible(part.key)
        seen = [a and b for a, b in zip(seen, shown, strict=True)]
        flips = _flips(writer, part)
        chain = [] if flips else _chain(writer, part.puppet, int(part.puppet.parts.node[part.own]))
        rows = _seen_from(writer, part)
        rows += _fading(writer, part)
        rows += [
            (key, partial(_opened, writer, part, node, names.get(key[1], "")))
            for node in chain
            for key in (part.puppet.nodes.owners[node],)
        ]
        keys = [key for key, _ in rows]
        shared = 0
        while shared < min(len(keys), len(open_)) and open_[shared][0] == keys[shared]:
            shared += 1
        while len(open_) > shared:
            out.append("</g>" * open_.pop()[1])
        for key, text in rows[shared:]:
            if key not in groups:
                groups[key] = text()
            out.append(groups[key])
            open_.append((key, groups[key].count("<g")))
        out.append(_flipped(writer, part, names, seen) if flips else _drawn(writer, part, names, seen))
    while open_:
        out.append("</g>" * open_.pop()[1])
    return "".join(out)


_Groups = list[tuple[tuple[str, str], Callable[[], str]]]
"""Groups to be opened, each with what it is known by and how it is written."""


def _opened(writer: Writer, part: _Part, node: int, name: str) -> str:
    return opened(_layers(writer, part, node), name)


def _fading(writer: Writer, part: _Part) -> _Groups:
    """The group in which a puppet fades as one picture; none about one that never does."""
    rows = [number(v) for v in writer.frames.fade[:, part.index].tolist()]
    if set(rows) <= {"1", "0"}:
        return []  # what is not there at all is not shown, part by part
    still = len(set(rows)) == 1
    text = f'<g opacity="{rows[0]}">{"" if still else writer.sampled("opacity", rows)}'
    return [(("whole", part.key[0]), lambda: text)]


def _seen_from(writer: Writer, part: _Part) -> _Groups:
    """The groups of the camera about everything at a part's distance; none without a camera."""
    if not writer.frames.views.shape[1]:
        return []
    layer = int(writer.frames.layers[part.index])
    return [(("camera", str(layer)), lambda: opened(sampled_layers(writer, writer.frames.views[:, layer]), ""))]


def _flips(writer: Writer, part: _Part) -> bool:
    """Whether a part that bends shows a picture on some frame."""
    if part.soft(writer) is None:
        return False
    textured = writer.production.compiled.skins[part.key[1]].body.textured
    return any(textured[n] for n in set(writer.frames.drawing[:, part.index].tolist()))


def _flipped(writer: Writer, part: _Part, names: dict[str, str], seen: list[bool]) -> str:
    first, animated = writer.shown(seen)
    return f"<g{label(names[part.key[1]])}{first}>{animated}{flip_book(writer, part.index)}</g>"


def _fade(writer: Writer, part: _Part) -> tuple[str, str]:
    """The part's opacity as an attribute, and the animation of it."""
    if part.corrected(writer):
        rows = [number(v) for v in writer.frames.opacity[:, part.index].tolist()]
        return f' opacity="{rows[0]}"', writer.sampled("opacity", rows) if len(set(rows)) > 1 else ""
    own = float(part.puppet.parts.opacity[part.own])
    still = own * writer.still_value(part.key, "opacity")
    course = writer.course(part.key, "opacity")
    attribute = f' opacity="{number(still)}"' if still < 1 else ""
    if course is None:
        return attribute, ""
    shown = course.mapped(partial(mul, own))
    return attribute, animation(
        "animate", 'attributeName="opacity"', shown, "{}", writer.timing, writer.first, writer.end
    )


def _drawn(writer: Writer, part: _Part, names: dict[str, str], seen: list[bool]) -> str:
    """A part in its bone's group: each of the drawings that it shows, on the frames on which it does."""
    x, y = part.puppet.parts.pivot[:, part.own]
    opacity, fading = _fade(writer, part)
    shows = writer.frames.drawing[:-1, part.index].tolist()
    points = part.soft(writer)
    texts = []
    for index in sorted(set(shows)):
        art = writer.production.arts[part.key][index]
        text = writer.art.nodes(art.nodes, bent_paths(writer, points, index) if points else None)
        first, animated = writer.shown([n == index for n in shows])
        texts.append(f"<g{first}>{animated}{text}</g>" if animated else text)
    place = f'transform="translate({number(-x)} {number(-y)})"'
    first, animated = writer.shown(seen)
    drawn = f"<g{label(names[part.key[1]])} {place}{opacity}{first}>{fading}{animated}{''.join(texts)}</g>"
    if not part.corrected(writer):
        return drawn
    layers = sampled_layers(writer, _corrections(writer, part))
    return opened(layers, "") + drawn + "</g>" * opened(layers, "").count("<g")


def _opaque(writer: Writer, part: _Part) -> list[bool]:
    return [bool(v > 0) for v in writer.frames.opacity[:-1, part.index]]


def _corrections(writer: Writer, part: _Part) -> FloatArray:
    """How a part lies on its bone, (F, 6), on every frame."""
    node = part.first_node + int(part.puppet.parts.node[part.own])
    x, y = part.puppet.parts.pivot[:, part.own]
    bone, whole = (m.T for m in (writer.frames.nodes[:, node], writer.frames.matrices[:, part.index]))
    back = affine.identity(1)
    back[4], back[5] = x, y
    return np.asarray(affine.compose(affine.compose(affine.invert(bone), whole), back).T)


def write_animated_svg(production: Production[SvgSettings], frames: Frames | None = None) -> bytes:
    """The whole scene as one SVG that plays by itself; `frames` are the production's course, if it is known."""
    writer = Writer(production, production.course if frames is None else frames)
    scene = production.compiled.scene
    width, height = production.size
    ground = f'<rect width="100%" height="100%" fill="{production.background}"/>' if production.background else ""
    body = _body(writer)
    defs = f"<defs>{''.join(writer.art.defs.texts)}</defs>" if writer.art.defs.texts else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}"'
        f' viewBox="0 0 {scene.width} {scene.height}">'
        f"{title(production.name)}{defs}{ground}{body}</svg>\n"
    ).encode()
