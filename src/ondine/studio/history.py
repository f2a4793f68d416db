"""Undo and redo of values that are replaced, never changed."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Generic, TypeVar

T = TypeVar("T")

DEPTH = 500


@dataclass
class History(Generic[T]):
    """The present value, those before it, and those taken back. Steps of one gesture count as one."""

    present: T
    _past: list[T] = field(default_factory=list)
    _future: list[T] = field(default_factory=list)
    _gesture: str | None = None

    def push(self, value: T, gesture: str | None = None) -> bool:
        """Replace the present; return whether that changed anything.

        Consecutive pushes with the same `gesture` (one drag, one run of arrow keys) are undone together.
        """
        if value == self.present:
            return False
        if gesture is None or gesture != self._gesture:
            self._past.append(self.present)
            del self._past[:-DEPTH]
        self._gesture = gesture
        self._future.clear()
        self.present = value
        return True

    def end_gesture(self) -> None:
        """Let the next push start a step of its own."""
        self._gesture = None

    @property
    def in_gesture(self) -> bool:
        """Whether a drag or a run of keys is going on."""
        return self._gesture is not None

    @property
    def can_undo(self) -> bool:
        """Whether there is anything to take back."""
        return bool(self._past)

    @property
    def can_redo(self) -> bool:
        """Whether anything was taken back."""
        return bool(self._future)

    def undo(self) -> bool:
        """Take the last step back; return whether there was one."""
        return self._step(self._past, self._future)

    def redo(self) -> bool:
        """Do again what was taken back; return whether there was anything."""
        return self._step(self._future, self._past)

    def _step(self, source: list[T], other: list[T]) -> bool:
        if not source:
            return False
        other.append(self.present)
        self.present = source.pop()
        self._gesture = None
        return True
