"""Bones as nested groups: the transforms of each, animated where it moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from operator import add

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import corrected_parts
from gaitwire.core.evaluate.coupled_groups import solved_nodes
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.evaluate.values import moved_beneath, sample_parts, sample_values, sample_whole, shown_times
from gaitwire.core.geometry import affine
from gaitwire.core.geometry.path import number
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.formats.animated_svg.course import PropertyCourse, channel_course, frame_course
from gaitwire.formats.animated_svg.elements import ArtWriter, animation, label
from gaitwire.formats.exporting import Production, SvgSettings


@dataclass(frozen=True)
class BoneGroup:
    """One group of a bone's chain: a transform at rest, perhaps animated."""

    transform: str
    animated: str = ""


_STRETCH, _WIDEN, _KEEP = (NODE_PROPERTIES.index(n) for n in ("stretch", "widen", "keep"))

_RESTS = {name: prop.rest for kind in PROPERTIES.values() for name, prop in kind.items()}


class Writer:
    """What is being written, and how long it plays."""

    def __init__(self, production: Production[SvgSettings], frames: Frames) -> None:
        self.production = production
        self.frames = frames
        """The production's frames and, as the last, the one at the end of the file's time."""
        scene = production.compiled.scene
        settings = production.settings
        self.times = production.clock
        self.first, self.end = float(settings.first), float(settings.first + len(self.times) - 1)
        self.clock = np.arange(self.first, self.end + 0.5)
        """The file's own time: goes on where the frames go back."""
        seconds = (self.end - self.first) / float(production.rate)
        count = "indefinite" if settings.loops == 0 else str(settings.loops)
        self.timing = f'dur="{number(seconds)}s" repeatCount="{count}" fill="freeze"'
        self.loop = scene.loop_length
        self.art = ArtWriter(production.pictures)
        self.keys: dict[Address, list[Key]] = {}
        self.compiled_puppets = {i.source.instance.id: i for i in production.compiled.compiled_puppets}
        self.layered: set[Address] = {(o.instance_id, o.owner_id, o.property) for o in scene.offsets}
        """Properties that keys alone do not tell: they are written frame by frame."""
        for who, puppet in self.compiled_puppets.items():
            self.layered |= {(who, *address) for address in moved_beneath(puppet)}
        by_channel = scene.keys_by_channel()
        for channel in scene.channels:
            keys = by_channel.get(channel.id, [])
            address = (channel.instance_id, channel.owner_id, channel.property)
            if keys:
                self.keys[address] = keys
                home = self.compiled_puppets.get(channel.instance_id)
                held = home is not None and self.steps(home)
                if settings.back or repeat_of(channel, keys) or held:
                    self.layered.add(address)
        self.solved = {
            (puppet.source.instance.id, puppet.nodes.owners[node][1])
            for group in production.compiled.groups
            for member, puppet in enumerate(group.members)
            for node in solved_nodes(group, member)
        }
        """Nodes that something else than their parents and keys places on some frame."""
        self.corrected = {k: corrected_parts(puppet) for k, puppet in self.compiled_puppets.items()}
        """Parts of each puppet that are not just carried by their bones, by their numbers in it."""
        self._sampled: dict[str, tuple[FloatArray, FloatArray]] = {}

    def pictured(self, puppet: CompiledPuppet) -> FloatArray:
        """The times whose picture a puppet shows on the file's frames."""
        return shown_times(puppet, self.times, self.production.settings.blocking)

    def steps(self, puppet: CompiledPuppet) -> bool:
        """Whether a puppet's pictures stay for more than a frame."""
        return puppet.exposure > 1 or (self.production.settings.blocking and len(puppet.pose_times) > 0)

    def course(self, node: tuple[str, str], prop: str) -> PropertyCourse | None:
        """The course of a property, or None where nothing moves it."""
        course = self._course((*node, prop))
        return None if course is None or course.still else course

    def _course(self, address: Address) -> PropertyCourse | None:
        if address in self.layered and address[0] in self.compiled_puppets:
            return frame_course(self.clock, self._values(address), self.steps(self.compiled_puppets[address[0]]))
        keys = self.keys.get(address)
        if not keys:
            return None
        return channel_course(keys, self.loop, self.first, self.end, self.production.settings.sampled)

    def _values(self, address: Address) -> FloatArray:
        """A property on every frame, all its layers together."""
        instance, owner, prop = address
        puppet = self.compiled_puppets[instance]
        if instance not in self._sampled:
            times = self.pictured(puppet)
            self._sampled[instance] = sample_values(puppet, times), sample_parts(puppet, times)
        nodes, parts = self._sampled[instance]
        if (instance, owner) in puppet.parts.owners:
            found: FloatArray = parts[puppet.parts.owners.index((instance, owner)), PART_PROPERTIES.index(prop)]
        else:
            found = nodes[puppet.nodes.owners.index((instance, owner)), NODE_PROPERTIES.index(prop)]
        return found

    def visible(self, part: tuple[str, str]) -> list[bool]:
        """Whether a part and its puppet are shown, on every frame but the one at the end of the file's time."""
        puppet = self.compiled_puppets[part[0]]
        fade, there = sample_whole(puppet, self.pictured(puppet))[0]
        own = self._values((*part, "shown"))
        return [bool(v) for v in ((own >= 0.5) & (there >= 0.5) & (fade > 0))[:-1]]

    def still_value(self, node: tuple[str, str], prop: str, rest: float | None = None) -> float:
        """The value of a property that does not move; `rest` where the node's own is not everybody's."""
        course = self._course((*node, prop))
        if course is not None:
            return course.pieces[0].v0
        return _RESTS[prop] if rest is None else rest

    @property
    def shares(self) -> str:
        """Every frame as a share of the file's time."""
        return ";".join(f"{s:.6g}" for s in np.linspace(0, 1, len(self.times)))

    def sampled(self, attribute: str, values: Sequence[str], discrete: bool = False) -> str:
        """An attribute written for every frame, the end of the file's time included."""
        mode = ' calcMode="discrete"' if discrete else ""
        course = f'values="{";".join(values)}" keyTimes="{self.shares}"{mode} {self.timing}'
        return f'<animate attributeName="{attribute}" {course}/>'

    def shown(self, mask: Sequence[bool]) -> tuple[str, str]:
        """For something seen on some of the frames only: its attribute at first, and the animation of it.

        Both empty for what is always seen.
        """
        if all(mask):
            return "", ""
        words = ["inline" if seen else "none" for seen in (*mask, mask[-1])]
        return f' display="{words[0]}"', self.sampled("display", words, discrete=True)

    def animate(self, kind: str, course: PropertyCourse, form: str) -> str:
        return animation(
            "animateTransform",
            f'attributeName="transform" type="{kind}"',
            course,
            form,
            self.timing,
            self.first,
            self.end,
        )

    def moved(self, kind: str, course: PropertyCourse, form: str) -> BoneGroup:
        """A group whose one transform is animated."""
        return BoneGroup(f"{kind}({form.format(number(course.pieces[0].v0))})", self.animate(kind, course, form))


def _place(writer: Writer, node: tuple[str, str], x: float, y: float) -> list[BoneGroup]:
    layers = []
    across, down = writer.course(node, "shift_x"), writer.course(node, "shift_y")
    fixed_x = x if across else x + writer.still_value(node, "shift_x")
    fixed_y = y if down else y + writer.still_value(node, "shift_y")
    if across:
        layers.append(writer.moved("translate", across.mapped(partial(add, fixed_x)), "{} 0"))
        fixed_x = 0.0
    if down:
        layers.append(writer.moved("translate", down.mapped(partial(add, fixed_y)), "0 {}"))
        fixed_y = 0.0
    if fixed_x or fixed_y:
        layers.append(BoneGroup(f"translate({number(fixed_x)} {number(fixed_y)})"))
    return layers


def _bent(writer: Writer, puppet: CompiledPuppet, index: int, node: tuple[str, str]) -> list[BoneGroup]:
    """Skew and scale, in the axes in which the bone is stretched; none at all for a bone that has neither."""
    if writer.course(node, "axis"):
        return sampled_layers(writer, _shape(writer, puppet, index))
    skew = writer.course(node, "skew")
    fixed_skew = writer.still_value(node, "skew")
    layers = []
    if skew:
        layers.append(writer.moved("skewY", skew, "{}"))
    elif fixed_skew:
        layers.append(BoneGroup(f"skewY({number(fixed_skew)})"))
    layers += _scales(writer, puppet, index, node)
    if not layers:
        return []
    angle = float(puppet.skeleton.angle[index]) + writer.still_value(node, "axis")
    if not angle:
        return layers
    return [BoneGroup(f"rotate({number(angle)})"), *layers, BoneGroup(f"rotate({number(-angle)})")]


def _shape(writer: Writer, puppet: CompiledPuppet, index: int) -> FloatArray:
    """What stretch, width and skew along an axis that turns make of a bone, as matrices (F, 6)."""
    values = dict(zip(NODE_PROPERTIES, sample_values(puppet, writer.pictured(puppet))[index], strict=True))
    across = values["widen"] * values["stretch"] ** -values["keep"]
    angle = float(puppet.skeleton.angle[index]) + values["axis"]
    return np.asarray(affine.bone_matrix(0.0, 0.0, 0.0, values["skew"], values["stretch"], across, angle).T)


def _scales(writer: Writer, puppet: CompiledPuppet, index: int, node: tuple[str, str]) -> list[BoneGroup]:
    along, across = writer.course(node, "stretch"), writer.course(node, "widen")
    own = float(puppet.skeleton.rest[index, _KEEP])
    keep = writer.still_value(node, "keep", own)
    if writer.course(node, "keep") or (keep and along):
        return [BoneGroup("scale(1)", _sampled_scale(writer, puppet, index))]
    fixed_along, fixed_across = writer.still_value(node, "stretch"), writer.still_value(node, "widen")
    fixed_across *= fixed_along**-keep
    layers = [writer.moved("scale", along, "{} 1")] if along else []
    if across:
        layers.append(writer.moved("scale", across, "1 {}"))
    still = (1.0 if along else fixed_along, 1.0 if across else fixed_across)
    return [*layers, BoneGroup(f"scale({number(still[0])} {number(still[1])})")] if still != (1.0, 1.0) else layers


def _sampled_scale(writer: Writer, puppet: CompiledPuppet, index: int) -> str:
    """Kept area: one over the stretch is no course that SVG's clock knows, so every frame is written."""
    values = sample_values(puppet, writer.pictured(puppet))[index]
    along = values[_STRETCH]
    across = values[_WIDEN] * along ** -values[_KEEP]
    return _sampled_transform(writer, "scale", [f"{number(a)} {number(b)}" for a, b in zip(along, across, strict=True)])


def _sampled_transform(writer: Writer, kind: str, values: Sequence[str]) -> str:
    about = f'attributeName="transform" type="{kind}"'
    return f'<animateTransform {about} values="{";".join(values)}" keyTimes="{writer.shares}" {writer.timing}/>'


def sampled_layers(writer: Writer, matrices: FloatArray) -> list[BoneGroup]:
    """A matrix (F, 6) for every frame as groups: place, turn, skew and scale, each sampled."""
    a, b, c, d, e, f = matrices.T
    along = np.hypot(a, b)
    turn = np.degrees(np.unwrap(np.arctan2(b, a)))
    across = (a * d - b * c) / along
    skew = np.degrees(np.arctan((a * c + b * d) / along / across))
    found = []
    for kind, rows in (("translate", (e, f)), ("rotate", (turn,)), ("skewX", (skew,)), ("scale", (along, across))):
        texts = [" ".join(f"{v:.6g}" for v in row) for row in np.stack(rows, axis=-1).tolist()]
        if len(set(texts)) > 1:
            found.append(BoneGroup(f"{kind}({texts[0]})", _sampled_transform(writer, kind, texts)))
        else:
            found.append(BoneGroup(f"{kind}({texts[0]})"))
    return found


def layers_of(writer: Writer, puppet: CompiledPuppet, index: int) -> list[BoneGroup]:
    """All groups of one node, outermost first."""
    node = puppet.nodes.owners[index]
    skeleton = puppet.skeleton
    layers = _place(writer, node, float(skeleton.x[index]), float(skeleton.y[index]))
    turn = writer.course(node, "turn")
    fixed = writer.still_value(node, "turn")
    if turn:
        layers.append(writer.moved("rotate", turn, "{}"))
    elif fixed:
        layers.append(BoneGroup(f"rotate({number(fixed)})"))
    layers += _bent(writer, puppet, index, node)
    scale, mirror = float(skeleton.scale[index]), float(skeleton.mirror[index])
    if scale != 1.0 or mirror != 1.0:
        layers.append(BoneGroup(f"scale({number(scale * mirror)} {number(scale)})"))
    return layers


def opened(layers: Sequence[BoneGroup], name: str) -> str:
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
