"""Brings the studio's events, from whatever thread, into the window's."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from ondine.studio.events import Event


class Bridge(QObject):
    """Call `send` from any thread; `arrived` is emitted in the thread that owns the bridge."""

    arrived = Signal(object)
    _posted = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._posted.connect(self.arrived)

    def send(self, event: Event) -> None:
        """Pass an event on."""
        self._posted.emit(event)
