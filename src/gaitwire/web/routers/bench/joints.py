"""Joints on the Bench: what opens, what can be done about it, and the test of all of them."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import APIRouter, Depends, Form
from starlette.responses import HTMLResponse, Response

from gaitwire.services.rig.joint_gaps import OPEN, Mending, RemedyKind
from gaitwire.services.rig.range_test import RATE, range_test
from gaitwire.services.rig.shadows import Shadowing
from gaitwire.web.context import Space, on_puppet
from gaitwire.web.live import encode
from gaitwire.web.routers.bench.page import changed
from gaitwire.web.templating import page

router = APIRouter(prefix="/bench/{puppet_id}")


Mendings = Annotated[Mending, Depends(on_puppet(Mending))]


@router.get("/gaps")
def gaps(mending: Mendings) -> HTMLResponse:
    """Every joint by how far it opens."""
    return page("bench/gaps.html", gaps=mending.gaps(), open=OPEN)


@router.get("/gap/{bone_id}")
def gap(mending: Mendings, bone_id: str, remedies: bool = False) -> HTMLResponse:
    """What opens at one joint, as a curve; with what can be done about it, if asked."""
    joint = mending.joint(bone_id)
    if joint is None or joint.reach <= 0:
        return page("bench/gap.html", bone=bone_id, worst=None, open=OPEN, remedies=None)
    angles, areas = joint.curve()
    at = int(areas.argmax())
    high = max(float(areas.max()), 1.0)
    points = " ".join(f"{a:.1f},{100 - 96 * v / high:.1f}" for a, v in zip(angles, areas, strict=True))
    return page(
        "bench/gap.html", bone=bone_id, worst=(float(areas[at]), float(angles[at])), points=points,
        low=float(angles[0]), high=float(angles[-1]), open=OPEN,
        remedies=mending.remedies(bone_id) if remedies else None,
    )  # fmt: skip


@router.post("/gap/{bone_id}/mend")
def mend(mending: Mendings, bone_id: str, kind: Annotated[str, Form(max_length=20)]) -> HTMLResponse:
    """Apply a remedy."""
    before, after = mending.mend(bone_id, cast(RemedyKind, kind))
    return changed(mending, f"It opened by {before:.0f} px² at most, and now by {after:.0f}. {mending.said}".strip())


@router.post("/shadow")
def shadow(shadowing: Annotated[Shadowing, Depends(on_puppet(Shadowing))]) -> HTMLResponse:
    """Lay a shadow on the ground under the puppet."""
    made = shadowing.add_shadow()
    return changed(shadowing, "A shadow: it lies on the ground in every scene, and fades as the body rises.", made=made)


@router.get("/range.bin")
def range_frames(workspace: Space, puppet_id: str) -> Response:
    """The range test as packed frames, after a JSON head with the joints and the frames on which they open."""
    found = range_test(workspace, puppet_id)
    head = {"joints": [j._asdict() for j in found.joints], "together": found.together, "rate": RATE}
    return Response(
        encode(head, found.frames), media_type="application/octet-stream", headers={"Cache-Control": "no-store"}
    )
