"""Mending a puppet's rest after it was animated: keys that keep the performance, and a list of those that cannot."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import GaitWireError, LockedError, NotFoundError
from gaitwire.core.evaluate import CompiledScene, compile_scene, evaluate
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.evaluate.rest_compensation import KEPT, KeptValues, kept_values, moved_by
from gaitwire.core.evaluate.values import gait_values
from gaitwire.core.geometry.path import points_of
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.soften import paths_of
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.edit import key_at
from gaitwire.core.timing.key import Key
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import scenes_with
from gaitwire.store.history import Edit

Word = Literal["keep", "let", "ask"]
"""Keys keep the performance; or they are let be; or they keep it, and what they cannot keep is asked about first."""

ALLOWED = 1.0
"""Pixels of the stage by which a key's picture may move without a word."""

_SEEN = 0.05
"""Degrees, pixels or shares by which a bone may be off its way at a key of another one."""
_ROUNDS = 4
"""A key between others bends the way beside it, which may ask for one more."""
_POINTS = 60
"""Points of a part that are looked at."""
_BETWEEN = 5
"""Points looked at along each piece of an outline, before those are too many."""
_MATTERS = 1e-4
"""Degrees, pixels or shares of a value that a key is written for."""


class MovedKey(NamedTuple):
    """A key whose picture has moved: where it is, by how many pixels of the stage, and which part the most."""

    scene_id: str
    scene: str
    instance: str
    time: float
    pixels: float
    part: str


@dataclass
class RestReport:
    """What a change of rest does to the scenes in which the puppet is animated."""

    scenes: int = 0
    keys: int = 0
    """Keys that were written to keep the performance."""
    moved: list[MovedKey] = field(default_factory=list)
    """Keys whose picture moves by more than is allowed, the worst first."""
    most: float = 0.0
    """Pixels by which the picture at any key moves at most."""
    between: float = 0.0
    """The same on the frames between keys."""
    allowed: float = ALLOWED

    @property
    def said(self) -> str:
        """In a few words; nothing where the puppet is not animated."""
        if not self.scenes:
            return ""
        where = f"{self.scenes} scene{'' if self.scenes == 1 else 's'}"
        kept = f", {self.keys} keys adjusted" if self.keys else ""
        between = f"; between them by {self.between:.2f} px at most" if self.between >= 0.005 else ""
        if self.most < 0.005:
            return f"In {where} the picture has not moved at any key{kept}{between}."
        return f"In {where} the picture moves by {self.most:.2f} px at most at its keys{kept}{between}."


class NeedsWordError(GaitWireError):
    """A change of rest that moves pictures of scenes: it waits for a word."""

    def __init__(self, report: RestReport) -> None:
        super().__init__("This moves pictures in scenes.", "Say whether it is to be done.")
        self.report = report


def changes_rest(before: Puppet, after: Puppet) -> bool:
    """Whether bones or pins lie otherwise at rest, hang elsewhere, or are gone."""
    return _rest(before.bones) != _rest(after.bones, before.bones) or _spots(before) != _spots(after)


def _rest(bones: Iterable[Bone], known: Iterable[Bone] = ()) -> dict[str, object]:
    only = {b.id for b in known}
    return {b.id: (b.x, b.y, b.angle, b.length, b.parent_id) for b in bones if not only or b.id in only}


def _spots(puppet: Puppet) -> dict[str, object]:
    return {p.id: (p.x, p.y, p.bone_id) for p in puppet.pins}


def mend_scenes(
    workspace: Workspace, edit: Edit, before: Puppet, after: Puppet, word: Word = "keep", allowed: float = ALLOWED
) -> RestReport:
    """Adjust the keys of all scenes with a puppet within the edit that changes its rest.

    Raises NeedsWordError, so that nothing is stored, where `word` is "ask" and a key's picture moves by
    more than `allowed` pixels.
    """
    report = RestReport(allowed=allowed)
    for scene_id in scenes_with(workspace.store, before.id):
        try:
            scene = workspace.scene(scene_id)
        except NotFoundError:
            continue
        mending = _Scene(workspace, scene, before, after)
        if not mending.times:
            continue
        report.scenes += 1
        written = {} if word == "let" else mending.kept()
        if written:
            edit.documents.append(scene_id)
            edit.put("channels", {k.channel.id: k.channel for k in written.values()}.values())
            keys = [key for row in written.values() for key in row.keys]
            edit.put("keys", keys)
            report.keys += len(keys)
        mending.measure(written, report)
    report.moved.sort(key=lambda m: -m.pixels)
    if word == "ask" and report.moved:
        raise NeedsWordError(report)
    return report


class _Written(NamedTuple):
    """A channel with the keys that are put into it."""

    channel: Channel
    keys: list[Key]


class _Scene:
    """One scene, with the puppet as it was and as it will be."""

    def __init__(self, workspace: Workspace, scene: Scene, before: Puppet, after: Puppet) -> None:
        self.workspace, self.scene = workspace, scene
        self.was, self.now = before, after
        self._made: dict[tuple[bool, bool], CompiledScene] = {}
        """What was compiled last with the puppet as it was or will be, bent or rigid: the next one is much like it."""
        # Keys are met on their own frames, whatever frames are shown, and before what leads lies on top of them.
        on_ones = tuple(i.model_copy(update={"exposure": 1}) for i in scene.instances)
        self.plain = scene.model_copy(update={"instances": on_ones, "drivers": ()})
        self.cast = workspace.cast(scene) | {before.id: before}
        self.phrases = workspace.phrases(scene)
        self.before = self._compiled(self.plain, before)
        self._leave_out()
        self.instances = [i for i in scene.instances if i.puppet_id == before.id]
        self.by_channel = scene.keys_by_channel()
        self.times = {i.id: times for i in self.instances if len(times := self._times(i))}

    def _leave_out(self) -> None:
        """Leave out what moves by itself, whatever the puppet does."""
        joined = {
            m.source.instance.id
            for group in self.before.groups
            if any(m.source.puppet.id == self.was.id for m in group.members)
            for m in group.members
        }
        with_it = tuple(i for i in self.plain.instances if i.id in joined)
        self.plain = self.plain.model_copy(update={"instances": with_it})
        self.cast = {i.puppet_id: self.cast[i.puppet_id] for i in with_it}
        self.before = self._compiled(self.plain, self.was)

    def _compiled(self, scene: Scene, puppet: Puppet, soft: bool = True) -> CompiledScene:
        cast = self.cast | {puppet.id: puppet}
        skins = self.workspace.skins.of(cast.values()) if soft else {}
        known = (puppet is self.now, soft)
        self._made[known] = compile_scene(scene, cast, skins, self._made.get(known), self.phrases)
        return self._made[known]

    def _times(self, instance: Instance) -> FloatArray:
        """Times of all keys of a puppet, in order."""
        loop = self.scene.loop_length
        own = {
            k.time
            for c in self.scene.channels
            if c.instance_id == instance.id
            for k in self.by_channel.get(c.id, [])
            if loop is None or k.time < loop
        }
        return np.array(sorted(own))

    def kept(self) -> dict[Address, _Written]:
        """Keys that keep every key's picture."""
        after = self._compiled(self.plain, self.now)
        found: dict[Address, _Written] = {}
        for instance in self.instances:
            if instance.id in self.times:
                found |= self._kept_of(instance, after)
        return found

    def _kept_of(self, instance: Instance, after: CompiledScene) -> dict[Address, _Written]:
        times = self.times[instance.id]
        wanted = kept_values(self.before, after, instance.id, times)
        walked = {address for i in self.before.compiled_puppets if i.source.instance.id == instance.id
                  for address in gait_values(i, times)}  # fmt: skip
        # A walk is made anew from the bones as they lie.
        wanted = {o: k for o, k in wanted.items() if not any((o, prop) in walked for prop in KEPT)}
        columns = {o: np.isin(times, self._asked(instance, o)) & k.free for o, k in wanted.items()}
        found = self._keyed(instance, wanted, columns)
        # Between a bone's own keys lie those of others: where its way round them would be seen, it gets keys there too.
        for _ in range(_ROUNDS):
            mended = self._compiled(self._mended(found), self.now)
            more = False
            for owner, off in kept_values(self.before, mended, instance.id, times).items():
                if owner in columns and columns[owner].any():
                    missed = (np.abs(off.wanted - off.now).max(axis=0) > _SEEN) & off.free & ~columns[owner]
                    columns[owner] |= missed
                    more |= bool(missed.any())
            if not more:
                break
            found = self._keyed(instance, wanted, columns)
        return found

    def _keyed(
        self, instance: Instance, wanted: Mapping[str, KeptValues], columns: Mapping[str, np.ndarray]
    ) -> dict[Address, _Written]:
        """Keys of bones with what is wanted at some of the times."""
        times, layers = self.times[instance.id], Beneath(self.plain, lambda: self.before)
        found: dict[Address, _Written] = {}
        for owner, kept in wanted.items():
            at = np.flatnonzero(columns[owner])
            for row, prop in enumerate(KEPT if len(at) else ()):
                if np.abs(kept.wanted[row, at] - kept.now[row, at]).max() > _MATTERS:
                    address = (instance.id, owner, prop)
                    try:
                        found[address] = self._written(address, times[at], kept.wanted[row, at], layers)
                    except LockedError:
                        continue  # A phrase decides there, whatever the keys say.
        return found

    def _asked(self, instance: Instance, owner: str) -> list[float]:
        """Times at which a bone is keyed itself, or where its place in the body has changed, what is above it."""
        owners = {owner}
        was, now = self.was.bone(owner), self.now.bone(owner)
        if was is not None and now is not None and was.parent_id != now.parent_id:
            owners |= set(_above(self.was, owner)) | set(_above(self.now, owner))
        for control in self.was.controls:
            if any(r.owner_id == owner for e in self.was.entries_of(control.id) for r in e.rows):
                owners.add(control.id)
        return [
            k.time
            for c in self.scene.channels
            if c.instance_id == instance.id and c.owner_id in owners
            for k in self.by_channel.get(c.id, [])
        ]

    def _written(self, address: Address, times: FloatArray, values: FloatArray, layers: Beneath) -> _Written:
        """Keys of one property at times, in place of those that are there; new ones ease as the bone's turn does."""
        channels = {(c.instance_id, c.owner_id, c.property): c for c in self.scene.channels}
        channel = channels.get(address) or Channel(
            id=new_id(), scene_id=self.scene.id, instance_id=address[0], owner_kind="bone", owner_id=address[1],
            property=address[2],
        )  # fmt: skip
        row = self.by_channel.get(channel.id, [])
        lead = channels.get((*address[:2], "turn"))
        pattern = self.by_channel.get(lead.id, []) if lead else []
        keys = []
        for time, value in zip(times.tolist(), values.tolist(), strict=True):
            said = round(layers.key_value(address, value, time), 6)
            known = key_at(row, time)
            if known is not None:
                keys.append(known.model_copy(update={"value": said, "stay": False}))
                continue
            like = key_at(pattern, time)
            ease = {"ease": like.ease, "chart": like.chart} if like and not (like.curve or like.excerpt) else {}
            keys.append(
                Key.model_validate({"id": new_id(), "channel_id": channel.id, "time": time, "value": said, **ease})
            )
        return _Written(channel, keys)

    def measure(self, written: Mapping[Address, _Written], report: RestReport) -> None:
        """Add to a report how far the picture moves, at keys and between them."""
        after = self._compiled(self._mended(written), self.now)
        outlines = dict(self._outlines())
        meshes = (self.before.meshes, after.meshes)
        names = {p.id: p.name for p in self.was.parts}
        for instance in self.instances:
            times = self.times.get(instance.id)
            if times is None:
                continue
            frames = evaluate(self.before, times)
            far, which = moved_by(frames, evaluate(after, times), outlines, meshes)
            report.most = max(report.most, float(far.max()))
            for n in np.flatnonzero(far > report.allowed).tolist():
                part = names.get(frames.part_keys[which[n]][1], "what it carries")
                report.moved.append(
                    MovedKey(self.scene.id, self.scene.name, instance.name, float(times[n]), float(far[n]), part)
                )
        # Between keys all art counts as rigid: to bend it on every frame of every scene would take too long.
        every = np.arange(float(self.scene.frames))
        rigid = (self._compiled(self.plain, self.was, False), self._compiled(self._mended(written), self.now, False))
        far, _ = moved_by(evaluate(rigid[0], every), evaluate(rigid[1], every), outlines, ({}, {}))
        report.between = max(report.between, float(far.max()))

    def _mended(self, written: Mapping[Address, _Written]) -> Scene:
        channels = {c.id: c for c in self.scene.channels} | {w.channel.id: w.channel for w in written.values()}
        keys = {k.id: k for k in self.scene.keys} | {k.id: k for w in written.values() for k in w.keys}
        return self.plain.model_copy(update={"channels": tuple(channels.values()), "keys": tuple(keys.values())})

    def _outlines(self) -> Iterator[tuple[str, FloatArray]]:
        """Points of every part's shapes; of pictures, their corners."""
        for puppet in self.cast.values():
            for part in puppet.parts:
                art = self.workspace.art(part.art_hash)
                x0, y0, x1, y1 = art.bounds
                points = [p for d in paths_of(art.nodes) if len(p := points_of(d))]
                corners = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
                drawn = np.concatenate([_along(p) for p in points or [corners]])
                yield part.id, drawn[:: max(1, len(drawn) // _POINTS)]


def _along(points: FloatArray) -> FloatArray:
    """Points of a closed outline, and some between each two of them (n, 2)."""
    shares = np.linspace(0.0, 1.0, _BETWEEN, endpoint=False)[:, None, None]
    return np.asarray((points * (1 - shares) + np.roll(points, -1, axis=0) * shares).reshape(-1, 2))


def _above(puppet: Puppet, bone_id: str) -> Iterator[str]:
    at = puppet.bone(bone_id)
    while at is not None and at.parent_id is not None:
        yield at.parent_id
        at = puppet.bone(at.parent_id)
