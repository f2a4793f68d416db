"""How the table's tools answer."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal


class TableSignals(QObject):
    """Emits `refused(message)` where a change cannot be, `altered()` when more than the set-up did."""

    refused = Signal(str)
    altered = Signal()
