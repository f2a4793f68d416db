"""Shots as small pictures: the strip under the chart, and the pages of the log."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QImage, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from ondine.core.setup import BenchKind
from ondine.core.timing.sequence import Sequence
from ondine.logbook.pairing import ARRIVES_WITHIN
from ondine.logbook.records import ShotRecord, ShotState
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.mark import SHORT, SIMULATED, paint_mark
from ondine.ui.kit.own_shapes import shape_name
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY, SMALL_PX, Theme, font

Index = QModelIndex | QPersistentModelIndex
SHOT = Qt.ItemDataRole.UserRole
CAPTION_PX, EDGE_PX = 24, 4


def outcome_words(shot: ShotRecord) -> str:
    """Say what is known of a shot's outcome."""
    if shot.state == ShotState.FAILED:
        return "did not fire"
    if shot.shapes:
        return ", ".join(shape_name(key) for key in shot.shapes)
    if shot.state == ShotState.PLANNED:
        return "firing"
    return "fired, outcome unknown"


def no_picture_words(shot: ShotRecord, now: datetime) -> str:
    """Say why there is no picture of a shot: it may still come, for a while."""
    if shot.state == ShotState.FAILED:
        return "This shot did not fire, so there is no picture of it."
    if shot.bench is BenchKind.BY_HAND:
        return "Logged. Its picture comes here when it lands in the folder of pictures, or is imported from the card."
    if timedelta(0) <= now - shot.at <= ARRIVES_WITHIN:
        return "Fired. The picture comes in a moment."
    return "No picture of this shot has come. Copy it into the folder of pictures, and it finds its shot."


def timing_words(shot: ShotRecord) -> str:
    """Say a shot's timing in short: intervals, then the flash."""
    return timing_words_of(shot.sequence)


def timing_words_of(sequence: Sequence) -> str:
    """Say a sequence in short: intervals, then the flash."""
    intervals = " + ".join(f"{i / 1000:g}" for i in sequence.intervals_us)
    drops = f"{intervals} · " if intervals else "one drop · "
    flashes = ", ".join(f"{flash.at_us / 1000:g}" for flash in sequence.flashes)
    return f"{drops}flash {flashes} ms"


def shot_words(shot: ShotRecord) -> str:
    """Say a shot in one line, for hover and hearing."""
    rated = f", rated {shot.rating} of 5" if shot.rating else ""
    made = f" {SIMULATED}" if shot.is_simulated else ""
    kept = ", keeper" if shot.keeper else ""
    return f"Shot {shot.id}{made}, {timing_words(shot)}: {outcome_words(shot)}{rated}{kept}"


class ShotModel(QAbstractListModel):
    """A list of shots, newest first."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.shots: list[ShotRecord] = []

    def set_shots(self, shots: list[ShotRecord]) -> None:
        """Show other shots."""
        self.beginResetModel()
        self.shots = shots
        self.endResetModel()

    def add(self, shot: ShotRecord) -> None:
        """Put a new shot in front."""
        self.beginInsertRows(QModelIndex(), 0, 0)
        self.shots.insert(0, shot)
        self.endInsertRows()

    def change(self, shot: ShotRecord) -> None:
        """Replace what is shown of a shot."""
        row = self.row_of(shot.id)
        if row is not None:
            self.shots[row] = shot
            self.dataChanged.emit(self.index(row), self.index(row))

    def row_of(self, shot_id: int) -> int | None:
        """Return where a shot stands."""
        return next((row for row, shot in enumerate(self.shots) if shot.id == shot_id), None)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """How many shots."""
        return 0 if parent.isValid() else len(self.shots)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Give the record, or words for hover and hearing."""
        if not index.isValid():
            return None
        shot = self.shots[index.row()]
        if role == SHOT:
            return shot
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.DisplayRole):
            return shot_words(shot)
        return None


class ShotDelegate(QStyledItemDelegate):
    """Draws a shot: picture, number, glyphs of its shapes, rating as dots."""

    def __init__(self, loader: PictureLoader, picture: QSize, words: bool, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.is_whole = True
        """Whether what was painted last had its picture, or will have none."""
        self._loader, self._picture, self._words = loader, picture, words

    def resize(self, picture: QSize) -> None:
        """Draw pictures of another size."""
        self._picture = picture

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Picture and a line or two below."""
        return self._picture + QSize(8, 40 if self._words else CAPTION_PX)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw one shot."""
        shot: ShotRecord | None = index.data(SHOT)
        t, area = self.theme, QRectF(option.rect)
        state = option.state
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(area.left() + 4, area.top() + 2, self._picture.width(), self._picture.height())
        if shot is None:
            self._paint_missing(painter, frame, str(index.data() or ""))
        else:
            self._paint_picture(painter, shot, frame)
        if state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(t.colour("ink"), 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(frame)
        elif state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(QPen(t.colour("line"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(frame)
        if shot is not None:
            self._paint_caption(painter, shot, frame)
        painter.restore()

    def _paint_missing(self, painter: QPainter, frame: QRectF, words: str) -> None:
        """A shot that is still being read, or cannot be."""
        painter.setPen(QPen(self.theme.colour("faint"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        painter.setFont(font(SMALL_PX))
        painter.setPen(self.theme.colour("soft_ink"))
        painter.drawText(frame, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)

    def _paint_picture(self, painter: QPainter, shot: ShotRecord, frame: QRectF) -> None:
        t = self.theme
        ratio = painter.device().devicePixelRatioF()
        size = frame.size().toSize() * ratio
        image = self._loader.get(shot.picture, size, t.dark, shot.picture_sha256) if shot.picture else None
        self.is_whole = shot.picture is None or image is not None
        if image is not None and not image.isNull():
            # It was decoded at this size: drawn as it is, pixel for pixel.
            shown = QImage(image)
            shown.setDevicePixelRatio(ratio)
            placed = QRectF(QPointF(), shown.deviceIndependentSize())
            placed.moveCenter(frame.center())
            painter.drawImage(placed.topLeft().toPoint(), shown)
            if shot.is_simulated:
                paint_mark(painter, t, frame, SIMULATED if self._words else SHORT)
            return
        painter.setPen(QPen(t.colour("line"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        painter.setFont(font(SMALL_PX))
        painter.setPen(t.colour("soft_ink"))
        words = "did not fire" if shot.state == ShotState.FAILED else "no picture"
        if shot.picture is not None and image is None:
            words = ""  # it is still being read
        painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, words)
        if shot.is_simulated:
            paint_mark(painter, t, frame, SIMULATED if self._words else SHORT)

    def _paint_caption(self, painter: QPainter, shot: ShotRecord, frame: QRectF) -> None:
        t = self.theme
        line = QRectF(frame.left(), frame.bottom() + 2, frame.width(), 18)
        painter.setFont(font(SMALL_PX))
        painter.setPen(t.colour("ink"))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, str(shot.id))
        x = line.left() + painter.fontMetrics().horizontalAdvance(str(shot.id)) + 6
        ratio = painter.device().devicePixelRatioF()
        if not shot.picture_sure:
            painter.setPen(t.colour("ink"))
            painter.drawText(QRectF(x, line.top(), 90, 18), Qt.AlignmentFlag.AlignVCenter, "its picture?")
        elif not shot.outcome_known and shot.state != ShotState.PLANNED:
            painter.setPen(t.colour("soft_ink"))
            painter.drawText(QRectF(x, line.top(), 80, 18), Qt.AlignmentFlag.AlignVCenter, "untagged")
        for shape in shot.shapes[:3]:
            painter.drawPixmap(round(x), round(line.top()), glyph(shape, t.ink, 18, ratio))
            x += 20
        if shot.keeper:
            painter.drawPixmap(round(x), round(line.top()), glyph("keeper", t.ink, 18, ratio))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.colour("ink"))
        for dot in range(shot.rating):
            painter.drawEllipse(QRectF(line.right() - 5 - 7 * dot, line.center().y() - 2, 4.5, 4.5))
        if self._words:
            painter.setPen(t.colour("soft_ink"))
            below = line.translated(0, 17)
            text = painter.fontMetrics().elidedText(timing_words(shot), Qt.TextElideMode.ElideRight, int(below.width()))
            painter.drawText(below, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)


class ShotList(QListView):
    """A view of shots; in a row (the strip) or in a grid (the log)."""

    def __init__(self, loader: PictureLoader, picture: QSize, grid: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shots = ShotModel(self)
        self.delegate = ShotDelegate(loader, picture, words=grid, parent=self)
        self.setModel(self.shots)
        self.setItemDelegate(self.delegate)
        self.setMouseTracking(True)
        self.setUniformItemSizes(True)
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(grid)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setHorizontalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        if not grid:
            self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        loader.ready.connect(lambda _: self.viewport().update())

    def set_height(self, pixels: int) -> None:
        """Make a strip so high that its pictures, three by two, fill it."""
        if pixels != self.height() or self.maximumHeight() != pixels:
            self.setFixedHeight(pixels)
            high = pixels - CAPTION_PX - EDGE_PX
            self.delegate.resize(QSize(high * 3 // 2, high))
            self.scheduleDelayedItemsLayout()

    def show_shot(self, shot_id: int) -> None:
        """Select a shot and bring it into sight."""
        row = self.shots.row_of(shot_id)
        if row is not None:
            self.setCurrentIndex(self.shots.index(row))

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.delegate.theme = theme
        self.viewport().update()
