"""Fields over a set-up by their paths; what each is called and how it is shown comes from the core."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import StrEnum
from types import MappingProxyType

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from ondine.core.setup import Setup
from ondine.core.setup.fields import about, read
from ondine.core.units import Units, quantity_of
from ondine.ui.kit.fields import ChoiceField, ColourField, QuantityField, WholeField, WordField, YesNoField
from ondine.ui.kit.power_field import PowerField
from ondine.ui.kit.theme import BODY_PX, GRID_PX, font


class Form(QWidget):
    """Rows of a name and a field, in one or more columns. Emits `edited(path, value)`."""

    edited = Signal(str, object)

    def __init__(
        self,
        paths: Iterable[str],
        sample: Setup | None = None,
        columns: int = 1,
        titles: Mapping[str, str] = MappingProxyType({}),
    ) -> None:
        """Make fields for paths; `titles` replaces what a field is called where its row says the rest."""
        super().__init__()
        self.fields: dict[str, QWidget] = {}
        self.titles: dict[str, QLabel] = {}
        sample = sample or Setup()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(GRID_PX)
        grid.setVerticalSpacing(2)
        listed = list(paths)
        rows = -(-len(listed) // columns)
        for place, path in enumerate(listed):
            title = QLabel(titles.get(path, about(sample, path).says))
            title.setFont(font(BODY_PX))
            field = _field_for(about(sample, path).says, path, read(sample, path))
            title.setBuddy(field)
            row, column = place % rows, 2 * (place // rows)
            grid.addWidget(title, row, column)
            grid.addWidget(field, row, column + 1)
            grid.setColumnStretch(column + 1, 1)
            self.fields[path], self.titles[path] = field, title
            field.edited.connect(lambda value, p=path: self.edited.emit(p, value))  # type: ignore[attr-defined]

    def show_setup(self, setup: Setup, units: Units) -> None:
        """Show a set-up's values in the units chosen."""
        for path, field in self.fields.items():
            if isinstance(field, QuantityField):
                field.show_as(quantity_of(path, units))
            field.display(read(setup, path))  # type: ignore[attr-defined]

    def show_only(self, paths: Iterable[str]) -> None:
        """Hide the rows that do not matter now."""
        wanted = set(paths)
        for path, field in self.fields.items():
            field.setVisible(path in wanted)
            self.titles[path].setVisible(path in wanted)


def _field_for(name: str, path: str, value: object) -> QWidget:
    if isinstance(value, bool):
        return YesNoField(name)
    if isinstance(value, StrEnum):
        return ChoiceField(name, type(value))
    if isinstance(value, int):
        return WholeField(name)
    if isinstance(value, float):
        return PowerField(name) if path.endswith("power") else QuantityField(name)
    return ColourField(name) if path.endswith("tint") else WordField(name)
