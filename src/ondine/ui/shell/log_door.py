"""The way to the log: its room is made when somebody goes there, or once the window has stood a while."""

from __future__ import annotations

from functools import partial
from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication

from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.theme import Theme

if TYPE_CHECKING:
    # The first frame needs nothing of the log.
    from ondine.ui.shell.log_room import LogRoom
    from ondine.ui.shell.main_window import MainWindow

READY_AFTER_MS = 500
"""The bench is drawn first, and what a hand does at once."""

ACTIONS = (
    "toggle_sheet", "edit_label", "like_this", "groups", "compare", "film", "import_card", "clock_card", "exchange",
    "sitting_course",
)  # fmt: skip
"""What keys can ask the room for."""

PARTS = tuple(
    f"ondine.ui.log.{name}"
    for name in (
        "shot_card", "search_line", "atlas_page", "groups_page", "compare_view", "film_view", "card_page",
        "exchange_page", "sitting_page", "view",
    )
)  # fmt: skip
"""Modules that are loaded one after the other, a few milliseconds each, so that the window never stands still."""


class LogDoor:
    """Keeps the log's room, once it is made."""

    def __init__(self, window: MainWindow, bridge: Bridge) -> None:
        self._window, self._bridge = window, bridge
        self.opened: LogRoom | None = None
        """The room, if it was needed so far."""
        self._left = list(PARTS)
        # Of the window's own: one that Qt makes for a single shot would keep a window that is closed before.
        self._timer = QTimer(window)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._step)

    @property
    def room(self) -> LogRoom:
        """The room; made when it is first asked for."""
        if self.opened is None:
            from ondine.ui.shell.log_room import LogRoom

            self.opened = LogRoom(self._window, self._bridge)
        return self.opened

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {name: partial(self._do, name) for name in ACTIONS}

    def _do(self, name: str) -> None:
        self.room.key_actions()[name]()

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to what is made; a room that is made later takes the window's."""
        if self.opened is not None:
            self.opened.set_theme(theme)

    def end(self) -> None:
        """Stop what is being drawn."""
        self._timer.stop()
        if self.opened is not None:
            self.opened.end()

    def start(self) -> None:
        """Make the room and look for its shots once the window has stood for a while: nobody waits for them then."""
        self._timer.start(READY_AFTER_MS)

    def _step(self) -> None:
        if QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            # A hand drags.
            self._timer.start(READY_AFTER_MS)
        elif self._left and self.opened is None:
            import_module(self._left.pop(0))
            self._timer.start(0)
        else:
            self.room.actions.prepare()
