"""Undo and redo of what people say of shots. Used by the thread that writes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.said import Said

MOST_STEPS = 200


@dataclass(frozen=True)
class Step:
    """One thing that was said: in words, and what was said of its shots before and after."""

    words: str
    before: Mapping[int, Said]
    after: Mapping[int, Said]


class SaidHistory:
    """What can be taken back, and said again."""

    def __init__(self) -> None:
        self._done: list[Step] = []
        self._undone: list[Step] = []

    def push(self, step: Step) -> None:
        """Something was said; what was undone before is gone. What changed nothing is no step."""
        if step.before != step.after:
            self._done = [*self._done, step][-MOST_STEPS:]
            self._undone.clear()

    def undo(self) -> Step | None:
        """Return the last thing said, to be taken back; None if there is none."""
        if not self._done:
            return None
        self._undone.append(self._done.pop())
        return self._undone[-1]

    def redo(self) -> Step | None:
        """Return the last thing taken back, to be said again; None if there is none."""
        if not self._undone:
            return None
        self._done.append(self._undone.pop())
        return self._done[-1]
