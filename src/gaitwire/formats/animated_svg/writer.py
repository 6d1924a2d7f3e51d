"""The file: nested groups of bones in drawing order, each with its animations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.evaluate.compiled import Island
from gaitwire.core.evaluate.evaluate import sample_values
from gaitwire.core.geometry.path import number
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES
from gaitwire.core.timing.key import Key
from gaitwire.formats.animated_svg.course import Course, Piece, channel_course
from gaitwire.formats.animated_svg.elements import ArtWriter, animation, label, title
from gaitwire.formats.exporting import Production


@dataclass(frozen=True)
class _Layer:
    """One group of a bone's chain: a transform at rest, perhaps animated."""

    transform: str
    animated: str = ""


class _Writer:
    def __init__(self, production: Production) -> None:
        self.production = production
        scene = production.compiled.scene
        settings = production.settings
        last = scene.frames - 1 if settings.last is None else min(settings.last, scene.frames - 1)
        self.first, self.end = float(settings.first), float(last + 1)
        seconds = (self.end - self.first) / float(production.rate)
        count = "indefinite" if settings.loops == 0 else str(settings.loops)
        self.timing = f'dur="{number(seconds)}s" repeatCount="{count}" fill="freeze"'
        self.loop = scene.loop_length
        self.art = ArtWriter(production.pictures)
        self.keys: dict[tuple[str, str, str], list[Key]] = {}
        by_channel = scene.keys_by_channel()
        for channel in scene.channels:
            keys = [k for k in by_channel.get(channel.id, []) if self.loop is None or 0 <= k.time < self.loop]
            if keys:
                self.keys[channel.instance_id, channel.owner_id, channel.property] = keys

    def course(self, node: tuple[str, str], prop: str) -> Course | None:
        """The course of a property, or None where nothing moves it."""
        keys = self.keys.get((*node, prop))
        if not keys:
            return None
        course = channel_course(keys, self.loop, self.first, self.end, self.production.settings.sampled)
        return None if course.still else course

    def still_value(self, node: tuple[str, str], prop: str) -> float:
        """The value of a property that does not move."""
        keys = self.keys.get((*node, prop))
        return keys[0].value if keys else PROPERTIES["bone"][prop].rest

    def animate(self, kind: str, course: Course, form: str) -> str:
        return animation(
            "animateTransform",
            f'attributeName="transform" type="{kind}"',
            course,
            form,
            self.timing,
            self.first,
            self.end,
        )

    def moved(self, kind: str, course: Course, form: str) -> _Layer:
        """A group whose one transform is animated."""
        return _Layer(f"{kind}({form.format(number(course.pieces[0].v0))})", self.animate(kind, course, form))


def _shifted(course: Course, by: float) -> Course:
    """The course with a constant added to its values."""
    pieces = tuple(Piece(p.t0, p.t1, p.v0 + by, p.v1 + by, p.handles, p.step) for p in course.pieces)
    return Course(pieces, course.exact)


def _place(writer: _Writer, node: tuple[str, str], x: float, y: float) -> list[_Layer]:
    layers = []
    across, down = writer.course(node, "shift_x"), writer.course(node, "shift_y")
    fixed_x = x if across else x + writer.still_value(node, "shift_x")
    fixed_y = y if down else y + writer.still_value(node, "shift_y")
    if across:
        layers.append(writer.moved("translate", _shifted(across, fixed_x), "{} 0"))
        fixed_x = 0.0
    if down:
        layers.append(writer.moved("translate", _shifted(down, fixed_y), "0 {}"))
        fixed_y = 0.0
    if fixed_x or fixed_y:
        layers.append(_Layer(f"translate({number(fixed_x)} {number(fixed_y)})"))
    return layers


def _bent(writer: _Writer, island: Island, index: int, node: tuple[str, str]) -> list[_Layer]:
    """Skew and scale, in the bone's own axes; none at all for a bone that has neither."""
    skew = writer.course(node, "skew")
    fixed_skew = writer.still_value(node, "skew")
    layers = []
    if skew:
        layers.append(writer.moved("skewY", skew, "{}"))
    elif fixed_skew:
        layers.append(_Layer(f"skewY({number(fixed_skew)})"))
    layers += _scales(writer, island, index, node)
    if not layers:
        return []
    angle = float(island.skeleton.angle[index])
    if not angle:
        return layers
    return [_Layer(f"rotate({number(angle)})"), *layers, _Layer(f"rotate({number(-angle)})")]


def _scales(writer: _Writer, island: Island, index: int, node: tuple[str, str]) -> list[_Layer]:
    along, across = writer.course(node, "stretch"), writer.course(node, "widen")
    keep = island.skeleton.keep_volume[index] > 0
    if keep and along:
        return [_Layer("scale(1)", _sampled_scale(writer, island, index))]
    fixed_along, fixed_across = writer.still_value(node, "stretch"), writer.still_value(node, "widen")
    if keep:
        fixed_across /= fixed_along
    layers = [writer.moved("scale", along, "{} 1")] if along else []
    if across:
        layers.append(writer.moved("scale", across, "1 {}"))
    still = (1.0 if along else fixed_along, 1.0 if across else fixed_across)
    return [*layers, _Layer(f"scale({number(still[0])} {number(still[1])})")] if still != (1.0, 1.0) else layers


def _sampled_scale(writer: _Writer, island: Island, index: int) -> str:
    """Kept volume: one over the stretch is no course that SVG's clock knows, so every frame is written."""
    times = np.arange(writer.first, writer.end + 0.5)
    values, _ = sample_values(island, times)
    along = values[index, NODE_PROPERTIES.index("stretch")]
    across = values[index, NODE_PROPERTIES.index("widen")] / along
    pairs = ";".join(f"{number(a)} {number(b)}" for a, b in zip(along, across, strict=True))
    shares = ";".join(f"{s:.6g}" for s in np.linspace(0, 1, len(times)))
    kind = 'attributeName="transform" type="scale"'
    return f'<animateTransform {kind} values="{pairs}" keyTimes="{shares}" {writer.timing}/>'


def _layers(writer: _Writer, island: Island, index: int) -> list[_Layer]:
    """All groups of one node, outermost first."""
    node = island.node_keys[index]
    skeleton = island.skeleton
    layers = _place(writer, node, float(skeleton.x[index]), float(skeleton.y[index]))
    turn = writer.course(node, "turn")
    fixed = writer.still_value(node, "turn")
    if turn:
        layers.append(writer.moved("rotate", turn, "{}"))
    elif fixed:
        layers.append(_Layer(f"rotate({number(fixed)})"))
    layers += _bent(writer, island, index, node)
    scale, mirror = float(skeleton.scale[index]), float(skeleton.mirror[index])
    if scale != 1.0 or mirror != 1.0:
        layers.append(_Layer(f"scale({number(scale * mirror)} {number(scale)})"))
    return layers


def _opened(layers: Sequence[_Layer], name: str) -> str:
    """Groups opened for a node; those that do not move share one transform."""
    out = ""
    fixed: list[str] = []
    first = label(name)
    for layer in layers:
        if layer.animated:
            if fixed:
                out += f'<g{first} transform="{" ".join(fixed)}">'
                fixed, first = [], ""
            out += f'<g{first} transform="{layer.transform}">{layer.animated}'
            first = ""
        else:
            fixed.append(layer.transform)
    if fixed or not out:
        place = f' transform="{" ".join(fixed)}"' if fixed else ""
        out += f"<g{first}{place}>"
    return out


def _names(puppets: Sequence[Puppet]) -> dict[str, str]:
    return {b.id: b.name for p in puppets for b in p.bones} | {q.id: q.name for p in puppets for q in p.parts}


def _chain(island: Island, node: int) -> list[int]:
    chain = []
    while node >= 0:
        chain.append(node)
        node = int(island.skeleton.parent[node])
    return chain[::-1]


def _body(writer: _Writer) -> str:
    """All parts in drawing order; groups stay open while the next part hangs in them too."""
    production = writer.production
    compiled = production.compiled
    names = _names(list(compiled.puppets.values())) | {i.id: i.name for i in compiled.scene.instances}
    places = [(n, island, p) for n, island in enumerate(compiled.islands) for p in range(len(island.part_keys))]
    out: list[str] = []
    open_: list[tuple[tuple[int, int], int]] = []  # (island and node, how many groups it opened)
    opened: dict[tuple[int, int], str] = {}
    for place in compiled.order:
        number_, island, part = places[int(place)]
        if island.part_opacity[part] <= 0:
            continue
        chain = [(number_, node) for node in _chain(island, int(island.part_node[part]))]
        shared = 0
        while shared < min(len(chain), len(open_)) and open_[shared][0] == chain[shared]:
            shared += 1
        while len(open_) > shared:
            out.append("</g>" * open_.pop()[1])
        for key in chain[shared:]:
            if key not in opened:
                opened[key] = _opened(_layers(writer, island, key[1]), names.get(island.node_keys[key[1]][1], ""))
            out.append(opened[key])
            open_.append((key, opened[key].count("<g")))
        out.append(_part(writer, island, part, names))
    while open_:
        out.append("</g>" * open_.pop()[1])
    return "".join(out)


def _part(writer: _Writer, island: Island, part: int, names: dict[str, str]) -> str:
    key = island.part_keys[part]
    x, y = island.part_pivot[:, part]
    fade = writer.course(key, "opacity")
    still = float(island.part_opacity[part]) * (
        writer.keys[(*key, "opacity")][0].value if (*key, "opacity") in writer.keys else 1.0
    )
    animated, opacity = "", f' opacity="{number(still)}"' if still < 1 else ""
    if fade:
        animated = animation("animate", 'attributeName="opacity"', fade, "{}", writer.timing, writer.first, writer.end)
    text = writer.art.nodes(writer.production.arts[key].nodes)
    return f'<g{label(names[key[1]])} transform="translate({number(-x)} {number(-y)})"{opacity}>{animated}{text}</g>'


def write_animated_svg(production: Production) -> bytes:
    """The whole scene as one SVG that plays by itself."""
    writer = _Writer(production)
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
