"""Undo and redo of values that are replaced, never changed."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Generic, TypeVar

T = TypeVar("T")

DEPTH = 500


@dataclass
class History(Generic[T]):
    """The present value, those before it, and those taken back. Steps of one gesture count as one.

    Each value is kept with what was done to leave it, in a few words.
    """

    present: T
    _past: list[tuple[T, str]] = field(default_factory=list)
    _future: list[tuple[T, str]] = field(default_factory=list)
    _gesture: str | None = None

    def push(self, value: T, does: str, gesture: str | None = None) -> bool:
        """Replace the present; return whether that changed anything.

        Consecutive pushes with the same `gesture` (one drag, one run of arrow keys) are undone together.
        """
        if value == self.present:
            return False
        if not self.goes_on(gesture):
            self._past.append((self.present, does))
            del self._past[:-DEPTH]
        self._gesture = gesture
        self._future.clear()
        self.present = value
        return True

    def goes_on(self, gesture: str | None) -> bool:
        """Whether a push with this gesture would belong to the step before."""
        return gesture is not None and gesture == self._gesture

    def end_gesture(self) -> None:
        """Let the next push start a step of its own."""
        self._gesture = None

    @property
    def in_gesture(self) -> bool:
        """Whether a drag or a run of keys is going on."""
        return self._gesture is not None

    @property
    def undoes(self) -> str | None:
        """What would be taken back, in a few words; None if there is nothing."""
        return self._past[-1][1] if self._past else None

    @property
    def redoes(self) -> str | None:
        """What would be done again, in a few words; None if nothing was taken back."""
        return self._future[-1][1] if self._future else None

    def undo(self) -> str | None:
        """Take the last step back; return what it was."""
        return self._step(self._past, self._future)

    def redo(self) -> str | None:
        """Do again what was taken back; return what it is."""
        return self._step(self._future, self._past)

    def _step(self, source: list[tuple[T, str]], other: list[tuple[T, str]]) -> str | None:
        if not source:
            return None
        value, does = source.pop()
        other.append((self.present, does))
        self.present, self._gesture = value, None
        return does
