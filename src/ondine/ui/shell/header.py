"""The line at the top: where one is, how the bench is, and the way to the other views."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from ondine.core.setup import Setup
from ondine.core.units import Units
from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.kit.words import Words

BENCH_PX = 380
"""A folder may have any name: the rest of it is in the tip."""


class BenchLamp(QWidget):
    """A dot that is filled while the bench is busy or not well."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.busy = False
        self.setFixedSize(16, 16)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the dot."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(self.theme.colour("light" if self.busy else "ink"))
            p.setBrush(self.theme.colour("light") if self.busy else Qt.BrushStyle.NoBrush)
            p.drawEllipse(QPointF(8, 8), 5, 5)


class Header(QWidget):
    """Title, bench state and the four views that a key opens."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.title = QLabel()
        self.title.setFont(font(BODY_PX, bold=True))
        # It changes while a hand drags: a label would lay the whole window out anew each time.
        self.table = Words(SMALL_PX)
        self.lamp = BenchLamp()
        self.bench = QPushButton()
        self.bench.setMaximumWidth(BENCH_PX)
        self.undo = QPushButton("Undo")
        self.redo = QPushButton("Redo")
        self.rig = QPushButton("Table  F2")
        self.practice = QPushButton("Practice  Ctrl E")
        self.practice.hide()
        self.log = QPushButton("Log  F3")
        self.light = QPushButton("Dark room  F5")
        self.keys = QPushButton("Keys  F1")
        row = QHBoxLayout(self)
        row.setContentsMargins(2 * GRID_PX, 0, 2 * GRID_PX, 0)
        row.setSpacing(GRID_PX)
        row.addWidget(self.title)
        row.addWidget(self.table, 1)
        row.addWidget(self.lamp)
        for button in (self.bench, self.undo, self.redo, self.rig, self.log, self.practice, self.light, self.keys):
            button.setFont(font(SMALL_PX))
            button.setMinimumHeight(32)
            # A press leaves the focus where it was: the next Space fires.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(button)
        self.setFixedHeight(44)

    def show_setup(self, setup: Setup, units: Units) -> None:
        """Say in a line which table this is."""
        if self.title.text() != setup.name:
            self.title.setText(setup.name)
        share = setup.mix.glycerine_mass_fraction
        liquid = f"{share:.0%} glycerine" if share else "water"
        self.table.set_text(
            f"nozzle {units.length_words(setup.nozzle_height_m)}, {liquid} "
            f"{units.temperature_words(setup.mix.temperature_c)}, flash 1/{1 / setup.light.power:.0f}"
        )

    def show_history(self, undoes: str | None, redoes: str | None) -> None:
        """Let the buttons say what they would take back, or do again; None where there is nothing."""
        for button, name, key, does in (
            (self.undo, "Undo", "Ctrl Z", undoes),
            (self.redo, "Redo", "Ctrl Shift Z", redoes),
        ):
            tip = f"{name}: {does}  {key}" if does else f"{name}  {key}"
            if button.toolTip() != tip:
                button.setToolTip(tip)
                button.setEnabled(does is not None)

    def show_bench(self, words: str, busy: bool) -> None:
        """Say how the bench is."""
        room = BENCH_PX - 2 * GRID_PX
        self.bench.setText(self.bench.fontMetrics().elidedText(words, Qt.TextElideMode.ElideMiddle, room))
        self.bench.setAccessibleName(words)
        self.bench.setToolTip(f"{words}\nWhat opens the valve, and which logbook this is  F10")
        self.lamp.busy = busy
        self.lamp.setAccessibleName(words)
        self.lamp.update()

    def set_theme(self, theme: Theme) -> None:
        """Take other colours, and offer the other theme."""
        self.theme = theme
        self.lamp.theme = self.table.theme = theme
        self.light.setText("Day  F5" if theme.dark else "Dark room  F5")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
