"""One tree of errors, each with a message for the person at the screen.

`message` says what is wrong; `hint` says what to do about it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence


class GaitWireError(Exception):
    """Base of every error this program raises on purpose."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(f"{message} {hint}".strip())
        self.message = message
        self.hint = hint

    def __reduce__(self) -> tuple[type[GaitWireError], tuple[str, str]]:
        """So that an error comes back whole from a worker process."""
        return type(self), (self.message, self.hint)


class InvalidInputError(GaitWireError):
    """A value, gesture or name that cannot be used."""


class UnreadableArtError(InvalidInputError):
    """An uploaded file that cannot be read as art."""


class TooLargeError(UnreadableArtError):
    """A file beyond a stated limit of size, count or depth."""


class CycleError(InvalidInputError):
    """A bone that would hang, by way of others, from itself."""


class LockedError(InvalidInputError):
    """An edit of something that the user locked."""


class UnansweredError(GaitWireError):
    """A gesture that would do more than the hand can see, and waits until that is said.

    `answers`: words by which it can be done, each with what its button says; `details`: what it would do, line by line.
    """

    def __init__(self, message: str, answers: Mapping[str, str], details: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.answers = dict(answers)
        self.details = tuple(details)


class NotFoundError(GaitWireError):
    """Something named by id or name that is not (or no longer) there."""


class ConflictError(GaitWireError):
    """An edit made from an older state whose rows have changed since."""


class AlreadyDoneError(GaitWireError):
    """A gesture that came a second time, because its first answer did not arrive."""


class HistoryError(GaitWireError):
    """There is nothing to undo or redo, or another document's step comes first."""


class JobError(GaitWireError):
    """A long job that failed, was cancelled or ran out of time."""
