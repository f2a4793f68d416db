"""Which shot one looks at; the bench shows it, the table reads its picture and its set-up."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from ondine.logbook.records import ShotRecord


class ShotInView(QObject):
    """The shot in view, None while there is none. Emits `changed(shot)`."""

    changed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.shot: ShotRecord | None = None

    def show(self, shot: ShotRecord | None) -> None:
        """Look at another shot, or at the same one as it is now."""
        self.shot = shot
        self.changed.emit(shot)
