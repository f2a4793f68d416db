"""Paints a predicted splash, wherever it is shown to scale."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Place
from ondine.ui.kit.theme import SMALL_PX, Theme, font

RIM_MM = 0.5
"""Radius of the rim as it is drawn."""


def paint_splash(p: QPainter, theme: Theme, prediction: Prediction, middle: QPointF, scale: float) -> None:
    """Draw the mean rig's splash, filled."""
    shape = prediction.outline
    p.setPen(QPen(theme.colour("water_ink"), 1.8))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(mirrored(shape.pool, middle, scale, closed=False))
    if shape.crown is not None:
        p.drawPath(mirrored(shape.crown, middle, scale, closed=False))
    p.setBrush(theme.colour("water_ink", 0.22))
    if shape.jet is not None:
        p.drawPath(mirrored(shape.jet, middle, scale))
    for sheet in shape.sheets:
        p.drawPath(mirrored(sheet, middle, scale))
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


def mirrored(profile: np.ndarray, middle: QPointF, scale: float, closed: bool = True) -> QPainterPath:
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
