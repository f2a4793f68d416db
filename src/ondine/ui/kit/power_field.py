"""A unit's power, as the unit's own dial counts it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox

from ondine.core.light.stops import Mark, nearest, power_label, powers

LEAST_SHOWN = 1 / 1024


class PowerField(QComboBox):
    """Clicks from full power down. Emits `edited(power)`."""

    edited = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumHeight(32)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self._marks: tuple[Mark, ...] = ()
        self.show_marks(powers(LEAST_SHOWN))
        self.activated.connect(lambda index: self.edited.emit(self._marks[index].value))

    def show_marks(self, marks: tuple[Mark, ...]) -> None:
        """Offer other clicks."""
        if marks == self._marks:
            return
        self._marks = marks
        self.clear()
        self.addItems([mark.label for mark in marks])

    def display(self, value: object) -> None:
        """Show a power; one between two clicks by its own name."""
        assert isinstance(value, float)
        near = nearest(self._marks, value)
        index = self._marks.index(near)
        self.setCurrentIndex(index)
        exact = abs(near.value / value - 1) < 0.02
        self.setToolTip("" if exact else f"set to {power_label(value)}")
