"""A camera's card in the window: its page in the log, joined with what reads and matches it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

from ondine.studio.log_events import CardMatched, CardProgress, CardTaken
from ondine.studio.studio import Studio, now
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.files import ask_for_folder
from ondine.ui.log.clock_card import ClockCard
from ondine.ui.log.kinds import CARD
from ondine.ui.log.view import LogView
from ondine.ui.shell.navigation import Navigation


class CardActions:
    """Opens the page, asks for the folder, shows what comes."""

    def __init__(
        self, window: QWidget, studio: Studio, log: LogView, navigation: Navigation, bridge: Bridge, near: Path
    ) -> None:
        """`near`: the folder that one is asked for first."""
        self._near = near
        self._window, self._studio, self._log, self._navigation = window, studio, log, navigation
        self._page = page = log.card_page
        page.folder_wanted.connect(self.ask)
        page.slid.connect(studio.card.slide)
        page.taken.connect(studio.card.take_in)
        page.cancelled.connect(self._cancel)
        page.pointed.connect(self._point)
        page.clock_wanted.connect(self.show_clock)
        bridge.on(CardProgress, lambda event: page.show_progress(event.what, event.done, event.of))
        bridge.on(CardMatched, lambda event: page.show_match(event.found))
        bridge.on(CardTaken, self._taken)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"import_card": self.open, "clock_card": self.show_clock}

    def open(self) -> None:
        """Go to the card's page; ask for its folder where none is read yet."""
        if not self._navigation.in_log:
            self._navigation.toggle_log()
        self._log.show_as(CARD)
        if self._page.found is None:
            self.ask()

    def show_clock(self) -> ClockCard:
        """Show the time, to be photographed with the camera."""
        card = ClockCard(now, self._window)
        card.showFullScreen()
        card.activateWindow()
        return card

    def ask(self) -> None:
        """Ask for the folder of a card, and read it."""
        ask_for_folder(self._window, "The folder of the camera's files", self.read, self._near)

    def read(self, folder: Path) -> None:
        """Read a folder and match it."""
        self._page.show_progress(f"Reading {folder.name}", 0, 1)
        self._studio.card.read(folder)

    def _cancel(self) -> None:
        self._studio.card.cancel()
        self._page.show_progress("", 0, 0)

    def _taken(self, event: CardTaken) -> None:
        self._page.show_taken(event.taken, event.questions, event.refused, event.cancelled)
        self._log.ask_again()

    def _point(self, pair: tuple[Path, int]) -> None:
        """Show a doubtful picture on the card beside the page."""
        path, shot_id = pair
        self._log.card.show_picture_of(path, shot_id)
