"""BVH: a skeleton of joints and its motion, as text. Read only what a walk needs: where every joint is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from gaitwire.core.bounds import FARTHEST
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, TooLargeError

MOST_BYTES = 50_000_000
MOST_JOINTS = 500
MOST_FRAMES = 40_000
_AXES = "XYZ"
_CHANNEL = re.compile(r"([xyz])(position|rotation)", re.IGNORECASE)


@dataclass(frozen=True)
class BvhJoint:
    """One joint, or the end of the last: its parent's index (-1: none), and which column each channel is in."""

    name: str
    parent: int
    offset: tuple[float, float, float]
    channels: tuple[tuple[str, int], ...]
    """Such as ("Xrotation", 5), in the order in which they apply."""


@dataclass(frozen=True)
class BvhMotion:
    """A skeleton, and its channels' values (F, C): degrees, and units of length of its own."""

    joints: tuple[BvhJoint, ...]
    values: FloatArray
    frame_time: float

    def places(self) -> FloatArray:
        """Where every joint is, (J, F, 3)."""
        count = len(self.values)
        places = np.zeros((len(self.joints), count, 3))
        turns: list[Rotation] = []
        for n, joint in enumerate(self.joints):
            local = np.tile(np.array(joint.offset), (count, 1))
            spins: list[tuple[str, int]] = []
            for name, column in joint.channels:
                axis = name[0].upper()
                if name[1:].lower() == "position":
                    local[:, _AXES.index(axis)] += self.values[:, column]
                else:
                    spins.append((axis, column))
            own = _turned(spins, self.values)
            if joint.parent < 0:
                places[n], turn = local, own
            else:
                up = turns[joint.parent]
                places[n], turn = places[joint.parent] + up.apply(local), up * own
            turns.append(turn)
        return places


def _turned(spins: list[tuple[str, int]], values: FloatArray) -> Rotation:
    """Rotations about a joint's own axes, one after the other as they are listed."""
    turn = Rotation.identity(len(values))
    for axis, column in spins:
        turn = turn * Rotation.from_euler(axis, values[:, column : column + 1], degrees=True)
    return turn


class _Words:
    """The words of a file, one after the other."""

    def __init__(self, text: str) -> None:
        self._words = iter(text.split())

    def next(self) -> str:
        found = next(self._words, None)
        if found is None:
            raise InvalidInputError("This BVH file ends too early.", "Export it again, whole.")
        return found

    def expect(self, word: str) -> None:
        found = self.next()
        if found.lower() != word.lower():
            raise InvalidInputError(f"This is no BVH file: “{found[:20]}” stands where “{word}” belongs.")

    def number(self) -> float:
        found = self.next()
        try:
            return float(found)
        except ValueError:
            raise InvalidInputError(f"This BVH file has “{found[:20]}” where a number belongs.") from None

    def place(self) -> float:
        found = self.number()
        if not abs(found) <= FARTHEST:
            raise InvalidInputError("This BVH file has an offset beyond all measure.", "Export it again.")
        return found

    def whole(self, most: int, what: str) -> int:
        found = self.number()
        if not 0 <= found <= most or found != int(found):
            raise TooLargeError(f"This BVH file has {found:g} {what}; {most} is the most.", "Cut it shorter.")
        return int(found)

    def rest(self) -> Iterator[str]:
        return self._words


def read_bvh(data: bytes) -> BvhMotion:
    """The motion in a BVH file; raises InvalidInputError that says what is wrong with it."""
    if len(data) > MOST_BYTES:
        raise TooLargeError(f"This file is larger than {MOST_BYTES // 10**6} MB.", "Cut it to a few strides.")
    try:
        words = _Words(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise InvalidInputError("This is no BVH file: it is not text.") from None
    words.expect("HIERARCHY")
    words.expect("ROOT")
    joints, columns = _skeleton(words)
    words.expect("Frames:")
    frames = words.whole(MOST_FRAMES, "frames")
    words.expect("Frame")
    words.expect("Time:")
    seconds = words.number()
    try:
        values = np.array([float(word) for word in words.rest()])
    except ValueError:
        raise InvalidInputError("Its motion is not all numbers.", "Export it again.") from None
    if frames < 2 or len(values) != frames * columns or not np.isfinite(values).all() or not 1e-4 < seconds < 10:
        raise InvalidInputError(
            f"Its motion does not fit: {frames} frames of {columns} numbers are announced, {len(values)} are there.",
            "Export it again.",
        )
    if np.abs(values).max(initial=0.0) > FARTHEST:
        raise InvalidInputError("Its motion has numbers beyond all measure.", "Export it again.")
    return BvhMotion(tuple(joints), values.reshape(frames, columns), seconds)


def _skeleton(words: _Words) -> tuple[list[BvhJoint], int]:
    """Joints in order, from after the word ROOT to the word MOTION, and how many columns they take."""
    joints: list[BvhJoint] = []
    open_: list[int] = []
    columns = 0
    kind = "ROOT"
    while True:
        name = words.next()
        words.expect("{")
        words.expect("OFFSET")
        offset = (words.place(), words.place(), words.place())
        channels: list[tuple[str, int]] = []
        if kind != "END":
            words.expect("CHANNELS")
            for _ in range(words.whole(6, "channels of a joint")):
                channel = words.next()
                if not _CHANNEL.fullmatch(channel):
                    raise InvalidInputError(
                        f"This BVH file has a channel “{channel[:20]}”.", "Known: Xrotation and so on."
                    )
                channels.append((channel, columns))
                columns += 1
        joints.append(BvhJoint(name, open_[-1] if open_ else -1, offset, tuple(channels)))
        if len(joints) > MOST_JOINTS:
            raise TooLargeError(f"This BVH file has more than {MOST_JOINTS} joints.", "Export fewer.")
        open_.append(len(joints) - 1)
        while (kind := words.next().upper()) == "}":
            if not open_:
                raise InvalidInputError("This BVH file closes a joint that is not open.")
            open_.pop()
        if kind == "MOTION" and not open_:
            return joints, columns
        if kind not in ("JOINT", "END") or not open_:
            raise InvalidInputError(f"This BVH file has “{kind[:20]}” among its joints.", "One skeleton can be read.")
