"""Set-ups by name, compared and restored; the sitting and its particulars."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLabel,
    QListWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ondine.core.belief.priors import Belief
from ondine.core.numbers import counted
from ondine.core.setup import Setup
from ondine.core.setup.compare import differences
from ondine.core.units import Units, quantity_of, value_words
from ondine.logbook.records import SittingFacts, SittingRecord
from ondine.ui.kit.fields import QuantityField, WordField
from ondine.ui.kit.files import ask_for_file, ask_where_to_write
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, Theme, font
from ondine.ui.table.stage import StagePage, button, heading, note, row
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools


class KeepStage(StagePage):
    """Shelf and comparison on the left, sitting on the right."""

    title = "Set-ups and sittings"
    hint = "Every shot remembers its set-up. Keep one by name to come back to it."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.kept = KeptSetups(tools)
        self.figure = self.kept
        self.form = Form(("name",))
        self.form.edited.connect(tools.editor.edit)
        self.keep = button("Keep it by name", tools.library.keep_setup)
        self.read = button("Open a file", self._read)
        self.write = button("Save to a file", self._write)
        self.words = {name: WordField(name.capitalize()) for name in ("name", "place", "note")}
        for name, field in self.words.items():
            field.edited.connect(lambda value, n=name: self._describe(**{n: value}))
        self.temperature = QuantityField("Room temperature")
        self.temperature.edited.connect(lambda value: self._describe(temperature_c=value))
        self.new = button("Begin a new sitting", self._begin)
        self.preflight = note()
        self.sittings = QListWidget()
        self.sittings.setAccessibleName("Sittings")
        self.sittings.setFont(font(SMALL_PX))
        self.sittings.setWordWrap(True)
        self.sittings.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.column.addWidget(self.form)
        self.column.addLayout(row(self.keep, self.read, self.write))
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("This sitting"))
        fields: dict[str, QWidget] = {**self.words, "room": self.temperature}
        for name, beside in fields.items():
            title = QLabel(name.capitalize())
            title.setFixedWidth(56)
            title.setBuddy(beside)
            line = row(title, stretch=False)
            line.addWidget(beside, 1)
            self.column.addLayout(line)
        self.column.addWidget(self.preflight)
        self.column.addLayout(row(self.new))
        self.column.addWidget(heading("All sittings"))
        self.column.addWidget(self.sittings, 1)

    def show(self, table: TableState) -> None:
        """Show shelf, comparison and sitting."""
        self.form.show_setup(table.setup, table.units)
        self.kept.show_table(table)
        facts = table.facts
        for name, field in self.words.items():
            field.display(getattr(facts, name))
        self.temperature.show_as(quantity_of("mix.temperature_c", table.units))
        self.temperature.display(table.setup.mix.temperature_c if facts.temperature_c is None else facts.temperature_c)
        self.preflight.setText(facts.preflight or "Before the first shot, Ondine asks for a short look around.")
        listed = [_sitting_words(s, table.units, self.tools.library.sitting) for s in self.tools.library.sittings]
        if listed != [self.sittings.item(i).text() for i in range(self.sittings.count())]:
            self.sittings.clear()
            self.sittings.addItems(listed)

    def _describe(self, **change: object) -> None:
        facts: SittingFacts = replace(self.tools.studio.sitting.facts, **change)  # type: ignore[arg-type]
        if facts.temperature_c is not None and not -30 <= facts.temperature_c <= 50:
            self.tools.signals.refused.emit(
                "A room is between −30 and 50 °C. Give its temperature, or that of the liquid."
            )
            self.tools.signals.altered.emit()
            return
        self.tools.studio.sitting.describe(facts)

    def _begin(self) -> None:
        self.tools.studio.sitting.begin_next()
        self.tools.signals.altered.emit()

    def _read(self) -> None:
        ask_for_file(self.panel, "Read a set-up", "Set-ups (*.json)", self.tools.studio.exchange.read)

    def _write(self) -> None:
        write = self.tools.library.write_file
        ask_where_to_write(self.panel, "Write this set-up", "table.ondine-setup.json", "Set-ups (*.json)", write)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to the comparison."""
        self.kept.theme = theme


def _sitting_words(s: SittingRecord, units: Units, current: int | None) -> str:
    parts = [s.started_at.astimezone().strftime("%Y-%m-%d %H:%M"), s.name, s.place]
    if s.temperature_c is not None:
        parts.append(units.temperature_words(s.temperature_c))
    parts.append(counted(s.shots, "shot"))
    if s.id == current:
        parts.append("goes on")
    return ", ".join(part for part in parts if part)


class KeptSetups(QWidget):
    """Named set-ups, and how the one in hand differs from the one that is chosen."""

    def __init__(self, tools: TableTools) -> None:
        super().__init__()
        self.tools = tools
        self.theme: Theme | None = None
        self.list = QListWidget()
        self.list.setAccessibleName("Named set-ups")
        self.list.setFixedHeight(120)
        self.list.currentRowChanged.connect(self._choose)
        self.take = button("Use it", self._take, "Use this set-up; Undo brings the present one back")
        self.copy = button("Copy", self._copy, "Use a copy under another name")
        self.forget = button("Delete", self._forget, "Its shots keep their set-up")
        self.of_shot = button("Compare the shot's", self._fetch)
        self.title = QLabel()
        self.title.setFont(font(SMALL_PX, bold=True))
        self.title.setWordWrap(True)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("What differs")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * GRID_PX, GRID_PX, 2 * GRID_PX, GRID_PX)
        column.addWidget(heading("Named set-ups"))
        column.addWidget(self.list)
        column.addLayout(row(self.take, self.copy, self.forget, self.of_shot))
        column.addWidget(self.title)
        column.addWidget(self.table, 4)
        column.addStretch(1)

    def show_table(self, table: TableState) -> None:
        """Show the names and the comparison with the set-up in hand."""
        kept = self.tools.library.setups
        names = [k.name for k in kept]
        if names != [self.list.item(i).text() for i in range(self.list.count())]:
            self.list.clear()
            self.list.addItems(names)
        chosen = self._chosen()
        self.take.setEnabled(self._other() is not None)
        for pressed in (self.copy, self.forget):
            pressed.setEnabled(chosen is not None)
        self.of_shot.setEnabled(table.shot is not None)
        other = self._other()
        if other is None:
            self.title.setText(
                "Choose a name to compare it with the present set-up." if names else
                "Nothing is kept yet. Give this set-up a name on the right and keep it."
            )  # fmt: skip
            self.table.hide()
            return
        self.table.show()
        found = differences(table.setup, other[1])
        self.title.setText(f"Present set-up against {other[0]}: " + (f"{len(found)} differ." if found else "the same."))
        self.table.setHorizontalHeaderLabels(["", "present", other[0]])
        self.table.setRowCount(len(found))
        for line, d in enumerate(found):
            cells = (d.says, value_words(d.path, d.one, table.units), value_words(d.path, d.other, table.units))
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.table.setItem(line, column, item)

    def _choose(self, index: int) -> None:
        if index >= 0:
            self.tools.library.compared = None
            self.tools.signals.altered.emit()

    def _chosen(self) -> tuple[str, Setup, Belief] | None:
        index, kept = self.list.currentRow(), self.tools.library.setups
        if not 0 <= index < len(kept):
            return None
        return kept[index].name, kept[index].setup, kept[index].belief

    def _take(self) -> None:
        other = self._other()
        if other is not None:
            self.tools.editor.use(*other[1:])

    def _other(self) -> tuple[str, Setup, Belief] | None:
        """What is compared with: what a shot was fired with, or the name that is chosen."""
        return self.tools.library.compared or self._chosen()

    def _copy(self) -> None:
        chosen = self._chosen()
        if chosen is not None:
            name, setup, belief = chosen
            self.tools.library.compared = None
            self.tools.editor.use(replace(setup, name=f"{name}, copy"), belief)

    def _forget(self) -> None:
        chosen = self._chosen()
        if chosen is not None:
            self.tools.studio.log.forget_setup(chosen[0])

    def _fetch(self) -> None:
        self.tools.library.fetch_of_shot()
