"""A short look around before the first shot of a sitting. Space goes on; what is not ticked is noted as skipped."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from ondine.core.table.safety import LOCAL_RULES, preflight
from ondine.ui.table.stage import TickList, button, note
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools


class Preflight(QWidget):
    """Ticks, and the way on."""

    def __init__(self, tools: TableTools) -> None:
        super().__init__()
        self.tools = tools
        self._items: tuple[str, ...] = ()
        self.ticks = TickList(lambda index: tools.checks.tick(self._items[index]))
        self.go = button("Fire")
        column = QVBoxLayout(self)
        column.addWidget(
            note("Tick what is so. Space fires, ticked or not; the sitting's record says what was skipped.")
        )
        column.addWidget(self.ticks)
        column.addWidget(note(LOCAL_RULES))
        column.addWidget(self.go)
        column.addStretch(1)

    def show_table(self, table: TableState) -> None:
        """Show what is ticked."""
        self._items = preflight(table.setup, table.kind)
        done = tuple(item in table.checked for item in self._items)
        self.ticks.show_items(self._items, done)
        left = done.count(False)
        self.go.setText("Fire  Space" if not left else f"Fire, skipping {left}  Space")
