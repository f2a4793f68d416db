"""The rig: where everything stands, dragged on the drawing or typed beside it."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QStackedWidget

from ondine.core.units import Length, Temperature
from ondine.ui.fields import ChoiceField
from ondine.ui.form import Form
from ondine.ui.table.desk import MOST_FLASHES, Scene, TableDesk
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.stage import Stage, button, heading, row, tag
from ondine.ui.theme import GRID_PX

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


class RigStage(Stage):
    """The drawing, and its numbers."""

    key = "rig"
    title = "Where everything stands"
    hint = "Drag a ring, or type. The comma walks from ring to ring, arrows move it."

    def __init__(self, desk: TableDesk, drawing: RigDrawing) -> None:
        super().__init__(desk)
        self.figure = self.drawing = drawing
        self.form = Form(PLACES)
        self.form.edited.connect(desk.edit)
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Flash in hand")
        self.which.activated.connect(self._show_flash)
        self.add = button("Add a flash", desk.add_flash)
        self.remove = button("Remove", lambda: desk.remove_flash(self.which.currentIndex()))
        self.flashes = QStackedWidget()
        self.lengths = ChoiceField("Lengths in", Length)
        self.temperatures = ChoiceField("Temperatures in", Temperature)
        self.lengths.edited.connect(lambda unit: desk.set_units(length=unit))
        self.temperatures.edited.connect(lambda unit: desk.set_units(temperature=unit))
        self.column.addWidget(self.form)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Flashes"))
        self.column.addLayout(row(self.which, self.add, self.remove))
        self.column.addWidget(self.flashes)
        self.column.addStretch(1)
        self.column.addLayout(row(tag("Shown in"), self.lengths, self.temperatures))
        drawing.chosen.connect(self._chosen)

    def show(self, scene: Scene) -> None:
        """Show places, flashes and what the drawing warns of."""
        setup = scene.setup
        self.form.show_setup(setup, scene.units)
        self.drawing.units = scene.units
        self.lengths.display(scene.units.length)
        self.temperatures.display(scene.units.temperature)
        self._show_flashes(scene)
        warnings = scene.results.warnings
        self.drawing.show_marks([(place, n) for n, (place, _) in enumerate(warnings, start=1)])
        self.drawing.show_table(setup, scene.results)

    def _show_flashes(self, scene: Scene) -> None:
        units = scene.setup.light.units
        while self.flashes.count() < len(units):
            made = Form([f"light.units.{self.flashes.count()}.{name}" for name in FLASH], scene.setup)
            made.edited.connect(self.desk.edit)
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
        form.show_setup(scene.setup, scene.units)

    def _show_flash(self, index: int) -> None:
        self.flashes.setCurrentIndex(index)
        self.desk.altered.emit()

    def _chosen(self, handle: str) -> None:
        if handle.startswith("flash"):
            self.which.setCurrentIndex(int(handle.split()[1]))
            self._show_flash(self.which.currentIndex())
