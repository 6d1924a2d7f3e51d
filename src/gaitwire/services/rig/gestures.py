"""Gestures on one puppet: each one step of history, and nothing stored that cannot be shown."""

from __future__ import annotations

from collections.abc import Callable

from gaitwire.core.errors import NotFoundError
from gaitwire.core.puppet.change import KINDS, PuppetChange, applied
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import CAMERA_ID
from gaitwire.services.session.rest_compensation import ALLOWED, Word, changes_rest, mend_scenes
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.history import Edit


class PuppetGestures:
    """What all benches share. `revision` is what the page was looking at, if a page asks.

    `word` says what becomes of the keys of scenes when its rest changes.
    """

    def __init__(
        self, workspace: Workspace, puppet_id: str, revision: int | None = None, word: Word = "keep",
        allowed: float = ALLOWED,
    ) -> None:  # fmt: skip
        if puppet_id == CAMERA_ID:
            raise NotFoundError("A camera has no Bench.", "It is set on the Floor, on its card.")
        self.workspace = workspace
        self.puppet_id = puppet_id
        self.expected = {} if revision is None else {puppet_id: revision}
        self.word, self.allowed = word, allowed
        self.said = ""
        """What the last gesture did to scenes, in a few words."""

    @property
    def puppet(self) -> Puppet:
        return self.workspace.puppet(self.puppet_id)

    def commit(self, label: str, work: Callable[[Puppet], PuppetChange]) -> PuppetChange:
        """One step of history; raises what `work` raises, and InvalidInputError for a soft part that cannot bend.

        NeedsWordError where the puppet's rest changes, scenes would show it, and a word is asked for.
        """
        with self.workspace.edit(label, [self.puppet_id], self.expected) as edit:
            puppet = self.puppet
            change = work(puppet)
            after = applied(puppet, change)
            self._try_skins(puppet, after)
            store_change(edit, change)
            if changes_rest(puppet, after):
                self.said = mend_scenes(self.workspace, edit, puppet, after, self.word, self.allowed).said
        return change

    def _try_skins(self, before: Puppet, after: Puppet) -> None:
        """Make the skins that a change touches, so that what cannot bend is refused and not shown rigid."""
        for part in after.parts:
            if part.soft and _bends(before, part.id) != _bends(after, part.id):
                self.workspace.skins.skin(after, part)


def _bends(puppet: Puppet, part_id: str) -> object:
    """All that a part's mesh and pins are made from."""
    part = puppet.part(part_id)
    if part is None:
        return None
    arts = [d.art_hash for d in puppet.drawings(part)]
    return part.soft, part.grain, part.bone_id, part.bends_with, part.weights_hash, arts, puppet.pins_of(part_id)


def store_change(edit: Edit, change: PuppetChange) -> None:
    """Store what an edit of a puppet changes."""
    for table in KINDS:
        edit.put(table, getattr(change, table))
    for table in reversed(KINDS):
        edit.remove(table, getattr(change, f"removed_{table}"))
