"""What of a puppet lies in time besides its keys: poses, plants, hitches, bearings; and how they go with keys."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene
from gaitwire.core.scene_tables import TIMED
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.mark import Pose
from gaitwire.services.scene.gestures import Draft


def slide_marks(draft: Draft, scene: Scene, cast: Mapping[str, Puppet], chosen: Collection[str], by: float) -> None:
    """Slide marks by frames along with keys, by their ids, where all that they are about slides.

    That is every key of their puppet; for a plant every key of its limb is enough, for a hitch every
    key of what is hitched.
    """
    keys = scene.keys_by_channel(asleep=True)
    held: dict[str, dict[str, list[str]]] = {}
    for channel in scene.channels:
        own = held.setdefault(channel.instance_id, {}).setdefault(channel.owner_id, [])
        own.extend(k.id for k in keys.get(channel.id, []))

    def slides(instance_id: str, owners: Collection[str] | None = None) -> bool:
        rows = held.get(instance_id, {})
        ids = [i for owner, row in rows.items() if owners is None or owner in owners for i in row]
        return bool(ids) and all(i in chosen for i in ids)

    def follows(mark: Pose | Plant | Hitch | Bearing) -> bool:
        who = mark.instance_id
        if isinstance(mark, Plant) and slides(who, _bones(scene, cast, mark)):
            return True
        return slides(who) or (isinstance(mark, Hitch) and slides(who, {mark.owner_id}))

    for table in TIMED:
        moved = []
        for mark in filter(follows, getattr(scene, table.name)):
            first = getattr(mark, table.times[0])
            step = by if scene.loop_length is None else wrap(first + by, scene.loop_length) - first
            moved.append(mark.model_copy(update={f: getattr(mark, f) + step for f in table.times}))
        draft.put(moved)


def _bones(scene: Scene, cast: Mapping[str, Puppet], plant: Plant) -> set[str]:
    """Ids of a planted limb, of its bones and of its tip."""
    puppets = (cast.get(i.puppet_id) for i in scene.instances if i.id == plant.instance_id)
    found = ((p, limb) for p in puppets if p for limb in p.limbs if limb.id == plant.limb_id)
    return {owner for p, limb in found for owner in (limb.id, limb.tip_id, *(b.id for b in chain_of(p, limb)))}
