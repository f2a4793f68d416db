"""The log in the window, whole: its page, its drawers, and what joins them with the logbook."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ondine.logbook.records import ShotRecord
from ondine.studio.log_events import OwnShapesFound
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.theme import Theme
from ondine.ui.log.view import LogView
from ondine.ui.shell.card_actions import CardActions
from ondine.ui.shell.exchange_actions import ExchangeActions
from ondine.ui.shell.log_actions import LogActions
from ondine.ui.shell.sitting_actions import SittingActions

if TYPE_CHECKING:
    from ondine.ui.shell.main_window import MainWindow


class LogRoom:
    """Made by `LogDoor`."""

    def __init__(self, window: MainWindow, bridge: Bridge) -> None:
        self._window = window
        studio, navigation, messages = window.studio, window.navigation, window.messages
        self.view = view = LogView(window.loader)
        self.actions = LogActions(studio, view, messages, bridge)
        self.card = CardActions(window, studio, view, navigation, bridge, window.logbook.parent)
        self.exchange = ExchangeActions(window, studio, window.bench, view, navigation, messages, bridge)
        self.sitting = SittingActions(window, studio, view, navigation, messages, bridge)
        self.actions.atlas.fire_all = window.bench_actions.fire_all
        view.left.connect(navigation.go_back)
        view.chosen.connect(self._go_with)
        view.card.board.own_wanted.connect(window.own_shapes.toggle)
        bridge.on(OwnShapesFound, lambda _: self._draw_shapes())
        view.set_theme(window.theme)
        window.pages.addWidget(view)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            **self.actions.key_actions(),
            **self.card.key_actions(),
            **self.exchange.key_actions(),
            **self.sitting.key_actions(),
        }

    def _go_with(self, shot: ShotRecord) -> None:
        """Go to the bench with a shot."""
        self._window.navigation.go_back()
        self._window.shots.show_chosen(shot)

    def _draw_shapes(self) -> None:
        """Draw the photographer's own shapes as they are now."""
        view = self.view
        view.card.board.show_own()
        view.sheet.forget_drawn()
        if view.is_atlas:
            # Numbered anew, they are drawn anew.
            view.ask()
        view.table.viewport().update()
        view.show_current()

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.view.set_theme(theme)

    def end(self) -> None:
        """Stop what is being drawn."""
        self.sitting.end()
