"""One thing over a sitting, drawn small: points over minutes, and a line where they drift."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from ondine.core.table.course import Course, running_share
from ondine.ui.kit.theme import SMALL_PX, Theme, font

HEAD_PX, FOOT_PX, LEFT_PX, RIGHT_PX = 36, 16, 44, 8
DOT_PX = 2.2
COURSE_PX, LEVEL_PX = 112.0, 38.0
HITS = "hits"
LEFT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


def course_words(course: Course, goal: str) -> tuple[str, str]:
    """Return the name of a course and what is said of it. `goal`: the name of the shape that counts as a hit."""
    if course.name != HITS:
        return course.name.capitalize(), course.words
    hits = int(course.values.sum())
    said = f"{hits} of {len(course.values)} tagged shots"
    if course.drift is not None:
        way = "more and more" if course.drift.tau > 0 else "fewer and fewer"
        said += f", {way} of them" if course.drift.is_real else ", no drift beyond chance"
    return f"Hits: {goal}", said


def height_of(course: Course) -> float:
    """Return how high a course is drawn; what was the same all the time is only told."""
    return LEVEL_PX if course.is_level and course.name != HITS else COURSE_PX


def paint_course(p: QPainter, t: Theme, area: QRectF, course: Course, goal: str, until_min: float) -> None:
    """Draw a course into an area; `until_min`: how long the sitting was, so that all of its courses share one axis."""
    name, said = course_words(course, goal)
    head = QRectF(area.left(), area.top(), area.width(), HEAD_PX / 2)
    p.setFont(font(SMALL_PX, bold=True))
    p.setPen(t.colour("ink"))
    p.drawText(head, LEFT, name)
    p.setFont(font(SMALL_PX))
    p.setPen(t.colour("soft_ink"))
    p.drawText(head.translated(0, HEAD_PX / 2), LEFT, said)
    if height_of(course) == LEVEL_PX:
        return
    plot = area.adjusted(LEFT_PX, HEAD_PX + 4, -RIGHT_PX, -FOOT_PX)
    is_hits = course.name == HITS
    low, high = (0.0, 1.0) if is_hits else _range(course)
    _paint_axes(p, t, plot, ("0 %", "100 %") if is_hits else _ends(course, low, high), until_min)

    def place(minute: float, value: float) -> QPointF:
        return QPointF(
            plot.left() + plot.width() * minute / max(until_min, 1e-9),
            plot.bottom() - plot.height() * (value - low) / (high - low),
        )

    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(t.colour("water_ink", 0.7))
    for minute, value in zip(course.minutes, course.values, strict=True):
        p.drawEllipse(place(float(minute), float(value)), DOT_PX, DOT_PX)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(t.colour("ink"), 1.5))
    if is_hits:
        share = running_share(course)
        p.drawPolyline(QPolygonF([place(float(m), float(s)) for m, s in zip(course.minutes, share, strict=True)]))
    elif course.drift is not None and course.drift.is_real:
        slope = course.drift.slope_per_s * 60
        middle = float(np.median(course.values - slope * course.minutes))
        ends = [float(course.minutes[0]), float(course.minutes[-1])]
        p.save()
        p.setClipRect(plot)
        p.drawLine(QLineF(*(place(minute, middle + slope * minute) for minute in ends)))
        p.restore()


def _range(course: Course) -> tuple[float, float]:
    low, high = float(course.values.min()), float(course.values.max())
    least = 10.0**-course.decimals
    if high - low < least:
        return low - least, high + least
    margin = 0.08 * (high - low)
    # Nothing that is never below zero begins there.
    return max(low - margin, 0.0) if low >= 0 else low - margin, high + margin


def _ends(course: Course, low: float, high: float) -> tuple[str, str]:
    return tuple(f"{end:.{course.decimals}f}" for end in (low, high))  # type: ignore[return-value]


def _paint_axes(p: QPainter, t: Theme, plot: QRectF, ends: tuple[str, str], until_min: float) -> None:
    p.setPen(QPen(t.colour("faint"), 1))
    for y in (plot.top(), plot.bottom()):
        p.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
    p.setPen(t.colour("soft_ink"))
    for y, words in ((plot.bottom(), ends[0]), (plot.top(), ends[1])):
        p.drawText(QRectF(plot.left() - LEFT_PX, y - 8, LEFT_PX - 6, 16), RIGHT, words)
    foot = QRectF(plot.left(), plot.bottom() + 1, plot.width(), FOOT_PX)
    p.drawText(foot, LEFT, "0")
    p.drawText(foot, RIGHT, f"{until_min:.0f} min")
