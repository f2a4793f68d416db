"""A second start with the same logbook brings the first window to the front instead of telling a process's number."""

from __future__ import annotations

import hashlib
import os
import socket
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSocketNotifier

PATIENCE_S = 1.0
ASK, YES = b"raise\n", b"raised\n"


def _address(logbook: Path) -> str:
    """A name in the kernel's own list of sockets: it leaves no file, and goes with its process."""
    name = hashlib.sha256(os.fsencode(logbook)).hexdigest()[:24]
    return f"\0ondine-{os.getuid()}-{name}"


class SecondStarts(QObject):
    """Hears of other starts with this logbook, and calls `raise_window`."""

    def __init__(self, logbook: Path, raise_window: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self._raise_window = raise_window
        self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self._socket.setblocking(False)
        try:
            self._socket.bind(_address(logbook))
            self._socket.listen(4)
        except OSError:
            # Only the comfort is missing: the lock says the rest.
            self._socket.close()
            return
        self._notifier = QSocketNotifier(self._socket.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._asked)

    def _asked(self) -> None:
        try:
            asking, _ = self._socket.accept()
        except OSError:
            return
        with asking:
            asking.settimeout(PATIENCE_S / 2)
            try:
                if asking.recv(len(ASK)) == ASK:
                    self._raise_window()
                    asking.sendall(YES)
            except OSError:
                return


def raise_first_window(logbook: Path) -> bool:
    """Ask the window that has a logbook open to come to the front; return whether it did."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as asking:
        asking.settimeout(PATIENCE_S)
        try:
            asking.connect(_address(logbook))
            asking.sendall(ASK)
            return asking.recv(len(YES)) == YES
        except OSError:
            return False
