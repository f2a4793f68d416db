"""Safe and wet-proof: the cautions at their places on the drawing, and what to look after before anything gets wet."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from ondine.core.table.safety import LOCAL_RULES, Caution, cautions, wet_work
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import BODY_PX, GRID_PX, font
from ondine.ui.table.drawing import RigDrawing
from ondine.ui.table.stage import StagePage, TickList, heading, note
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools


class SafeStage(StagePage):
    """Cautions numbered on the drawing; a checklist per method."""

    title = "Make it safe"
    hint = "Tick what is done. The numbers on the drawing are the cautions below."

    def __init__(self, tools: TableTools, drawing: RigDrawing) -> None:
        super().__init__(tools)
        self.figure = drawing
        self._items: tuple[str, ...] = ()
        self.form = Form(("method",))
        self.form.edited.connect(tools.editor.edit)
        self.ticks = TickList(lambda index: tools.checks.tick(self._items[index]))
        self.cautions = CautionList()
        self.column.addWidget(self.form)
        self.column.addWidget(self.ticks)
        self.column.addWidget(heading("What can hurt"))
        self.column.addWidget(self.cautions)
        self.column.addWidget(note(LOCAL_RULES, soft=False, bold=True))
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show checklist and cautions."""
        self._items = wet_work(table.setup.method)
        self.form.show_setup(table.setup, table.units)
        self.ticks.show_items(self._items, tuple(item in table.checked for item in self._items))
        found = cautions(table.setup)
        self.cautions.show_cautions(found)
        self.drawing.show_marks([(c.place, n) for n, c in enumerate(found, start=1)])
        self.drawing.show_table(table.setup, table.results)

    @property
    def drawing(self) -> RigDrawing:
        """The figure, shared with the rig's stage."""
        assert isinstance(self.figure, RigDrawing)
        return self.figure


class CautionList(QWidget):
    """Numbered cautions: a title in ink, what to do below it."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(GRID_PX)
        self._grid.setVerticalSpacing(1)
        self._grid.setColumnStretch(1, 1)
        self._shown: tuple[Caution, ...] = ()

    def show_cautions(self, found: tuple[Caution, ...]) -> None:
        """Show cautions, numbered from 1."""
        if found == self._shown:
            return
        self._shown = found
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                # It goes with the next turn of the loop, and must not stand under its successor until then.
                widget.hide()
                widget.deleteLater()
        for row, caution in enumerate(found):
            number = QLabel(str(row + 1))
            number.setFont(font(BODY_PX, bold=True))
            self._grid.addWidget(number, row, 0)
            self._grid.addWidget(note(f"{caution.title}. {caution.does}", soft=False), row, 1)
