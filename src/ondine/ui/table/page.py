"""The table's page: the open stage's figure on the left, its panel on the right, what cannot be below it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.stage import StagePage
from ondine.ui.table.stage_colour import ColourStage
from ondine.ui.table.stage_dials import DialStage
from ondine.ui.table.stage_expose import ExposeStage
from ondine.ui.table.stage_flash import FlashStage
from ondine.ui.table.stage_frame import FrameStage
from ondine.ui.table.stage_freeze import FreezeStage
from ondine.ui.table.stage_keep import KeepStage
from ondine.ui.table.stage_liquid import LiquidStage
from ondine.ui.table.stage_rig import RigStage
from ondine.ui.table.stage_safe import SafeStage
from ondine.ui.table.stage_trigger import TriggerStage
from ondine.ui.table.stage_valve import ValveStage
from ondine.ui.table.stages import BY_KEY, STAGES
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

PANEL_PX = 440


class TablePage(QWidget):
    """Holds all stages and shows one. Emits `opened(key)`."""

    opened = Signal(str)

    def __init__(self, tools: TableTools, loader: PictureLoader) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.tools = tools
        self.table: TableState | None = None
        self.drawing = RigDrawing()
        self.drawing.edited.connect(tools.editor.edit_many)
        self.drawing.released.connect(tools.editor.end_gesture)
        pages: dict[str, StagePage] = {
            "safe": SafeStage(tools, self.drawing),
            "rig": RigStage(tools, self.drawing),
            "valve": ValveStage(tools),
            "liquid": LiquidStage(tools),
            "frame": FrameStage(tools),
            "flash": FlashStage(tools),
            "freeze": FreezeStage(tools),
            "expose": ExposeStage(tools),
            "colour": ColourStage(tools),
            "trigger": TriggerStage(tools, loader),
            "dials": DialStage(tools),
            "keep": KeepStage(tools),
        }
        self.stages = {stage.key: pages[stage.key] for stage in STAGES}
        self.open_key = "rig"
        self.figures, self.panels = QStackedWidget(), QStackedWidget()
        self.title, self.hint, self.refusal = QLabel(), QLabel(), QLabel()
        self._lay_out()
        tools.signals.refused.connect(self._refuse)
        self._open(self.open_key)

    def _lay_out(self) -> None:
        for stage in self.stages.values():
            if self.figures.indexOf(stage.figure) < 0:
                self.figures.addWidget(stage.figure)
            scroll = QScrollArea()
            scroll.setWidget(stage.panel)
            scroll.setWidgetResizable(True)
            scroll.setFrameShape(QFrame.Shape.NoFrame)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            self.panels.addWidget(scroll)
        self.title.setFont(font(BODY_PX, bold=True))
        self.hint.setObjectName("soft")
        self.hint.setFont(font(SMALL_PX))
        self.refusal.setObjectName("trouble")
        for words in (self.hint, self.refusal):
            words.setWordWrap(True)
        self.refusal.hide()
        side = QWidget()
        side.setFixedWidth(PANEL_PX)
        right = QVBoxLayout(side)
        right.setContentsMargins(2 * GRID_PX, 0, 2 * GRID_PX, GRID_PX)
        right.setSpacing(4)
        for widget in (self.title, self.hint):
            right.addWidget(widget)
        right.addSpacing(4)
        right.addWidget(self.panels, 1)
        right.addWidget(self.refusal)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        across.addWidget(self.figures, 1)
        across.addWidget(side)

    # Stages

    def open(self, key: str) -> None:
        """Open a stage."""
        self._open(key)
        if self.table is not None:
            self.show_table(self.table)

    def _open(self, key: str) -> None:
        self.open_key = key
        stage = self.stages[key]
        self.figures.setCurrentWidget(stage.figure)
        self.panels.setCurrentIndex(list(self.stages).index(key))
        self.title.setText(stage.title)
        self.hint.setText(stage.hint)
        self._refuse("")
        self.opened.emit(key)

    def walk(self, by: int) -> None:
        """Open the stage before or after."""
        keys = list(self.stages)
        self.open(keys[(keys.index(self.open_key) + by) % len(keys)])

    def show_table(self, table: TableState) -> None:
        """Show the table on the open stage."""
        self.table = table
        self.stages[self.open_key].show(table)

    def _refuse(self, message: str) -> None:
        self.refusal.setText(message)
        self.refusal.setAccessibleName(message)
        self.refusal.setVisible(bool(message))

    # Look

    def water_line(self) -> float:
        """Where the waterline runs on this page."""
        return float(self.drawing.water_line()) if BY_KEY[self.open_key].drawn else self.height() + 10.0

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        for stage in self.stages.values():
            stage.set_theme(theme)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Tell where the waterline runs now."""
        super().resizeEvent(event)
        self.opened.emit(self.open_key)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air, and one line between figure and panel."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            x = self.width() - PANEL_PX
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.drawLine(QPointF(x, 0), QPointF(x, self.height()))
