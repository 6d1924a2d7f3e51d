"""Live drags over a WebSocket: where the pointer is goes in, one evaluated frame comes out.

The page sends its next message only after the last reply, and always the latest, so there is
never a queue. Nothing is stored here.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Callable
from typing import Any, cast

import numpy as np
from fastapi import APIRouter
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocket, WebSocketDisconnect

from gaitwire.core.errors import GaitWireError, InvalidInputError
from gaitwire.core.evaluate import CompiledScene, Frames, evaluate
from gaitwire.core.evaluate.braces import Held
from gaitwire.core.evaluate.bracing import braced, take_braces
from gaitwire.core.evaluate.camera import filmed
from gaitwire.core.evaluate.compiled_scene import planted, riding
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.evaluate.grip import Grip
from gaitwire.core.evaluate.handles import Wanted, drag, onto_grid, take_all, tops, unwrapped
from gaitwire.core.evaluate.reaching import LimbGrip, reach, take_limb
from gaitwire.core.evaluate.together import WAYS, chain_of_nodes, curl, take_together
from gaitwire.core.puppet.change import PuppetChange, applied
from gaitwire.core.puppet.controls import CORRECTED, Entry
from gaitwire.core.puppet.corrective_shapes import find_entry
from gaitwire.core.puppet.snap import snap_point
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.tolerances import VALUE_DIGITS
from gaitwire.core.walk.settings import SETTINGS
from gaitwire.services.rig.corrective_shapes import Correcting, Drag, RowOwner, said_of
from gaitwire.services.scene.dragging import SceneDrag
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.session.journal import put_down
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.readout import readout, short_of
from gaitwire.web.live_messages import (
    MESSAGES,
    CorrectMove,
    FootprintMove,
    Message,
    PoseMove,
    Posing,
    ReachMove,
    SnapMove,
    StandMove,
    TogetherMove,
    WalkMove,
)

router = APIRouter()

Reply = tuple[dict[str, Any], Frames | None]


ORDERS = {"shift": tops, "curl": chain_of_nodes}
"""Gestures that take not just the chosen nodes, as they come."""


class Session:
    """What one open page keeps between moves."""

    def __init__(self, workspace: Workspace, kind: str, document_id: str) -> None:
        self.workspace = workspace
        self.kind = kind
        self.document_id = document_id
        self._began = -1
        self._last: Wanted = {}
        self._grips: list[Grip] = []
        self._others: list[Grip] = []
        self._limb: LimbGrip | None = None
        self._held: tuple[Held, ...] = ()
        self._corrected: tuple[Entry, CompiledScene] | None = None
        self._drag = SceneDrag(Floor(workspace, document_id))

    def answer(self, message: Message) -> Reply:
        head, frames = KINDS[message.kind](self, message)
        return head, filmed(frames) if frames and message.lens else frames

    def pose(self, message: PoseMove) -> Reply:
        """Drag nodes; the values wanted, and the frame as it would look."""
        compiled = self._compiled()
        if message.began != self._began:
            order = ORDERS.get(message.gesture)
            nodes = order(compiled, message.nodes) if order else message.nodes
            self._grips = take_all(compiled, nodes, message.frame, message.blocking, message.gesture)
        if not self._grips:
            raise InvalidInputError("Nothing is chosen to drag.")
        start, now = (message.from_x, message.from_y), (message.x, message.y)
        if message.gesture == "shift" and compiled.scene.snaps and compiled.scene.grid > 0 and not message.free:
            now = onto_grid(self._grips[0], start, now, compiled.scene.grid)
        if message.gesture == "curl":
            wanted = curl(self._grips, start, now)
        else:
            wanted = drag(message.gesture, self._grips[0], self._grips[1:], start, now, message.step)
        return self._shown(compiled, message, wanted)

    def together(self, message: TogetherMove) -> Reply:
        """Move, turn or scale nodes as one thing about a point."""
        compiled = self._compiled()
        work = WAYS.get(message.gesture)
        if work is None:
            raise InvalidInputError(f"There is no gesture “{message.gesture}”.")
        if message.began != self._began:
            self._grips, self._others = take_together(compiled, message.nodes, message.frame, message.blocking)
        if not self._grips:
            raise InvalidInputError("Nothing is chosen to drag.")
        about, start = (message.about_x, message.about_y), (message.from_x, message.from_y)
        return self._shown(compiled, message, work(self._grips, self._others, about, start, (message.x, message.y)))

    def _compiled(self) -> CompiledScene:
        if self.kind == "puppet":
            return self.workspace.compiled_puppet(self.document_id)
        return self.workspace.compiled(self.document_id)

    def _shown(self, compiled: CompiledScene, message: Posing, wanted: Wanted) -> Reply:
        if message.began == self._began:
            wanted = {k: unwrapped(self._last.get(k, v), v) if k[2] == "turn" else v for k, v in wanted.items()}
        else:
            self._held = take_braces(compiled, message.braces, message.frame, message.blocking)
        kept = braced(compiled, self._held, message.frame, wanted, message.blocking, message.free)
        wanted = {address: round(value, VALUE_DIGITS) for address, value in kept.values.items()}
        self._began, self._last = message.began, wanted
        frames = self._drawn(compiled, message.frame, wanted, message.blocking)
        said = readout(compiled, frames, wanted)
        if kept.stopped:
            said = f"{said}, as far as {', '.join(kept.stopped)} {'goes' if message.free else 'reaches (Alt lets go)'}"
        if kept.loose:
            said = f"{said}, {', '.join(kept.loose)} not braced here"
        return {"values": [[*address, value] for address, value in wanted.items()], "said": said}, frames

    def _drawn(self, compiled: CompiledScene, frame: float, wanted: Wanted, blocking: bool) -> Frames:
        if self.kind == "puppet":
            return evaluate(compiled, np.array([frame]), wanted)
        return self._drag.picture(compiled, frame, wanted, blocking)

    def reach(self, message: ReachMove) -> Reply:
        """Drag a limb by one of its joints while another stays; also by how much it cannot follow."""
        compiled = self._compiled()
        if message.began != self._began or self._limb is None:
            instance = message.nodes[0][0] if message.nodes else self.document_id
            self._limb = take_limb(compiled, instance, message.limb, message.frame, message.blocking)
        found = reach(self._limb, (message.x, message.y), message.joint, message.stays)
        head, frames = self._shown(compiled, message, found.values)
        return {**head, "miss": found.miss, "said": head["said"] + short_of(compiled, self._limb, found)}, frames

    def footprint(self, message: FootprintMove) -> Reply:
        """A plant's spot elsewhere; nothing is stored."""
        compiled = self._compiled()
        spot = {"x": message.x, "y": message.y, "angle": message.angle}
        plant = next((p for p in compiled.scene.plants if p.id == message.plant), None)
        if plant is None:
            raise InvalidInputError("This plant is not there any more.", "Reload the page.")
        moved = planted(compiled, plant.model_copy(update=spot))
        return {"values": [], "said": ""}, evaluate(moved, np.array([message.frame]), blocking=message.blocking)

    def walk(self, message: WalkMove) -> Reply:
        """A walk of the scene with one of its settings at a value, as it is shown; nothing is stored."""
        compiled, name = self._compiled(), message.setting
        gait = next((g for g in compiled.scene.gaits if g.id == message.walk), None)
        if name not in PROPERTIES["walk"] or gait is None:
            raise InvalidInputError("This walk or its setting is not there.", "Reload the page.")
        departs = SETTINGS[name].read(message.value) - getattr(gait.card, name)
        shown = riding(compiled, gait.id, name, departs)
        return {"values": [], "said": ""}, evaluate(shown, np.array([message.frame]))

    def stand(self, message: StandMove) -> Reply:
        """A pad or gauge at a place, or a fix's joint at an angle; nothing is stored."""
        compiled = self._compiled()
        if not message.nodes:
            raise InvalidInputError("Nothing is chosen to be placed.")
        names = {"fix": ("turn",), "gauge": ("x",)}.get(message.control, ("x", "y"))
        wanted = {(*message.nodes[0], n): v for n, v in zip(names, (message.x, message.y), strict=False)}
        shown = self._drawn(compiled, message.frame, wanted, message.blocking)
        return {"values": [[*address, value] for address, value in wanted.items()], "said": ""}, shown

    def correct(self, message: CorrectMove) -> Reply:
        """An entry of a fix, pad or gauge as a drag of its `nodes` (kind, id) or `anchors` would have it."""
        work = Correcting(self.workspace, self.document_id)
        if message.began != self._began or self._corrected is None:
            self._corrected = find_entry(work.puppet, message.entry), work.compiled(message.entry)
        self._began = message.began
        entry, compiled = self._corrected
        owners = tuple(cast(RowOwner, node) for node in message.nodes if node[0] in CORRECTED)
        start, now = (message.from_x, message.from_y), (message.x, message.y)
        found = work.dragged(entry, compiled, Drag(message.gesture, owners, start, now, tuple(message.anchors)))
        puppet = applied(work.puppet, PuppetChange(entries=(found.entry,)))
        shown = work.compiled(message.entry, puppet)
        head: dict[str, Any] = {
            "rows": [r.model_dump() for r in found.rows], "reshapes": [r.model_dump() for r in found.reshapes],
            "said": said_of(found.rows),
        }  # fmt: skip
        if message.gesture == "points":
            head["anchors"] = work.anchors_in(found.entry, shown, owners[0][1])
        return head, evaluate(shown, np.zeros(1))

    def snap(self, message: SnapMove) -> Reply:
        """Where a joint would catch."""
        if message.free:
            return {"x": message.x, "y": message.y, "snap": ""}, None
        puppet = self.workspace.puppet(self.document_id)
        boxes = [self.workspace.art(p.art_hash).bounds for p in puppet.parts if not p.hidden]
        own = {owner for _, owner in message.nodes}
        joints = [(b.x, b.y) for b in puppet.bones if b.id not in own]
        found = snap_point(message.x, message.y, boxes, joints, message.reach)
        return {"x": found.x, "y": found.y, "snap": found.kind}, None


KINDS: dict[str, Callable[[Session, Any], Reply]] = {
    "pose": Session.pose, "reach": Session.reach, "together": Session.together, "footprint": Session.footprint,
    "walk": Session.walk, "snap": Session.snap, "stand": Session.stand, "correct": Session.correct,
}  # fmt: skip
"""Every kind of live message."""


def encode(head: dict[str, Any], frames: Frames | None) -> bytes:
    """A reply: the length of its JSON head, the head padded to four bytes, the packed frame."""
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<I", len(text)) + text + (pack(frames) if frames is not None else b"")


def told(work: Callable[[], Reply], where: str) -> bytes:
    """An answer as it is sent; a message that is bad is answered with what is wrong."""
    try:
        return encode(*work())
    except ValidationError:
        return encode({"error": "This gesture could not be read."}, None)
    except GaitWireError as error:
        return encode({"error": str(error)}, None)
    except Exception as error:  # noqa: BLE001 - the line stays open whatever happens; the log has it all
        number = put_down(error, where)
        return encode({"error": f"Something went wrong in the program (number {number}). Let go and try again."}, None)


def reply(session: Session, text: str) -> bytes:
    """The answer to one message of a drag."""
    return told(lambda: session.answer(MESSAGES.validate_json(text)), f"live {session.kind}")


async def serve(socket: WebSocket, answer: Callable[[str], bytes]) -> None:
    """Answer one page's messages, in a worker thread so that other pages are not held up."""
    await socket.accept()
    try:
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                return
            # What is no text is no message either, and answered as such.
            await socket.send_bytes(await run_in_threadpool(answer, message.get("text") or ""))
    except WebSocketDisconnect:
        return


@router.websocket("/live/{kind}/{document_id}")
async def live(socket: WebSocket, kind: str, document_id: str) -> None:
    """Serve one page's drags."""
    session = Session(cast(Workspace, socket.app.state.workspace), kind, document_id)
    await serve(socket, lambda text: reply(session, text))
