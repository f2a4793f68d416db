"""Name that instant: ten pictures, each to be named before its time runs out."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ondine.ui.kit.announce import announce
from ondine.ui.kit.parts import button, row, words
from ondine.ui.kit.picture_view import PictureView
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.tag_board import SHAPE_KEYS, TagBoard
from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, LARGE_PX, Theme, font

if TYPE_CHECKING:
    # Nobody practises in the first frame.
    from ondine.studio.events import InstantReady
    from ondine.studio.practice.book import Round

ABOUT = (
    "Ten pictures of splashes, twelve seconds each. Press the letter of what each shows, or its field on the board. "
    "The right name counts 10 points at once and 5 at the end, the shape just before or after it 3."
)
COMING = "The picture is being made."
TICK_MS, GOES_ON_MS = 100, 1200


class TimeBar(QWidget):
    """How much of the time is left."""

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.left = 1.0
        self.setFixedHeight(6)

    def show_left(self, share: float) -> None:
        """Show a share of the time."""
        self.left = share
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """A line that grows shorter."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("faint"))
            p.fillRect(QRectF(0, 0, self.width() * self.left, self.height()), self.theme.colour("ink"))


class NamingRound(QWidget):
    """One round. Emits `ended(round)` after the last picture, and `stopped()` where a hand ends it before."""

    ended = Signal(object)
    stopped = Signal()

    def __init__(self, loader: PictureLoader, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__()
        self._clock = clock
        self._ready: dict[int, InstantReady] = {}
        self.place = self.right = self.points = 0
        self.of = 10
        self.is_asking = False
        self._shown_s = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Name that instant")
        self.picture = PictureView(loader)
        self.picture.setMinimumHeight(200)
        self.bar, self.board = TimeBar(), TagBoard(has_own=False)
        self.count, self.said = QLabel(), QLabel()
        self.count.setFont(font(BODY_PX, bold=True))
        self.said.setFont(font(LARGE_PX, bold=True))
        self.said.setWordWrap(True)
        self.go_on = button("Next picture  Return", "Look at the next one")
        self.stop = button("Stop the round  Esc", "It does not count")
        self._tick, self._next = QTimer(self), QTimer(self)
        self._tick.setInterval(TICK_MS)
        self._tick.timeout.connect(self._look_at_clock)
        self._next.setSingleShot(True)
        self._next.setInterval(GOES_ON_MS)
        self._next.timeout.connect(self.advance)
        self.board.toggled.connect(self.answer)
        self.go_on.clicked.connect(self.advance)
        self.stop.clicked.connect(self.stopped)
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * GRID_PX, GRID_PX, 2 * GRID_PX, GRID_PX)
        column.setSpacing(GRID_PX)
        above = QHBoxLayout()
        above.addWidget(self.count, 1)
        above.addWidget(self.go_on)
        above.addWidget(self.stop)
        column.addLayout(above)
        column.addWidget(self.picture, 1)
        column.addWidget(self.bar)
        column.addWidget(self.said)
        column.addWidget(self.board)

    def begin(self, of: int) -> None:
        """Begin a round of so many pictures."""
        self._ready.clear()
        self.place = self.right = self.points = 0
        self.of = of
        self._ask()
        self.setFocus()

    def halt(self) -> None:
        """End the round, wherever it is."""
        self._tick.stop()
        self._next.stop()
        self.is_asking = False

    def take(self, ready: InstantReady) -> None:
        """Hear that a picture is there."""
        self._ready[ready.place] = ready
        if ready.place == self.place and not self.is_asking and not self.go_on.isVisible():
            self._ask()

    def _ask(self) -> None:
        """Show the next picture, if it is there."""
        ready = self._ready.get(self.place)
        self.go_on.hide()
        self.said.setText(" ")
        self.count.setText(f"Picture {self.place + 1} of {self.of}, {self.points} points")
        self.bar.show_left(1.0)
        self.board.show_tags((), enabled=ready is not None)
        self.picture.show_picture(None if ready is None else ready.picture, COMING)
        self.is_asking = ready is not None
        if self.is_asking:
            self._shown_s = self._clock()
            self._tick.start()

    def _look_at_clock(self) -> None:
        from ondine.studio.practice.naming import TIME_S

        left = 1 - (self._clock() - self._shown_s) / TIME_S
        self.bar.show_left(max(left, 0.0))
        if left <= 0:
            self.answer(None)

    def answer(self, shape: str | None) -> None:
        """Hear a name, or that the time is up."""
        from ondine.studio.practice.naming import points, verdict

        if not self.is_asking:
            return
        instant = self._ready[self.place].instant
        self.is_asking = False
        self._tick.stop()
        won = points(instant, shape, self._clock() - self._shown_s)
        is_right = shape == instant.shape
        self.points, self.right = self.points + won, self.right + is_right
        told = f"{verdict(instant, shape)} {won} points."
        self.said.setText(told)
        announce(self, told)
        self.count.setText(f"Picture {self.place + 1} of {self.of}, {self.points} points")
        self.board.show_tags((instant.shape,), enabled=False)
        self.go_on.show()
        if is_right:
            self._next.start()

    def advance(self) -> None:
        """Go on to the next picture, or end the round."""
        from datetime import datetime

        from ondine.studio.practice.book import Round

        self._next.stop()
        if self.is_asking or not self.go_on.isVisibleTo(self):
            return
        self.place += 1
        if self.place < self.of:
            self._ask()
            self.setFocus()
        else:
            self.halt()
            self.ended.emit(Round(datetime.now().astimezone().isoformat(), self.right, self.of, self.points))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Letters name, Return and Space go on."""
        shape = SHAPE_KEYS.get(event.text().upper())
        if shape is not None and not event.isAutoRepeat():
            self.answer(shape.key)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and not event.isAutoRepeat():
            self.advance()
        else:
            super().keyPressEvent(event)

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.picture.theme = self.bar.theme = theme
        self.board.set_theme(theme)
        self.update()


class NamingSide(QWidget):
    """What naming is, and how it went so far. Emits `begun()`."""

    begun = Signal()

    def __init__(self) -> None:
        super().__init__()
        title = QLabel("Name that instant")
        title.setFont(font(LARGE_PX, bold=True))
        self.begin = button("Begin a round", "Ten pictures, drawn anew each time")
        self.begin.clicked.connect(self.begun)
        self.last = QLabel()
        self.last.setFont(font(BODY_PX, bold=True))
        self.last.setWordWrap(True)
        self.record = words("", soft=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GRID_PX)
        column.addWidget(title)
        column.addWidget(words(ABOUT))
        column.addLayout(row(self.begin))
        column.addWidget(self.last)
        column.addWidget(self.record)
        column.addStretch(1)

    def sizeHint(self) -> QSize:
        """Narrower than the hidden rig."""
        return QSize(380, 300)

    def show_rounds(self, rounds: tuple[Round, ...]) -> None:
        """Show the last round and the best ones."""
        if not rounds:
            self.last.setText("")
            self.record.setText("No round yet.")
            return
        last, best = rounds[-1], max(rounds, key=lambda one: one.points)
        self.last.setText(f"Last round: {last.right} of {last.of} right, {last.points} points.")
        earlier = ", ".join(str(one.points) for one in rounds[-10:])
        self.record.setText(f"Best: {best.points} points. Newest rounds: {earlier}.")
