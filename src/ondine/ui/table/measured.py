"""A value that is computed until somebody measures it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from ondine.core.setup import Setup
from ondine.core.setup.fields import about
from ondine.core.units import Quantity, Units, quantity_of
from ondine.ui.kit.fields import QuantityField
from ondine.ui.kit.theme import GRID_PX


class MeasuredField(QWidget):
    """Shows the computed value until one is typed; a button goes back. Emits `edited(value or None)`."""

    edited = Signal(object)

    def __init__(self, path: str, unknown: str = "computed") -> None:
        """`unknown` : what a value is called that nobody has measured."""
        super().__init__()
        self._unknown = unknown
        says = about(Setup(), path).says
        self.field = QuantityField(says)
        self.field.show_as(quantity_of(path, Units()))
        self.field.edited.connect(self.edited)
        self.back = QPushButton(unknown)
        self.back.setObjectName("edged")
        self.back.setMinimumHeight(32)
        self.back.setToolTip(f"Go back to the {unknown} value")
        self.back.clicked.connect(lambda: self.edited.emit(None))
        title = QLabel(says.removeprefix("Measured ").capitalize())
        title.setBuddy(self.field)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(GRID_PX)
        line.addWidget(title)
        line.addWidget(self.field, 1)
        line.addWidget(self.back)

    def show_as(self, quantity: Quantity) -> None:
        """Show the value in a unit."""
        self.field.show_as(quantity)

    def display(self, measured: float | None, computed: float) -> None:
        """Show what holds."""
        self.field.display(computed if measured is None else measured)
        self.back.setEnabled(measured is not None)
        self.back.setText("measured  ×" if measured is not None else self._unknown)
