"""The stages of the work as drops along the left edge: each fills as it becomes ready."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ondine.ui.kit.theme import DAY, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.table.stages import STAGES, Stage

EDGE_PX = 64
MARK_LEAST_PX, MARK_MOST_PX, WORD_PX = 48, 54, 17


class StageMark(QPushButton):
    """A drop that fills from below, over its word."""

    def __init__(self, stage: Stage) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.stage = stage
        self._share = 0.0
        self.water_y = -100.0
        self.setCheckable(True)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Maximum)
        self.setToolTip(stage.does)
        self.setAccessibleName(stage.word)

    def sizeHint(self) -> QSize:
        """Room for drop and word; the style sheet knows nothing of drops."""
        return QSize(EDGE_PX, MARK_MOST_PX)

    def minimumSizeHint(self) -> QSize:
        """Drop and name without air between them."""
        return QSize(EDGE_PX, MARK_LEAST_PX)

    @property
    def share(self) -> float:
        """How ready the stage is, 0 to 1."""
        return self._share

    def fill(self, share: float) -> None:
        """Show how ready the stage is."""
        if share != self._share:
            self._share = share
            self.setAccessibleDescription(f"{share:.0%} ready")
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw drop and word."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            ink = self.theme.colour("ink")
            if self.isChecked() or self.underMouse():
                p.fillRect(QRectF(0, 6, 3, self.height() - 12), ink if self.isChecked() else self.theme.colour("line"))
            drop = _drop(QPointF(self.width() / 2, (self.height() - WORD_PX) / 2 + 2), 8)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(self.theme.colour("water_ink", 0.85))
            p.save()
            box = drop.boundingRect()
            p.setClipRect(QRectF(box.left(), box.bottom() - box.height() * self._share, box.width(), box.height()))
            p.drawPath(drop)
            p.restore()
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(ink, 1.6 if self.isChecked() else 1.2))
            p.drawPath(drop)
            word = QRectF(0, self.height() - WORD_PX - 3, self.width(), WORD_PX)
            line = self.water_y - self.y()
            if word.top() - 2 < line < word.bottom() + 2:
                # The waterline stops short of a word.
                p.fillRect(word, self.theme.colour("air" if line > word.center().y() else "water"))
            p.setFont(font(SMALL_PX, bold=self.isChecked()))
            p.setPen(ink if self.isChecked() else self.theme.colour("soft_ink"))
            p.drawText(word, Qt.AlignmentFlag.AlignCenter, self.stage.word)
            if self.hasFocus():
                p.setPen(QPen(ink, 2))
                p.drawRoundedRect(QRectF(self.rect()).adjusted(5, 3, -5, -2), 4, 4)


def _drop(centre: QPointF, radius: float) -> QPainterPath:
    path = QPainterPath(QPointF(centre.x(), centre.y() - 1.9 * radius))
    x, y = centre.x(), centre.y()
    path.cubicTo(x + 0.35 * radius, y - 1.1 * radius, x + radius, y - 0.7 * radius, x + radius, y)
    path.arcTo(QRectF(x - radius, y - radius, 2 * radius, 2 * radius), 0, -180)
    path.cubicTo(x - radius, y - 0.7 * radius, x - 0.35 * radius, y - 1.1 * radius, x, y - 1.9 * radius)
    return path


class StageEdge(QWidget):
    """The marks, one below the other. Emits `chosen(key)`."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._water_y = 0.0
        self.setFixedWidth(EDGE_PX)
        self.marks = {stage.key: StageMark(stage) for stage in STAGES}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, GRID_PX)
        column.setSpacing(0)
        for mark in self.marks.values():
            column.addWidget(mark)
            mark.clicked.connect(lambda _, key=mark.stage.key: self.chosen.emit(key))
        column.addStretch(1)

    def show_chosen(self, key: str | None) -> None:
        """Mark the stage that is open; None on the bench."""
        for mark in self.marks.values():
            mark.setChecked(mark.stage.key == key)

    def show_ready(self, shares: dict[str, float]) -> None:
        """Fill the marks."""
        for key, share in shares.items():
            self.marks[key].fill(share)

    def set_water_line(self, y: float) -> None:
        """Carry the page's waterline through."""
        if y != self._water_y:
            self._water_y = y
            for mark in self.marks.values():
                mark.water_y = y
            self.update()

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        for mark in self.marks.values():
            mark.theme = theme
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air, water, and the line between them."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            below = self.rect()
            below.setTop(round(self._water_y))
            p.fillRect(below, self.theme.colour("water"))
            p.setPen(QPen(self.theme.colour("water_ink"), 2))
            p.drawLine(QPointF(0, self._water_y), QPointF(self.width(), self._water_y))
