"""How the atlas is painted: axes, what the forecast expects, shots by cells."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from ondine.core.forecast.shapes import BY_KEY
from ondine.core.log.atlas import KEYS, UNTAGGED, Cells
from ondine.core.log.quantities import BY_KEY as QUANTITIES
from ondine.core.log.regions import Regions
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.own_shapes import own_shapes
from ondine.ui.kit.theme import Theme
from ondine.ui.log.atlas_scale import AtlasScale, ticks

LEFT_PX = 56
CELL_PX, GLYPH_PX, LARGE_PX = 26, 18, 24
MANY = 12
"""So many shots of a cell are drawn as large as any."""

NAME_CELLS = 14
"""A region of fewer cells of the forecast's grid has no name of its own: it would hide others."""


def paint_axes(p: QPainter, t: Theme, scale: AtlasScale, axes: tuple[str, str]) -> None:
    """Draw the ground, lines at round figures, and what the axes are."""
    area, view = scale.area, scale.view
    p.fillRect(area, t.colour("water", 0.5))
    x, y = QUANTITIES[axes[0]], QUANTITIES[axes[1]]
    for value in ticks(view[0], view[1], area.width(), 72):
        at = scale.place(value, view[2]).x()
        p.setPen(QPen(t.colour("faint"), 1))
        p.drawLine(QPointF(at, area.top()), QPointF(at, area.bottom()))
        p.setPen(t.colour("soft_ink"))
        p.drawText(QRectF(at - 36, area.bottom() + 4, 72, 16), Qt.AlignmentFlag.AlignCenter, x.number(value))
    for value in ticks(view[2], view[3], area.height(), 36):
        at = scale.place(view[0], value).y()
        p.setPen(QPen(t.colour("faint"), 1))
        p.drawLine(QPointF(area.left(), at), QPointF(area.right(), at))
        p.setPen(t.colour("soft_ink"))
        beside = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        p.drawText(QRectF(0, at - 8, LEFT_PX - 6, 16), beside, y.number(value))
    p.setPen(t.colour("ink"))
    under = QRectF(area.left(), area.bottom() + 20, area.width(), 18)
    p.drawText(under, Qt.AlignmentFlag.AlignRight, _axis_words(axes[0]))
    p.drawText(under, Qt.AlignmentFlag.AlignLeft, f"↑ {_axis_words(axes[1])}")


def paint_regions(p: QPainter, t: Theme, scale: AtlasScale, found: Regions) -> None:
    """Draw lines where the likeliest shape changes, and the name of each larger part."""
    p.setPen(QPen(t.colour("water_ink", 0.55), 1, Qt.PenStyle.DashLine))
    p.drawLines(_borders(found, scale))
    p.setPen(t.colour("water_ink"))
    named: list[QRectF] = []
    keys, sizes = np.unique(found.shape[found.shape >= 0], return_counts=True)
    # The largest first: a smaller one whose name would lie on another's has none.
    for key in keys[np.argsort(-sizes, kind="stable")]:
        rows, columns = np.nonzero(found.shape == key)
        if len(rows) < NAME_CELLS:
            continue
        # Where it is likeliest, among all that is likely: in its own midst, whatever its form.
        weight = found.chance[rows, columns]
        middle = int(np.argmin((rows - np.average(rows, weights=weight)) ** 2
                               + (columns - np.average(columns, weights=weight)) ** 2))  # fmt: skip
        at = scale.place(float(found.x[columns[middle]]), float(found.y[rows[middle]]))
        name = BY_KEY[found.keys[key]].name
        wide = p.fontMetrics().horizontalAdvance(name)
        room = QRectF(at.x() - wide / 2 - 2, at.y() - 9, wide + 4, 18)
        room.moveLeft(min(max(room.left(), scale.area.left() + 2), scale.area.right() - room.width() - 2))
        if not any(room.intersects(other) for other in named):
            named.append(room)
            p.drawText(room, Qt.AlignmentFlag.AlignCenter, name)


def paint_cells(p: QPainter, t: Theme, scale: AtlasScale, own: Cells, ratio: float) -> None:
    """Draw a glyph where shots lie: the larger, the more; pale where they cannot be compared."""
    view, (across, up) = scale.view, scale.per_px
    seen = np.flatnonzero(
        (own.x > view[0] - CELL_PX * across) & (own.x < view[1] + CELL_PX * across)
        & (own.y > view[2] - CELL_PX * up) & (own.y < view[3] + CELL_PX * up)
    )  # fmt: skip
    lefts = scale.area.left() + (own.x[seen] - view[0]) / across
    tops = scale.area.bottom() - (own.y[seen] - view[2]) / up
    sizes = np.where(own.count[seen] >= MANY, LARGE_PX, np.where(own.count[seen] > 1, 21, GLYPH_PX))
    opacity = np.where(own.comparable[seen], 1.0, 0.4)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(t.colour("soft_ink"))
    for cell, x, y, size, strong in zip(
        seen.tolist(), lefts.tolist(), tops.tolist(), sizes.tolist(), opacity.tolist(), strict=True
    ):
        p.setOpacity(strong)
        shape = int(own.shape[cell])
        if shape == UNTAGGED:
            p.drawEllipse(QPointF(x, y), 2.5, 2.5)
        else:
            p.drawPixmap(round(x - size / 2), round(y - size / 2), glyph(_shape_of(shape), t.ink, size, ratio))
    p.setOpacity(1.0)


def _shape_of(number: int) -> str:
    """Return the shape that has a number in the atlas; one that was taken off the board is drawn as an unknown one."""
    if number < len(KEYS):
        return KEYS[number]
    own = own_shapes()
    return own[number - len(KEYS)].key if number - len(KEYS) < len(own) else ""


def _axis_words(key: str) -> str:
    quantity = QUANTITIES[key]
    unit = f" [{quantity.unit}]" if quantity.unit else ""
    return f"{quantity.name}{unit}"


def _borders(found: Regions, scale: AtlasScale) -> list[QLineF]:
    """Lines between neighbouring places of the forecast's grid that expect different shapes."""
    shape = found.shape
    dx, dy = (found.x[1] - found.x[0]) / 2, (found.y[1] - found.y[0]) / 2
    lines = []
    for row, column in zip(*np.nonzero(shape[:, 1:] != shape[:, :-1]), strict=True):
        x, y = found.x[column] + dx, found.y[row]
        lines.append(QLineF(scale.place(x, y - dy), scale.place(x, y + dy)))
    for row, column in zip(*np.nonzero(shape[1:] != shape[:-1]), strict=True):
        x, y = found.x[column], found.y[row] + dy
        lines.append(QLineF(scale.place(x - dx, y), scale.place(x + dx, y)))
    return lines
