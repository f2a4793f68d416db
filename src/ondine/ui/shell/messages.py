"""The line under the header: the one place for messages."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton

from ondine.ui.kit.announce import announce
from ondine.ui.kit.theme import GRID_PX

NOTICE_MS = 8000


MOST_KEPT = 20


class Messages(QFrame):
    """Shows one message at a time: troubles and offers stay until each is dismissed, notices go
    by themselves.

    A trouble that nobody expected has details to copy. No message takes the place of a trouble that was not read.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("trouble")
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.copy = QPushButton("Copy details")
        self.copy.setToolTip("For a report: what went wrong where, without notes or pictures")
        self.copy.clicked.connect(self._copy)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(GRID_PX)
        row.addWidget(self.words, 1)
        self.use = QPushButton()
        self.use.clicked.connect(self._take_offer)
        row.addWidget(self.use)
        row.addWidget(self.copy)
        self._offer: Callable[[], object] | None = None
        self._troubles: list[tuple[str, str]] = []
        self.hide()
        self._notice = QTimer(self)
        self._notice.setSingleShot(True)
        self._notice.timeout.connect(self._show_trouble)

    def hasHeightForWidth(self) -> bool:
        """It gives itself the height that its words need: the page below must not be asked for more than it needs."""
        return False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Wrap anew."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        row = self.layout()
        assert row is not None
        row.invalidate()
        self.setFixedHeight(row.totalHeightForWidth(self.width()))

    def text(self) -> str:
        """Return what is shown."""
        return self.words.text()

    def trouble(self, message: str, details: str = "") -> None:
        """Say what did not work; `details` can be copied."""
        self._troubles = [known for known in self._troubles if known[0] != message][-MOST_KEPT:]
        self._troubles.append((message, details))
        self._offer = None
        self._show_trouble()

    def notice(self, message: str) -> None:
        """Say something that needs no answer, for a while."""
        self._offer = None
        self._say(message, message, "")
        self._notice.start(NOTICE_MS)

    def offer(self, message: str, does: str, action: Callable[[], object]) -> None:
        """Say something, and offer a button that does more; both stay until dismissed."""
        self._notice.stop()
        self._offer = action
        self.use.setText(does)
        self._say(message, f"{message}   (Esc)", "")

    def _take_offer(self) -> None:
        action, self._offer = self._offer, None
        self._show_trouble()
        if action is not None:
            action()

    def dismiss(self) -> None:
        """Take the message away; one that was not read yet comes forth."""
        if self._notice.isActive() or self._offer is not None:
            self._offer = None
            self._show_trouble()
        else:
            del self._troubles[-1:]
            self._show_trouble()

    def _show_trouble(self) -> None:
        self._notice.stop()
        if not self._troubles:
            self.hide()
            self.words.clear()
            return
        message, details = self._troubles[-1]
        more = len(self._troubles) - 1
        self._say(message, f"{message}   (Esc{f', {more} more' if more else ''})", details)

    def _say(self, message: str, shown: str, details: str) -> None:
        self.copy.setVisible(bool(details))
        self.use.setVisible(self._offer is not None)
        # A file's name may hold what is no text.
        self.words.setText(_text(shown))
        self.setAccessibleName(_text(message))
        announce(self, _text(message), urgent=not self._notice.isActive())
        self.show()
        self._fit()

    def _copy(self) -> None:
        QGuiApplication.clipboard().setText(_text(self._troubles[-1][1]))
        self.copy.setText("Copied")
        QTimer.singleShot(2000, self, lambda: self.copy.setText("Copy details"))


def _text(words: str) -> str:
    return words.encode("utf-8", "replace").decode("utf-8")
