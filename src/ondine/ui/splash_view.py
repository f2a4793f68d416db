"""The splash at the flash: what will be in the picture, to scale, in the camera's frame."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.setup import Place
from ondine.ui.prediction import Prediction
from ondine.ui.theme import DAY, SMALL_PX, Theme, font

RIM_MM = 0.5
"""Radius of the rim as it is drawn."""


class SplashView(QWidget):
    """A side view in the frame's proportions; the mean rig filled, other likely rigs as faint outlines."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self._prediction: Prediction | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Splash at the flash")

    def show_prediction(self, prediction: Prediction) -> None:
        """Draw another prediction."""
        self._prediction = prediction
        self.setAccessibleDescription(prediction.in_words)
        self.update()

    def water_line(self) -> float:
        """Where the waterline runs, in the widget's pixels."""
        if self._prediction is None:
            return self.height() * 0.8
        room, _ = self._frame()
        return room.bottom() - self._prediction.forecast.setup.camera.water_line_share * room.height()

    def _frame(self) -> tuple[QRectF, float]:
        """The frame's place in the widget, and the scale: a portrait frame leaves room at its sides."""
        assert self._prediction is not None
        camera = self._prediction.forecast.setup.camera
        scale = min(self.width() / camera.frame_width_m, self.height() / camera.frame_height_m)
        wide, tall = camera.frame_width_m * scale, camera.frame_height_m * scale
        return QRectF((self.width() - wide) / 2, (self.height() - tall) / 2, wide, tall), scale

    def sizeHint(self) -> QSize:
        """Three to two, as the frame."""
        return QSize(400, 267)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw frame, water, ghosts, splash, scale."""
        if self._prediction is None:
            return
        room, scale = self._frame()
        middle = QPointF(self.width() / 2, self.water_line())
        with QPainter(self) as p:
            surface = round(middle.y())
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.fillRect(self.rect().adjusted(0, surface, 0, 0), self.theme.colour("water"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._haunt(p, middle, scale)
            self._reflect(p, middle, scale)
            paint_splash(p, self.theme, self._prediction, middle, scale)
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(room.adjusted(0.5, 0.5, -0.5, -0.5))
            self._scale_bar(p, scale)

    def _haunt(self, p: QPainter, middle: QPointF, scale: float) -> None:
        """Draw the other rigs as faint lines, all in one stroke."""
        assert self._prediction is not None
        lines = QPainterPath()
        for shape in self._prediction.ghosts:
            for profile in (shape.jet, *shape.sheets):
                if profile is not None:
                    lines.addPath(_mirrored(profile[::2], middle, scale))
            for _, height, radius in shape.drops:
                lines.addEllipse(QPointF(middle.x(), middle.y() - height * scale), radius * scale, radius * scale)
        p.setPen(QPen(self.theme.colour("water_ink", 0.30), 1.0))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(lines)

    def _reflect(self, p: QPainter, middle: QPointF, scale: float) -> None:
        """The pool mirrors what stands on it; the mirror image also says where the surface is."""
        assert self._prediction is not None
        p.save()
        p.setClipRect(QRectF(0, middle.y(), self.width(), self.height() - middle.y()))
        p.translate(0, 2 * middle.y())
        p.scale(1, -1)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("water_ink", 0.10))
        shape = self._prediction.outline
        for profile in (shape.jet, *shape.sheets):
            if profile is not None:
                p.drawPath(_mirrored(profile, middle, scale))
        p.restore()

    def _scale_bar(self, p: QPainter, scale: float) -> None:
        length_mm = 20 if self._prediction and self._prediction.forecast.setup.camera.frame_width_m > 0.06 else 10
        length = length_mm / 1e3 * scale
        right, y = self.width() - 12, self.height() - 12
        p.setPen(QPen(self.theme.colour("soft_ink"), 1.5))
        p.drawLine(QPointF(right - length, y), QPointF(right, y))
        for x in (right - length, right):
            p.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        p.setFont(font(SMALL_PX))
        room = QRectF(right - length - 60, y - 9, 52, 18)
        p.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{length_mm} mm")


def paint_splash(p: QPainter, theme: Theme, prediction: Prediction, middle: QPointF, scale: float) -> None:
    """Draw the mean rig's splash, filled."""
    shape = prediction.outline
    p.setPen(QPen(theme.colour("water_ink"), 1.8))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(_mirrored(shape.pool, middle, scale, closed=False))
    if shape.crown is not None:
        p.drawPath(_mirrored(shape.crown, middle, scale, closed=False))
    p.setBrush(theme.colour("water_ink", 0.22))
    if shape.jet is not None:
        p.drawPath(_mirrored(shape.jet, middle, scale))
    for sheet in shape.sheets:
        p.drawPath(_mirrored(sheet, middle, scale))
        # The rim gathers what the sheet loses: a bead at each edge of the section.
        edge, height = sheet[int(np.argmax(sheet[:, 0]))]
        for side in (-1, 1):
            place = QPointF(middle.x() + side * edge * scale, middle.y() - height * scale)
            p.drawEllipse(place, RIM_MM / 1e3 * scale, RIM_MM / 1e3 * scale)
    _light_edges(p, theme, prediction, middle, scale)
    for drop, height, radius in shape.drops:
        p.setPen(QPen(theme.drop(drop), 2.0))
        p.setBrush(theme.drop(drop, 0.25))
        centre = QPointF(middle.x(), middle.y() - height * scale)
        p.drawEllipse(centre, radius * scale, radius * scale)
        if radius * scale > 7:
            p.setFont(font(SMALL_PX))
            room = QRectF(centre.x() - 12, centre.y() - 9, 24, 18)
            p.drawText(room, Qt.AlignmentFlag.AlignCenter, str(drop + 1))


def _light_edges(p: QPainter, theme: Theme, prediction: Prediction, middle: QPointF, scale: float) -> None:
    """Warm strokes where the flashes catch the splash: its sides, its top, or the underside of the sheet."""
    places = {unit.place for unit in prediction.forecast.setup.light.units}
    shape = prediction.outline
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme.colour("light", 0.75), 1.6))
    if Place.SIDE in places and shape.jet is not None:
        inset = shape.jet - np.array([1.2 / scale, 0.0])
        p.drawPolyline([QPointF(middle.x() + x * scale, middle.y() - y * scale) for x, y in inset if x > 0])
    for sheet in shape.sheets:
        half = len(sheet) // 2
        rows = []
        if Place.ABOVE in places:
            rows.append(sheet[:half] + np.array([0.0, 1.5 / scale]))
        if Place.BOWL in places:
            rows.append(sheet[half:] - np.array([0.0, 1.5 / scale]))
        for line in rows:
            for side in (-1, 1):
                p.drawPolyline([QPointF(middle.x() + side * x * scale, middle.y() - y * scale) for x, y in line])


def _mirrored(profile: np.ndarray, middle: QPointF, scale: float, closed: bool = True) -> QPainterPath:
    """A right half profile and its mirror image as one path, from left to right."""
    ys = (middle.y() - profile[:, 1] * scale).tolist()
    offsets = (profile[:, 0] * scale).tolist()
    right = [QPointF(middle.x() + x, y) for x, y in zip(offsets, ys, strict=True)]
    left = [QPointF(middle.x() - x, y) for x, y in zip(offsets, ys, strict=True)]
    path = QPainterPath()
    if profile[0][0] > 0 and not closed:
        # Two walls that do not meet on the axis (a crown).
        for side in (left, right):
            path.moveTo(side[0])
            for point in side[1:]:
                path.lineTo(point)
        return path
    outline = [*left[::-1], *right] if profile[0][0] == 0 else [*left, *right[::-1]]
    path.moveTo(outline[0])
    for point in outline[1:]:
        path.lineTo(point)
    if closed:
        path.closeSubpath()
    return path
