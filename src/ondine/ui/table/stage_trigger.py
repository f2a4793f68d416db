"""Triggers: who fires the flash, each link's lag and jitter, and how to measure one's own."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from ondine.core.numbers import NumberError, read_numbers
from ondine.core.setup import FlashFiredBy, Release, Setup
from ondine.core.table.lag_series import Lag, LagError, lag_between, passing_us, with_lag
from ondine.logbook.records import ShotRecord
from ondine.ui.kit.form import Form
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import GRID_PX, Theme
from ondine.ui.table.chain_figure import ChainFigure
from ondine.ui.table.height_picker import HeightPicker
from ondine.ui.table.stage import StagePage, button, heading, note, row
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

ALWAYS = ("triggers.flash_fired_by", "triggers.release", "triggers.mirror_up", "triggers.radio")
LINKS = ("wire", "infrared", "mirror", "shutter", "radio", "slave")
TIMES = ("triggers.valve_jitter_s", "triggers.shutter_lead_s", "camera.exposure_s", "triggers.sync_speed_s")
PLUS_MINUS = {f"triggers.{link}_jitter_s": "±" for link in LINKS}
SEEN_AT = 0.88
"""Where in the air of the frame the drop should be seen while a lag is measured: ten ms later it still is."""

LAGS = tuple(f"triggers.{link}_{what}_s" for what in ("lag", "jitter") for link in LINKS)


class TriggerStage(StagePage):
    """Chain figure, link fields, lag measurement."""

    title = "What fires what"
    hint = "Known lags are made up for; their jitter cannot be."

    def __init__(self, tools: TableTools, loader: PictureLoader) -> None:
        super().__init__(tools)
        self.chain = ChainFigure()
        self.picker = HeightPicker(loader)
        self.picker.picked.connect(self._picked)
        self.picker.hide()
        self.figure = QWidget()
        over = QVBoxLayout(self.figure)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self.chain, 1)
        over.addWidget(self.picker, 1)
        self.form, self.lags, self.times = Form(ALWAYS), Form(LAGS, columns=2, titles=PLUS_MINUS), Form(TIMES)
        for form in (self.form, self.lags, self.times):
            form.edited.connect(tools.editor.edit)
        self.series = [QLineEdit(), QLineEdit()]
        for edit, name in zip(self.series, ("the controller", "the camera"), strict=True):
            edit.setPlaceholderText(f"heights in mm, lit by {name}")
            edit.setAccessibleName(f"Heights of the drop in mm, flash fired by {name}")
            edit.editingFinished.connect(self._compare)
        self.fire = [
            button(
                "Prepare series 1",
                lambda: self._prepare(FlashFiredBy.CONTROLLER),
                "One drop, lit by the controller: fire it a few times",
            ),
            button(
                "Prepare series 2",
                lambda: self._prepare(FlashFiredBy.CAMERA),
                "The same drop, lit by the camera: fire it as often",
            ),
        ]
        self.measure = button("Measure in the picture", self._show_picker)
        self.measure.setCheckable(True)
        self.found = note(soft=False)
        self.use = button("Use this lag", self._use)
        self.lag: Lag | None = None
        self._setup = Setup()
        self._shot: ShotRecord | None = None
        for form in (self.form, self.lags, self.times):
            self.column.addWidget(form)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Measure my lag"))
        for edit, fire in zip(self.series, self.fire, strict=True):
            self.column.addLayout(row(fire, edit, stretch=False))
        self.column.addLayout(row(self.measure, self.use))
        self.column.addWidget(self.found)
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show the chain and the links that are in use."""
        self._setup = table.setup
        used = used_fields(table.setup)
        for form in (self.form, self.lags, self.times):
            form.show_setup(table.setup, table.units)
            form.show_only(used)
        self.chain.show_table(table)
        self._shot = table.shot
        self._show_measured()
        self._compare()

    def _show_picker(self) -> None:
        on = self.measure.isChecked()
        self.picker.setVisible(on)
        self.chain.setVisible(not on)
        self._show_measured()

    def _show_measured(self) -> None:
        """Show the picture of the shot in view to scale: by the camera as it stood for that shot."""
        library, shot = self.tools.library, self._shot
        setup: Setup | None = None
        if shot is not None and self.measure.isChecked():
            library.measure(shot.id)
            setup = library.measured[1] if library.measured is not None else None
        self.picker.show_shot(shot, setup)

    def _prepare(self, fired_by: FlashFiredBy) -> None:
        """One drop on its way down, in the upper half of the frame, through one path."""
        if self.tools.editor.edit("triggers.flash_fired_by", fired_by):
            plan = self.tools.studio.composer.plan
            first = replace(plan.sequence.drops[0], start_us=0)
            at = passing_us(plan.setup, plan.belief, first, SEEN_AT * plan.setup.camera.frame_top_m)
            self.tools.editor.single_drop(at)

    def _picked(self, height_m: float) -> None:
        which = 1 if self._setup.triggers.flash_fired_by is FlashFiredBy.CAMERA else 0
        edit = self.series[which]
        edit.setText(f"{edit.text()} {height_m * 1e3:.2f}".strip())
        self._compare()

    def _compare(self) -> None:
        self.lag = None
        try:
            heights = [read_numbers(edit.text(), "mm") for edit in self.series]
        except NumberError as error:
            self.found.setText(f"{error} Heights in mm stand with blanks between them: 18.2 17.9 18.4.")
            self.use.setEnabled(False)
            return
        if not any(heights):
            self.found.setText(
                "Prepare series 1, fire a few, measure each drop's height; then series 2. The difference is the lag."
            )
        else:
            try:
                one, other = ([h / 1e3 for h in series] for series in heights)
                plan = self.tools.studio.composer.plan
                self.lag = lag_between(one, other, plan.setup, plan.belief, plan.sequence.drops[0])
                self.found.setText(_lag_words(self.lag))
            except LagError as error:
                self.found.setText(str(error))
        self.use.setEnabled(self.lag is not None)

    def _use(self) -> None:
        if self.lag is not None:
            self.tools.editor.use(replace(self._setup, triggers=with_lag(self._setup.triggers, self.lag)))

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to chain and picture."""
        for view in (self.chain, self.picker):
            view.theme = theme
            view.update()


def used_fields(setup: Setup) -> list[str]:
    """Return the fields of the links that the path uses."""
    t, used = setup.triggers, {"shutter"}
    if t.release is not Release.HAND:
        used.add("wire" if t.release is Release.WIRE else "infrared")
    if not t.mirror_up:
        used.add("mirror")
    seeing = any(unit.slave for unit in setup.light.units)
    used |= {name for name, on in (("radio", t.radio), ("slave", seeing)) if on}
    links = [f"triggers.{link}_{what}_s" for link in LINKS if link in used for what in ("lag", "jitter")]
    by_camera = t.flash_fired_by is FlashFiredBy.CAMERA
    own = "triggers.sync_speed_s" if by_camera else "triggers.shutter_lead_s"
    return [*ALWAYS, *links, "triggers.valve_jitter_s", own, "camera.exposure_s"]


def _lag_words(lag: Lag) -> str:
    return (
        f"The camera's light comes {lag.lag_s * 1e3:+.1f} ± {lag.error_s * 1e3:.1f} ms after what was foreseen. "
        f"Jitter {lag.jitter_one_s * 1e3:.1f} ms by the controller, {lag.jitter_other_s * 1e3:.1f} ms by the camera."
    )
