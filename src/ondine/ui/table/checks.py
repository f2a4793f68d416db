"""What is ticked: the steps of the focus, and the checklists."""

from __future__ import annotations

from ondine.core.table.focus import Focus
from ondine.studio.studio import Studio
from ondine.ui.table.signals import TableSignals


class Checks:
    """Ticks items; the focus is void as soon as something has moved."""

    def __init__(self, studio: Studio, signals: TableSignals) -> None:
        self._studio, self._signals = studio, signals
        self.focus = studio.kept.read("focus", Focus.from_json, Focus())

    def tick_focus(self, step: int) -> None:
        """Tick a step of the focus, or take it off."""
        setup = self._studio.composer.setup
        self.focus = self.focus.voided(setup).ticked(step, setup)
        self._studio.log.keep("focus", self.focus.to_json())
        self._signals.altered.emit()

    def tick(self, item: str) -> None:
        """Tick an item of a checklist, or take it off."""
        self._studio.sitting.tick(item)
        self._signals.altered.emit()
