"""The open store with what was loaded from it, kept until a document's revision moves on."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import NamedTuple, TypeVar, cast

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import NotFoundError
from gaitwire.core.evaluate import CompiledScene, Frames, compile_scene, evaluate
from gaitwire.core.evaluate.cache import BlockCache
from gaitwire.core.evaluate.camera import CAMERA
from gaitwire.core.evaluate.evaluate import GroupFrames
from gaitwire.core.evaluate.values import Overrides
from gaitwire.core.motion.phrase import Phrase
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.puppet.soften import soften
from gaitwire.core.scene import CAMERA_ID, Instance, Scene, stamp_of
from gaitwire.core.timing.channel import Channel, OwnerKind
from gaitwire.core.timing.key import Key
from gaitwire.services.session.bounded_cache import BoundedCache
from gaitwire.services.session.skins import SOFT, SkinCaches, SkinShelf, read_grain, soft_name
from gaitwire.store import Store, blobs, documents
from gaitwire.store.history import Edit
from gaitwire.store.records import SceneShelf

Cached = TypeVar("Cached")

Placed = Mapping[tuple[OwnerKind, str, str], float]
"""Values by (kind of owner, owner id, property)."""


class _Current(NamedTuple):
    """A compiled scene, and what it was made of: all documents that it names, and the revisions of those there."""

    made_of: tuple[str, ...]
    revisions: dict[str, int]
    made: CompiledScene

    def holds(self, store: Store) -> bool:
        return documents.revisions_of(store, self.made_of) == self.revisions


class ContentCaches:
    """What was worked out of contents that are known by what they are, whatever store they lie in."""

    def __init__(self) -> None:
        self.blocks: BlockCache[GroupFrames] = BlockCache()
        self.arts = BoundedCache(most_bytes=64_000_000)
        self.skins = SkinCaches()


class Workspace:
    """What every use case takes: the store, and its contents as models, compiled scenes and frames.

    `contents` may be shared by several workspaces.
    """

    def __init__(self, store: Store, contents: ContentCaches | None = None) -> None:
        self.store = store
        contents = contents or ContentCaches()
        self.blocks = contents.blocks
        self._documents = BoundedCache(48)
        self._stages = BoundedCache(10)
        self.waves = BoundedCache(most_bytes=32_000_000)
        self._arts = contents.arts
        self.skins = SkinShelf(self.art, lambda digest: blobs.get_blob(self.store, digest).data, contents.skins)
        self._scenes = SceneShelf()
        self._compiled = BoundedCache(8)
        self._recent = BoundedCache(10)
        self._current = BoundedCache(8)

    def _remembered(
        self, cache: BoundedCache, key: object, documents: Sequence[str], make: Callable[[], Cached]
    ) -> Cached:
        """A value made of documents; what an edit makes of its own unfinished work is nobody else's."""
        if not self.store.unsettled(documents):
            return cache.get(key, make)
        found = cache.peek(key)
        if found is None:
            within = self.store.made_within
            if key not in within:
                within[key] = make()
            found = within[key]
        return cast(Cached, found)

    def puppet(self, puppet_id: str) -> Puppet:
        """The puppet as it stands now, or the one that every camera is; raises NotFoundError."""
        if puppet_id == CAMERA_ID:
            return CAMERA
        with self.store.snapshot():
            revision = documents.revision_of(self.store, puppet_id)
            key = ("puppet", puppet_id, revision)
            return self._remembered(
                self._documents, key, [puppet_id], lambda: documents.load_puppet(self.store, puppet_id)
            )

    def scene(self, scene_id: str) -> Scene:
        """The scene as it stands now; raises NotFoundError."""
        with self.store.snapshot():
            key = ("scene", scene_id, documents.revision_of(self.store, scene_id))
            shelf = None if self.store.unsettled([scene_id]) else self._scenes
            return self._remembered(
                self._documents, key, [scene_id], lambda: documents.load_scene(self.store, scene_id, shelf)
            )

    def cast(self, scene: Scene) -> dict[str, Puppet]:
        """The scene's puppets by id; one that is missing sleeps and is left out."""
        found: dict[str, Puppet] = {}
        for puppet_id in {i.puppet_id for i in scene.instances}:
            try:
                found[puppet_id] = self.puppet(puppet_id)
            except NotFoundError:
                continue
        return found

    def phrase(self, phrase_id: str) -> Phrase:
        """The phrase as it stands now; raises NotFoundError."""
        with self.store.snapshot():
            key = ("phrase", phrase_id, documents.revision_of(self.store, phrase_id))
            return self._remembered(
                self._documents, key, [phrase_id], lambda: documents.load_phrase(self.store, phrase_id)
            )

    def phrases(self, scene: Scene) -> dict[str, Phrase]:
        """The phrases that uses in a scene are tied to, by id; one that is missing sleeps and is left out."""
        found: dict[str, Phrase] = {}
        for phrase_id in scene.tied_to:
            try:
                found[phrase_id] = self.phrase(phrase_id)
            except NotFoundError:
                continue
        return found

    def compiled(self, scene_id: str) -> CompiledScene:
        """The scene, compiled; kept while neither it, a puppet in it nor a phrase that it is tied to changes."""
        with self.store.snapshot():
            last = self._current.peek(scene_id)
            if last is not None and not self.store.unsettled(last.made_of) and last.holds(self.store):
                return cast(CompiledScene, last.made)
            scene = self.scene(scene_id)
            puppets, phrases = self.cast(scene), self.phrases(scene)
            known = sorted(
                [(p.id, p.revision) for p in puppets.values()] + [(p.id, p.revision) for p in phrases.values()]
            )
            key = ("compiled", scene_id, scene.revision, *known)
            made_of = [scene_id, *puppets, *phrases]

            def work() -> CompiledScene:
                skins = self.skins.of(puppets.values())
                made = compile_scene(scene, puppets, skins, self._compiled.peek(scene_id), phrases)
                if not self.store.unsettled(made_of):
                    self._compiled.put(scene_id, made)
                return made

            made = self._remembered(self._stages, key, made_of, work)
            if not self.store.unsettled(made_of):
                named = (scene_id, *{i.puppet_id for i in scene.instances}, *scene.tied_to)
                self._current.put(scene_id, _Current(named, documents.revisions_of(self.store, named), made))
                self._recent.put((scene_id, stamp_of(scene, puppets, phrases)), made)
            return made

    def compiled_at(self, scene_id: str, stamp: int | None) -> CompiledScene:
        """The scene as it was at a stamp, if that was lately; else as it stands now.

        A page asks for a scene's state and then for its frames: both are to be of one state, however often
        other windows change it meanwhile.
        """
        return self._recent.peek((scene_id, stamp)) or self.compiled(scene_id)

    def compiled_puppet(self, puppet_id: str) -> CompiledScene:
        """A stage with one puppet at rest, its pixels being the stage's: what the Bench draws."""
        puppet = self.puppet(puppet_id)
        key = ("alone", puppet_id, puppet.revision)
        return self._remembered(self._stages, key, [puppet_id], lambda: self.compile_alone(puppet))

    def compile_alone(
        self, puppet: Puppet, at: Placed | None = None, loose: bool = False, bends: bool = True
    ) -> CompiledScene:
        """A still stage that shows one puppet in its own pixels, with some properties (kind, owner, name) at values.

        `loose`: all rigid parts as points that can be moved one by one. Without `bends` soft parts are as at
        rest, and no time goes into their meshes.
        """
        instance = Instance(
            id=puppet.id, scene_id="", puppet_id=puppet.id, name=puppet.name, x=puppet.base_x, y=puppet.base_y
        )
        channels, keys = [], []
        for n, ((kind, owner, prop), value) in enumerate((at or {}).items()):
            home = {"id": str(n), "scene_id": "", "instance_id": puppet.id, "owner_kind": kind, "owner_id": owner}
            channels.append(Channel.model_validate({**home, "property": prop}))
            keys.append(Key(id=str(n), channel_id=str(n), time=0.0, value=value))
        scene = Scene(
            id="", name=puppet.name, frames=1, loop=False, instances=(instance,), channels=tuple(channels),
            keys=tuple(keys),
        )  # fmt: skip
        skins = self.skins.of([puppet], loose) if bends else {}
        return compile_scene(scene, {puppet.id: puppet}, skins)

    def frames(self, scene_id: str, frames: FloatArray, overrides: Overrides | None = None) -> Frames:
        """Evaluated frames of a scene."""
        return evaluate(self.compiled(scene_id), frames, overrides, self.blocks)

    def art(self, name: str) -> Art:
        """Artwork by its hash, or made ready to bend by hash and grain (`soft_name`); raises NotFoundError."""
        digest, _, grain = name.partition(SOFT)
        if grain:
            return self._arts.get(name, lambda: soften(self.art(digest), read_grain(grain)))
        return self._arts.get(digest, lambda: Art.model_validate_json(blobs.get_blob(self.store, digest).data))

    def drawings(self, puppet: Puppet, part: Part, bends: bool) -> list[str]:
        """Names of the art of all of a part's drawings, its own first, as they are drawn."""
        grain = self.skins.grain(puppet, part) if bends else None
        return [soft_name(d.art_hash, grain) if grain else d.art_hash for d in puppet.drawings(part)]

    def edit(self, label: str, documents: Iterable[str], expected: dict[str, int] | None = None) -> Edit:
        """One gesture on the documents, as one step of history."""
        return Edit(self.store, label, documents, expected)
