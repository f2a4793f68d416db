"""The rig: where everything stands, dragged on the drawing or typed beside it."""

from __future__ import annotations

from ondine.core.units import Length, Temperature
from ondine.ui.kit.fields import ChoiceField
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.editor import MOST_FLASHES, MOST_VALVES
from ondine.ui.table.part_forms import PartForms
from ondine.ui.table.stage import StagePage, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

PLACES = (
    "bowl.diameter_m",
    "bowl.depth_m",
    "bowl.landing_m",
    "camera.front_glass_m",
    "camera.height_m",
    "camera.water_line_share",
)
VALVE = ("nozzle_height_m", "name", "x_m", "aside_m")
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
        editor = tools.editor
        self.valves = PartForms("valves", VALVE, "valve", MOST_VALVES, editor.add_valve, editor.remove_valve)
        self.flashes = PartForms("light.units", FLASH, "flash", MOST_FLASHES, editor.add_flash, editor.remove_flash)
        for parts in (self.valves, self.flashes):
            parts.edited.connect(editor.edit)
            parts.chosen.connect(lambda _: tools.signals.altered.emit())
        self.lengths = ChoiceField("Lengths in", Length)
        self.temperatures = ChoiceField("Temperatures in", Temperature)
        self.lengths.edited.connect(lambda unit: tools.editor.set_units(length=unit))
        self.temperatures.edited.connect(lambda unit: tools.editor.set_units(temperature=unit))
        self.column.addWidget(self.form)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(self.valves)
        self.column.addSpacing(GRID_PX)
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
        self.valves.show_parts([valve.name for valve in setup.valves], setup, table.units)
        # One valve stands over the landing spot: there is nothing to place beside it.
        stem = f"valves.{self.valves.number}"
        self.valves.form.show_only([f"{stem}.{name}" for name in (VALVE if len(setup.valves) > 1 else VALVE[:1])])
        self.flashes.show_parts([flash.name for flash in setup.light.units], setup, table.units)
        warnings = table.results.warnings
        self.drawing.show_marks([(place, n) for n, (place, _) in enumerate(warnings, start=1)])
        self.drawing.show_table(setup, table.results)

    def _chosen(self, handle: str) -> None:
        what, _, number = handle.partition(" ")
        if what == "flash":
            self.flashes.show_part(int(number))
        elif what in ("nozzle", "head"):
            self.valves.show_part(int(number))
