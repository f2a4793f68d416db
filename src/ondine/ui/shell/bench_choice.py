"""What opens the valve: asked on a page of its own, remembered with the logbook, changed there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QStackedWidget

from ondine.core.setup import BenchKind
from ondine.logbook.bench_kind import KEY
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.theme import DAY, Theme
from ondine.ui.shell.navigation import Navigation
from ondine.ui.start.page import StartPage
from ondine.ui.table.side import TableSide


class BenchChoice:
    """Opens the page, and does what is chosen there. Another logbook is asked for with the three calls.

    practise, go_to_table : open the logbook of the other world; open_file : ask for a file; asks : whether nobody has
    chosen yet.
    """

    def __init__(
        self,
        studio: Studio,
        logbook: Path,
        pages: QStackedWidget,
        navigation: Navigation,
        side: TableSide,
        practise: Callable[[], object],
        go_to_table: Callable[[], object],
        open_file: Callable[[], object],
        asks: bool,
    ) -> None:
        self._studio, self._logbook, self._asks = studio, logbook, asks
        self._pages, self._navigation, self._side = pages, navigation, side
        self._practise, self._go_to_table, self._open_file = practise, go_to_table, open_file
        self._page: StartPage | None = None
        self._theme: Theme = DAY

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"choose_bench": self.toggle}

    @property
    def page(self) -> StartPage:
        """The page; made when it is first asked for."""
        if self._page is None:
            self._page = StartPage(self._studio.bench.kind, shown_path(self._logbook), self._asks)
            self._page.set_theme(self._theme)
            self._page.by_hand.connect(self._by_hand)
            self._page.practise.connect(self._simulated)
            self._page.open_file.connect(self._open_file)
            self._pages.addWidget(self._page)
        return self._page

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to the page."""
        self._theme = theme
        if self._page is not None:
            self._page.set_theme(theme)

    def open(self) -> None:
        """Go to the page."""
        self._navigation.turn_to(self.page)
        (self.page.practice if self._studio.bench.kind is BenchKind.SIMULATED else self.page.box).setFocus()

    def toggle(self) -> None:
        """Go to the page, or back to the bench."""
        if self._page is not None and self._pages.currentWidget() is self._page:
            self._navigation.go_back()
        else:
            self.open()

    def _by_hand(self, has_box: bool) -> None:
        if self._studio.bench.kind is BenchKind.SIMULATED:
            self._go_to_table()
            return
        self._studio.log.keep(KEY, BenchKind.BY_HAND)
        setup = self._studio.composer.setup
        if setup.box.in_use != has_box:
            self._studio.composer.use_setup(replace(setup, box=replace(setup.box, in_use=has_box)))
        self._side.open_stage("dials" if has_box else "safe")

    def _simulated(self) -> None:
        if self._studio.bench.kind is BenchKind.SIMULATED:
            self._navigation.go_back()
        else:
            self._practise()


def shown_path(path: Path) -> str:
    """Write a place as people know it: their own folder is the tilde."""
    home = Path.home()
    return f"~/{path.relative_to(home)}" if path.is_relative_to(home) else str(path)
