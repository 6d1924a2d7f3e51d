"""The Bench: every gesture on one puppet, each one step of history."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gaitwire.core.errors import InvalidInputError, TooLargeError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import edit as rules
from gaitwire.core.puppet import joints, pieces
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.mirroring import Mirror, mirror_bones, with_all_below
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.placing import placed, reflection
from gaitwire.core.puppet.roles import ROLES, guess_from_name
from gaitwire.core.puppet.views import VIEWS
from gaitwire.formats.reading import LIMITS
from gaitwire.services.library.art_in import put_art
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised


class Bench(PuppetGestures):
    """One puppet's bones and parts."""

    def rename(self, name: str) -> None:
        """Rename the puppet."""
        with self.workspace.edit("rename", [self.puppet_id], self.expected) as edit:
            edit.put("puppets", [self.puppet.model_copy(update={"name": clean_name(name)})])

    def set_base(self, x: float, y: float) -> None:
        """Move the point the puppet stands on."""
        with self.workspace.edit("move base point", [self.puppet_id], self.expected) as edit:
            edit.put("puppets", [self.puppet.model_copy(update={"base_x": x, "base_y": y})])

    def set_view(self, view: str) -> None:
        """Say from where the puppet is drawn; raises InvalidInputError for what is no view."""
        made = revised(self.puppet, {"view": view})
        with self.workspace.edit(f"drawn {VIEWS[made.view].label}", [self.puppet_id], self.expected) as edit:
            edit.put("puppets", [made])

    def add_bone(
        self, x: float, y: float, tip: tuple[float, float] | None = None, parent_id: str | None = None, name: str = ""
    ) -> str:
        """A new bone, hanging from `parent_id`; without a tip it is a group. Its id."""
        bone_id = new_id()

        def work(puppet: Puppet) -> PuppetChange:
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
            return PuppetChange(bones=(joints.set_tip(bone, *tip) if tip else bone,))

        self.commit("add a bone", work)
        return bone_id

    def group(self, bone_ids: Sequence[str], name: str = "") -> str:
        """Group bones under a new bone without length; its id."""
        bone_id = new_id()

        def work(puppet: Puppet) -> PuppetChange:
            title = unlike(clean_name(name or "group"), (b.name for b in puppet.bones))
            return rules.group(puppet, bone_ids, bone_id, title)

        self.commit("group", work)
        return bone_id

    def hang(self, bone_ids: Sequence[str], parent_id: str | None, before_id: str | None = None) -> None:
        """Hang bones from a parent; raises CycleError."""
        self.commit("hang bones", lambda puppet: rules.hang(puppet, bone_ids, parent_id, before_id))

    def hang_beside(self, bone_ids: Sequence[str], sibling_id: str, after: bool) -> None:
        """Hang bones where a sibling hangs, next to it; raises CycleError."""
        self.commit("hang bones", lambda puppet: rules.hang_beside(puppet, bone_ids, sibling_id, after))

    def remove_bones(self, bone_ids: Sequence[str]) -> None:
        """Remove bones; what hung from them goes to the bone above."""
        self.commit("remove bones", lambda puppet: rules.remove_bones(puppet, bone_ids))

    def move_joint(self, bone_id: str, end: joints.End, x: float, y: float, alone: bool = False) -> None:
        """Move an end of a bone with those of its neighbours that lie on it; the art stays."""
        self.commit("move a joint", lambda puppet: joints.move_joint(puppet, bone_id, end, x, y, alone))

    def meet_above(self, bone_ids: Sequence[str]) -> None:
        """Put the pivots of bones on the tips of the bones they hang from."""
        self.commit("snap joints", lambda puppet: joints.meet_above(puppet, bone_ids))

    def insert_above(self, bone_id: str) -> str:
        """A new bone between a bone and the one it hangs from; its id."""
        made = new_id()

        def work(puppet: Puppet) -> PuppetChange:
            name = unlike(f"{rules.find_bone(puppet, bone_id).name[:70]} root", (b.name for b in puppet.bones))
            return joints.insert_above(puppet, bone_id, made, name)

        self.commit("insert a bone", work)
        return made

    def split(self, bone_id: str, pieces: int) -> list[str]:
        """Cut a bone into pieces; the ids of all, root first."""
        if not 2 <= pieces <= joints.MOST_PIECES:
            raise InvalidInputError(f"A bone is cut into 2 to {joints.MOST_PIECES} pieces.", "Type such a number.")
        made = [new_id() for _ in range(pieces - 1)]

        def work(puppet: Puppet) -> PuppetChange:
            title = rules.find_bone(puppet, bone_id).name[:70]
            taken = [b.name for b in puppet.bones]
            for n in range(2, pieces + 1):
                taken.append(unlike(f"{title} {n}", taken))
            return joints.split(puppet, bone_id, made, taken[1 - pieces :])

        self.commit("split a bone", work)
        return [bone_id, *made]

    def mirror(self, bone_ids: Sequence[str], axis: float | None = None) -> list[str]:
        """Bones with all below them, made again or set anew on the other side; ids of those bones."""

        def work(puppet: Puppet) -> PuppetChange:
            arts = self._reflected(puppet, with_all_below(puppet, bone_ids), axis)
            return mirror_bones(puppet, bone_ids, Mirror(axis), new_id, art=arts)

        return [b.id for b in self.commit("mirror bones", work).bones]

    def _reflected(self, puppet: Puppet, bones: Sequence[Bone], axis: float | None) -> dict[str, str]:
        """Hashes of the reflected art of all drawings on the bones, by the hash of the drawing's own."""
        if axis is None:
            return {}
        homes = {b.id for b in bones}
        hashes = {d.art_hash for p in puppet.parts if p.bone_id in homes for d in puppet.drawings(p)}
        matrix = reflection(axis)
        return {h: put_art(self.workspace, placed(self.workspace.art(h), matrix)) for h in hashes}

    def guess_roles(self, bone_ids: Sequence[str]) -> int:
        """Set region, side and role of bones as their names suggest; how many changed."""

        def work(puppet: Puppet) -> PuppetChange:
            changed = []
            for bone in (rules.find_bone(puppet, i) for i in bone_ids):
                guess = guess_from_name(bone.name)
                if guess.role and (bone.region, bone.side, bone.role) != guess:
                    changed.append(bone.model_copy(update=guess._asdict()))
            rules.refuse_locked(changed)
            return PuppetChange(bones=tuple(changed))

        return len(self.commit("guess roles", work).bones)

    def update_bones(self, bone_ids: Sequence[str], values: dict[str, Any]) -> None:
        """Set fields of several bones at once; raises InvalidInputError for a value that does not fit.

        A bone without a role takes the one that its new name suggests.
        """
        if "role" in values and values["role"] not in ("", *ROLES):
            raise InvalidInputError(f"There is no role “{values['role']}”.", "Choose one of the list.")

        def work(puppet: Puppet) -> PuppetChange:
            bones = [rules.find_bone(puppet, i) for i in bone_ids]
            if set(values) - {"locked", "hidden"}:
                rules.refuse_locked(bones)
            named = _cleaned(values)
            return PuppetChange(bones=tuple(revised(b, _guessed(b, named)) for b in bones))

        self.commit(f"set {', '.join(values)}".replace("_", " "), work)

    def update_parts(self, part_ids: Sequence[str], values: dict[str, Any]) -> None:
        """Set fields of several parts at once."""

        def work(puppet: Puppet) -> PuppetChange:
            parts = [rules.find_part(puppet, i) for i in part_ids]
            if set(values) - {"locked", "hidden"}:
                rules.refuse_locked(parts)
            named = _cleaned(values)
            return PuppetChange(parts=tuple(revised(p, named) for p in parts))

        self.commit(f"set {', '.join(values)}", work)

    def hang_parts(self, part_ids: Sequence[str], bone_id: str) -> None:
        """Hang parts from a bone."""
        self.commit("hang parts", lambda puppet: rules.hang_parts(puppet, part_ids, bone_id))

    def reorder(self, part_ids: Sequence[str], behind_id: str | None) -> None:
        """Put parts just in front of another (None: behind everything)."""
        self.commit("reorder parts", lambda puppet: rules.reorder(puppet, part_ids, behind_id))

    def step_order(self, part_ids: Sequence[str], steps: int) -> None:
        """Move parts one place to the front or the back."""
        self.commit("reorder parts", lambda puppet: rules.step_order(puppet, part_ids, steps))

    def take_apart(self, part_id: str) -> list[str]:
        """Every shape of a part as a part of its own, on a bone below the part's; their ids, back to front.

        Raises InvalidInputError for a part that is a single shape.
        """

        def work(puppet: Puppet) -> PuppetChange:
            part = rules.find_part(puppet, part_id)
            arts = pieces.pieces_of(self.workspace.art(part.art_hash))
            if len(arts) < 2:
                raise InvalidInputError(f"“{part.name}” is a single shape.", "There is nothing to take apart.")
            if len(puppet.parts) + len(arts) > LIMITS.parts:
                raise TooLargeError(f"A puppet has at most {LIMITS.parts} parts.", "Join some of them first.")
            return pieces.apart(puppet, part, self._pieces(puppet, part, arts))

        change = self.commit("take a part apart", work)
        homes = {b.id for b in change.bones}
        return [p.id for p in change.parts if p.bone_id in homes]

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

        def work(puppet: Puppet) -> PuppetChange:
            parts = sorted((rules.find_part(puppet, i) for i in dict.fromkeys(part_ids)), key=lambda p: p.rank)
            art = pieces.joined_art([(self.workspace.art(p.art_hash), p.opacity) for p in parts])
            return pieces.join(puppet, parts, put_art(self.workspace, art))

        return next(p.id for p in self.commit("join parts", work).parts if p.id in part_ids)

    def remove_parts(self, part_ids: Sequence[str]) -> None:
        """Remove parts; their bones stay."""
        self.commit("remove parts", lambda puppet: rules.remove_parts(puppet, part_ids))


def _guessed(bone: Bone, values: dict[str, Any]) -> dict[str, Any]:
    """The values, with what a new name says of a bone that has no role yet."""
    guess = guess_from_name(values.get("name", ""))
    return {**guess._asdict(), **values} if guess.role and not bone.role else values


def _cleaned(values: dict[str, Any]) -> dict[str, Any]:
    return {**values, "name": clean_name(str(values["name"]))} if "name" in values else values
