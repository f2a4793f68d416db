"""Measures how high something stands in the picture in view: one press on it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from ondine.core.setup import Setup
from ondine.logbook.records import ShotRecord
from ondine.ui.kit.mark import SIMULATED
from ondine.ui.kit.picture_view import PictureView
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import SMALL_PX, font


class HeightPicker(PictureView):
    """Shows a shot's picture with the water's level; emits `picked(height_m)`."""

    picked = Signal(float)

    def __init__(self, loader: PictureLoader) -> None:
        super().__init__(loader)
        self._setup: Setup | None = None
        self._last: QPointF | None = None
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Picture to measure heights in")

    def show_shot(self, shot: ShotRecord | None, setup: Setup | None) -> None:
        """Show the picture of a shot to the scale of its own set-up; before that is told, nothing is measured."""
        self._setup = setup
        mark = SIMULATED if shot is not None and shot.is_simulated else ""
        self.show_picture(shot.picture if shot else None, "Fire a shot: its picture comes here to be measured.", mark)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw picture, water level, last press."""
        super().paintEvent(event)
        image = self._image() if self._path else None
        if image is None or image.isNull() or self._setup is None:
            return
        room = self.placed(image)
        water = room.bottom() - self._setup.camera.water_line_share * room.height()
        with QPainter(self) as p:
            p.setPen(QPen(self.theme.colour("light"), 1.5, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(room.left(), water), QPointF(room.right(), water))
            p.setFont(font(SMALL_PX, bold=True))
            p.drawText(QPointF(room.left() + 8, room.top() + 20), "Press on the middle of the drop")
            if self._last is not None:
                p.drawLine(self._last - QPointF(12, 0), self._last + QPointF(12, 0))
                p.drawLine(self._last - QPointF(0, 12), self._last + QPointF(0, 12))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Tell the height of the place that was pressed."""
        image = self._image() if self._path else None
        if image is None or image.isNull() or self._setup is None:
            return
        room, camera = self.placed(image), self._setup.camera
        share = (room.bottom() - event.position().y()) / room.height()
        self._last = event.position()
        self.picked.emit((share - camera.water_line_share) * camera.frame_height_m)
        self.update()
