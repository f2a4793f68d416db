"""From figures to places on the atlas, and back."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

View = tuple[float, float, float, float]


@dataclass(frozen=True)
class AtlasScale:
    """A view, least and greatest x, least and greatest y, on an area in pixels; y runs up."""

    view: View
    area: QRectF

    @property
    def per_px(self) -> tuple[float, float]:
        """How much of each figure a pixel is."""
        return (
            (self.view[1] - self.view[0]) / max(self.area.width(), 1.0),
            (self.view[3] - self.view[2]) / max(self.area.height(), 1.0),
        )

    def place(self, x: float, y: float) -> QPointF:
        """Place of two figures."""
        across, up = self.per_px
        return QPointF(self.area.left() + (x - self.view[0]) / across, self.area.bottom() - (y - self.view[2]) / up)

    def figures(self, place: QPointF) -> tuple[float, float]:
        """Figures at a place."""
        across, up = self.per_px
        return (
            self.view[0] + (place.x() - self.area.left()) * across,
            self.view[2] + (self.area.bottom() - place.y()) * up,
        )

    def moved(self, by: QPointF) -> View:
        """Return the view after a hand has drawn it by some pixels."""
        across, up = self.per_px
        dx, dy = -by.x() * across, by.y() * up
        return self.view[0] + dx, self.view[1] + dx, self.view[2] + dy, self.view[3] + dy

    def zoomed(self, about: QPointF, factor: float) -> View:
        """Return the view so many times as wide, with what is under a place kept there."""
        x, y = self.figures(about)
        low_x, high_x, low_y, high_y = self.view
        return (
            x + (low_x - x) * factor, x + (high_x - x) * factor, y + (low_y - y) * factor, y + (high_y - y) * factor
        )  # fmt: skip


def ticks(low: float, high: float, length_px: float, room_px: float) -> list[float]:
    """Return round values (1, 2, 5 by powers of ten) between two, whose places stand at least `room_px` apart."""
    span = high - low
    if not (math.isfinite(span) and span > 0 and length_px > 0):
        return []
    least = span * room_px / length_px
    power = 10.0 ** math.floor(math.log10(least))
    step = next(power * factor for factor in (1, 2, 5, 10) if power * factor >= least * (1 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [n * step for n in range(first, math.floor(high / step + 1e-9) + 1)]
