"""The photographer's own shapes in the window: told when the logbook is read, added, taken off, tagged."""

from __future__ import annotations

from ondine.studio.events import Trouble
from ondine.studio.log_events import OwnShapesFound
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.own_shapes import set_own_shapes
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.shell.navigation import Navigation
from ondine.ui.shell.page_keys import PageKeys


class OwnShapeActions:
    """Joins board and page with the shapes that the logbook has."""

    def __init__(
        self,
        studio: Studio,
        bench: BenchPage,
        navigation: Navigation,
        in_view: ShotInView,
        page_keys: PageKeys,
        bridge: Bridge,
    ) -> None:
        self._studio, self._board, self._navigation = studio, bench.board, navigation
        self._page = page = bench.own_shapes
        set_own_shapes(())
        self._board.own_wanted.connect(self.toggle)
        page.toggled.connect(page_keys.tag)
        page.added.connect(self._add)
        page.forgotten.connect(studio.search.forget_shape)
        in_view.changed.connect(lambda shot: page.show_tags(() if shot is None else shot.shapes))
        bridge.on(OwnShapesFound, self._found)
        bridge.on(Trouble, lambda event: page.say(event.message) if page.isVisible() else None)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"own_shapes": self.toggle}

    def start(self) -> None:
        """Ask for the shapes, once the window is drawn."""
        self._studio.search.tell_shapes()

    def toggle(self) -> None:
        """Open or close the page."""
        self._navigation.toggle(self._navigation.own_shapes)
        if self._page.isVisible():
            self._page.name.setFocus()

    def _add(self, name: str, letter: str, glyph: str) -> None:
        self._studio.search.add_shape(name, letter, glyph)

    def _found(self, event: OwnShapesFound) -> None:
        before = len(self._page.tags)
        set_own_shapes(event.shapes)
        self._board.show_own()
        self._page.show_own()
        if len(event.shapes) > before:
            self._page.name.clear()
