"""The Bench: every gesture on one puppet, each one step of history."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from gaitwire.core.errors import InvalidInputError, TooLargeError
from gaitwire.core.puppet import edit as rules
from gaitwire.core.puppet import pieces
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.roles import ROLES, guess_from_name
from gaitwire.formats.reading import LIMITS
from gaitwire.services.art_in import put_art
from gaitwire.services.naming import clean_name, unlike
from gaitwire.services.revising import revised
from gaitwire.services.workspace import Workspace
from gaitwire.store.documents import new_id
from gaitwire.store.history import Edit


class Bench:
    """One puppet on the Bench. `revision` is what the page was looking at, if a page asks."""

    def __init__(self, workspace: Workspace, puppet_id: str, revision: int | None = None) -> None:
        self.workspace = workspace
        self.puppet_id = puppet_id
        self.expected = {} if revision is None else {puppet_id: revision}

    @property
    def puppet(self) -> Puppet:
        return self.workspace.puppet(self.puppet_id)

    def _commit(self, label: str, work: Callable[[Puppet], rules.Change]) -> rules.Change:
        with self.workspace.edit(label, [self.puppet_id], self.expected) as edit:
            change = work(self.puppet)
            store_change(edit, change)
        return change

    def rename(self, name: str) -> None:
        """Rename the puppet."""
        with self.workspace.edit("rename", [self.puppet_id], self.expected) as edit:
            edit.put("puppets", [self.puppet.model_copy(update={"name": clean_name(name)})])

    def set_base(self, x: float, y: float) -> None:
        """Move the point the puppet stands on."""
        with self.workspace.edit("move base point", [self.puppet_id], self.expected) as edit:
            edit.put("puppets", [self.puppet.model_copy(update={"base_x": x, "base_y": y})])

    def add_bone(
        self, x: float, y: float, tip: tuple[float, float] | None = None, parent_id: str | None = None, name: str = ""
    ) -> str:
        """A new bone, hanging from `parent_id`; without a tip it is a group. Its id."""
        bone_id = new_id()

        def work(puppet: Puppet) -> rules.Change:
            if parent_id is not None:
                rules.find_bone(puppet, parent_id)
            title = unlike(clean_name(name or "bone"), (b.name for b in puppet.bones))
            guess = guess_from_name(title)
            parent = puppet.bone(parent_id or "")
            bone = Bone(
                id=bone_id, puppet_id=puppet.id, name=title, parent_id=parent_id, rank=len(puppet.bones), x=x, y=y,
                region=guess.region if guess.role or parent is None else parent.region,
                side=guess.side if parent is None else parent.side, role=guess.role,
            )  # fmt: skip
            return rules.Change(bones=(rules.set_tip(bone, *tip) if tip else bone,))

        self._commit("add a bone", work)
        return bone_id

    def group(self, bone_ids: Sequence[str], name: str = "") -> str:
        """Group bones under a new bone without length; its id."""
        bone_id = new_id()

        def work(puppet: Puppet) -> rules.Change:
            title = unlike(clean_name(name or "group"), (b.name for b in puppet.bones))
            return rules.group(puppet, bone_ids, bone_id, title)

        self._commit("group", work)
        return bone_id

    def hang(self, bone_ids: Sequence[str], parent_id: str | None, before_id: str | None = None) -> None:
        """Hang bones from a parent; raises CycleError."""
        self._commit("hang bones", lambda puppet: rules.hang(puppet, bone_ids, parent_id, before_id))

    def hang_beside(self, bone_ids: Sequence[str], sibling_id: str, after: bool) -> None:
        """Hang bones where a sibling hangs, next to it; raises CycleError."""
        self._commit("hang bones", lambda puppet: rules.hang_beside(puppet, bone_ids, sibling_id, after))

    def remove_bones(self, bone_ids: Sequence[str]) -> None:
        """Remove bones; what hung from them goes to the bone above."""
        self._commit("remove bones", lambda puppet: rules.remove_bones(puppet, bone_ids))

    def set_pivot(self, bone_id: str, x: float, y: float) -> None:
        """Move a pivot; the art stays."""
        self._change_bone("move a pivot", bone_id, lambda bone: rules.set_pivot(bone, x, y))

    def set_tip(self, bone_id: str, x: float, y: float) -> None:
        """Move a tip, giving the bone its length and direction."""
        self._change_bone("move a tip", bone_id, lambda bone: rules.set_tip(bone, x, y))

    def _change_bone(self, label: str, bone_id: str, work: Callable[[Bone], Bone]) -> None:
        def change(puppet: Puppet) -> rules.Change:
            bone = rules.find_bone(puppet, bone_id)
            rules.refuse_locked([bone])
            return rules.Change(bones=(work(bone),))

        self._commit(label, change)

    def update_bones(self, bone_ids: Sequence[str], values: dict[str, Any]) -> None:
        """Set fields of several bones at once; raises InvalidInputError for a value that does not fit."""
        if "role" in values and values["role"] not in ("", *ROLES):
            raise InvalidInputError(f"There is no role “{values['role']}”.", "Choose one of the list.")

        def work(puppet: Puppet) -> rules.Change:
            bones = [rules.find_bone(puppet, i) for i in bone_ids]
            if set(values) - {"locked", "hidden"}:
                rules.refuse_locked(bones)
            named = _cleaned(values)
            return rules.Change(bones=tuple(revised(b, named) for b in bones))

        self._commit(f"set {', '.join(values)}".replace("_", " "), work)

    def update_parts(self, part_ids: Sequence[str], values: dict[str, Any]) -> None:
        """Set fields of several parts at once."""

        def work(puppet: Puppet) -> rules.Change:
            parts = [rules.find_part(puppet, i) for i in part_ids]
            if set(values) - {"locked", "hidden"}:
                rules.refuse_locked(parts)
            named = _cleaned(values)
            return rules.Change(parts=tuple(revised(p, named) for p in parts))

        self._commit(f"set {', '.join(values)}", work)

    def hang_parts(self, part_ids: Sequence[str], bone_id: str) -> None:
        """Hang parts from a bone."""
        self._commit("hang parts", lambda puppet: rules.hang_parts(puppet, part_ids, bone_id))

    def reorder(self, part_ids: Sequence[str], behind_id: str | None) -> None:
        """Put parts just in front of another (None: behind everything)."""
        self._commit("reorder parts", lambda puppet: rules.reorder(puppet, part_ids, behind_id))

    def step_order(self, part_ids: Sequence[str], steps: int) -> None:
        """Move parts one place to the front or the back."""
        self._commit("reorder parts", lambda puppet: rules.step_order(puppet, part_ids, steps))

    def take_apart(self, part_id: str) -> list[str]:
        """Every shape of a part as a part of its own, on a bone below the part's; their ids, back to front.

        Raises InvalidInputError for a part that is a single shape.
        """
        with self.workspace.edit("take a part apart", [self.puppet_id], self.expected) as edit:
            puppet = self.puppet
            part = rules.find_part(puppet, part_id)
            arts = pieces.pieces_of(self.workspace.art(part.art_hash))
            if len(arts) < 2:
                raise InvalidInputError(f"“{part.name}” is a single shape.", "There is nothing to take apart.")
            if len(puppet.parts) + len(arts) > LIMITS.parts:
                raise TooLargeError(f"A puppet has at most {LIMITS.parts} parts.", "Join some of them first.")
            made = self._pieces(puppet, part, arts)
            store_change(edit, pieces.apart(puppet, part, made))
        return [piece.id for _, piece in made]

    def _pieces(self, puppet: Puppet, part: Part, arts: Sequence[Art]) -> list[tuple[Bone, Part]]:
        above = rules.find_bone(puppet, part.bone_id)
        taken = {p.name for p in puppet.parts} | {b.name for b in puppet.bones}
        made = []
        for rank, art in enumerate(arts):
            name = unlike(f"{part.name[:70]} {rank + 1}", taken)
            taken.add(name)
            x, y = art.bounds.centre
            bone = Bone(
                id=new_id(), puppet_id=puppet.id, name=name, parent_id=above.id, rank=rank, x=round(x, 3),
                y=round(y, 3), region=above.region, side=above.side,
            )  # fmt: skip
            update = {"id": new_id(), "name": name, "bone_id": bone.id, "art_hash": put_art(self.workspace, art)}
            made.append((bone, part.model_copy(update=update)))
        return made

    def join(self, part_ids: Sequence[str]) -> str:
        """Several parts as one; its id. Their bones stay."""
        with self.workspace.edit("join parts", [self.puppet_id], self.expected) as edit:
            puppet = self.puppet
            parts = sorted((rules.find_part(puppet, i) for i in dict.fromkeys(part_ids)), key=lambda p: p.rank)
            art = pieces.joined_art([(self.workspace.art(p.art_hash), p.opacity) for p in parts])
            store_change(edit, pieces.join(puppet, parts, put_art(self.workspace, art)))
        return parts[0].id

    def remove_parts(self, part_ids: Sequence[str]) -> None:
        """Remove parts; their bones stay."""

        def work(puppet: Puppet) -> rules.Change:
            parts = [rules.find_part(puppet, i) for i in part_ids]
            rules.refuse_locked(parts)
            return rules.Change(removed_parts=tuple(p.id for p in parts))

        self._commit("remove parts", work)


def store_change(edit: Edit, change: rules.Change) -> None:
    """Store what an edit of a puppet changes."""
    edit.put("bones", change.bones)
    edit.put("parts", change.parts)
    edit.remove("parts", change.removed_parts)
    edit.remove("bones", change.removed_bones)


def _cleaned(values: dict[str, Any]) -> dict[str, Any]:
    return {**values, "name": clean_name(str(values["name"]))} if "name" in values else values
