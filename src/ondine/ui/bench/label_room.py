"""Finds a place for a label: near what it names, and where no curve runs through it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF, QRectF

STEP_X_PX, STEP_Y_PX = 16.0, 10.0
ASIDE_PX, AROUND_PX = 12.0, 4.0

NEAR_PX = 90.0
"""Most labels find room so near; only where there is none the whole of the inside is searched."""

CELL_PX = 3.0
"""Lines are noted in squares of this size: how many lie within any rectangle is four look-ups then."""

Line = tuple[np.ndarray, np.ndarray]
"""Points that are joined, as their x and y in pixels."""

Pieces = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]
"""Straight pieces of lines: x and y of where each begins, and how far it goes in x and in y, in pixels."""


@dataclass(frozen=True)
class Labels:
    """What labels must keep clear of: `lines`, and rooms that are `taken`; all within `inside`."""

    lines: list[Line]
    taken: list[QRectF]
    inside: QRectF

    def room(self, spot: QPointF, wide: float, high: float, kept: QPointF | None = None) -> QRectF:
        """Return the free room nearest to a spot, and count it as taken; beside the spot where there is none.

        kept : where the room lay from the spot a moment ago: while it is free there it stays, and does not leap about.
        """
        if kept is not None:
            at = spot + kept
            room = QRectF(at.x(), at.y(), wide, high)
            if self._is_free_room(room):
                self.taken.append(room)
                return room
        for within in (NEAR_PX, math.inf):
            left, top = self._candidates(spot, wide, high, within)
            free = self._is_free(left, top, wide, high)
            across = np.maximum(np.maximum(left - spot.x(), spot.x() - left - wide), 0.0)
            along = np.maximum(np.maximum(top - spot.y(), spot.y() - top - high), 0.0)
            # Not over the spot itself, which has its ring; rather beside it than over it.
            near = np.where(free & (across + along >= ASIDE_PX - 1), np.hypot(across, 1.5 * along), np.inf)
            best = int(np.argmin(near))
            # What is looked at first is all that is so near: nothing farther away is nearer.
            if near[best] < within:
                found = QRectF(float(left[best]), float(top[best]), wide, high)
                self.taken.append(found)
                return found
        return QRectF(spot.x() + ASIDE_PX, spot.y() - high / 2, wide, high)

    def _candidates(self, spot: QPointF, wide: float, high: float, within: float) -> tuple[np.ndarray, np.ndarray]:
        """Places for the upper left corner, those that may lie `within` a distance of the spot [px]."""
        left, right = (spot.x() - within - wide, spot.x() + within)
        top, foot = (spot.y() - within - high, spot.y() + within)
        xs = np.arange(self.inside.left(), self.inside.right() - wide, STEP_X_PX)
        ys = np.arange(self.inside.top(), self.inside.bottom() - high, STEP_Y_PX)
        xs, ys = xs[(xs >= left) & (xs <= right)], ys[(ys >= top) & (ys <= foot)]
        xs = np.concatenate([xs, [spot.x() + ASIDE_PX, spot.x() - ASIDE_PX - wide, spot.x() - wide / 2]])
        at_left, at_top = np.meshgrid(xs, np.concatenate([ys, [spot.y() - high / 2]]))
        return at_left.ravel(), at_top.ravel()

    @cached_property
    def _pieces(self) -> Pieces:
        """The straight pieces of all lines."""
        if not self.lines:
            return (np.zeros(0),) * 4
        x, y = (np.concatenate([line[axis] for line in self.lines]) for axis in (0, 1))
        within = np.ones(len(x) - 1, dtype=bool)
        # From the end of a line to the start of the next one there is no piece.
        within[np.cumsum([len(line[0]) for line in self.lines])[:-1] - 1] = False
        return x[:-1][within], y[:-1][within], np.diff(x)[within], np.diff(y)[within]

    @cached_property
    def _bounds(self) -> Pieces:
        """How far each piece reaches to the left, to the right, up and down."""
        x, y, dx, dy = self._pieces
        return np.minimum(x, x + dx), np.maximum(x, x + dx), np.minimum(y, y + dy), np.maximum(y, y + dy)

    @cached_property
    def _sums(self) -> np.ndarray:
        """How many squares above and to the left of each corner hold a line, shape (rows + 1, columns + 1).

        Those within a rectangle follow from its four corners (Crow 1984, summed areas).
        """
        inside = self.inside
        rows, columns = (max(math.ceil(side / CELL_PX), 1) for side in (inside.height(), inside.width()))
        cells = np.zeros((rows, columns), dtype=np.int32)
        if len(self._pieces[0]):
            x, y = _dense(self._pieces)
            column = ((x - inside.left()) * (1 / CELL_PX)).astype(int)
            row = ((y - inside.top()) * (1 / CELL_PX)).astype(int)
            there = (x >= inside.left()) & (column < columns) & (y >= inside.top()) & (row < rows)
            cells[row[there], column[there]] = 1
        sums = np.zeros((rows + 1, columns + 1), dtype=np.int32)
        cells.cumsum(axis=0, out=cells).cumsum(axis=1, out=sums[1:, 1:])
        return sums

    def _is_free_room(self, room: QRectF) -> bool:
        """Whether one room is free: for one alone the lines themselves are looked at, not the sums."""
        inside, around = self.inside, room.adjusted(-AROUND_PX, 0, AROUND_PX, 0)
        if room.left() < inside.left() or around.right() > inside.right():
            return False
        if room.top() < inside.top() or room.bottom() > inside.bottom():
            return False
        return not any(around.intersects(other) for other in self.taken) and not self._is_crossed(around)

    def _is_crossed(self, room: QRectF) -> bool:
        """Whether a line runs through a room."""
        left, right, top, foot = room.left(), room.right(), room.top(), room.bottom()
        first, last, high, low = self._bounds
        near = np.flatnonzero((last >= left) & (first <= right) & (low >= top) & (high <= foot))
        if not len(near):
            return False
        # A piece that is not beside the room runs through it unless all corners lie to one side of it.
        x, y, dx, dy = (part[near, None] for part in self._pieces)
        sides = dx * (np.array([top, top, foot, foot]) - y) - dy * (np.array([left, right, left, right]) - x)
        return bool(np.any((sides.min(axis=1) <= 0) & (sides.max(axis=1) >= 0)))

    def _is_free(self, left: np.ndarray, top: np.ndarray, wide: float, high: float) -> np.ndarray:
        inside, sums = self.inside, self._sums
        right, foot = left + wide + AROUND_PX, top + high
        free = (left >= inside.left()) & (right <= inside.right()) & (top >= inside.top()) & (foot <= inside.bottom())
        # What is not inside is not free, wherever its squares would be.
        far_left, far_top = np.maximum(left - AROUND_PX - inside.left(), 0.0), np.maximum(top - inside.top(), 0.0)
        first, upper = (far_left * (1 / CELL_PX)).astype(int), (far_top * (1 / CELL_PX)).astype(int)
        last = np.ceil((right - inside.left()) * (1 / CELL_PX)).astype(int)
        lower = np.ceil((foot - inside.top()) * (1 / CELL_PX)).astype(int)
        for corner, most in ((first, 1), (last, 1), (upper, 0), (lower, 0)):
            np.minimum(corner, sums.shape[most] - 1, out=corner)
        np.maximum(last, 0, out=last)
        np.maximum(lower, 0, out=lower)
        free &= sums[lower, last] - sums[upper, last] - sums[lower, first] + sums[upper, first] == 0
        left = left - AROUND_PX
        for room in self.taken:
            free &= (right <= room.left()) | (left >= room.right()) | (foot <= room.top()) | (top >= room.bottom())
        return free


def _dense(pieces: Pieces) -> Line:
    """Return all lines as points that stand no farther apart than the squares are wide."""
    x0, y0, dx, dy = pieces
    count = np.ceil(np.hypot(dx, dy) / (0.7 * CELL_PX)).astype(int) + 1
    ends = np.cumsum(count)
    share = (np.arange(ends[-1]) - np.repeat(ends - count, count)) / np.repeat(np.maximum(count - 1, 1), count)
    return np.repeat(x0, count) + share * np.repeat(dx, count), np.repeat(y0, count) + share * np.repeat(dy, count)
