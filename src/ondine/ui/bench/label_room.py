"""Finds a place for a label: near what it names, and where no curve runs through it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF

STEP_X_PX, STEP_Y_PX = 16.0, 10.0
ASIDE_PX, AROUND_PX = 12.0, 4.0

Line = tuple[np.ndarray, np.ndarray]
"""Points that are joined, as their x and y in pixels."""


@dataclass(frozen=True)
class Labels:
    """What labels must keep clear of: `lines`, and rooms that are `taken`; all within `inside`."""

    lines: list[Line]
    taken: list[QRectF]
    inside: QRectF

    def room(self, spot: QPointF, wide: float, high: float) -> QRectF:
        """Return the free room nearest to a spot, and count it as taken; beside the spot where there is none."""
        left, top = self._candidates(spot, wide, high)
        free = self._is_free(left, top, wide, high)
        if not free.any():
            return QRectF(spot.x() + ASIDE_PX, spot.y() - high / 2, wide, high)
        across = np.maximum(np.maximum(left - spot.x(), spot.x() - left - wide), 0.0)
        along = np.maximum(np.maximum(top - spot.y(), spot.y() - top - high), 0.0)
        # Not over the spot itself, which has its ring; rather beside it than over it.
        near = np.where(free & (across + along >= ASIDE_PX - 1), np.hypot(across, 1.5 * along), np.inf)
        best = int(np.argmin(near))
        found = QRectF(float(left[best]), float(top[best]), wide, high)
        self.taken.append(found)
        return found

    def _candidates(self, spot: QPointF, wide: float, high: float) -> tuple[np.ndarray, np.ndarray]:
        xs = np.arange(self.inside.left(), self.inside.right() - wide, STEP_X_PX)
        ys = np.arange(self.inside.top(), self.inside.bottom() - high, STEP_Y_PX)
        xs = np.concatenate([xs, [spot.x() + ASIDE_PX, spot.x() - ASIDE_PX - wide, spot.x() - wide / 2]])
        left, top = np.meshgrid(xs, np.concatenate([ys, [spot.y() - high / 2]]))
        return left.ravel(), top.ravel()

    def _is_free(self, left: np.ndarray, top: np.ndarray, wide: float, high: float) -> np.ndarray:
        right, foot = left + wide + AROUND_PX, top + high
        free = (left >= self.inside.left()) & (right <= self.inside.right())
        free &= (top >= self.inside.top()) & (foot <= self.inside.bottom())
        left, across = left - AROUND_PX, left[:, None] - AROUND_PX
        for xs, ys in self.lines:
            x, y = _dense(xs, ys)
            through = (x > across) & (x < right[:, None]) & (y > top[:, None]) & (y < foot[:, None])
            free &= ~through.any(axis=1)
        for room in self.taken:
            apart = (right <= room.left()) | (left >= room.right()) | (foot <= room.top()) | (top >= room.bottom())
            free &= apart
        return free


def _dense(xs: np.ndarray, ys: np.ndarray) -> Line:
    """Return a line in steps that cannot leap over a label."""
    far = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])
    at = np.linspace(0.0, far[-1], max(int(far[-1] / 6.0), 2))
    return np.interp(at, far, xs), np.interp(at, far, ys)
