"""Shots over any two of their figures: gathered into cells while they are many, each on its own while they are few.

Cells are fixed to the figures, not to the screen: under a hand that pans they stay, and none changes its neighbours.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.shapes import BY_KEY, SHAPES, ShapeGroup

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

UNTAGGED = -1
KEYS = tuple(shape.key for shape in SHAPES)
"""Shapes by their numbers here; one's own follow them, by their letters."""

_WEIGHT = {ShapeGroup.COLLISION: 2, ShapeGroup.OWN: 2, ShapeGroup.SINGLE: 1, ShapeGroup.FAULT: 0}

WELL_KNOWN_MS = 3.0
"""A touchdown or meeting that was known worse than this when a shot was fired is no place to count from."""


def weight_of(key: str) -> int:
    """Return how much a shape says of a picture that shows several: what met in the air says most, faults least."""
    return _WEIGHT[BY_KEY[key].group] if key in BY_KEY else _WEIGHT[ShapeGroup.OWN]


@dataclass(frozen=True, eq=False)
class Points:
    """Shots with two figures: their numbers, the figures, the number of the shape that each shows (−1: untagged), and
    whether the figures can be compared with those of other tables; all of shape (n,).
    """

    ids: Ints
    x: Floats
    y: Floats
    shape: Ints
    comparable: Bools

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Least and greatest x, least and greatest y; a span of one where all are the same or there are none."""
        if not len(self.ids):
            return 0.0, 1.0, 0.0, 1.0
        lows, highs = (np.array([f(self.x), f(self.y)], float) for f in (np.min, np.max))
        flat = highs - lows <= 0
        lows[flat] -= 0.5
        highs[flat] += 0.5
        return float(lows[0]), float(highs[0]), float(lows[1]), float(highs[1])


@dataclass(frozen=True, eq=False)
class Cells:
    """What is in view, by cells: the middle of each cell's shots, how many they are, the shape that most of them show,
    the share of the tagged that shows it, one of the shots, and whether any can be compared; all of shape (m,).
    """

    x: Floats
    y: Floats
    count: Ints
    shape: Ints
    purity: Floats
    first: Ints
    comparable: Bools


def cells(points: Points, view: tuple[float, float, float, float], across: float, up: float) -> Cells:
    """Gather what is in view.

    view : least and greatest x, least and greatest y; across, up : the least size of a cell, in the figures' units.
    A cell of a power of two of them is used, so that it does not move while a hand zooms a little.
    """
    wide, high = (2.0 ** np.ceil(np.log2(max(size, 1e-12))) for size in (across, up))
    inside = (points.x >= view[0]) & (points.x <= view[1]) & (points.y >= view[2]) & (points.y <= view[3])
    where = np.flatnonzero(inside)
    if not len(where):
        none = np.empty(0)
        whole = np.empty(0, np.int64)
        return Cells(none, none, whole, whole, none, whole, np.empty(0, np.bool_))
    column = np.floor(points.x[where] / wide).astype(np.int64)
    row = np.floor(points.y[where] / high).astype(np.int64)
    columns = int(np.ptp(column)) + 1
    key = (row - row.min()) * columns + column - column.min()
    count_of = np.bincount(key)
    filled = np.flatnonzero(count_of)
    number = np.full(len(count_of), -1)
    number[filled] = np.arange(len(filled))
    cell = number[key]
    count = count_of[filled]
    x = np.bincount(cell, points.x[where]) / count
    y = np.bincount(cell, points.y[where]) / count
    shape, purity = _most(cell, points.shape[where], len(filled))
    first = np.full(len(filled), -1)
    first[cell[::-1]] = where[::-1]
    comparable = np.bincount(cell, points.comparable[where]) > 0
    return Cells(x, y, count.astype(np.int64), shape, purity, first.astype(np.int64), np.asarray(comparable))


def _most(cell: Ints, shape: Ints, cells_: int) -> tuple[Ints, Floats]:
    """Return the shape that most of a cell's tagged shots show, and their share; untagged where none is tagged."""
    shapes = int(shape.max(initial=0)) + 2
    table = np.bincount(cell * shapes + shape + 1, minlength=cells_ * shapes).reshape(cells_, shapes)
    tagged = table[:, 1:]
    total = tagged.sum(axis=1)
    most = tagged.argmax(axis=1)
    share = tagged[np.arange(cells_), most] / np.maximum(total, 1)
    return np.where(total > 0, most, UNTAGGED), np.where(total > 0, share, 0.0)


def nearest(points: Points, x: float, y: float, across: float, up: float) -> int | None:
    """Return the place of the shot nearest to a spot, in units of (across, up); None where none is within one."""
    if not len(points.ids):
        return None
    away = ((points.x - x) / across) ** 2 + ((points.y - y) / up) ** 2
    best = int(np.argmin(away))
    return best if away[best] <= 1.0 else None


def within(points: Points, corners: list[tuple[float, float]]) -> Ints:
    """Return the numbers of the shots inside a closed line, shape (m,): by counting crossings (Shimrat 1962)."""
    if len(corners) < 3:
        return np.empty(0, np.int64)
    inside = np.zeros(len(points.ids), np.bool_)
    before = corners[-1]
    for here in corners:
        (x0, y0), (x1, y1) = before, here
        before = here
        if y0 == y1:
            continue
        crosses = (y0 > points.y) != (y1 > points.y)
        inside ^= crosses & (points.x < (x1 - x0) * (points.y - y0) / (y1 - y0) + x0)
    found: Ints = points.ids[inside]
    return found
