"""The table's side of the window: its page, the edge of stages, the dial card, the first look around."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from ondine.studio.events import (
    Event,
    PourEnded,
    Pouring,
    SeriesGoesOn,
    SetupFetched,
    SetupsFound,
    SittingsFound,
    TrialFrameRead,
)
from ondine.studio.studio import Studio
from ondine.ui.pictures import PictureLoader
from ondine.ui.preflight import Preflight
from ondine.ui.stages import StageEdge
from ondine.ui.table.desk import Scene, TableDesk
from ondine.ui.table.dial_card import DialCard
from ondine.ui.table.page import TablePage
from ondine.ui.table.ready import readiness
from ondine.ui.table.stage_dials import show_card
from ondine.ui.theme import DAY, Theme

DRAWN_STAGES = ("safe", "rig")


class TableSide(QObject):
    """Shows scenes wherever the table is seen. Asks for a page with `turned(page)`, None for back to the bench.

    `moved()` says that the waterline of the page in view stands elsewhere now.
    """

    turned = Signal(object)
    moved = Signal()

    def __init__(self, studio: Studio, loader: PictureLoader, pages: QStackedWidget) -> None:
        super().__init__()
        self.studio, self._loader, self._pages = studio, loader, pages
        self.theme: Theme = DAY
        self.desk = TableDesk(studio)
        self.edge = StageEdge()
        self.card = DialCard()
        self.preflight = Preflight(self.desk)
        self._page: TablePage | None = None
        pages.addWidget(self.card)
        self.edge.chosen.connect(self.open_stage)

    @property
    def page(self) -> TablePage:
        """The table's page. Its hundred fields are made when they are first asked for, not at the start."""
        if self._page is None:
            self._page = TablePage(self.desk, self._loader)
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
            self.studio.list_setups()
            self.studio.sitting.list()
        self.desk.altered.emit()
        (self.page.drawing if key in DRAWN_STAGES else self.page.stages[key].panel).setFocus()

    def walk_stages(self, by: int) -> None:
        """Go to the stage before or after."""
        if self._pages.currentWidget() is self._page:
            self.page.walk(by)
            self.open_stage(self.page.open_key)

    def toggle_card(self) -> None:
        """Show the dial card alone, or go back."""
        self.turned.emit(None if self._pages.currentWidget() is self.card else self.card)
        self.desk.altered.emit()

    # What it shows

    def show_scene(self, scene: Scene) -> None:
        """Show edge, page, card and look around what is in hand."""
        if not self.studio.in_gesture:
            # The marks follow when the hand rests: they are not what it looks at while it drags.
            self.edge.show_ready(readiness(scene, self.desk.shelf))
        page = self._pages.currentWidget()
        if page is self._page:
            self.page.show_scene(scene)
            self.moved.emit()
        elif page is self.card:
            show_card(self.card, scene)
        if self.preflight.isVisible():
            self.preflight.show_scene(scene)

    def follow_water(self, page: QWidget, bench_y: float, below: float) -> None:
        """Run the waterline of the page in view on through the edge; `below` where that page has none."""
        table = page is self._page
        on_bench = page is not self.card and not table
        self.edge.set_water_line(self.page.water_line() if table else bench_y if on_bench else below)
        self.edge.show_chosen(self.page.open_key if table else None)

    def hear(self, event: Event) -> None:
        """Answer what concerns the table."""
        match event:
            case Pouring(done, of):
                self.desk.progress = (done, of)
            case TrialFrameRead(frame):
                self.desk.took_trial(frame)
            case SeriesGoesOn(done, of):
                self.desk.series = (done, of)
            case PourEnded(purpose, pour, dispensed):
                self.desk.pour_ended(purpose, pour, dispensed)
            case SittingsFound(sittings, current):
                self.desk.shelf.sittings, self.desk.shelf.current = sittings, current
            case SetupsFound(setups):
                self.desk.shelf.setups = setups
            case SetupFetched(shot_id, setup):
                self.desk.fetched(f"shot {shot_id}", setup)
        self.desk.altered.emit()
