"""Gives the parts of a painted view to those who cannot see it: each is a number with a name, a value and steps."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QWidget

from ondine.core.units import Quantity
from ondine.ui.kit.fields import QuantityField


@dataclass(frozen=True)
class Part:
    """A part of a painted view: its key and name, how its value is shown, the value, and where it is painted."""

    key: str
    name: str
    how: Quantity
    value: float
    spot: QPointF


class StandIn(QuantityField):
    """Stands, unseen, where a part is painted. The accessibility bus finds it there; mouse and Tab do not."""

    def __init__(self, name: str, view: QWidget) -> None:
        super().__init__(name)
        self.setParent(view)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFrame(False)
        self.lineEdit().hide()
        self.setFixedSize(1, 1)
        self.show()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Nothing: the view has painted it."""


class StandIns(QObject):
    """The stand-ins of one view. Emits `changed(key, value)` when one is stepped or set."""

    changed = Signal(str, object)

    def __init__(self, view: QWidget) -> None:
        super().__init__(view)
        self._view = view
        self.by_key: dict[str, StandIn] = {}

    def show_parts(self, parts: list[Part]) -> None:
        """Let the stand-ins say what is painted now; parts that are gone are hidden."""
        for part in parts:
            stand_in = self.by_key.get(part.key)
            if stand_in is None:
                stand_in = self.by_key[part.key] = StandIn(part.name, self._view)
                stand_in.edited.connect(lambda value, key=part.key: self.changed.emit(key, value))
            if stand_in.accessibleName() != part.name:
                stand_in.setAccessibleName(part.name)
            stand_in.show_as(part.how)
            stand_in.display(part.value)
            stand_in.move(part.spot.toPoint())
            stand_in.setVisible(True)
        for key in self.by_key.keys() - {part.key for part in parts}:
            self.by_key[key].hide()
