"""A test frame with the region that is judged, and its histogram."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.light.tones import Tones
from ondine.logbook.trial_frame import TrialFrame
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.mark import SIMULATED, paint_mark
from ondine.ui.kit.pictures import reddened
from ondine.ui.kit.theme import BODY_PX, DAY, SMALL_PX, Theme, font

LEAST_PX = 8.0
HISTOGRAM_PX = 160

Region = tuple[float, float, float, float]
"""Left, top, right, bottom as shares of the picture."""


class TrialView(QWidget):
    """Drag over the picture to judge a region; beside its tones, what is foreseen. Emits `chosen(region)`."""

    chosen = Signal(object)

    def __init__(self, foresight: Foresight) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._foresight = foresight
        foresight.changed.connect(self.update)
        self._frame: TrialFrame | None = None
        self._image: QImage | None = None
        self._region: Region = (0.35, 0.3, 0.65, 0.7)
        self._tones: Tones | None = None
        self._grip: QPointF | None = None
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Test frame and its tones")

    def show_frame(self, frame: TrialFrame | None, region: Region, tones: Tones | None) -> None:
        """Show a frame, the region that is judged, and what is read in it."""
        if frame is not self._frame:
            self._image = None if frame is None else _image(frame.pixels)
        self._frame, self._region, self._tones = frame, region, tones
        if tones is not None:
            self.setAccessibleDescription(f"Median {tones.median:.1%} of full scale, {tones.clipped:.0%} clipped.")
        self.update()

    def placed(self) -> QRectF:
        """Where the picture stands."""
        assert self._frame is not None
        height, width = self._frame.pixels.shape[:2]
        room = QRectF(self.rect()).adjusted(16, 16, -16, -HISTOGRAM_PX - 24)
        scale = min(room.width() / width, room.height() / height)
        wide, tall = width * scale, height * scale
        return QRectF(room.center().x() - wide / 2, room.center().y() - tall / 2, wide, tall)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw picture, region, histogram."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            if self._frame is None or self._image is None:
                p.setFont(font(BODY_PX))
                p.setPen(self.theme.colour("soft_ink"))
                says = (
                    "Take a test frame, then press “Read the last picture”.\n"
                    "Drag over the splash, or over the background, to judge it."
                )
                room = QRectF(self.rect()).adjusted(16, 16, -16, -HISTOGRAM_PX - 24)
                self._foresight.paint(p, self, self._foresight.fitted(room), self.theme)
                below = QRectF(self.rect()).adjusted(16, self.height() - HISTOGRAM_PX - 8, -16, -40)
                p.setPen(self.theme.colour("soft_ink"))
                p.drawText(below, Qt.AlignmentFlag.AlignCenter, says)
                return
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            room = self.placed()
            p.drawImage(room, reddened(self._image) if self.theme.dark else self._image)
            if self._frame.is_simulated:
                paint_mark(p, self.theme, room, SIMULATED)
            p.setPen(QPen(self.theme.colour("light"), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self._region_rect())
            tall = HISTOGRAM_PX - 24
            beside = QRectF(self.width() - 16 - 1.5 * tall, self.height() - HISTOGRAM_PX, 1.5 * tall, tall)
            shown = self._foresight.paint(p, self, self._foresight.fitted(beside), self.theme)
            self._histogram(p, beside.width() + 24 if shown else 0.0)

    def _region_rect(self) -> QRectF:
        room = self.placed()
        left, top, right, bottom = self._region
        return QRectF(
            room.left() + left * room.width(),
            room.top() + top * room.height(),
            (right - left) * room.width(),
            (bottom - top) * room.height(),
        )

    def _histogram(self, p: QPainter, taken: float) -> None:
        """Draw the tones of the region, left of what is `taken` already."""
        if self._tones is None:
            return
        room = QRectF(16, self.height() - HISTOGRAM_PX, self.width() - 32 - taken, HISTOGRAM_PX - 40)
        counts = np.sqrt(self._tones.histogram)
        tallest = float(counts.max()) or 1.0
        wide = room.width() / len(counts)
        for index, count in enumerate(counts):
            tall = float(count) / tallest * room.height()
            end = index in (0, len(counts) - 1)
            colour = self.theme.colour("light" if end and count > 0 else "water_ink", 0.8)
            p.fillRect(QRectF(room.left() + index * wide, room.bottom() - tall, wide - 1, tall), colour)
        p.setPen(QPen(self.theme.colour("line"), 1))
        p.drawLine(room.bottomLeft(), room.bottomRight())
        p.setFont(font(SMALL_PX))
        p.setPen(self.theme.colour("ink"))
        read = self._tones
        says = f"median {read.median:.1%} of full scale, {read.clipped:.1%} clipped, {read.black:.1%} black"
        p.drawText(QRectF(room.left(), room.bottom() + 6, room.width(), 18), says)

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a region."""
        if self._frame is not None:
            self._grip = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw it out."""
        if self._grip is not None:
            region = self._between(self._grip, event.position())
            if region is not None:
                self._region = region
                self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Judge it."""
        if self._grip is not None:
            self._grip = None
            self.chosen.emit(self._region)

    def _between(self, one: QPointF, other: QPointF) -> Region | None:
        room = self.placed()
        box = QRectF(one, other).normalized().intersected(room)
        if box.width() < LEAST_PX or box.height() < LEAST_PX:
            return None
        return (
            (box.left() - room.left()) / room.width(),
            (box.top() - room.top()) / room.height(),
            (box.right() - room.left()) / room.width(),
            (box.bottom() - room.top()) / room.height(),
        )


def _image(pixels: NDArray[np.uint8]) -> QImage:
    height, width = pixels.shape[:2]
    kept = np.ascontiguousarray(pixels)
    return QImage(kept.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()
