"""Ends in order however the end comes: a signal, a log-out, a display that is gone."""

from __future__ import annotations

import signal
import socket
from collections.abc import Callable
from types import FrameType

from PySide6.QtCore import QObject, QSocketNotifier

SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class EndSignals(QObject):
    """Calls `end()` in the window's thread once the system asks the program to end.

    A second signal ends it at once: whoever sends two does not want to wait.
    """

    def __init__(self, end: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self.end = end
        self.came = False
        # Qt waits in its own loop, where Python is not asked: the signal's number arrives through a socket.
        self._hears, self._tells = socket.socketpair()
        for side in (self._hears, self._tells):
            side.setblocking(False)
        signal.set_wakeup_fd(self._tells.fileno(), warn_on_full_buffer=False)
        for number in SIGNALS:
            signal.signal(number, self._note)
        self._notifier = QSocketNotifier(self._hears.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._heard)

    def _note(self, number: int, frame: FrameType | None) -> None:
        self.came = True
        for other in SIGNALS:
            signal.signal(other, signal.SIG_DFL)

    def _heard(self) -> None:
        self._notifier.setEnabled(False)
        self.end()
