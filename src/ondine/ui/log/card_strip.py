"""Both clocks of a card as a strip: shots above, frames below, lines between those that belong together."""

from __future__ import annotations

import math
from datetime import UTC, datetime

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from ondine.core.log.camera_clock import Clock
from ondine.studio.card_import import MatchedCard
from ondine.ui.kit.theme import DAY, SMALL_PX, Theme, font

LEFT_PX, RIGHT_PX = 72, 16
TICK_PX, ROOM_PX = 16, 22
NUDGE_S, COARSE_S = 1.0, 10.0
LABEL_PX = 76.0
STEPS_S = (1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 21_600, 86_400, 604_800)
"""How far the times that are written may stand apart."""


class CardStrip(QWidget):
    """Shows a match. Emits `slid(clock)` when a hand has moved the frames against the shots."""

    slid = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.found: MatchedCard | None = None
        self.by_s = 0.0
        self._span = (0.0, 1.0)
        self._from: float | None = None
        self.setMinimumHeight(150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Shots and frames on one clock; arrows slide the frames by a second, with Shift by ten")

    def show_match(self, found: MatchedCard) -> None:
        """Show a match; another card comes wholly into view."""
        anew = self.found is None or self.found.frames is not found.frames
        self.found, self.by_s = found, 0.0
        if anew:
            times = [shot.at.timestamp() for shot in found.shots] + [self._true_s(n) for n in range(len(found.frames))]
            low, high = min(times, default=0.0), max(times, default=1.0)
            room = max(high - low, 10.0) * 0.03
            self._span = low - room, high + room
        pairs = found.match.pairs
        sure = sum(pair.sure for pair in pairs)
        self.setAccessibleDescription(f"{sure} sure pairs, {len(pairs) - sure} doubtful")
        self.update()

    @property
    def clock(self) -> Clock:
        """The clock that frames are shown by: the one of most pairs, as far as it was slid."""
        found = self.found
        if found is None or not found.match.clocks:
            return Clock(self.by_s)
        usual = found.match.clocks[0]
        return Clock(usual.offset_s + self.by_s, usual.drift_s_per_day, usual.at_s, usual.sd_s)

    def _true_s(self, frame: int) -> float:
        """When a frame was taken, by its own clock as it was found, or else by the first one."""
        assert self.found is not None
        clocks = self.found.match.clocks
        own = next((pair.clock for pair in self.found.match.pairs if pair.frame == frame), 0)
        offset = clocks[own].offset_s if clocks else 0.0
        shown = self.found.frames[frame].taken_at.timestamp() + (0.0 if self.found.fractions else 0.5)
        return shown - offset - self.by_s

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the frames."""
        self._from = event.position().x()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Slide the frames along."""
        if self._from is not None and self.found is not None:
            self.by_s -= (event.position().x() - self._from) / self._per_s
            self._from = event.position().x()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Match anew where the hand left them."""
        self._from = None
        self._tell()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Look closer or wider at what is under the hand."""
        factor = 0.85 ** (event.angleDelta().y() / 120)
        at = self._span[0] + (event.position().x() - LEFT_PX) / self._per_s
        low, high = (at + (end - at) * factor for end in self._span)
        if high - low > 2.0:
            self._span = low, high
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Slide the frames by seconds."""
        way = {Qt.Key.Key_Left: 1, Qt.Key.Key_Right: -1}.get(Qt.Key(event.key()))
        if way is None or self.found is None:
            event.ignore()
            return
        coarse = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.by_s += way * (COARSE_S if coarse else NUDGE_S)
        self._tell()

    def _tell(self) -> None:
        if self.found is not None and self.by_s:
            self.slid.emit(self.clock)
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Redraw with the edge."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Redraw without the edge."""
        super().focusOutEvent(event)
        self.update()

    # Drawing

    @property
    def _per_s(self) -> float:
        return max(self.width() - LEFT_PX - RIGHT_PX, 1) / (self._span[1] - self._span[0])

    def _x(self, time_s: float) -> float:
        return LEFT_PX + (time_s - self._span[0]) * self._per_s

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw shots, frames, and what joins them."""
        t = self.theme
        above, below = ROOM_PX + TICK_PX, self.height() - ROOM_PX - TICK_PX
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setFont(font(SMALL_PX))
            p.fillRect(self.rect(), t.colour("water", 0.5))
            p.setPen(t.colour("soft_ink"))
            middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            p.drawText(QRectF(0, above - TICK_PX, LEFT_PX - 8, TICK_PX), middle, "Shots")
            p.drawText(QRectF(0, below, LEFT_PX - 8, TICK_PX), middle, "Frames")
            if self.found is not None:
                p.setClipRect(QRectF(LEFT_PX, 0, self.width() - LEFT_PX, self.height()))
                self._paint_times(p)
                self._paint_match(p, self.found, above, below)
                p.setClipping(False)
            if self.hasFocus():
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(t.colour("ink"), 2))
                p.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _paint_times(self, p: QPainter) -> None:
        """Write the log's time over the shots, and under the frames what the camera's clock showed then."""
        t, clock = self.theme, self.clock
        step_s = next((s for s in STEPS_S if s * self._per_s >= LABEL_PX), STEPS_S[-1])
        first = math.ceil(self._span[0] / step_s) * step_s
        while first <= self._span[1]:
            x = self._x(first)
            here = datetime.fromtimestamp(first).astimezone()
            # A camera's clock is read as it stands, of whatever zone it was.
            shown = datetime.fromtimestamp(first + clock.offset_s, UTC)
            p.setPen(t.colour("faint"))
            p.drawLine(QLineF(x, ROOM_PX, x, self.height() - ROOM_PX))
            p.setPen(t.colour("soft_ink"))
            for at, y in ((here, 2.0), (shown, self.height() - ROOM_PX + 2.0)):
                area = QRectF(x - LABEL_PX / 2, y, LABEL_PX, ROOM_PX - 4)
                if not LEFT_PX <= area.left() <= self.width() - LABEL_PX:
                    continue
                p.drawText(area, Qt.AlignmentFlag.AlignCenter, f"{at:%H:%M:%S}")
            first += step_s

    def _paint_match(self, p: QPainter, found: MatchedCard, above: float, below: float) -> None:
        t = self.theme
        shots = [self._x(shot.at.timestamp()) for shot in found.shots]
        frames = [self._x(self._true_s(n)) for n in range(len(found.frames))]
        alone = set(found.match.shots_left), set(found.match.frames_left)
        for places, left, y in ((shots, alone[0], above - TICK_PX), (frames, alone[1], below)):
            for number, x in enumerate(places):
                p.setPen(QPen(t.colour("line" if number in left else "ink"), 1 if number in left else 2))
                p.drawLine(QLineF(x, y, x, y + TICK_PX))
        for pair in found.match.pairs:
            style = Qt.PenStyle.SolidLine if pair.sure else Qt.PenStyle.DashLine
            p.setPen(QPen(t.colour("water_ink" if pair.sure else "light"), 1 if pair.sure else 2, style))
            p.drawLine(QPointF(shots[pair.shot], above + 2), QPointF(frames[pair.frame], below - 2))
