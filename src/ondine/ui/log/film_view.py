"""The splash as a film made of many drops: shots of one series by the time of their flash, turned by the wheel."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.pictures import CACHE_BYTES, PictureLoader
from ondine.ui.kit.shot_list import outcome_words, shot_words
from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, SMALL_PX, font
from ondine.ui.log.frame_paint import Frames
from ondine.ui.log.lens import Lens

SMALL_FRAME = 96.0, 64.0
CAPTION_PX = 18
HEAD_PX = 26
AHEAD = 4
"""So many pictures before and after are read before they are asked for, fewer where they are large."""

EMPTY = "A film is made of shots of one sitting with the same drops and different flashes. Go to one of them first."


def ahead_of(pixels: float) -> int:
    """Return how many pictures are read ahead on either side, each of so many pixels: half of what is kept at most."""
    return max(0, min(AHEAD, int((CACHE_BYTES / 2 / (4 * max(pixels, 1)) - 1) // 2)))


class FilmView(QWidget):
    """Emits `pointed(number)` for the shot in the frame, and `chosen(number)` for one to go to the bench with."""

    pointed = Signal(int)
    chosen = Signal(int)

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.frames = Frames(loader, DAY)
        self.place = 0
        self.shots: list[ShotRecord] = []
        self._turned = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Film of one series; wheel or arrows turn it")
        loader.ready.connect(lambda _: self.update())

    def show_shots(self, shots: Sequence[ShotRecord], begin: int | None) -> None:
        """Show shots as a film, by the time of their first flash; `begin`: the number of the one in the frame."""
        self.shots = sorted(shots, key=lambda shot: (shot.sequence.first_flash_us, shot.at, shot.id))
        at = next((place for place, shot in enumerate(self.shots) if shot.id == begin), 0)
        self.place = at
        self._tell()

    def take(self, changed: dict[int, ShotRecord]) -> None:
        """Take what has changed of the shots that are shown."""
        self.shots = [changed.get(shot.id, shot) for shot in self.shots]
        self._tell()

    @property
    def current(self) -> int | None:
        """The number of the shot in the frame."""
        return self.shots[self.place].id if self.place < len(self.shots) else None

    @property
    def record(self) -> ShotRecord | None:
        """The shot in the frame."""
        return self.shots[self.place] if self.place < len(self.shots) else None

    def turn(self, by: int) -> None:
        """Turn the film on, or back."""
        self.turn_to(self.place + by)

    def turn_to(self, place: int) -> None:
        """Turn the film to a place, at most to its ends."""
        to = min(max(place, 0), len(self.shots) - 1)
        if to != self.place and to >= 0:
            self.place = to
            self.pointed.emit(self.shots[to].id)
            self._tell()

    def _tell(self) -> None:
        shown = self.shots[self.place] if self.place < len(self.shots) else None
        place = f"{self.place + 1} of {len(self.shots)}"
        self.setAccessibleDescription(EMPTY if shown is None else f"{place}: {shot_words(shown)}")
        self.update()

    # Hands

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Turn the film, a shot for each notch; finer wheels gather."""
        self._turned -= event.angleDelta().y() / 120
        notches = int(self._turned)
        self._turned -= notches
        self.turn(notches)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Turn the film by keys."""
        key = Qt.Key(event.key())
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if key in steps and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.turn(steps[key])
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.turn_to(0 if key == Qt.Key.Key_Home else len(self.shots) - 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current is not None:
            self.chosen.emit(self.current)
        else:
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Turn to the small picture that is pressed."""
        self.setFocus()
        place = next((n for n, area in self._strip() if area.contains(event.position())), None)
        if place is not None:
            self.turn_to(place)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where keys go."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Show that keys go elsewhere."""
        super().focusOutEvent(event)
        self.update()

    # Drawing

    def _strip(self) -> list[tuple[int, QRectF]]:
        """Where the small pictures lie that have room: all of the film, or the part around the one in the frame."""
        wide, high = SMALL_FRAME
        fit = max(1, int((self.width() + GRID_PX) // (wide + GRID_PX)))
        count = min(fit, len(self.shots))
        first = min(max(self.place - count // 2, 0), len(self.shots) - count)
        left = (self.width() - count * (wide + GRID_PX) + GRID_PX) / 2
        top = self.height() - CAPTION_PX - high - 2
        return [(first + n, QRectF(left + n * (wide + GRID_PX), top, wide, high)) for n in range(count)]

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the frame, and the strip below it."""
        t = self.frames.theme
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            if not self.shots:
                p.setFont(font(BODY_PX))
                p.setPen(t.colour("soft_ink"))
                wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                p.drawText(QRectF(self.rect()).adjusted(24, 24, -24, -24), wrapped, EMPTY)
                return
            strip = self._strip()
            frame = QRectF(2, 2, self.width() - 4, strip[0][1].top() - HEAD_PX - GRID_PX)
            self._paint_strip(p, strip)
            self.frames.paint(p, self.shots[self.place], frame, Lens())
            ratio = self.devicePixelRatioF()
            ahead = ahead_of(frame.width() * frame.height() * ratio**2)
            # After the one that is wanted now comes what will be wanted next: the latest wish is read first.
            for near in self.shots[max(0, self.place - ahead) : self.place + ahead + 1]:
                self.frames.image(near, frame.size(), ratio)
            self.frames.image(self.shots[self.place], frame.size(), ratio)
            self._paint_head(p, QRectF(2, frame.bottom() + 2, self.width() - 4, HEAD_PX))

    def _paint_head(self, p: QPainter, head: QRectF) -> None:
        t, shot = self.frames.theme, self.shots[self.place]
        across = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        p.setFont(font(BODY_PX, bold=True))
        p.setPen(t.colour("ink"))
        words = f"Flash {shot.sequence.first_flash_us / 1000:g} ms"
        p.drawText(head, across, words)
        x = head.left() + p.fontMetrics().horizontalAdvance(words) + 2 * GRID_PX
        for mark in (*shot.shapes[:3], *(("keeper",) if shot.keeper else ())):
            p.drawPixmap(QPointF(x, head.top() + 4), glyph(mark, t.ink, 18, self.devicePixelRatioF()))
            x += 22
        p.setFont(font(BODY_PX))
        p.setPen(t.colour("soft_ink"))
        p.drawText(head.adjusted(x - head.left(), 0, 0, 0), across, f"{outcome_words(shot)}   shot {shot.id}")
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        p.drawText(head, right, f"{self.place + 1} of {len(self.shots)}")

    def _paint_strip(self, p: QPainter, strip: list[tuple[int, QRectF]]) -> None:
        t = self.frames.theme
        for place, area in strip:
            shot = self.shots[place]
            self.frames.paint(p, shot, area, Lens())
            is_current = place == self.place
            if is_current:
                p.setPen(QPen(t.colour("ink" if self.hasFocus() else "line"), 3))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(area)
            p.setFont(font(SMALL_PX, bold=is_current))
            p.setPen(t.colour("ink" if is_current else "soft_ink"))
            below = QRectF(area.left(), area.bottom() + 2, area.width(), CAPTION_PX)
            p.drawText(below, Qt.AlignmentFlag.AlignCenter, f"{shot.sequence.first_flash_us / 1000:g} ms")
