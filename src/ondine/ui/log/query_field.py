"""The line that a search is written in, with what each word may become."""

from __future__ import annotations

from PySide6.QtCore import QStringListModel, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QIcon, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QCompleter, QLineEdit, QWidget

from ondine.logbook.completion import LogWords, complete
from ondine.logbook.query_line import MOST_CHARACTERS
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.theme import Theme, apply

CLEAR_PX = 16
PAUSE_MS = 120
"""A hand that types faster than this is not answered at each letter."""


class QueryField(QLineEdit):
    """Emits `asked(line)` when the hand rests; Down or Tab goes into what a word may become."""

    asked = Signal(str)
    left = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = LogWords()
        self.setAccessibleName("What to find in the log")
        self.setPlaceholderText("Find shots: full umbrella gap 60-80 rating>=4 glycerine")
        # Qt's own shines white in the dark.
        self._clear = QAction("Empty the line", self)
        self._clear.triggered.connect(lambda: self.write(""))
        self._clear.setVisible(False)
        self.addAction(self._clear, QLineEdit.ActionPosition.TrailingPosition)
        self.setMaxLength(MOST_CHARACTERS)
        self._start = 0
        self._offers = QStringListModel(self)
        self._completer = QCompleter(self._offers, self)
        self._completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        # A window of its own needs a ground: lists on a page have none.
        self._popup().setObjectName("over")
        # Of our own: Qt's would replace the whole line, not its last word.
        self._completer.setWidget(self)
        self._completer.activated.connect(self._take)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(PAUSE_MS)
        self._wait.timeout.connect(self.ask)
        self.textChanged.connect(lambda _: self._wait.start())
        self.textChanged.connect(lambda text: self._clear.setVisible(bool(text)))
        self.textEdited.connect(lambda _: self._offer())

    def ask(self) -> None:
        """Ask for what is written now."""
        self._wait.stop()
        self.asked.emit(self.text())

    def write(self, line: str) -> None:
        """Write another line, and ask for it."""
        self.setText(line)
        self.ask()

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to what empties the line, and to the list of words: it is a window of its own."""
        self._clear.setIcon(QIcon(glyph("clear", theme.soft_ink, CLEAR_PX, self.devicePixelRatioF())))
        apply(self._popup(), theme)

    def _popup(self) -> QAbstractItemView:
        found = self._completer.popup()
        assert found is not None
        return found

    def _offer(self) -> None:
        found = complete(self.text(), self.cursorPosition(), self.words)
        self._start = found.start
        self._offers.setStringList(list(found.texts))
        if found.texts:
            self._completer.complete()
        else:
            self._popup().hide()

    def _take(self, text: str) -> None:
        line, cursor = self.text(), self.cursorPosition()
        # A comparison is written on; anything else is a word of its own.
        put = text if text.endswith("=") else f"{text} "
        self.setText(f"{line[: self._start]}{put}{line[cursor:].lstrip()}")
        self.setCursorPosition(self._start + len(put))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return searches now and goes to what was found."""
        popup = self._popup()
        if popup.isVisible() and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            if event.key() == Qt.Key.Key_Escape:
                popup.hide()
                return
            if popup.currentIndex().isValid():
                # The list itself takes it.
                event.ignore()
                return
            popup.hide()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.ask()
            self.left.emit()
            return
        super().keyPressEvent(event)
