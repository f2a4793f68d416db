"""What a painting consists of, sorted by kind before it is drawn.

A painter is quick at many things of one kind and slow where kinds take turns: what is filled comes first, then all
lines, then rings, numbers in discs, words. Within a kind what was added later lies on top.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from ondine.ui.kit.lettering import CENTRE, LEFT, write
from ondine.ui.kit.strokes import Floats, pen_of, pieces, polygon
from ondine.ui.kit.theme import SMALL_PX, font

BADGE_PX, BADGE_ROOM_PX = 9.0, 11.0
"""Radius of a badge, and half the side of the square that it is drawn in."""


@dataclass
class Sketch:
    """Things to draw; `paint` draws them."""

    _fills: list[tuple[QColor, QPolygonF]] = field(default_factory=list)
    _lines: list[tuple[QPen, list[QLineF] | QPolygonF]] = field(default_factory=list)
    _rings: list[tuple[QPen, QPointF, float]] = field(default_factory=list)
    _badges: list[tuple[str, QPointF, QColor, QColor, QColor | None]] = field(default_factory=list)
    _words: list[tuple[QColor, QRectF, str, Qt.AlignmentFlag]] = field(default_factory=list)

    def fill(self, colour: QColor, outline: QPolygonF) -> None:
        """Add an area whose edge is not smooth: for what is faint, or has a line around it."""
        self._fills.append((colour, outline))

    def line(self, colour: QColor, width: float, start: QPointF, end: QPointF) -> None:
        """Add a straight line."""
        self._lines.append((QPen(colour, width), [QLineF(start, end)]))

    def curve(self, colour: QColor, width: float, xs: Floats, ys: Floats, dashes: Sequence[float] = ()) -> None:
        """Add a smooth line through points, as `draw_curve` draws it."""
        self._lines.append((pen_of(colour, width, dashes), polygon(xs, ys) if dashes else pieces(xs, ys)))

    def ring(self, place: QPointF, radius: float, pen: QPen) -> None:
        """Add a circle round a place."""
        self._rings.append((pen, place, radius))

    def badge(self, text: str, place: QPointF, ink: QColor, letters: QColor, rim: QColor | None = None) -> None:
        """Add a number in a disc, which has a rim while it is in hand."""
        self._badges.append((text, place, ink, letters, rim))

    def words(self, colour: QColor, room: QRectF, text: str, side: Qt.AlignmentFlag = LEFT) -> None:
        """Add a small line of text."""
        self._words.append((colour, room, text, side))

    def paint(self, p: QPainter) -> None:
        """Draw everything with a smoothing painter that has the small font."""
        if self._fills:
            p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            p.setPen(Qt.PenStyle.NoPen)
            for colour, outline in self._fills:
                p.setBrush(colour)
                p.drawPolygon(outline)
            p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for pen, line in self._lines:
            p.setPen(pen)
            if isinstance(line, QPolygonF):
                p.drawPolyline(line)
            else:
                p.drawLines(line)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for pen, place, radius in self._rings:
            p.setPen(pen)
            p.drawEllipse(place, radius, radius)
        is_drawn_in_dots = isinstance(p.device(), QPixmap | QImage | QWidget)
        for text, place, ink, letters, rim in self._badges:
            if not is_drawn_in_dots:
                # On paper, and in a file of lines, it is lines too.
                _paint_badge(p, place, text, ink, letters, rim)
                continue
            picture = _badge(text, ink.rgba(), letters.rgba(), rim and rim.rgba(), p.device().devicePixelRatioF())
            p.drawPixmap(place - QPointF(BADGE_ROOM_PX, BADGE_ROOM_PX), picture)
        for colour, room, text, side in self._words:
            p.setPen(colour)
            write(p, room, text, side)


@lru_cache(maxsize=64)
def _badge(text: str, ink: int, letters: int, rim: int | None, pixel_ratio: float) -> QPixmap:
    """Return a badge as a picture, its middle in the middle: the same few are drawn in every frame."""
    side = 2 * BADGE_ROOM_PX
    picture = QPixmap(round(side * pixel_ratio), round(side * pixel_ratio))
    picture.setDevicePixelRatio(pixel_ratio)
    picture.fill(Qt.GlobalColor.transparent)
    with QPainter(picture) as p:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(font(SMALL_PX))
        colours = QColor.fromRgba(ink), QColor.fromRgba(letters), None if rim is None else QColor.fromRgba(rim)
        _paint_badge(p, QPointF(BADGE_ROOM_PX, BADGE_ROOM_PX), text, *colours)
    return picture


def _paint_badge(p: QPainter, place: QPointF, text: str, ink: QColor, letters: QColor, rim: QColor | None) -> None:
    p.setPen(Qt.PenStyle.NoPen if rim is None else QPen(rim, 2))
    p.setBrush(ink)
    p.drawEllipse(place, BADGE_PX, BADGE_PX)
    p.setPen(letters)
    room = QPointF(BADGE_ROOM_PX, BADGE_ROOM_PX)
    write(p, QRectF(place - room, place + room), text, CENTRE)
