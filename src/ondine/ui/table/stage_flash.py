"""The flash units: what their manuals say, how long they shine, how soon they are ready."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QStackedWidget, QWidget

from ondine.core.light.exposure import guide_number_m, light_on_background, light_on_subject, look_words
from ondine.core.light.flash import cautions_of, duration_of
from ondine.core.light.recycle import burst_words
from ondine.core.light.stops import Mark, powers
from ondine.core.setup import DialKind, DurationPoint, Flash, Measure
from ondine.core.setup.light import Step
from ondine.core.units import Quantity
from ondine.ui.kit.fields import ChoiceField, QuantityField
from ondine.ui.kit.form import Form
from ondine.ui.kit.power_field import PowerField
from ondine.ui.kit.theme import SMALL_PX, font
from ondine.ui.table.duration_chart import DurationChart
from ondine.ui.table.light_words import light_words
from ondine.ui.table.stage import StagePage, button, heading, note, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

LEFT = ("power", "kind", "dial", "guide_number_m", "guide_zoom_mm", "zoom_mm", "least_power", "losses_stops")
RIGHT = (
    "recycle_full_s", "battery", "gel_stops", "gel_mired", "colour_k", "automatic", "high_speed_sync", "guard",
    "output", "slave",
)  # fmt: skip
TITLES = {
    "guide_number_m": "Guide number", "guide_zoom_mm": "… at zoom", "losses_stops": "Diffuser loss",
    "recycle_full_s": "Full recycle", "gel_stops": "Gel loss", "gel_mired": "Gel shift", "colour_k": "Colour",
    "automatic": "Automatic", "high_speed_sync": "High speed", "guard": "Guard", "kind": "Dims by", "dial": "Dial in",
    "output": "Output", "slave": "Slave",
}  # fmt: skip
ROWS = 6
KEPT = "Kept units"
"""What the list says before one is chosen."""


class FlashStage(StagePage):
    """Chart of durations; a unit's fields, table and cautions."""

    title = "The flash units"
    hint = "Copy the durations from the manual: they decide what freezes."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.chart = DurationChart(tools.foresight)
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Unit in hand")
        self.which.activated.connect(lambda _: tools.signals.altered.emit())
        self.add = button("Add", tools.editor.add_flash)
        self.remove = button("Remove", lambda: tools.editor.remove_flash(self.which.currentIndex()))
        self.keep = button(
            "Keep it",
            lambda: tools.library.keep_flash(self.which.currentIndex()),
            "Keep this unit under its name, to use it on another table",
        )
        self.library = QComboBox()
        self.library.setMinimumHeight(32)
        self.library.setMinimumContentsLength(8)
        self.library.setAccessibleName("Kept units")
        self.library.addItem(KEPT)
        self.library.activated.connect(self._use)
        self.forms = QStackedWidget()
        self.manual = DurationTable(self._set_durations)
        self.measure = ChoiceField("Durations are timed as", Measure)
        self.measure.edited.connect(self._set_measure)
        self.interval = QuantityField("One frame each")
        self.interval.show_as(Quantity("s", 1, 1, 0.5, 5))
        self.interval.display(1.0)
        self.interval.edited.connect(lambda _: tools.signals.altered.emit())
        self.series = QuantityField("Frames in a series")
        self.series.show_as(Quantity("", 1, 0, 1, 5))
        self.series.display(5.0)
        self.fire = button("Fire a series", self._series, "No faster than the flash recycles; Stop ends it")
        self.burst, self.cautions = note(soft=False), note(soft=False)
        self.column.addLayout(row(self.which, self.add, self.remove, self.keep, self.library, stretch=False))
        self.column.addWidget(self.forms)
        self.column.addLayout(row(heading("Durations of the manual"), self.measure))
        self.column.addWidget(self.manual)
        self.column.addLayout(
            row(tag("One every"), self.interval, tag("Frames"), self.series, self.fire, stretch=False)
        )
        self.column.addWidget(self.burst)
        self.column.addWidget(self.cautions)
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show the unit in hand."""
        units = table.setup.light.units
        names = [unit.name for unit in units]
        if names != [self.which.itemText(i) for i in range(self.which.count())]:
            held = min(max(self.which.currentIndex(), 0), len(names) - 1)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(held)
        index = self.which.currentIndex()
        unit = units[index]
        self.remove.setEnabled(len(units) > 1)
        self._form(table, index).show_setup(table.setup, table.units)
        self._show_dial(index, unit, table.setup.light.dial_step)
        self.measure.display(unit.durations[0].measure if unit.durations else Measure.HALF)
        self.manual.show_points(unit.durations)
        self.burst.setText(burst_words(unit, max(self.interval.value(), 0.0)))
        kept = list(self.tools.library.flashes)
        if kept != [self.library.itemText(i) for i in range(1, self.library.count())]:
            self.library.clear()
            self.library.addItems([KEPT, *kept])
        self.library.setEnabled(bool(kept))
        lit = _light_words(table, unit)
        self.cautions.setText("\n".join([lit, *cautions_of(unit)]))
        self.chart.show_flash(unit)
        firing = self.tools.light.series != (0, 0)
        self.fire.setText(
            f"Stop  {self.tools.light.series[0] + 1}/{self.tools.light.series[1]}" if firing else "Fire a series"
        )

    def _use(self, line: int) -> None:
        if line > 0:
            self.tools.library.use_flash(self.which.currentIndex(), self.library.itemText(line))
        self.library.setCurrentIndex(0)

    def _form(self, table: TableState, index: int) -> Form:
        while self.forms.count() <= index:
            stem = f"light.units.{self.forms.count()}"
            titles = {f"{stem}.{name}": title for name, title in TITLES.items()}
            made = Form([f"{stem}.{name}" for name in (*LEFT, *RIGHT)], table.setup, columns=2, titles=titles)
            made.edited.connect(self.tools.editor.edit)
            self.forms.addWidget(made)
        self.forms.setCurrentIndex(index)
        form = self.forms.widget(index)
        assert isinstance(form, Form)
        return form

    def _show_dial(self, index: int, unit: Flash, step: Step) -> None:
        """Clicks of the unit's own dial: powers, or the speeds that they stand for."""
        form = self.forms.widget(index)
        assert isinstance(form, Form)
        field = form.fields[f"light.units.{index}.power"]
        assert isinstance(field, PowerField)
        marks = powers(unit.least_power, step)
        if unit.dial is DialKind.SPEED:
            marks = tuple(Mark(f"1/{1 / duration_of(unit, m.value).half_s:.0f} s", m.value) for m in marks)
        field.show_marks(marks)
        field.display(unit.power)

    def _set_durations(self, points: tuple[DurationPoint, ...]) -> None:
        unit = self.tools.studio.composer.setup.light.units[self.which.currentIndex()]
        measure = unit.durations[0].measure if unit.durations else Measure.HALF
        points = tuple(replace(point, measure=measure) for point in points)
        if not self.tools.editor.edit(f"light.units.{self.which.currentIndex()}.durations", points):
            self.manual.show_points(unit.durations, force=True)

    def _set_measure(self, measure: Measure) -> None:
        index = self.which.currentIndex()
        points = self.tools.studio.composer.setup.light.units[index].durations
        self.tools.editor.edit(f"light.units.{index}.durations", tuple(replace(p, measure=measure) for p in points))

    def _series(self) -> None:
        if self.tools.light.series != (0, 0):
            self.tools.studio.bench.stop_series()
            return
        self.tools.light.fire_series(round(self.series.value()), self.interval.value())


def _light_words(table: TableState, unit: Flash) -> str:
    """What the units throw, what that does to the look, and how far apart they light."""
    light, triggers = table.setup.light, table.setup.triggers
    amounts = light_on_subject(light, table.times), light_on_background(light, table.times)
    subject, behind = (math.sqrt(amount) for amount in amounts)
    says = (
        f"Guide number as set: {guide_number_m(unit):.1f} m. The whole picture at ISO 100: the splash f/{subject:.1f}, "
        f"the background f/{behind:.1f}. {look_words(light)}"
    )
    says += "".join(f" {words}" for words in light_words(table))
    if any(unit.slave for unit in light.units):
        span = triggers.slave_lag_s + max(duration_of(u, u.power).half_s for u in light.units)
        says += f" The slave lights {triggers.slave_lag_s * 1e6:.0f} µs later: together they last {span * 1e6:.0f} µs."
    return says


class DurationTable(QWidget):
    """Rows of a power and a duration, both as the manual prints them: one over so much. An empty row has zeros."""

    def __init__(self, changed: Callable[[tuple[DurationPoint, ...]], object]) -> None:
        super().__init__()
        self._changed = changed
        self._points: tuple[DurationPoint, ...] = ()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(0)
        self.cells: list[tuple[QuantityField, QuantityField]] = []
        for index in range(ROWS):
            power, speed = QuantityField(f"Power of row {index + 1}"), QuantityField(f"Duration of row {index + 1}")
            power.show_as(Quantity("", 1, 0, 1, 8))
            speed.show_as(Quantity("s", 1, 0, 100, 1000))
            for field in (power, speed):
                field.setPrefix("1/")
                field.setMinimum(0.0)
                field.setSpecialValueText(" ")
                field.display(0.0)
                field.editingFinished.connect(self._edited)
            self.cells.append((power, speed))
            column = 3 * (index % 2)
            grid.addWidget(power, index // 2, column)
            says = QLabel("lasts")
            says.setFont(font(SMALL_PX))
            grid.addWidget(says, index // 2, column + 1)
            grid.addWidget(speed, index // 2, column + 2)

    def show_points(self, points: tuple[DurationPoint, ...], force: bool = False) -> None:
        """Show a table."""
        if points == self._points and not force:
            return
        self._points = points
        ordered = sorted(points, key=lambda point: -point.power)
        for index, (power, speed) in enumerate(self.cells):
            known = index < len(ordered)
            power.display(1 / ordered[index].power if known else 0.0)
            speed.display(round(1 / ordered[index].duration_s) if known else 0.0)

    def _edited(self) -> None:
        rows = [(power.value(), speed.value()) for power, speed in self.cells]
        points = tuple(DurationPoint(1 / p, 1 / s) for p, s in rows if p > 0 and s > 0)
        measures = {point.measure for point in self._points}
        if {(q.power, q.duration_s) for q in points} != {
            (1 / round(1 / q.power), 1 / round(1 / q.duration_s)) for q in self._points
        } or len(measures) > 1:
            self._changed(points)
