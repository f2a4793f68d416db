"""Finds a place for a label: near what it names, and where no curve runs through it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF, QRectF

STEP_X_PX, STEP_Y_PX = 16.0, 10.0
ASIDE_PX, AROUND_PX = 12.0, 4.0

CELL_PX = 3.0
"""Lines and rooms are noted in squares of this size: how many are taken within any rectangle is four look-ups then."""

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
        _mark(self._cells, found, self.inside)
        return found

    def _candidates(self, spot: QPointF, wide: float, high: float) -> tuple[np.ndarray, np.ndarray]:
        xs = np.arange(self.inside.left(), self.inside.right() - wide, STEP_X_PX)
        ys = np.arange(self.inside.top(), self.inside.bottom() - high, STEP_Y_PX)
        xs = np.concatenate([xs, [spot.x() + ASIDE_PX, spot.x() - ASIDE_PX - wide, spot.x() - wide / 2]])
        left, top = np.meshgrid(xs, np.concatenate([ys, [spot.y() - high / 2]]))
        return left.ravel(), top.ravel()

    @cached_property
    def _cells(self) -> np.ndarray:
        """Which squares of the inside hold a line or a taken room, shape (rows, columns)."""
        inside = self.inside
        rows, columns = (max(math.ceil(side / CELL_PX), 1) for side in (inside.height(), inside.width()))
        cells = np.zeros((rows, columns), dtype=bool)
        if self.lines:
            x, y = _dense(self.lines)
            column = np.floor((x - inside.left()) / CELL_PX).astype(int)
            row = np.floor((y - inside.top()) / CELL_PX).astype(int)
            there = (column >= 0) & (column < columns) & (row >= 0) & (row < rows)
            cells[row[there], column[there]] = True
        for room in self.taken:
            _mark(cells, room, inside)
        return cells

    def _is_free(self, left: np.ndarray, top: np.ndarray, wide: float, high: float) -> np.ndarray:
        inside, (rows, columns) = self.inside, self._cells.shape
        right, foot = left + wide + AROUND_PX, top + high
        free = (left >= inside.left()) & (right <= inside.right()) & (top >= inside.top()) & (foot <= inside.bottom())
        # Sums of all squares above and to the left (Crow 1984): those within a rectangle follow from its corners.
        sums = np.zeros((rows + 1, columns + 1), dtype=np.int32)
        np.cumsum(np.cumsum(self._cells, axis=0, dtype=np.int32), axis=1, out=sums[1:, 1:])
        first = np.clip(np.floor((left - AROUND_PX - inside.left()) / CELL_PX).astype(int), 0, columns)
        last = np.clip(np.ceil((right - inside.left()) / CELL_PX).astype(int), 0, columns)
        upper = np.clip(np.floor((top - inside.top()) / CELL_PX).astype(int), 0, rows)
        lower = np.clip(np.ceil((foot - inside.top()) / CELL_PX).astype(int), 0, rows)
        within = sums[lower, last] - sums[upper, last] - sums[lower, first] + sums[upper, first]
        return np.asarray(free & (within == 0))


def _mark(cells: np.ndarray, room: QRectF, inside: QRectF) -> None:
    """Count the squares that a room touches as taken."""
    left, right = ((edge - inside.left()) / CELL_PX for edge in (room.left(), room.right()))
    top, foot = ((edge - inside.top()) / CELL_PX for edge in (room.top(), room.bottom()))
    cells[max(math.floor(top), 0) : max(math.ceil(foot), 0), max(math.floor(left), 0) : max(math.ceil(right), 0)] = True


def _dense(lines: list[Line]) -> Line:
    """Return all lines as points that stand no farther apart than the squares are wide."""
    x0, y0 = (np.concatenate([line[axis][:-1] for line in lines]) for axis in (0, 1))
    dx, dy = (np.concatenate([np.diff(line[axis]) for line in lines]) for axis in (0, 1))
    pieces = np.ceil(np.hypot(dx, dy) / (0.7 * CELL_PX)).astype(int) + 1
    ends = np.cumsum(pieces)
    share = (np.arange(ends[-1]) - np.repeat(ends - pieces, pieces)) / np.repeat(np.maximum(pieces - 1, 1), pieces)
    return np.repeat(x0, pieces) + share * np.repeat(dx, pieces), np.repeat(y0, pieces) + share * np.repeat(dy, pieces)
