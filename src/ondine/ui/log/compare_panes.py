"""Where things stand while shots are side by side: panes, their pictures, the words under them."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPainter

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.shot_list import outcome_words
from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, Theme, font

ACROSS = {1: 1, 2: 2, 3: 3, 4: 2, 5: 3, 6: 3}
"""How many panes stand beside each other, by how many there are."""

HEAD_PX, ROW_PX = 22, 17
LEAST_ROWS, MOST_SHARE = 2, 0.45
"""So many rows of differences have room at least; they take at most this share of a pane."""

LEFT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


@dataclass(frozen=True)
class Panes:
    """So many panes in a room, for pictures of some proportions and so many rows of words under each."""

    room: QSizeF
    count: int
    rows: int
    picture: QSizeF

    def all(self) -> list[QRectF]:
        """Return the panes, in reading order."""
        if not self.count:
            return []
        across = ACROSS[self.count]
        down = -(-self.count // across)
        wide = (self.room.width() - GRID_PX * (across - 1)) / across
        high = (self.room.height() - GRID_PX * (down - 1)) / down
        places = (divmod(n, across) for n in range(self.count))
        return [QRectF(x * (wide + GRID_PX), y * (high + GRID_PX), wide, high) for y, x in places]

    def at(self, point: QPointF) -> int | None:
        """Return the place of the pane under a point."""
        return next((n for n, pane in enumerate(self.all()) if pane.contains(point)), None)

    def rows_shown(self, pane: QRectF) -> int:
        """Return how many rows have room: those that leave the picture at its full width, or a few."""
        under = pane.height() - HEAD_PX - pane.width() * self.picture.height() / self.picture.width()
        room = max(LEAST_ROWS * ROW_PX, min(under, MOST_SHARE * pane.height()))
        return min(self.rows, int(room // ROW_PX))

    def frame(self, pane: QRectF) -> QRectF:
        """Return where a pane's picture lies; its words follow it, and both stand in the middle of the room."""
        under = HEAD_PX + ROW_PX * self.rows_shown(pane)
        wide = pane.width() - 4
        high = min(pane.height() - under - 2, wide * self.picture.height() / self.picture.width())
        return QRectF(pane.left() + 2, pane.top() + 2 + (pane.height() - under - 2 - high) / 2, wide, high)


def paint_head(p: QPainter, t: Theme, shot: ShotRecord, head: QRectF, is_current: bool) -> None:
    """Write a shot's number, glyphs, shapes and rating."""
    p.setFont(font(BODY_PX, bold=is_current))
    p.setPen(t.colour("ink"))
    p.drawText(head, LEFT, str(shot.id))
    x = head.left() + p.fontMetrics().horizontalAdvance(str(shot.id)) + GRID_PX
    for mark in (*shot.shapes[:2], *(("keeper",) if shot.keeper else ())):
        p.drawPixmap(QPointF(x, head.top()), glyph(mark, t.ink, 18, p.device().devicePixelRatioF()))
        x += 22
    p.setFont(font(SMALL_PX))
    p.setPen(t.colour("soft_ink"))
    rated = "●" * shot.rating
    room = head.adjusted(x - head.left(), 0, -p.fontMetrics().horizontalAdvance(rated) - GRID_PX, 0)
    words = p.fontMetrics().elidedText(outcome_words(shot), Qt.TextElideMode.ElideRight, int(room.width()))
    p.drawText(room, LEFT, words)
    p.drawText(head, RIGHT, rated)


def paint_row(p: QPainter, t: Theme, name: str, value: str, line: QRectF) -> None:
    """Write one thing that differs: what it is, and what this shot has of it."""
    p.setFont(font(SMALL_PX))
    wide = p.fontMetrics().horizontalAdvance(value)
    p.setPen(t.colour("ink"))
    p.drawText(line, RIGHT, value)
    p.setPen(t.colour("soft_ink"))
    shown = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(line.width() - wide - GRID_PX))
    p.drawText(line, LEFT, shown)
