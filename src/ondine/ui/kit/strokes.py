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


def pen_of(colour: QColor, width: float, dashes: Sequence[float] = ()) -> QPen:
    """Return the pen for a line; `dashes` are lengths in widths, on and off in turn."""
    pen = QPen(colour, width)
    if dashes:
        pen.setDashPattern(dashes)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    return pen


def draw_curve(
    painter: QPainter, colour: QColor, width: float, xs: Floats, ys: Floats, dashes: Sequence[float] = ()
) -> None:
    """Draw a smooth line through points, shapes (n,), with `pen_of`."""
    painter.setPen(pen_of(colour, width, dashes))
    if dashes:
        # It is drawn piece by piece anyway.
        painter.drawPolyline(polygon(xs, ys))
    else:
        painter.drawLines(pieces(xs, ys))


def pieces(xs: Floats, ys: Floats) -> list[QLineF]:
    """Return the straight pieces between points, shapes (n,)."""
    x, y = xs.tolist(), ys.tolist()
    return [QLineF(*ends) for ends in zip(x, y, x[1:], y[1:], strict=False)]


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
