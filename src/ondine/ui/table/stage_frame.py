"""Frame and focus: sensor, lens, framing, depth, crop, and the pin."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QVBoxLayout, QWidget

from ondine.core.forecast.framing import crop
from ondine.core.light.depth import (
    best_f_number,
    camera_depth_m,
    circle_of_confusion_m,
    defocus_disc_m,
    diffraction_disc_m,
)
from ondine.core.setup.camera import SENSORS
from ondine.core.table.edit import with_ruler
from ondine.core.table.focus import STEPS
from ondine.core.table.viewpoint import viewpoint
from ondine.core.units import quantity_of
from ondine.ui.kit.fields import QuantityField
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, Theme, font
from ondine.ui.table.frame_view import FrameView
from ondine.ui.table.stage import StagePage, TickList, heading, note, row
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

FIELDS = (
    "camera.width_px",
    "camera.height_px",
    "camera.focal_length_m",
    "camera.magnification",
    "camera.front_glass_m",
    "camera.height_m",
    "camera.f_number",
    "camera.portrait",
    "camera.front_guard",
    "camera.print_width_m",
    "camera.viewing_distance_m",
)
WIDER = (1.0, 1.5, 2.0)


class FrameStage(StagePage):
    """Frame view with its consequences below; fields and focus on the right."""

    title = "Frame and focus"
    hint = "Drag the picture to aim, turn the wheel to step in or back."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.view = FrameView()
        self.view.edited.connect(tools.editor.edit_many)
        self.view.released.connect(tools.editor.end_gesture)
        self.facts, self.sight = note(soft=False), note(soft=False)
        self.crops = CropTable()
        self.figure = QWidget()
        below = QVBoxLayout(self.figure)
        below.setContentsMargins(0, 0, 0, GRID_PX)
        below.addWidget(self.view, 1)
        words = QVBoxLayout()
        words.setContentsMargins(2 * GRID_PX, 0, 2 * GRID_PX, 0)
        for widget in (self.facts, self.sight, self.crops):
            words.addWidget(widget)
        below.addLayout(words)
        self.sensor = QComboBox()
        self.sensor.setMinimumHeight(32)
        self.sensor.setAccessibleName("Sensor")
        self.sensor.addItems(list(SENSORS))
        self.sensor.activated.connect(self._sensor)
        self.ruler = QuantityField("Ruler that fills the frame")
        self.ruler.edited.connect(self._ruler)
        self.form = Form(FIELDS)
        self.form.edited.connect(tools.editor.edit)
        self.moved = note(soft=False, bold=True)
        self.focus = TickList(tools.checks.tick_focus)
        self.column.addLayout(row(self.sensor, stretch=False))
        self.column.addWidget(self.form)
        self.column.addLayout(row(note("A ruler that fills the frame from edge to edge"), self.ruler, stretch=False))
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Focus on a pin"))
        self.column.addWidget(self.focus)
        self.column.addWidget(self.moved)
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show the frame and all that follows from it."""
        camera = table.setup.camera
        self.form.show_setup(table.setup, table.units)
        if camera.format:
            self.sensor.setCurrentText(camera.format)
        self.ruler.show_as(quantity_of("camera.height_m", table.units))
        self.ruler.display(camera.frame_width_m)
        moved = table.focus.moved(table.setup)
        holds = table.focus.voided(table.setup)
        self.focus.show_items(STEPS, holds.done)
        self.moved.setText(f"Moved since: {', '.join(moved).lower()}. Focus again." if moved else "")
        self.facts.setText(_depth_words(table))
        self.sight.setText(_sight_words(table))
        self.crops.show_table(table)
        self.view.show_table(table)

    def _sensor(self, index: int) -> None:
        setup = self.tools.studio.composer.setup
        camera = setup.camera.with_format(list(SENSORS)[index])
        self.tools.editor.edit("camera", camera)

    def _ruler(self, width_m: float) -> None:
        setup = self.tools.studio.composer.setup
        try:
            camera = with_ruler(setup.camera, width_m)
        except ValueError as error:
            self.tools.signals.refused.emit(str(error))
            self.ruler.display(setup.camera.frame_width_m)
            return
        self.tools.editor.edit("camera", camera)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to the frame view."""
        self.view.theme = theme
        self.view.update()


def _depth_words(table: TableState) -> str:
    camera, half = table.setup.camera, table.results.half_depth_m
    best = best_f_number(half, camera.magnification, camera.pupil_ratio)
    disc = diffraction_disc_m(camera.f_number, camera.magnification, camera.pupil_ratio) / camera.pixel_pitch_m
    front = defocus_disc_m(half, camera.f_number, camera.magnification, camera.pupil_ratio) / camera.pixel_pitch_m
    return (
        f"A pixel is {camera.pixel_on_subject_m * 1e6:.1f} µm on the splash. At f/{camera.f_number:g} "
        f"{camera_depth_m(camera) * 1e3:.1f} mm are sharp (disc {circle_of_confusion_m(camera) * 1e6:.0f} µm), "
        f"diffraction spreads {disc:.1f} px, the front of the splash {front:.0f} px. "
        f"Best for this splash, {2 * half * 1e3:.0f} mm deep: f/{best:.0f}."
    )


def _sight_words(table: TableState) -> str:
    seen = viewpoint(table.setup)
    return (
        f"The camera looks down {seen.angle_deg:.1f}°: a jet keeps {seen.jet_share:.0%} of its height, "
        f"a ring {seen.ring_share:.0%} of its depth. {seen.words}"
    )


class CropTable(QWidget):
    """Filling the frame against shooting wider and cropping."""

    TITLES = ("", "magnification", "sharp", "pixels across", "print", "more air above")

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        self.cells: list[list[QLabel]] = []
        for column, title in enumerate(self.TITLES):
            grid.addWidget(note(title), 0, column)
        for line in range(len(WIDER)):
            cells = [QLabel() for _ in self.TITLES]
            for column, cell in enumerate(cells):
                cell.setFont(font(SMALL_PX, bold=column == 0))
                grid.addWidget(cell, line + 1, column)
            self.cells.append(cells)

    def show_table(self, table: TableState) -> None:
        """Show the choices for a camera."""
        how = quantity_of("camera.height_m", table.units)
        for cells, wider in zip(self.cells, WIDER, strict=True):
            made = crop(table.setup.camera, wider)
            words = (
                "fill the frame" if wider == 1 else f"{wider:g}× wider, then crop",
                f"{made.magnification:.2f}×",
                f"{made.depth_m * 1e3:.1f} mm",
                f"{made.across_px}",
                f"{made.print_ppi:.0f} ppi",
                how.words(made.room_m) if wider > 1 else "",
            )
            for cell, text in zip(cells, words, strict=True):
                cell.setText(text)
