"""The rig: where everything stands, dragged on the drawing or typed beside it."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QStackedWidget

from ondine.core.units import Length, Temperature
from ondine.ui.kit.fields import ChoiceField
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.editor import MOST_FLASHES
from ondine.ui.table.stage import StagePage, button, heading, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

PLACES = (
    "rig.nozzle_height_m",
    "bowl.diameter_m",
    "bowl.depth_m",
    "bowl.landing_m",
    "camera.front_glass_m",
    "camera.height_m",
    "camera.water_line_share",
)
FLASH = ("name", "place", "x_m", "height_m", "aside_m", "guard")


class RigStage(StagePage):
    """The drawing, and its numbers."""

    title = "Where everything stands"
    hint = "Drag a ring, or type. Comma goes to the next ring, arrows move it."

    def __init__(self, tools: TableTools, drawing: RigDrawing) -> None:
        super().__init__(tools)
        self.figure = self.drawing = drawing
        self.form = Form(PLACES)
        self.form.edited.connect(tools.editor.edit)
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Flash in hand")
        self.which.activated.connect(self._show_flash)
        self.add = button("Add a flash", tools.editor.add_flash)
        self.remove = button("Remove", lambda: tools.editor.remove_flash(self.which.currentIndex()))
        self.flashes = QStackedWidget()
        self.lengths = ChoiceField("Lengths in", Length)
        self.temperatures = ChoiceField("Temperatures in", Temperature)
        self.lengths.edited.connect(lambda unit: tools.editor.set_units(length=unit))
        self.temperatures.edited.connect(lambda unit: tools.editor.set_units(temperature=unit))
        self.column.addWidget(self.form)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Flashes"))
        self.column.addLayout(row(self.which, self.add, self.remove))
        self.column.addWidget(self.flashes)
        self.column.addStretch(1)
        self.column.addLayout(row(tag("Units"), self.lengths, self.temperatures))
        drawing.chosen.connect(self._chosen)

    def show(self, table: TableState) -> None:
        """Show places, flashes and what the drawing warns of."""
        setup = table.setup
        self.form.show_setup(setup, table.units)
        self.drawing.units = table.units
        self.lengths.display(table.units.length)
        self.temperatures.display(table.units.temperature)
        self._show_flashes(table)
        warnings = table.results.warnings
        self.drawing.show_marks([(place, n) for n, (place, _) in enumerate(warnings, start=1)])
        self.drawing.show_table(setup, table.results)

    def _show_flashes(self, table: TableState) -> None:
        units = table.setup.light.units
        while self.flashes.count() < len(units):
            made = Form([f"light.units.{self.flashes.count()}.{name}" for name in FLASH], table.setup)
            made.edited.connect(self.tools.editor.edit)
            self.flashes.addWidget(made)
        names = [flash.name for flash in units]
        if names != [self.which.itemText(i) for i in range(self.which.count())]:
            held = min(max(self.which.currentIndex(), 0), len(names) - 1)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(held)
            self._show_flash(held)
        self.add.setEnabled(len(units) < MOST_FLASHES)
        self.remove.setEnabled(len(units) > 1)
        form = self.flashes.widget(self.which.currentIndex())
        assert isinstance(form, Form)
        form.show_setup(table.setup, table.units)

    def _show_flash(self, index: int) -> None:
        self.flashes.setCurrentIndex(index)
        self.tools.signals.altered.emit()

    def _chosen(self, handle: str) -> None:
        if handle.startswith("flash"):
            self.which.setCurrentIndex(int(handle.split()[1]))
            self._show_flash(self.which.currentIndex())
