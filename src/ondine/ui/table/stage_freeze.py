"""Freeze: which powers stop the chosen instant, which exposure goes with each, and whether waiting buys more."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QWidget

from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.light.ambient import continuous_lux
from ondine.core.light.blur import Edge
from ondine.core.light.depth import best_f_number
from ondine.core.light.freeze import (
    FreezeRow,
    Waiting,
    cleanest,
    freeze_table,
    print_target_px,
    sharpest,
    unlit,
    waiting,
)
from ondine.core.light.stops import nearest, power_label, powers, speeds
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font
from ondine.ui.table.freeze_chart import FreezeChart
from ondine.ui.table.light_words import pair_words
from ondine.ui.table.stage import StagePage, button, heading, note, row
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

FIELDS = ("light.blur_target_px", "light.max_iso", "camera.f_number", "camera.iso", "camera.exposure_s")
EDGES = 5
UNLIT_S = 1 / 4000
"""The least shutter that works without flash. Common practice."""


class FreezeStage(StagePage):
    """Chart with the power to drag; both schools' choices."""

    title = "Freeze the motion"
    hint = "At the instant of the flash line. Drag the power, or press an arrow key."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.at: tuple[int, int] = (0, 0)
        """The unit and the flash in view."""
        self.figure = self.chart = FreezeChart()
        self.chart.edited.connect(lambda power, gesture: tools.editor.set_power(power, gesture, self.at[0]))
        self.chart.released.connect(tools.editor.end_gesture)
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Unit, and the flash at which it lights")
        self.which.activated.connect(lambda _: tools.signals.altered.emit())
        self._pairs: list[tuple[int, int]] = []
        self.form = Form(FIELDS)
        self.form.edited.connect(tools.editor.edit)
        self.for_print = button("Use the print's limit", self._for_print)
        self.iso = button("Take the ISO with it", lambda: tools.editor.edit("camera.iso", self._iso))
        self._iso = 100
        self.sharp = button("Choose the sharpest", lambda: self._choose(self._sharpest))
        self.clean = button("Choose the lowest ISO", lambda: self._choose(self._cleanest))
        self.edges = EdgeTable()
        self.advice, self.wait_words, self.unlit = note(soft=False), note(soft=False, bold=True), note()
        self.wait = button("Wait", self._wait)
        self.rows: list[FreezeRow] = []
        self._edges_from: object = None
        self._edges_at: dict[int, list[Edge]] = {}
        self.waiting: Waiting | None = None
        self._sharpest: FreezeRow | None = None
        self._cleanest: FreezeRow | None = None
        self.column.addWidget(self.which)
        self.column.addWidget(self.form)
        self.column.addLayout(row(self.for_print, self.iso))
        self.column.addLayout(row(self.sharp, self.clean))
        self.column.addWidget(self.advice)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("What moves"))
        self.column.addWidget(self.edges)
        self.column.addWidget(self.wait_words)
        self.column.addLayout(row(self.wait))
        self.column.addWidget(self.unlit)
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show the table for the instant in hand."""
        setup, camera, light = table.setup, table.setup.camera, table.setup.light
        self.form.show_setup(setup, table.units)
        self._show_which(table)
        number, flash = self.at
        unit, seen = light.units[number], table.prediction.at(flash)
        edges = sorted(seen.outline.edges, key=lambda e: -e.speed_m_s)
        marks = [mark.value for mark in reversed(powers(unit.least_power))]
        share = table.unit_lights[number].share
        self.rows = freeze_table(edges, unit, marks, camera, table.right_iso, share)
        self._sharpest, self._cleanest = sharpest(self.rows, light.max_iso), cleanest(self.rows, light.blur_target_px)
        self.chart.show_rows(self.rows, edges, light, unit.power)
        now = min(self.rows, key=lambda r: abs(r.power - unit.power))
        self.edges.show_edges(edges, now)
        self._iso = round(nearest(speeds(), now.iso).value)
        self.iso.setText(f"Take ISO {nearest(speeds(), now.iso).label} with it")
        self.iso.setEnabled(self._iso != camera.iso)
        self.for_print.setText(f"Use the print's limit: {print_target_px(camera):.1f} px")
        self.advice.setText(self._schools(table))
        self.sharp.setEnabled(self._sharpest is not None)
        self.clean.setEnabled(self._cleanest is not None)

        self.waiting = waiting(self._edges_of(table), seen.flash.at_us, unit, camera)
        self.wait_words.setText(self.waiting.words if self.waiting else "")
        self.wait.setVisible(self.waiting is not None)
        if self.waiting is not None:
            self.wait.setText(f"Flash {self.waiting.wait_us / 1000:g} ms later")
        lux = continuous_lux(camera.f_number, UNLIT_S, light.max_iso)
        self.unlit.setText(
            f"Without flash, at 1/4000 s, f/{camera.f_number:g} and ISO {light.max_iso}: {lux / 1000:.0f} klx of "
            f"steady light, and {unlit(edges, UNLIT_S, camera):.0f} px of blur."
        )

    def _show_which(self, table: TableState) -> None:
        """Offer each unit with each flash that it lights at; one that lights at none with the first."""
        pairs = [(one.unit, flash) for one in table.unit_lights for flash in one.flashes or (0,)]
        words = [pair_words(table, *pair) for pair in pairs]
        if words != [self.which.itemText(n) for n in range(self.which.count())]:
            held = self._pairs[self.which.currentIndex()] if self._pairs else pairs[0]
            same_unit = next((n for n, pair in enumerate(pairs) if pair[0] == held[0]), 0)
            self.which.clear()
            self.which.addItems(words)
            self.which.setCurrentIndex(pairs.index(held) if held in pairs else same_unit)
        self._pairs, self.at = pairs, pairs[self.which.currentIndex()]
        self.which.setVisible(len(pairs) > 1)

    def _edges_of(self, table: TableState) -> Callable[[int], list[Edge]]:
        """Edges at other times; they are the same while only the light changes."""
        forecast = table.prediction.forecast
        if self._edges_from is not forecast.falls:
            self._edges_from, self._edges_at = forecast.falls, {}

        def edges_at(time_us: int) -> list[Edge]:
            if time_us not in self._edges_at:
                self._edges_at[time_us] = outline(forecast, at_instant(forecast, time_us)).edges
            return self._edges_at[time_us]

        return edges_at

    def _schools(self, table: TableState) -> str:
        best = best_f_number(table.results.half_depth_m, table.setup.camera.magnification)
        sharp = (
            f"Sharpest with enough light: {power_label(self._sharpest.power)}, {self._sharpest.worst_px:.1f} px at ISO "
            f"{self._sharpest.iso:.0f}."
            if self._sharpest
            else "No power lights it under the highest ISO: open up, bring the flash nearer, or cloud the water."
        )
        clean = (
            f"Lowest ISO that is sharp: {power_label(self._cleanest.power)}, ISO {self._cleanest.iso:.0f} with "
            f"{self._cleanest.worst_px:.1f} px."
            if self._cleanest
            else "No power is sharp enough: wait for a slower instant, or shoot wider."
        )
        return f"{sharp}\n{clean}\nBest aperture for this splash: f/{best:.0f}."

    def _choose(self, chosen: FreezeRow | None) -> None:
        if chosen is not None:
            self.tools.editor.set_power(chosen.power, None, self.at[0])

    def _for_print(self) -> None:
        self.tools.editor.edit(
            "light.blur_target_px", round(print_target_px(self.tools.studio.composer.setup.camera), 1)
        )

    def _wait(self) -> None:
        if self.waiting is not None:
            sequence, flash = self.tools.studio.composer.sequence, self.at[1]
            later_us = sequence.flashes[flash].at_us + self.waiting.wait_us
            self.tools.studio.composer.compose(sequence.with_flash(flash, later_us))


class EdgeTable(QWidget):
    """Speed and blur of each moving edge."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        self.cells = [[QLabel() for _ in range(3)] for _ in range(EDGES)]
        for line, cells in enumerate(self.cells):
            for column, cell in enumerate(cells):
                cell.setFont(font(SMALL_PX, bold=column == 2))
                grid.addWidget(cell, line, column)

    def show_edges(self, edges: list[Edge], now: FreezeRow) -> None:
        """Show the fastest edges."""
        for line, cells in enumerate(self.cells):
            known = line < len(edges)
            words = ("", "", "")
            if known:
                words = (edges[line].name, f"{edges[line].speed_m_s:.2f} m/s", f"{now.blurs_px[line]:.1f} px")
            elif line == 0:
                words = ("Nothing moves in the frame.", "", "")
            for cell, text in zip(cells, words, strict=True):
                cell.setText(text)
                cell.setVisible(bool(text))
