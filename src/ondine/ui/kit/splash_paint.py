"""Paints a predicted splash, wherever it is shown to scale."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen

from ondine.core.forecast.prediction import AtFlash
from ondine.core.setup import Place
from ondine.ui.kit.lettering import CENTRE, write
from ondine.ui.kit.strokes import draw_curve, draw_shape
from ondine.ui.kit.theme import SMALL_PX, Theme, font

Floats = NDArray[np.float64]

RIM_MM = 0.5
"""Radius of the rim as it is drawn."""


def paint_splash(p: QPainter, theme: Theme, seen: AtFlash, middle: QPointF, scale: float) -> None:
    """Draw the mean rig's splash, filled."""
    shape = seen.outline
    line, fill = theme.colour("water_ink"), theme.colour("water_ink", 0.22)
    draw_curve(p, line, 1.8, middle.x() + shape.pool[:, 0] * scale, middle.y() - shape.pool[:, 1] * scale)
    for crown in shape.crowns:
        # Two walls that do not meet on the axis.
        for side in (-1, 1):
            wall = crown.profile * (side * scale, -scale) + (middle.x() + crown.x_m * scale, middle.y())
            draw_curve(p, line, 1.8, wall[:, 0], wall[:, 1])
    for form in (*shape.columns, *shape.sheets):
        draw_shape(p, fill, line, 1.8, *mirrored(form.profile, axis_of(form.x_m, middle, scale), scale))
    for sheet in shape.sheets:
        # The rim gathers what the sheet loses: a bead at each edge of the section.
        edge, height = sheet.profile[int(np.argmax(sheet.profile[:, 0]))]
        p.setPen(QPen(line, 1.8))
        p.setBrush(fill)
        for side in (-1, 1):
            place = QPointF(middle.x() + (sheet.x_m + side * edge) * scale, middle.y() - height * scale)
            p.drawEllipse(place, RIM_MM / 1e3 * scale, RIM_MM / 1e3 * scale)
    _light_edges(p, theme, seen, middle, scale)
    for drop, aside, height, radius in shape.drops:
        p.setPen(QPen(theme.drop(drop), 2.0))
        p.setBrush(theme.drop(drop, 0.25))
        centre = QPointF(middle.x() + aside * scale, middle.y() - height * scale)
        p.drawEllipse(centre, radius * scale, radius * scale)
        if radius * scale > 7:
            p.setFont(font(SMALL_PX))
            write(p, QRectF(centre.x() - 12, centre.y() - 9, 24, 18), str(drop + 1), CENTRE)


def _light_edges(p: QPainter, theme: Theme, seen: AtFlash, middle: QPointF, scale: float) -> None:
    """Warm strokes where the flashes catch the splash: its sides, its top, or the underside of the sheet."""
    units = seen.forecast.setup.light.units
    places = {units[n].place for n in seen.lit.units}
    shape = seen.outline
    warm = theme.colour("light", 0.75)
    if Place.SIDE in places:
        for column in shape.columns:
            inset = column.profile - np.array([1.2 / scale, 0.0])
            inset = inset[inset[:, 0] > 0]
            axis = axis_of(column.x_m, middle, scale)
            draw_curve(p, warm, 1.6, axis.x() + inset[:, 0] * scale, axis.y() - inset[:, 1] * scale)
    for sheet in shape.sheets:
        half, axis = len(sheet.profile) // 2, axis_of(sheet.x_m, middle, scale)
        rows = []
        if Place.ABOVE in places:
            rows.append(sheet.profile[:half] + np.array([0.0, 1.5 / scale]))
        if Place.BOWL in places:
            rows.append(sheet.profile[half:] - np.array([0.0, 1.5 / scale]))
        for line in rows:
            for side in (-1, 1):
                draw_curve(p, warm, 1.6, axis.x() + side * line[:, 0] * scale, axis.y() - line[:, 1] * scale)


def axis_of(x_m: float, middle: QPointF, scale: float) -> QPointF:
    """Where the axis of something meets the water that stands aside of the landing spot [m]."""
    return QPointF(middle.x() + x_m * scale, middle.y())


def mirrored(profile: Floats, middle: QPointF, scale: float) -> tuple[Floats, Floats]:
    """Return a right half profile and its mirror image as one outline: places x and y, from the axis round to it.

    profile : rows of (radius, height) [m], shape (points, 2), or several of them, shape (m, points, 2).
    """
    off, ys = profile[..., 0] * scale, middle.y() - profile[..., 1] * scale
    left, right = middle.x() - off, middle.x() + off
    if profile.size and profile.flat[0] == 0:
        return np.concatenate([left[..., ::-1], right], axis=-1), np.concatenate([ys[..., ::-1], ys], axis=-1)
    return np.concatenate([left, right[..., ::-1]], axis=-1), np.concatenate([ys, ys[..., ::-1]], axis=-1)
