"""Lines and shapes from arrays, drawn the ways that Qt's painter is quick at.

A wide smooth polyline is filled as one large polygon, ten times slower than the same line drawn piece by piece; and a
polygon made from a list of points costs as much as drawing it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from shiboken6 import Shiboken

Floats = NDArray[np.float64]
_BYTES_PER_POINT = 16


def polygon(xs: Floats, ys: Floats) -> QPolygonF:
    """Return a polygon of points, shapes (n,)."""
    made = QPolygonF()
    made.resize(len(xs))
    if len(xs):
        address: Any = made.data()
        wrap: Any = Shiboken.VoidPtr
        memory = wrap(address, _BYTES_PER_POINT * len(xs), True)
        points = np.frombuffer(memory, np.float64).reshape(-1, 2)
        points[:, 0], points[:, 1] = xs, ys
    return made


def band(early: Floats, late: Floats, ys: Floats) -> QPolygonF:
    """Return what lies between two curves over the same heights; shapes (n,)."""
    return polygon(np.concatenate([early, late[::-1]]), np.concatenate([ys, ys[::-1]]))


def draw_curve(
    painter: QPainter, colour: QColor, width: float, xs: Floats, ys: Floats, dashes: Sequence[float] = ()
) -> None:
    """Draw a smooth line through points, shapes (n,); `dashes` are lengths in widths, on and off in turn."""
    pen = QPen(colour, width)
    if dashes:
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        xs, ys, starts = _dashed(xs, ys, [length * width for length in dashes])
    else:
        starts = np.arange(len(xs) - 1)
    painter.setPen(pen)
    x, y = xs.tolist(), ys.tolist()
    painter.drawLines([QLineF(x[i], y[i], x[i + 1], y[i + 1]) for i in starts.tolist()])


def fill(painter: QPainter, colour: QColor, outline: QPolygonF) -> None:
    """Fill without smoothing the edge, which costs several times more: for what is faint, or has a line around it."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(outline)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)


def draw_shape(painter: QPainter, inside: QColor, line: QColor, width: float, xs: Floats, ys: Floats) -> None:
    """Fill a closed shape and draw its outline, shapes (n,)."""
    fill(painter, inside, polygon(xs, ys))
    draw_curve(painter, line, width, np.append(xs, xs[0]), np.append(ys, ys[0]))


def _dashed(xs: Floats, ys: Floats, lengths_px: list[float]) -> tuple[Floats, Floats, NDArray[np.intp]]:
    """Cut a line where dashes begin and end: points, and which of them begin a piece that is drawn."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])
    period = sum(lengths_px)
    ends = np.cumsum(lengths_px)
    turns = np.arange(int(along[-1] / period) + 1) * period
    cuts = np.sort(np.concatenate([turns, *(turns + end for end in ends[:-1])]))
    # Not np.union1d: it loads a part of NumPy that takes a tenth of a second.
    places = np.sort(np.concatenate([along, cuts[cuts < along[-1]]]))
    middles = (places[:-1] + places[1:]) / 2 % period
    drawn = np.searchsorted(ends, middles, side="right") % 2 == 0
    return np.interp(places, along, xs), np.interp(places, along, ys), np.flatnonzero(drawn)
