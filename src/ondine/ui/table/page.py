"""The table's page: the open stage's figure on the left, its panel on the right, what cannot be below it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ondine.ui.pictures import PictureLoader
from ondine.ui.table.desk import Scene, TableDesk
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.stage import Stage
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
from ondine.ui.theme import BODY_PX, DAY, GRID_PX, SMALL_PX, Theme, font

PANEL_PX = 440


class TablePage(QWidget):
    """Holds all stages and shows one. Emits `opened(key)`."""

    opened = Signal(str)

    def __init__(self, desk: TableDesk, loader: PictureLoader) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.desk = desk
        self.scene: Scene | None = None
        self.drawing = RigDrawing()
        self.drawing.edited.connect(desk.edit_many)
        self.drawing.released.connect(desk.end_gesture)
        listed: list[Stage] = [
            SafeStage(desk, self.drawing),
            RigStage(desk, self.drawing),
            ValveStage(desk),
            LiquidStage(desk),
            FrameStage(desk),
            FlashStage(desk),
            FreezeStage(desk),
            ExposeStage(desk),
            ColourStage(desk),
            TriggerStage(desk, loader),
            DialStage(desk),
            KeepStage(desk),
        ]
        self.stages = {stage.key: stage for stage in listed}
        self.open_key = "rig"
        self.figures, self.panels = QStackedWidget(), QStackedWidget()
        self.title, self.hint, self.refusal = QLabel(), QLabel(), QLabel()
        self._lay_out()
        desk.refused.connect(self._refuse)
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
        if self.scene is not None:
            self.show_scene(self.scene)

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

    def show_scene(self, scene: Scene) -> None:
        """Show a scene on the open stage."""
        self.scene = scene
        self.stages[self.open_key].show(scene)

    def _refuse(self, message: str) -> None:
        self.refusal.setText(message)
        self.refusal.setAccessibleName(message)
        self.refusal.setVisible(bool(message))

    # Look

    def water_line(self) -> float:
        """Where the waterline runs on this page."""
        return float(self.drawing.water_line()) if self.open_key in ("safe", "rig") else self.height() + 10.0

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
