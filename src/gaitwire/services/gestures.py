"""Gestures on one puppet: each one step of history, and nothing stored that cannot be shown."""

from __future__ import annotations

from collections.abc import Callable

from gaitwire.core.puppet.change import KINDS, Change, applied
from gaitwire.core.puppet.model import Puppet
from gaitwire.services.workspace import Workspace
from gaitwire.store.history import Edit


class PuppetGestures:
    """What all benches share. `revision` is what the page was looking at, if a page asks."""

    def __init__(self, workspace: Workspace, puppet_id: str, revision: int | None = None) -> None:
        self.workspace = workspace
        self.puppet_id = puppet_id
        self.expected = {} if revision is None else {puppet_id: revision}

    @property
    def puppet(self) -> Puppet:
        return self.workspace.puppet(self.puppet_id)

    def commit(self, label: str, work: Callable[[Puppet], Change]) -> Change:
        """One step of history; raises what `work` raises, and InvalidInputError for a soft part that cannot bend."""
        with self.workspace.edit(label, [self.puppet_id], self.expected) as edit:
            puppet = self.puppet
            change = work(puppet)
            self._try_skins(puppet, applied(puppet, change))
            store_change(edit, change)
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


def store_change(edit: Edit, change: Change) -> None:
    """Store what an edit of a puppet changes."""
    for table in KINDS:
        edit.put(table, getattr(change, table))
    for table in reversed(KINDS):
        edit.remove(table, getattr(change, f"removed_{table}"))
