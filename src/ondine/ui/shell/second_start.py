"""A second start with the same logbook brings the first window to the front, and hands it the file to open."""

from __future__ import annotations

import hashlib
import os
import socket
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSocketNotifier

PATIENCE_S = 1.0
ASK, END, YES = b"raise\0", b"\0", b"raised\n"
MOST_BYTES = 8192
"""Of a request: the longest name of a file that Linux knows has half as many."""


def _address(logbook: Path) -> str:
    """A name in the kernel's own list of sockets: it leaves no file, and goes with its process."""
    name = hashlib.sha256(os.fsencode(logbook)).hexdigest()[:24]
    return f"\0ondine-{os.getuid()}-{name}"


class SecondStarts(QObject):
    """Hears of other starts with this logbook, and calls `raise_window(file to open, or None)`."""

    def __init__(self, logbook: Path, raise_window: Callable[[Path | None], None], parent: QObject) -> None:
        super().__init__(parent)
        self._raise_window = raise_window
        self._notifier: QSocketNotifier | None = None
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

    def close(self) -> None:
        """Hear of no more starts: the address is free for the next window."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
        self._socket.close()

    def _asked(self) -> None:
        try:
            asking, _ = self._socket.accept()
        except OSError:
            return
        with asking:
            asking.settimeout(PATIENCE_S / 2)
            try:
                request = _line(asking)
                if request.startswith(ASK):
                    name = request.removeprefix(ASK).removesuffix(END)
                    self._raise_window(Path(os.fsdecode(name)) if name else None)
                    asking.sendall(YES)
            except OSError:
                return


def _line(asking: socket.socket) -> bytes:
    request = b""
    while request.count(END) < 2 and len(request) < MOST_BYTES:
        more = asking.recv(MOST_BYTES)
        if not more:
            break
        request += more
    return request


def raise_first_window(logbook: Path, take: Path | None) -> bool:
    """Ask the window that has a logbook open to come to the front and to open a file; return whether it did."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as asking:
        asking.settimeout(PATIENCE_S)
        try:
            asking.connect(_address(logbook))
            name = b"" if take is None else os.fsencode(take.absolute())
            asking.sendall(ASK + name + END)
            return asking.recv(len(YES)) == YES
        except OSError:
            return False
