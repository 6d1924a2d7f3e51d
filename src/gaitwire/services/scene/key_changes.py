"""Changes of keys that several gestures make: of those that beads are made of, of all of some wires."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Key
from gaitwire.services.scene.gestures import Draft
from gaitwire.services.scene.kept_poses import FOREVER

KeyWork = Callable[[Scene, list[Key], Collection[str]], KeyChange]
"""What becomes of a channel's keys, some of which are chosen by id."""


def change_keys(
    draft: Draft, label: str, beads: Iterable[Bead], work: KeyWork, eased: bool = False, slides: bool = False
) -> None:
    """Change the keys that beads are made of, channel by channel.

    `slides`: they move in time; where all of a channel's do, that plays the same at other times, poses or not.
    """
    draft.labelled(label)
    put_changed(draft, list(beads), work, eased, slides)


def put_changed(draft: Draft, beads: Sequence[Bead], work: KeyWork, eased: bool = False, slides: bool = False) -> None:
    """The same without a label."""
    draft.refuse_locked((b.instance_id, b.owner_id) for b in beads)
    scene = draft.scene
    keys = scene.keys_by_channel(asleep=not eased)
    nodes = {c.id: (c.instance_id, c.owner_id) for c in scene.channels}
    for bead in beads:
        draft.means(bead[:2], bead.time)
    for channel_id, chosen in draft.chosen_keys(beads, eased).items():
        change = work(scene, keys[channel_id], chosen)
        if slides and len(chosen) == len(keys[channel_id]):
            draft.means(nodes[channel_id], -FOREVER, FOREVER)
        for key in change.put:
            draft.means(nodes[channel_id], key.time)
        store_keys(draft, change)


def change_channels(
    draft: Draft, label: str, nodes: Collection[Node], work: Callable[[Scene, Channel, list[Key]], KeyChange],
    meant: tuple[float, float] | None = None, asleep: bool = False,
) -> int:  # fmt: skip
    """Change the keys of all channels of some nodes, meaning some frames; how many channels that changed."""
    changed = 0
    draft.labelled(label)
    draft.refuse_locked(nodes)
    if meant is not None:
        for node in nodes:
            draft.means(node, *meant)
    scene = draft.scene
    keys = scene.keys_by_channel(asleep)
    every: dict[str, set[str]] = {}
    for key in scene.keys:
        every.setdefault(key.channel_id, set()).add(key.id)
    for channel in (c for c in draft.channels_of(nodes) if c.id in keys):
        change = work(scene, channel, keys[channel.id])
        changed += bool(change.put or change.removed)
        store_keys(draft, change)
        if not change.put and change.removed and set(change.removed) >= every.get(channel.id, set()):
            draft.remove(Channel, [channel.id])
    return changed


def store_keys(draft: Draft, change: KeyChange, gives_way: bool = False) -> None:
    """Write what an edit of keys changes.

    Where the gesture has written another key on the same frame already, that one is replaced; or, if this
    `gives_way`, is left as it is.
    """
    draft.remove(Key, change.removed)
    own = {k.id for k in change.put}
    meets = {k.id: other for k in change.put if (other := draft.changes.key_written_at(k)) and other not in own}
    if gives_way:
        draft.put(k for k in change.put if k.id not in meets)
        return
    draft.remove(Key, meets.values())
    draft.put(change.put)
