"""The bench: flight chart and splash over one waterline, numbers and fire, the last picture, the tags."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ondine.core.forecast.events import EventKind
from ondine.core.forecast.prediction import Prediction
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.table.firing import problems
from ondine.core.timing.sequence import MAX_DROPS
from ondine.logbook.records import ShotRecord
from ondine.ui.bench.flight_chart import FlightChart
from ondine.ui.bench.shot_panel import ShotPanel
from ondine.ui.bench.splash_view import SplashView
from ondine.ui.bench.tag_board import TagBoard
from ondine.ui.kit.number_field import MillisecondField, TitledField
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import SHOT, ShotList
from ondine.ui.kit.theme import DAY, GRID_PX, LARGE_PX, SMALL_PX, Theme, Themed, font
from ondine.ui.kit.words import Words

CAPTION_PX, FACTS_PX, DETAIL_PX, BOARD_PX = 60, 36, 76, 110
STRIP_LEAST_PX, STRIP_MOST_PX = 92, 160
NUMBER_LEAST_PX, NUMBER_MOST_PX, SMALL_FIELD_PX = 148, 184, 72
PICTURE_LEAST_PX, PICTURE_SHARE = 210, 0.36
LEFT_LEAST_PX = 800
"""So wide is the row of numbers with four drops."""
WORDS_MS = 50


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
    drop_removed = Signal()
    water_moved = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        # It fills itself with air and water: what lies behind it need not be drawn first.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.theme: Theme = DAY
        self.prediction: Prediction | None = None
        self.chart = FlightChart()
        self.splash = SplashView()
        self.shape_words = Words(LARGE_PX, bold=True, role="ink")
        self.other_words = Words(SMALL_PX)
        self.facts = Words(SMALL_PX, lines=2)
        self.shot = ShotPanel(loader)
        self.strip = ShotList(loader, QSize(96, 64), grid=False)
        self.strip.setAccessibleName("Recent shots")
        self.strip.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.board = TagBoard()
        self.interval = MillisecondField("Interval from drop 1 to drop 2", large=True)
        self.flash = MillisecondField("Flash delay", large=True)
        self.opens = [MillisecondField(f"Open time of drop {n}", large=False) for n in range(1, MAX_DROPS + 1)]
        self.more = [MillisecondField(f"Interval from drop {n} to drop {n + 1}", large=False) for n in (2, 3)]
        self.step = QPushButton("Step 1 ms")
        self.fire = QPushButton("Fire")
        # While a hand drags, words and chances follow a little slower than the picture: no one reads them faster.
        self._telling = QTimer(self)
        self._telling.setSingleShot(True)
        self._telling.setInterval(WORDS_MS)
        self._telling.timeout.connect(self._show_words)
        self._column = QWidget()
        self._lay_out()
        self._connect()

    # Layout

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(GRID_PX)
        left.addWidget(self.chart, 1)
        left.addLayout(self._controls())
        left.addWidget(self.strip)

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
        self.interval_block = TitledField("Drop 2 after drop 1", self.interval)
        self.flash_block = TitledField("Flash after the trigger", self.flash)
        for block in (self.interval_block, self.flash_block):
            block.setMinimumWidth(NUMBER_LEAST_PX)
            block.setMaximumWidth(NUMBER_MOST_PX)
        self.add_drop = QPushButton("Add a drop")
        self.remove_drop = QPushButton("Remove")
        for button, says in (
            (self.add_drop, "Add a drop like the last one  Ins"),
            (self.remove_drop, "Remove the selected drop  Del"),
            (self.step, "Step of the arrow keys: fine or finest; Shift makes it 5 ms  ."),
        ):
            button.setToolTip(says)
            button.setMinimumHeight(32)
            button.setFont(font(SMALL_PX))
        for button in (self.add_drop, self.remove_drop, self.step, self.fire):
            # A press leaves the focus where it was: the next Space fires.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.fire.setObjectName("fire")
        self.fire.setToolTip("Fire the sequence  Space")
        self.fire.setFont(font(LARGE_PX, bold=True))
        self.fire.setMinimumSize(136, 88)
        self.fire.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout()
        row.setSpacing(2 * GRID_PX)
        row.addWidget(self.interval_block, 1)
        row.addWidget(self.flash_block, 1)
        row.addLayout(self._drop_table(), 1)
        row.addWidget(self.fire)
        return row

    def _drop_table(self) -> QGridLayout:
        """Each drop's open time; under the third and fourth, how long after the one before they start."""
        table = QGridLayout()
        table.setHorizontalSpacing(GRID_PX)
        table.setVerticalSpacing(0)
        self.open_titles = [_label(SMALL_PX, soft=True, text=f"{n + 1} open") for n in range(MAX_DROPS)]
        for n, (title, field) in enumerate(zip(self.open_titles, self.opens, strict=True)):
            title.setBuddy(field)
            table.addWidget(title, 0, n)
            table.addWidget(field, 1, n)
        for n, field in enumerate(self.more, start=2):
            field.setPrefix("+")
            table.addWidget(field, 2, n)
        for field in (*self.opens, *self.more):
            field.setMinimumHeight(26)
            field.setFixedWidth(SMALL_FIELD_PX)
            field.setToolTip(field.accessibleName())
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        for button in (self.step, self.add_drop, self.remove_drop):
            buttons.addWidget(button)
        buttons.addStretch(1)
        table.addLayout(buttons, 3, 0, 1, MAX_DROPS + 1)
        table.setColumnStretch(MAX_DROPS, 1)
        return table

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
        self.chart.set_water_line(self.water_line())
        self.water_moved.emit()
        if self.prediction is not None:
            self._show_shape()

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
            p.drawLine(QPointF(0, y), QPointF(self.width(), y))

    # Wiring inside the page

    def _connect(self) -> None:
        self.chart.composed.connect(self.composed)
        self.chart.released.connect(self.settled)
        self.chart.released.connect(lambda: self._show_words() if self._telling.isActive() else None)
        self.chart.selected.connect(lambda _: self._show_selection())
        self.flash.edited.connect(lambda us: self.composed.emit(lambda s: s.with_flash(us), "field flash"))
        self.interval.edited.connect(lambda us: self.composed.emit(lambda s: s.with_interval(0, us), "field interval"))
        for n, field in enumerate(self.more, start=1):
            field.edited.connect(lambda us, i=n: self.composed.emit(lambda s: s.with_interval(i, us), f"field {i}"))
        for n, field in enumerate(self.opens):
            field.edited.connect(lambda us, i=n: self.composed.emit(lambda s: s.with_open(i, us), f"open {i}"))
        for field in (self.flash, self.interval, *self.more, *self.opens):
            field.editingFinished.connect(self.settled)
        self.fire.clicked.connect(self.fired)
        self.add_drop.clicked.connect(self.drop_added)
        self.remove_drop.clicked.connect(self.drop_removed)
        self.step.clicked.connect(self.toggle_step)
        self.board.toggled.connect(self.tagged)
        self.strip.selectionModel().currentChanged.connect(
            lambda index, _: self.viewed.emit(index.data(SHOT)) if index.isValid() else None
        )
        self.shot.noted.connect(self.noted)
        self.shot.answered.connect(self.answered)

    def toggle_step(self) -> None:
        """Change the step of the arrow keys between a millisecond and a tenth."""
        self.chart.step_us = 100 if self.chart.step_us == 1_000 else 1_000
        self.step.setText(f"Step {self.chart.step_us / 1000:g} ms")
        for field in (self.flash, self.interval, *self.more, *self.opens):
            field.setSingleStep(self.chart.step_us / 1000)

    # What it shows

    def show_prediction(self, prediction: Prediction) -> None:
        """Show a sequence and its forecast everywhere."""
        self.prediction = prediction
        if self.chart.selection >= len(prediction.sequence.drops):
            self.chart.selection = len(prediction.sequence.drops) - 1
        self.chart.show_prediction(prediction)
        self.splash.show_prediction(prediction)
        self._show_main_numbers()
        self._show_selection()
        if QApplication.mouseButtons() == Qt.MouseButton.NoButton:
            self._show_words()
        elif not self._telling.isActive():
            self._telling.start()

    def _show_words(self) -> None:
        """Say what is shown, under the picture, on the tags and to those who hear the window."""
        self._telling.stop()
        prediction = self.prediction
        assert prediction is not None
        self._show_later_intervals()
        self._show_shape()
        self.board.show_chances(prediction.shapes)
        self.chart.tell_parts()
        for view in (self.chart, self.splash):
            view.setAccessibleDescription(prediction.in_words)

    def show_numbers(self) -> None:
        """Write the sequence into the fields."""
        self._show_main_numbers()
        self._show_later_intervals()

    def _show_main_numbers(self) -> None:
        assert self.prediction is not None
        sequence = self.prediction.sequence
        count = len(sequence.drops)
        self.flash.display(sequence.flash_us)
        self.interval.setEnabled(count > 1)
        if count > 1:
            self.interval.display(sequence.intervals_us[0])
        for n, (title, field) in enumerate(zip(self.open_titles, self.opens, strict=True)):
            title.setVisible(n < count)
            field.setVisible(n < count)
            if n < count:
                field.display(sequence.drops[n].open_us)
        for n, field in enumerate(self.more, start=2):
            field.setVisible(n < count)
        self.add_drop.setEnabled(count < MAX_DROPS)

    def _show_later_intervals(self) -> None:
        """Write how long after the drop before them the third and fourth start: they only follow the hand."""
        assert self.prediction is not None
        for field, interval_us in zip(self.more, self.prediction.sequence.intervals_us[1:], strict=False):
            field.display(interval_us)

    def _show_shape(self) -> None:
        prediction = self.prediction
        assert prediction is not None
        chances = list(prediction.shapes.items())
        key, share = chances[0]
        self.shape_words.set_text(BY_KEY[key].name.capitalize())
        others = [f"{BY_KEY[k].name} {p:.0%}" for k, p in chances[1:4] if p >= 0.02]
        words = f"{share:.0%} likely at the flash"
        for known in range(1, len(others) + 1):
            longer = f"{share:.0%}, or {', '.join(others[:known])}"
            if self.other_words.fits(longer, self._column.maximumWidth()):
                words = longer
        self.other_words.set_text(words)
        blurs = ", ".join(f"{name} {_pixels(px)}" for name, px in prediction.blurs[:2])
        light = prediction.forecast.setup.light
        sharp = f"Blur at 1/{1 / light.power:.0f}: {blurs}." if blurs else "Nothing moves in the frame."
        cannot = problems(prediction.sequence, prediction.forecast.setup)
        self.facts.set_text(cannot[0] if cannot else f"{sharp} {prediction.framing}".strip(), "ink" if cannot else None)
        self.flash_block.meaning.set_text(_widest_words(prediction))
        self.interval_block.meaning.set_text(_meeting_words(prediction))

    def _show_selection(self) -> None:
        if self.prediction is None:
            return
        held = self.chart.selection
        self.remove_drop.setText("Remove" if held < 0 else f"Remove {held + 1}")
        self.remove_drop.setEnabled(len(self.prediction.sequence.drops) > 1 and held >= 0)

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
        views: list[Themed] = [self.chart, self.splash, self.shot.picture, *self.findChildren(Words)]
        for view in views:
            view.theme = theme
            view.update()
        self.strip.set_theme(theme)
        self.board.set_theme(theme)
        self.update()


def _label(pixels: int, bold: bool = False, soft: bool = False, text: str = "") -> QLabel:
    label = QLabel(text)
    label.setFont(font(pixels, bold))
    if soft:
        label.setObjectName("soft")
    return label


def _pixels(value: float) -> str:
    return f"{value:.0f} px" if value >= 10 else f"{value:.1f} px"


def _meeting_words(prediction: Prediction) -> str:
    if len(prediction.sequence.drops) < 2:
        return "one drop only"
    gap = f"gap {prediction.sequence.gaps_us[0] / 1000:g} ms"
    event = prediction.event(EventKind.MEETING)
    if event is None or event.probability < 0.05:
        return f"{gap}, no meeting"
    return f"{gap}, meet {event.probability:.0%}"


def _widest_words(prediction: Prediction) -> str:
    event = prediction.event(EventKind.SHEET_FULL) or prediction.event(EventKind.JET_TOP)
    if event is None:
        return ""
    return f"{event.kind} at {event.time_s.mean * 1e3:.0f} ± {event.time_s.sd * 1e3:.0f} ms"
