"""Pictures in the atlas, once one looks so near that they have room."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from ondine.core.log.atlas import Cells, Points
from ondine.logbook.records import ShotRecord
from ondine.ui.log.atlas_scale import AtlasScale
from ondine.ui.log.frame_paint import Frames
from ondine.ui.log.lens import Lens

MOST_SPOTS = 40
"""Where more spots than this are in view, none has room for a picture."""

PICTURE_PX = 108.0, 72.0
AWAY_PX = 14.0
"""A picture stands so far from its spot, whose glyph stays in sight."""


class AtlasNear:
    """The shots of the spots in view, as far as they are read."""

    def __init__(self, frames: Frames) -> None:
        self.frames = frames
        self._shots: dict[int, ShotRecord] = {}

    def spots(self, cells: Cells, scale: AtlasScale) -> list[tuple[int, QPointF]]:
        """Return the cells in view and where they lie; none where they are too many to have pictures."""
        left, right, low, high = scale.view
        inside = (cells.x >= left) & (cells.x <= right) & (cells.y >= low) & (cells.y <= high)
        found = np.flatnonzero(inside)
        if len(found) > MOST_SPOTS:
            return []
        return [(int(cell), scale.place(float(cells.x[cell]), float(cells.y[cell]))) for cell in found]

    def missing(self, points: Points, cells: Cells, scale: AtlasScale) -> list[int]:
        """Return the numbers of the shots in view that are not read yet."""
        numbers = [int(points.ids[cells.first[cell]]) for cell, _ in self.spots(cells, scale)]
        return [number for number in numbers if number not in self._shots]

    def take(self, shots: dict[int, ShotRecord]) -> None:
        """Take shots that were read, or have changed."""
        self._shots.update(shots)
        while len(self._shots) > 50 * MOST_SPOTS:
            self._shots.pop(next(iter(self._shots)))

    def paint(self, p: QPainter, points: Points, cells: Cells, scale: AtlasScale) -> None:
        """Draw the pictures that have room, the most shots first; none over another, nor over another's spot."""
        spots = self.spots(cells, scale)
        taken: list[QRectF] = []
        for cell, at in sorted(spots, key=lambda spot: -int(cells.count[spot[0]])):
            shot = self._shots.get(int(points.ids[cells.first[cell]]))
            if shot is None or shot.picture is None:
                continue
            frame = next((f for f in _places(at) if scale.area.contains(f) and not _hides(f, taken, spots)), None)
            if frame is not None:
                taken.append(frame)
                _, seen = self.frames.paint(p, shot, frame, Lens())
                p.setPen(QPen(self.frames.theme.colour("line"), 1))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(seen)


def _places(at: QPointF) -> list[QRectF]:
    """Where a picture of a spot may stand: over it, beside it, or under it."""
    (wide, high), away = PICTURE_PX, AWAY_PX
    corners = (
        (-wide / 2, -away - high), (away, -high / 2), (-away - wide, -high / 2), (-wide / 2, away),
    )  # fmt: skip
    return [QRectF(at.x() + x, at.y() + y, wide, high) for x, y in corners]


def _hides(frame: QRectF, taken: list[QRectF], spots: list[tuple[int, QPointF]]) -> bool:
    return any(frame.intersects(other) for other in taken) or any(frame.contains(spot) for _, spot in spots)
