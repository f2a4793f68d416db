"""The rig in a small panel: the few numbers of the table that this version lets one change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QDoubleSpinBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from ondine.core.light.flash import flash_duration_s
from ondine.core.setup import Setup
from ondine.ui.theme import SMALL_PX, font


@dataclass(frozen=True)
class RigNumber:
    """One number of the set-up as it is shown: name, unit, range, and how to read and replace it."""

    name: str
    unit: str
    low: float
    high: float
    decimals: int
    step: float
    read: Callable[[Setup], float]
    put: Callable[[Setup, float], Setup]


def _rig(setup: Setup, **change: float) -> Setup:
    return replace(setup, rig=replace(setup.rig, **change))


def _mix(setup: Setup, **change: float) -> Setup:
    return replace(setup, mix=replace(setup.mix, **change))


def _camera(setup: Setup, **change: float) -> Setup:
    return replace(setup, camera=replace(setup.camera, **change))  # type: ignore[arg-type]


NUMBERS = (
    RigNumber("Nozzle height", " mm", 20, 2000, 0, 1,
              lambda s: s.rig.nozzle_height_m * 1e3, lambda s, v: _rig(s, nozzle_height_m=v / 1e3)),
    RigNumber("Flow while open", " µL/ms", 0.2, 20, 2, 0.05,
              lambda s: s.rig.flow_m3_s * 1e6, lambda s, v: _rig(s, flow_m3_s=v / 1e6)),
    RigNumber("Valve dead time", " ms", 0, 20, 1, 0.5,
              lambda s: s.rig.dead_time_s * 1e3, lambda s, v: _rig(s, dead_time_s=v / 1e3)),
    RigNumber("Glycerine", " %", 0, 100, 0, 1,
              lambda s: s.mix.glycerine_mass_fraction * 100, lambda s, v: _mix(s, glycerine_mass_fraction=v / 100)),
    RigNumber("Temperature", " °C", 0, 40, 0, 1,
              lambda s: s.mix.temperature_c, lambda s, v: _mix(s, temperature_c=v)),
    RigNumber("Magnification", " ×", 0.05, 2, 2, 0.01,
              lambda s: s.camera.magnification, lambda s, v: _camera(s, magnification=v)),
    RigNumber("Flash power 1/", "", 1, 256, 0, 1,
              lambda s: 1 / s.light.power, lambda s, v: replace(s, light=replace(s.light, power=1 / v))),
)  # fmt: skip


class RigPanel(QWidget):
    """Fields over `NUMBERS`; emits `changed(setup)` with a new set-up, never edits one."""

    changed = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._setup: Setup | None = None
        self.fields: dict[str, QDoubleSpinBox] = {}
        form = QFormLayout()
        for number in NUMBERS:
            field = QDoubleSpinBox()
            field.setAccessibleName(number.name)
            field.setRange(number.low, number.high)
            field.setDecimals(number.decimals)
            field.setSingleStep(number.step)
            field.setSuffix(number.unit)
            field.setKeyboardTracking(False)
            field.setMinimumHeight(32)
            field.valueChanged.connect(lambda value, n=number: self._edited(n, value))
            self.fields[number.name] = field
            form.addRow(number.name, field)
        self.caption = QLabel()
        self.caption.setObjectName("soft")
        self.caption.setFont(font(SMALL_PX))
        self.caption.setWordWrap(True)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.caption)
        column.addStretch(1)

    def show_setup(self, setup: Setup) -> None:
        """Show a set-up."""
        self._setup = setup
        for number in NUMBERS:
            field = self.fields[number.name]
            with QSignalBlocker(field):
                field.setValue(number.read(setup))
        flash = float(flash_duration_s(setup.light.power)) * 1e6
        self.caption.setText(
            f"Revision {setup.revision[:8]}. The flash shines for about {flash:.0f} µs. "
            "Each change makes a new revision; shots keep the one they were fired with."
        )

    def _edited(self, number: RigNumber, value: float) -> None:
        if self._setup is not None:
            self.changed.emit(number.put(self._setup, value))
