"""What a drag says beside the pointer: how long things are against rest, and how far they are turned."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import CompiledScene, Frames
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.handles import Wanted
from gaitwire.core.evaluate.reaching import LimbGrip, Reach
from gaitwire.core.evaluate.values import sample_values, shown_times
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Pin, Puppet
from gaitwire.core.timing.channel import NODE_PROPERTIES


def readout(compiled: CompiledScene, frames: Frames, wanted: Wanted) -> str:
    """A few words about the first thing that a drag moves; '' if there is nothing to say."""
    if not wanted:
        return ""
    (instance_id, owner_id, _), _ = next(iter(wanted.items()))
    compiled_puppet = next(i for i in compiled.compiled_puppets if i.source.instance.id == instance_id)
    puppet = compiled_puppet.source.puppet
    pin = next((p for p in puppet.pins if p.id == owner_id), None)
    if pin is not None:
        return _pin_said(puppet, compiled_puppet, frames, pin)
    own = {prop: value for (i, o, prop), value in wanted.items() if (i, o) == (instance_id, owner_id)}
    words = []
    if "stretch" in own or "widen" in own:
        along, across = own.get("stretch"), own.get("widen")
        words += [f"long {along * 100:.0f} %"] if along is not None else []
        words += [f"wide {across * 100:.0f} %"] if across is not None else []
        words.append(f"area {_area(compiled_puppet, frames, wanted, (instance_id, owner_id)) * 100:.0f} %")
    elif "turn" in own:
        words.append(f"{own['turn']:.1f}°")
    elif "skew" in own:
        words.append(f"skew {own['skew']:.1f}°")
    elif "shift_x" in own:
        words.append(f"{own['shift_x']:.0f}, {own['shift_y']:.0f} px")
    limb = _limb_said(puppet, wanted, instance_id)
    return ", ".join([*words, limb] if limb else words)


def _area(puppet: CompiledPuppet, frames: Frames, wanted: Wanted, node: tuple[str, str]) -> float:
    """What a node's own stretch, width and keeping make of its area."""
    values = sample_values(puppet, shown_times(puppet, frames.frames), wanted)[puppet.nodes.owners.index(node), :, 0]
    stretch, widen, keep = (float(values[NODE_PROPERTIES.index(name)]) for name in ("stretch", "widen", "keep"))
    return float(stretch * widen * stretch**-keep)


def short_of(compiled: CompiledScene, grip: LimbGrip, found: Reach) -> str:
    """By how much a limb falls short of where it is dragged, and why; '' if it does not."""
    if found.miss <= 1:
        return ""
    puppet = next(i for i in compiled.compiled_puppets if i.source.instance.id == grip.instance_id)
    names = [b.name for b in puppet.source.puppet.bones if b.id in found.held]
    why = f": {' and '.join(names)} at the turn limit" if names else ""
    return f", {found.miss:.0f} px short{why}"


def _limb_said(puppet: Puppet, wanted: Wanted, instance_id: str) -> str:
    """How long a limb is against rest, when a drag stretches bones of one."""
    stretched = {o: v for (i, o, prop), v in wanted.items() if i == instance_id and prop == "stretch"}
    for limb in puppet.limbs:
        chain = chain_of(puppet, limb)
        rest = sum(b.length for b in chain)
        if len(chain) > 1 and rest > 0 and any(b.id in stretched for b in chain):
            now = sum(b.length * stretched.get(b.id, 1.0) for b in chain)
            return f"{limb.name} {now / rest * 100:.0f} %"
    return ""


def _pin_said(puppet: Puppet, compiled_puppet: CompiledPuppet, frames: Frames, pin: Pin) -> str:
    """How far a pin is from the others of its part, against rest: the nearest one, and the one most drawn out."""
    places = {owner: frames.nodes[0, frames.node_keys.index((compiled_puppet.source.instance.id, owner))] for owner in
              (p.id for p in puppet.pins_of(pin.part_id))
              if (compiled_puppet.source.instance.id, owner) in frames.node_keys}  # fmt: skip
    if pin.id not in places:
        return ""
    scale = compiled_puppet.source.instance.scale
    found = []
    for other in puppet.pins_of(pin.part_id):
        rest = float(np.hypot(other.x - pin.x, other.y - pin.y)) * scale
        if other.id != pin.id and other.id in places and rest > 1e-6:
            now = float(np.hypot(*(_place(places[other.id]) - _place(places[pin.id]))))
            found.append((rest, now / rest, other.name))
    if not found:
        return ""
    _, ratio, name = min(found)
    return f"to {name} {ratio * 100:.0f} %"


def _place(matrix: FloatArray) -> FloatArray:
    out: FloatArray = matrix[4:6]
    return out
