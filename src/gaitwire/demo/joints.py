"""Tamsin's joints: patches where they would open, and bend fixes at elbows and knees."""

from __future__ import annotations

from gaitwire.core.puppet.controls import Row, RowKind
from gaitwire.services.rig.joint_gaps import Mending, RemedyKind
from gaitwire.services.rig.mirrored_shapes import Reflecting
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.workspace import Workspace

_REMEDIES: dict[str, RemedyKind] = {
    "near thigh": "patch", "far thigh": "patch", "neck": "patch", "near shin": "round", "far shin": "round",
    "near foot": "round", "far foot": "round",
}  # fmt: skip
"""What is done about a joint that opens: a patch, or where that would not reach, a round end."""

_SLEEVES = {"near": 0.0, "far": 12.0}
"""How many pixels further right a sleeve's elbow lies than the near one's."""

_PINS = (("shoulder", "anchor", 200.0, 262.0), ("cuff", "anchor", 209.0, 374.0), ("elbow", "lead", 190.0, 332.0),
         ("crease", "lead", 216.0, 326.0))  # fmt: skip

_ELBOW: dict[float, dict[str, tuple[float, float]]] = {
    -40.0: {},  # as it is: what hangs, or swings in a walk, needs no mending
    -90.0: {"elbow": (-2.0, 3.0), "crease": (3.0, -2.0)},
    -150.0: {"elbow": (-3.0, 4.0), "crease": (14.0, -19.0)},
}
"""Where the pins of a bent sleeve go, by the elbow's angle: it keeps its corner, and the crease does not gape."""

_KNEE = {
    # By the knee's angle: how the shin's and the thigh's pieces are drawn there.
    70.0: {"shin": {"shift_x": -1.5, "widen": 1.03}},
    140.0: {"shin": {"shift_x": -5.0, "shift_y": -2.0, "widen": 1.1}, "thigh": {"widen": 1.06, "shift_x": -1.5}},
}


def hold_together(workspace: Workspace, puppet_id: str) -> None:
    """Patches at hips and knees, and fixes on the near side, mirrored to the far one."""
    mending = Mending(workspace, puppet_id)
    ids = {b.name: b.id for b in mending.puppet.bones}
    for joint, remedy in _REMEDIES.items():
        mending.mend(ids[joint], remedy)
    for side, over in _SLEEVES.items():
        _pin_sleeve(workspace, puppet_id, side, over)
    work = Reflecting(workspace, puppet_id)
    parts = {p.name: p.id for p in work.puppet.parts}
    pins = {p.name: p.id for p in work.puppet.pins}
    for angle, moves in _ELBOW.items():
        entry = work.add_fix(ids["near forearm"], angle)
        work.put_rows(
            entry,
            [
                _row("pin", pins[f"near {pin}"], prop, value)
                for pin, way in moves.items()
                for prop, value in zip(("shift_x", "shift_y"), way, strict=True)
            ],
        )
    for angle, pieces in _KNEE.items():
        entry = work.add_fix(ids["near shin"], angle)
        rows = [(parts[f"near {piece}"], values) for piece, values in pieces.items()]
        work.put_rows(entry, [_row("part", part, prop, v) for part, values in rows for prop, v in values.items()])
    for control in work.puppet.controls:
        work.mirror_fix(control.id)


def _row(kind: RowKind, owner_id: str, prop: str, value: float) -> Row:
    return Row(kind=kind, owner_id=owner_id, property=prop, value=value)


def _pin_sleeve(workspace: Workspace, puppet_id: str, side: str, over: float) -> None:
    soft = Softening(workspace, puppet_id)
    part = next(p for p in soft.puppet.parts if p.name == f"{side} sleeve")
    for name, kind, x, y in _PINS:
        (pin,) = soft.place_pin(part.id, kind, x + over, y)  # type: ignore[arg-type]
        # Hidden: they are there for the fix, and would be in a hand's way on the Floor.
        soft.set_pins([pin], {"name": f"{side} {name}", "bone_id": None, "hidden": True})
