"""The table's side of the window: its page, the edge of stages, the dial card, the first look around."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from ondine.studio.events import (
    LedgerChanged,
    PourEnded,
    Pouring,
    SeriesGoesOn,
    SetupFetched,
    SetupOfShot,
    SetupsFound,
    SittingsFound,
    TrialFrameRead,
)
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.kit.theme import DAY, Theme
from ondine.ui.table.dial_card import DialCard
from ondine.ui.table.edge import StageEdge
from ondine.ui.table.preflight import Preflight
from ondine.ui.table.ready import readiness
from ondine.ui.table.stage_dials import show_card
from ondine.ui.table.stages import BY_KEY
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

if TYPE_CHECKING:
    from ondine.ui.table.page import TablePage


class TableSide(QObject):
    """Shows the table wherever it is seen. Asks for a page with `turned(page)`, None for back to the bench.

    `moved()` says that the waterline of the page in view stands elsewhere now.
    """

    turned = Signal(object)
    moved = Signal()

    def __init__(
        self,
        studio: Studio,
        loader: PictureLoader,
        pages: QStackedWidget,
        in_view: ShotInView,
        foresight: Foresight,
        bridge: Bridge,
    ) -> None:
        # What has no owner in Qt outlives the window, with all that listens to it.
        super().__init__(pages)
        self.studio, self._loader, self._pages = studio, loader, pages
        self.theme: Theme = DAY
        self.tools = TableTools(studio, in_view, foresight)
        self.edge = StageEdge()
        self.card = DialCard()
        self.preflight = Preflight(self.tools)
        self._page: TablePage | None = None
        pages.addWidget(self.card)
        self.edge.chosen.connect(self.open_stage)
        self._listen(bridge)

    def _listen(self, bridge: Bridge) -> None:
        tools = self.tools
        bridge.on(Pouring, lambda e: tools.valve.pouring(e.done, e.of))
        bridge.on(PourEnded, lambda e: tools.valve.pour_ended(e.purpose, e.pour, e.dispensed))
        bridge.on(TrialFrameRead, lambda e: tools.light.trial_read(e.frame))
        bridge.on(SeriesGoesOn, lambda e: tools.light.series_goes_on(e.done, e.of))
        bridge.on(SittingsFound, lambda e: tools.library.sittings_found(e.sittings, e.current))
        bridge.on(SetupsFound, lambda e: tools.library.setups_found(e.setups))
        bridge.on(SetupFetched, lambda e: tools.library.setup_fetched(e.shot_id, e.setup, e.belief))
        bridge.on(SetupOfShot, lambda e: tools.library.setup_told(e.shot_id, e.setup))
        bridge.on(LedgerChanged, lambda _: tools.signals.altered.emit())

    @property
    def page(self) -> TablePage:
        """The table's page. Its hundred fields are loaded and made when they are first asked for, not at the start."""
        if self._page is None:
            from ondine.ui.table.page import TablePage

            self._page = TablePage(self.tools, self._loader)
            self._page.set_theme(self.theme)
            self._page.opened.connect(lambda _: self.moved.emit())
            self._pages.addWidget(self._page)
        return self._page

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.theme = theme
        self.edge.set_theme(theme)
        self.card.theme = theme
        if self._page is not None:
            self._page.set_theme(theme)

    # Keys

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "toggle_table": self.toggle_table,
            "walk_stages": self.walk_stages,
            "toggle_card": self.toggle_card,
        }

    def toggle_table(self) -> None:
        """Go to the table, or back to the bench."""
        if self._pages.currentWidget() is self._page:
            self.turned.emit(None)
        else:
            self.open_stage(self.page.open_key)

    def open_stage(self, key: str) -> None:
        """Go to a stage of the table."""
        self.turned.emit(self.page)
        self.page.open(key)
        if key == "keep":
            self.studio.log.list_setups()
            self.studio.sitting.list()
        self.tools.signals.altered.emit()
        (self.page.drawing if BY_KEY[key].drawn else self.page.stages[key].panel).setFocus()

    def walk_stages(self, by: int) -> None:
        """Go to the stage before or after."""
        if self._pages.currentWidget() is self._page:
            self.page.walk(by)
            self.open_stage(self.page.open_key)

    def toggle_card(self) -> None:
        """Show the dial card alone, or go back."""
        self.turned.emit(None if self._pages.currentWidget() is self.card else self.card)
        self.tools.signals.altered.emit()

    # What it shows

    def show_table(self, table: TableState) -> None:
        """Show edge, page, card and look around what is in hand."""
        if not self.studio.composer.in_gesture:
            # The marks follow when the hand rests: they are not what it looks at while it drags.
            self.edge.show_ready(readiness(table, self.tools.library))
        page = self._pages.currentWidget()
        if page is self._page:
            self.page.show_table(table)
            self.moved.emit()
        elif page is self.card:
            show_card(self.card, table)
        if self.preflight.isVisible():
            self.preflight.show_table(table)

    def follow_water(self, page: QWidget | None, page_y: float, below: float) -> None:
        """Run the waterline of the page in view on through the edge; `below` where that page has none."""
        table = page is self._page
        on_bench = page is not self.card and not table
        self.edge.set_water_line(self.page.water_line() if table else page_y if on_bench else below)
        self.edge.show_chosen(self.page.open_key if table else None)
