"""What part of a picture is looked at: one lens for all pictures that are compared."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt

from ondine.ui.kit.pictures import WHOLE, Part

CLOSEST = 16.0
"""A picture of 6000 pixels fills a pane of 400 px fifteen times."""


@dataclass(frozen=True)
class Lens:
    """How close one looks, 1 being the whole picture, and where the middle lies, as shares of the picture."""

    closeness: float = 1.0
    x: float = 0.5
    y: float = 0.5

    def looked_at(self, picture: QSizeF, pane: QSizeF) -> tuple[Part, QRectF]:
        """Return which part of a picture is seen in a pane, and where in the pane it lies.

        picture : its size, of which only the proportions count; pane : the room for it.
        """
        fitted = picture.scaled(pane, Qt.AspectRatioMode.KeepAspectRatio) * self.closeness
        width, height = min(1.0, pane.width() / fitted.width()), min(1.0, pane.height() / fitted.height())
        left = min(max(self.x - width / 2, 0.0), 1.0 - width)
        top = min(max(self.y - height / 2, 0.0), 1.0 - height)
        place = QRectF(0.0, 0.0, fitted.width() * width, fitted.height() * height)
        place.moveCenter(QPointF(pane.width() / 2, pane.height() / 2))
        return (WHOLE if self.closeness == 1.0 else (left, top, width, height)), place

    def closer(self, factor: float, at: QPointF) -> Lens:
        """Look closer by a factor; what is at a point of the picture, as shares of it, stays where it is."""
        closeness = min(max(self.closeness * factor, 1.0), CLOSEST)
        stays = self.closeness / closeness
        return Lens(closeness, *_within(at.x() + (self.x - at.x()) * stays, at.y() + (self.y - at.y()) * stays))

    def moved(self, across: float, down: float) -> Lens:
        """Look further to the right and down, by shares of what is seen."""
        x, y = _within(self.x + across / self.closeness, self.y + down / self.closeness)
        return Lens(self.closeness, x, y)


def _within(x: float, y: float) -> tuple[float, float]:
    return min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0)
