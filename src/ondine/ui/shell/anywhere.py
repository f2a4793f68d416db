"""Keys that work wherever one is: Space fires, Return takes what the coach proposes, letters tag; save in a field, and
where a button has the focus.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QMainWindow,
    QWidget,
)

from ondine.ui.bench.coach_map import MapView
from ondine.ui.kit.own_shapes import own_by_letter
from ondine.ui.kit.tag_board import SHAPE_KEYS
from ondine.ui.shell.overlay import Blank

TYPING = (QLineEdit, QAbstractSpinBox, QComboBox)
OWN_RETURN = (QAbstractItemView, MapView)
"""Where Return means what is pointed to there."""

EATEN = Qt.Key.Key_E
"""With Ctrl, a field on Linux takes it for the end of its line: here it is the window's."""

RETURN = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
COMMANDING = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier


class KeysAnywhere(QObject):
    """Filters the keys of one window.

    is_firing_page : whether the page in view is one that Space fires from; is_tagging_page : whether letters tag there;
    take : takes what the
    coach proposes, and fires it if it is told to; returns whether there is a coach.
    """

    def __init__(
        self,
        window: QMainWindow,
        blank: Blank,
        is_firing_page: Callable[[], bool],
        is_tagging_page: Callable[[], bool],
        fire: Callable[[], object],
        tag: Callable[[str], object],
        take: Callable[[bool], bool],
    ) -> None:
        super().__init__(window)
        self._window, self._blank = window, blank
        self._is_firing_page, self._is_tagging_page = is_firing_page, is_tagging_page
        self._fire, self._tag, self._take = fire, tag, take

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """See QObject."""
        if (
            event.type() not in (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress)
            or not self._window.isActiveWindow()
        ):
            return False
        assert isinstance(event, QKeyEvent)
        if event.type() == QEvent.Type.ShortcutOverride:
            # What a field does not get to see it cannot keep from the window.
            return event.key() == EATEN and event.modifiers() == Qt.KeyboardModifier.ControlModifier
        if self._blank.isVisible():
            self._blank.hide()
            return True
        focused = QApplication.focusWidget()
        if not isinstance(watched, QWidget) or isinstance(focused, TYPING) or event.modifiers() & COMMANDING:
            return False
        if isinstance(watched, QAbstractButton) and event.key() in (Qt.Key.Key_Space, *RETURN):
            return self._press(watched, event)
        return (self._is_firing_page() and self._answer(focused, event)) or self._tags(event)

    def _press(self, button: QAbstractButton, event: QKeyEvent) -> bool:
        """Return presses a button as Space does; Qt sees to Space itself."""
        if event.key() not in RETURN:
            return False
        if not event.isAutoRepeat():
            button.animateClick()
        return True

    def _answer(self, focused: QWidget | None, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Space and not isinstance(focused, QAbstractItemView):
            if not event.isAutoRepeat():
                self._fire()
            return True
        if event.key() in RETURN and not isinstance(focused, OWN_RETURN) and not event.isAutoRepeat():
            return self._take(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        return False

    def _tags(self, event: QKeyEvent) -> bool:
        if not self._is_tagging_page():
            return False
        letter = event.text().upper()
        # With Shift a letter is one's own shape; with the capitals locked it is what it always is.
        is_own = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        shape = own_by_letter(letter) if is_own else SHAPE_KEYS.get(letter)
        if shape is not None and not event.isAutoRepeat():
            self._tag(shape.key)
            return True
        return False
