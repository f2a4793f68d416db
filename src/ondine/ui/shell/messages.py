"""The line under the header: the one place for messages."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLabel

NOTICE_MS = 8000


class Messages(QLabel):
    """Shows one message at a time: troubles stay until they are dismissed, notices go by themselves."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("trouble")
        self.setWordWrap(True)
        self.hide()
        self._notice = QTimer(self)
        self._notice.setSingleShot(True)
        self._notice.timeout.connect(self.dismiss)

    def trouble(self, message: str) -> None:
        """Say what did not work."""
        self._say(message, f"{message}   (Esc)")
        self._notice.stop()

    def notice(self, message: str) -> None:
        """Say something that needs no answer."""
        self._say(message, message)
        self._notice.start(NOTICE_MS)

    def dismiss(self) -> None:
        """Take the message away."""
        self.hide()
        self.clear()

    def _say(self, message: str, shown: str) -> None:
        self.setText(shown)
        self.setAccessibleName(message)
        self.show()
