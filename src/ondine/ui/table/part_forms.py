"""Parts of a table of which there may be several, valves or flashes: which one is in hand, and its fields."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QStackedWidget, QVBoxLayout, QWidget

from ondine.core.setup import Setup
from ondine.core.units import Units
from ondine.ui.kit.form import Form
from ondine.ui.table.stage import button, row


class PartForms(QWidget):
    """A list of names over the fields of the part that is chosen. Emits `edited(path, value)`, `chosen(number)`."""

    edited = Signal(str, object)
    chosen = Signal(int)

    def __init__(
        self,
        stem: str,
        fields: Iterable[str],
        noun: str,
        most: int,
        add: Callable[[], object],
        remove: Callable[[int], object],
    ) -> None:
        """Show parts at `stem` of the set-up, `valves` or `light.units`; at most so many can be added."""
        super().__init__()
        self._stem, self._fields, self._most = stem, tuple(fields), most
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName(f"{noun.capitalize()} in hand")
        self.which.activated.connect(self.show_part)
        self.add = button(f"Add a {noun}", add)
        self.remove = button("Remove", lambda: remove(self.which.currentIndex()))
        self.forms = QStackedWidget()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.choice = QWidget()
        choices = row(self.which, self.add, self.remove)
        choices.setContentsMargins(0, 0, 0, 0)
        self.choice.setLayout(choices)
        column.addWidget(self.choice)
        column.addWidget(self.forms)

    @property
    def number(self) -> int:
        """Number of the part in hand, from 0."""
        return max(self.which.currentIndex(), 0)

    def show_parts(self, names: list[str], setup: Setup, units: Units) -> None:
        """Show the parts of a set-up by their names."""
        while self.forms.count() < len(names):
            made = Form([f"{self._stem}.{self.forms.count()}.{name}" for name in self._fields], setup)
            made.edited.connect(self.edited)
            self.forms.addWidget(made)
        if names != [self.which.itemText(i) for i in range(self.which.count())]:
            held = min(self.number, len(names) - 1)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(held)
            self.forms.setCurrentIndex(held)
        self.add.setEnabled(len(names) < self._most)
        self.remove.setEnabled(len(names) > 1)
        form = self.forms.widget(self.number)
        assert isinstance(form, Form)
        form.show_setup(setup, units)

    def show_part(self, number: int) -> None:
        """Take a part in hand."""
        self.which.setCurrentIndex(number)
        self.forms.setCurrentIndex(number)
        self.chosen.emit(number)

    @property
    def form(self) -> Form:
        """The fields of the part in hand."""
        found = self.forms.currentWidget()
        assert isinstance(found, Form)
        return found
