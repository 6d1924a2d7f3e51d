"""Tracks: the course of something that remembers, stepped on the whole frames of a scene from its start.

A track is extended as it is asked, and read at any time, fractions of a frame too: one frame of a drag and a block of a
bake read the same course, in whatever order they come. On a loop it is run in until it closes.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from threading import RLock

import numpy as np

from gaitwire.core.conventions import FloatArray

SEAM = 0.1
"""How much a loop may differ at its seam, by what its stepper counts (pixels), for it to count as closed."""

MOST_ROUNDS = 12
"""Rounds of a loop that are run in."""

DriveOf = Callable[[FloatArray], FloatArray]
"""What drives a stepper (K, F) at whole frames (F,)."""


class Stepper(ABC):
    """How something moves on from one whole frame to the next; its state is a row of numbers."""

    @abstractmethod
    def settled(self, drive: FloatArray) -> FloatArray:
        """The state (S,) in which it rests while nothing changes, under a drive (K,)."""

    @abstractmethod
    def step(self, state: FloatArray, before: FloatArray, after: FloatArray) -> FloatArray:
        """The state (S,) one frame on, as its drive goes from one (K,) to another."""

    def run(self, state: FloatArray, drive: FloatArray) -> list[FloatArray]:
        """The states of the next F frames, from that of the first of a drive (K, F + 1)."""
        found = [state]
        for frame in range(drive.shape[1] - 1):
            found.append(self.step(found[-1], drive[:, frame], drive[:, frame + 1]))
        return found[1:]

    @abstractmethod
    def values(self, states: FloatArray, drive: FloatArray) -> FloatArray:
        """What is read of states (S, F) under their drives (K, F): values (V, F) that may be interpolated."""

    def gap(self, state: FloatArray, other: FloatArray) -> float:
        """By how much two states differ, in pixels."""
        return float(np.abs(state - other).max(initial=0.0))


class Track:
    """`loop` is the scene's length in frames if it is one. Safe across threads."""

    def __init__(self, stepper: Stepper, loop: int | None = None) -> None:
        self.stepper, self.loop = stepper, loop
        self.open_by = 0.0
        """By how much a loop is still open after it was run in."""
        self._drive = np.zeros((0, 0))
        self._states: list[FloatArray] = []
        self._values = np.zeros((0, 0))
        self._lock = RLock()

    def branched(self, since: float) -> Track:
        """Another that shares what does not depend on anything from a frame on; on a loop everything does."""
        other = Track(self.stepper, self.loop)
        with self._lock:
            kept = 0 if self.loop is not None else max(0, min(len(self._states), int(np.floor(since)) + 1))
            other._states = self._states[:kept]
            other._drive, other._values = self._drive[:, :kept], self._values[:, :kept]
        return other

    def at(self, times: FloatArray, drive_of: DriveOf) -> FloatArray:
        """Values (V, T) at times (T,); between whole frames along straight lines. Before the start it is settled."""
        if self.loop is not None:
            times = np.mod(times, self.loop)
        times = np.maximum(times, 0.0)
        low = np.floor(times).astype(np.int64)
        share = times - low
        high = low + (share > 0)
        with self._lock:
            if self.loop is None:
                self._reach(int(high.max(initial=0)), drive_of)
            else:
                self._close(self.loop, drive_of)
                low, high = low % self.loop, high % self.loop
            values = self._values
        return np.asarray(values[:, low] * (1 - share) + values[:, high] * share)

    def _reach(self, last: int, drive_of: DriveOf) -> None:
        """Step on to a frame, if it is not known yet."""
        begun = len(self._states)
        if last < begun:
            return
        drive = drive_of(np.arange(begun, last + 1, dtype=float))
        drive = np.concatenate([self._drive, drive], axis=1) if begun else drive
        if not begun:
            self._states.append(self.stepper.settled(drive[:, 0]))
        self._states += self.stepper.run(self._states[-1], drive[:, len(self._states) - 1 :])
        self._keep(drive, begun)

    def _close(self, loop: int, drive_of: DriveOf) -> None:
        """Run whole rounds until the end meets the start."""
        if self._states:
            return
        drive = drive_of(np.arange(float(loop)))
        state, round_trip = self.stepper.settled(drive[:, 0]), np.concatenate([drive, drive[:, :1]], axis=1)
        for _ in range(MOST_ROUNDS):
            states = [state, *self.stepper.run(state, round_trip)]
            self.open_by = self.stepper.gap(states[0], states[-1])
            state = states.pop()
            if self.open_by < SEAM:
                break
        self._states = states
        self._keep(drive, 0)

    def _keep(self, drive: FloatArray, begun: int) -> None:
        found = self.stepper.values(np.stack(self._states[begun:], axis=1), drive[:, begun:])
        self._drive = drive
        self._values = np.concatenate([self._values, found], axis=1) if begun else found
