"""The bench: flight chart and splash over one waterline, numbers and fire, the last picture, the tags."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ondine.core.forecast.prediction import AtFlash, Prediction
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.light.stops import power_label
from ondine.core.table.firing import problems
from ondine.core.timing.limits import flash_label
from ondine.core.timing.locks import Locks
from ondine.logbook.records import ShotRecord
from ondine.ui.bench.coach_learned import CoachLearned
from ondine.ui.bench.coach_map import CoachMap
from ondine.ui.bench.coach_panel import CoachPanel
from ondine.ui.bench.desk import SequenceDesk
from ondine.ui.bench.own_shapes_page import OwnShapesPage
from ondine.ui.bench.shot_panel import ShotPanel
from ondine.ui.bench.splash_view import SplashView
from ondine.ui.kit.foresight import DRAWN
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import SHOT, ShotList
from ondine.ui.kit.tag_board import TagBoard
from ondine.ui.kit.theme import DAY, GRID_PX, LARGE_PX, SMALL_PX, Theme, Themed, font
from ondine.ui.kit.words import Words

CAPTION_PX, FACTS_PX, DETAIL_PX, BOARD_PX = 60, 36, 76, 110
STRIP_LEAST_PX, STRIP_MOST_PX = 92, 160
PICTURE_LEAST_PX, PICTURE_SHARE = 210, 0.36
LEAST_WITH_STRIP_PX = 636
MEND, SHORT_MEND = "Change to what can be fired  Ctrl M", "Mend the timing  Ctrl M"
LEFT_LEAST_PX = 800
"""So wide is the row of numbers."""

STEP_MS = 25
"""Between two steps of what is said while a hand drags."""


class BenchPage(QWidget):
    """Lays the instruments out and speaks in signals; it knows no studio.

    Emits `composed(change, gesture)` with a function from the sequence in hand to the one that is wanted, `fired()`,
    `tagged(shape)`, `noted(shot, text)`, `viewed(shot)`, `answered(whether the picture is this shot's)`;
    `water_moved()` when the waterline runs elsewhere.
    """

    composed = Signal(object, str)
    settled = Signal()
    fired = Signal()
    tagged = Signal(str)
    noted = Signal(object, str)
    answered = Signal(bool)
    viewed = Signal(object)
    drop_added = Signal()
    flash_added = Signal()
    mending_asked = Signal()
    removed = Signal()
    water_moved = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        # It fills itself with air and water: what lies behind it need not be drawn first.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.theme: Theme = DAY
        self.prediction: Prediction | None = None
        self.desk = SequenceDesk(self)
        self.chart, self.numbers = self.desk.chart, self.desk.numbers
        self.splash = SplashView()
        self.splash.setToolTip(DRAWN)
        self.shape_words = Words(LARGE_PX, bold=True, role="ink")
        self.other_words = Words(SMALL_PX)
        self.facts = Words(SMALL_PX, lines=2)
        self.shot = ShotPanel(loader)
        self.strip = ShotList(loader, QSize(96, 64), grid=False)
        self.strip.setAccessibleName("Recent shots")
        self.strip.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.coach, self.learned, self.map = CoachPanel(), CoachLearned(), CoachMap()
        self.coach_speaks = False
        self.board, self.own_shapes = TagBoard(), OwnShapesPage()
        self.fire = QPushButton("Fire")
        self.mend = QPushButton(MEND, self.splash)
        # While a hand drags, words and chances follow a little slower than the picture: no one reads them faster. One
        # step after the other, so that no frame waits for all.
        self._steps: Iterator[None] = iter(())
        self._said: Prediction | None = None
        self._telling = QTimer(self)
        self._telling.setSingleShot(True)
        self._telling.setInterval(STEP_MS)
        self._telling.timeout.connect(self._tell_next)
        self._column = QWidget()
        self._lay_out()
        self._connect()

    # Layout

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(GRID_PX)
        left.addLayout(self.desk.layout_of_chart(), 1)
        left.addWidget(self.desk.line)
        left.addLayout(self._controls())
        left.addWidget(self.strip)
        left.addWidget(self.coach)

        right = QVBoxLayout(self._column)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        caption = QVBoxLayout()
        caption.setSpacing(0)
        caption.addWidget(self.shape_words)
        caption.addWidget(self.other_words)
        held = QWidget()
        held.setFixedHeight(CAPTION_PX)
        held.setLayout(caption)
        caption.setContentsMargins(0, 0, 0, 4)
        right.addWidget(held)
        right.addWidget(self.splash)
        right.addWidget(self.facts)
        right.addSpacing(FACTS_PX - self.facts.height())
        right.addWidget(self.shot)
        right.addStretch(1)

        upper = QHBoxLayout()
        upper.setSpacing(2 * GRID_PX)
        upper.addLayout(left, 1)
        upper.addWidget(self._column)
        page = QVBoxLayout(self)
        page.setContentsMargins(2 * GRID_PX, 0, 2 * GRID_PX, GRID_PX)
        page.setSpacing(GRID_PX)
        page.addLayout(upper, 1)
        self.board.setFixedHeight(BOARD_PX)
        page.addWidget(self.board)

    def _controls(self) -> QHBoxLayout:
        # A press leaves the focus where it was: the next Space fires.
        self.fire.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.mend.setObjectName("over")
        self.mend.setFont(font(SMALL_PX))
        self.mend.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.mend.setMinimumHeight(32)
        self.mend.move(GRID_PX, GRID_PX)
        self.mend.hide()
        self.fire.setObjectName("fire")
        self.fire.setToolTip("Fire the sequence  Space")
        self.fire.setFont(font(LARGE_PX, bold=True))
        self.fire.setMinimumSize(136, 88)
        self.fire.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout()
        row.setSpacing(2 * GRID_PX)
        row.addWidget(self.numbers, 1)
        row.addWidget(self.fire)
        return row

    def minimumSizeHint(self) -> QSize:
        """Its pictures fit any size that the window allows: the size that they have now is not the least."""
        return QSize(0, 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Give both pictures the same size, and let the waterline run through chart and splash."""
        spare = self.height() - BOARD_PX - CAPTION_PX - FACTS_PX - DETAIL_PX - 3 * GRID_PX
        most = min(PICTURE_SHARE * self.width(), self.width() - 6 * GRID_PX - LEFT_LEAST_PX)
        width = int(max(PICTURE_LEAST_PX, min(most, spare / 2 * 1.5)))
        self._column.setFixedWidth(width)
        for view in (self.splash, self.shot.picture):
            view.setFixedSize(width, round(width / 1.5))
        self.strip.set_height(int(min(max(STRIP_LEAST_PX, 0.14 * self.height()), STRIP_MOST_PX)))
        # In a low window the chart needs its room: the last picture is seen beside it, the others in the log.
        self.strip.setVisible(self.height() >= LEAST_WITH_STRIP_PX and not self.coach_speaks)
        self.coach.set_compact(self.height() < LEAST_WITH_STRIP_PX)
        self.mend.setText(MEND if self.mend.fontMetrics().horizontalAdvance(MEND) < width - 5 * GRID_PX else SHORT_MEND)
        self.mend.adjustSize()
        self.chart.set_water_line(self.water_line())
        self.water_moved.emit()
        if self.prediction is not None:
            self._show_words()

    def let_coach_speak(self, speaks: bool) -> None:
        """Let the coach have the place of the strip, or give it back."""
        self.coach_speaks = speaks
        self.coach.setVisible(speaks)
        self.strip.setVisible(self.height() >= LEAST_WITH_STRIP_PX and not speaks)

    def water_line(self) -> float:
        """Where the waterline runs on this page, by the frame that the splash is seen in."""
        return CAPTION_PX + self.splash.water_line()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air above, water below, one line between them across the whole window."""
        y = self.water_line()
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            below = self.rect()
            below.setTop(round(y))
            p.fillRect(below, self.theme.colour("water"))
            p.setPen(QPen(self.theme.colour("water_ink"), 2))
            # Not through the numbers of the table: it would strike them out.
            times = self.desk.times
            gap = (times.x(), times.geometry().right()) if times.isVisible() else (self.width(), self.width())
            p.drawLine(QPointF(0, y), QPointF(gap[0], y))
            p.drawLine(QPointF(gap[1], y), QPointF(self.width(), y))

    # Wiring inside the page

    def _connect(self) -> None:
        # A note that is kept gives the keys back: the next Space fires, the next letter tags. Not before Return is
        # through, or it would be taken for that of the chart, which takes the coach's proposal.
        self.shot.note.returnPressed.connect(self.chart.setFocus, Qt.ConnectionType.QueuedConnection)
        self.desk.composed.connect(self.composed)
        self.desk.settled.connect(self.settled)
        self.chart.released.connect(lambda: self._show_words() if self._telling.isActive() else None)
        self.desk.selected.connect(self._show_selection)
        self.fire.clicked.connect(self.fired)
        self.mend.clicked.connect(self.mending_asked)
        self.numbers.add_drop.clicked.connect(self.drop_added)
        self.numbers.add_flash.clicked.connect(self.flash_added)
        self.numbers.remove.clicked.connect(self.removed)
        self.board.toggled.connect(self.tagged)
        self.strip.selectionModel().currentChanged.connect(
            lambda index, _: self.viewed.emit(index.data(SHOT)) if index.isValid() else None
        )
        self.shot.noted.connect(self.noted)
        self.shot.answered.connect(self.answered)

    @property
    def flash_in_hand(self) -> int:
        """The flash that picture and words follow, from 0."""
        return self.desk.flash_in_hand

    # What it shows

    def show_prediction(self, prediction: Prediction, locks: Locks = ()) -> None:
        """Show a sequence and its forecast everywhere, and what is locked."""
        self.prediction = prediction
        self.desk.show_prediction(prediction, locks)
        self.splash.show_prediction(prediction, self.flash_in_hand)
        if QApplication.mouseButtons() == Qt.MouseButton.NoButton:
            self._show_words()
        else:
            self._said = None
            if not self._telling.isActive():
                self._telling.start()

    def _tell_next(self) -> None:
        """Take the next step of what is said; after the last one begin anew if the hand has gone on."""
        if next(self._steps, self) is self:
            if self._said is not None:
                return
            self._steps = self._telling_steps()
        self._telling.start()

    def _show_words(self) -> None:
        """Say at once what is shown."""
        self._telling.stop()
        for _ in self._telling_steps():
            pass
        self._steps = iter(())

    def _telling_steps(self) -> Iterator[None]:
        """Say what is shown, under the picture, on the tags and to those who hear the window: one step at a time."""
        prediction = self._said = self.prediction
        assert prediction is not None
        seen = prediction.at(self.flash_in_hand)
        # The dearest steps show nothing: what they compute is kept for those that do.
        yield from seen.shapes_by_steps()
        self._show_shape(seen)
        yield
        self.board.show_chances(seen.shapes)
        for view in (self.chart, self.splash):
            view.setAccessibleDescription(prediction.in_words(self.flash_in_hand))
        yield
        self._show_problems(prediction, seen)
        yield
        self.desk.show_words()
        yield
        self.desk.show_hint()

    def _show_shape(self, seen: AtFlash) -> None:
        chances = list(seen.shapes.items())
        key, share = chances[0]
        self.shape_words.set_text(BY_KEY[key].name.capitalize())
        others = [f"{BY_KEY[k].name} {p:.0%}" for k, p in chances[1:4] if p >= 0.02]
        words = f"{share:.0%} likely at the flash"
        for known in range(1, len(others) + 1):
            longer = f"{share:.0%}, or {', '.join(others[:known])}"
            if self.other_words.fits(longer, self._column.maximumWidth()):
                words = longer
        self.other_words.set_text(words)

    def _show_problems(self, prediction: Prediction, seen: AtFlash) -> None:
        """Mark what cannot be fired so and say why, or else how sharp the picture will be."""
        cannot = problems(prediction.sequence, prediction.forecast.setup)
        self.mend.setVisible(bool(cannot))
        self.chart.show_faults(cannot)
        self.facts.set_text(cannot[0].says if cannot else self._facts(prediction, seen), "ink" if cannot else None)

    def _facts(self, prediction: Prediction, seen: AtFlash) -> str:
        """Say how sharp what moves will be, what leaves the frame, and how much of the light this flash gives.

        As much of it as there is room for, what matters most first.
        """
        blurs = ", ".join(f"{name} {_pixels(px)}" for name, px in seen.blurs[:2])
        powers = {seen.forecast.setup.light.units[n].power for n in seen.lit.units}
        at = power_label(powers.pop()) if len(powers) == 1 else f"1/{1 / max(seen.lit.duration_s, 1e-9):.0f} s"
        sharp = f"Blur at {at}: {blurs}." if blurs else "Nothing moves in the frame."
        words = f"{sharp} {seen.framing}".strip()
        more = [DRAWN]
        if len(prediction.sequence.flashes) > 1:
            name = flash_label(prediction.sequence, self.flash_in_hand).capitalize()
            more.insert(0, f"{name} gives {seen.lit.share:.0%} of the light.")
        for sentence in more:
            if self.facts.holds(f"{words} {sentence}"):
                words += f" {sentence}"
        return words

    def _show_selection(self) -> None:
        if self.prediction is None:
            return
        if self.desk.take_flash():
            self.show_prediction(self.prediction, self.chart.locks)
        else:
            self.desk.show_numbers()
            self.desk.show_hint()

    def show_shot(self, shot: ShotRecord | None) -> None:
        """Show a shot's picture, tags and note; None while there is no shot."""
        self.shot.show_shot(shot)
        self.board.show_tags(() if shot is None else shot.shapes, enabled=shot is not None)

    def set_firing(self, firing: bool, by_hand: bool) -> None:
        """Show whether the bench is busy; where a hand fires, the shot is only logged."""
        self.fire.setEnabled(not firing)
        if by_hand:
            self.fire.setText("Log shot")
            self.fire.setToolTip("Log the shot as you fire it by hand  Space")
        else:
            self.fire.setText("Firing" if firing else "Fire")

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        # The map lies in a drawer, not on the page.
        over = (self.map.view, self.map.words)
        views: list[Themed] = [self.chart, self.splash, self.shot.picture, *over, *self.findChildren(Words)]
        for view in views:
            view.theme = theme
            view.update()
        self.strip.set_theme(theme)
        self.board.set_theme(theme)
        self.own_shapes.set_theme(theme)
        self.update()


def _pixels(value: float) -> str:
    return f"{value:.0f} px" if value >= 10 else f"{value:.1f} px"
