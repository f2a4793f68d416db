"""Where one is: the page in view, the drawers over it, the blank over all."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from PySide6.QtCore import QPoint, QRect, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QStackedWidget, QWidget

from ondine.ui.bench.page import BenchPage
from ondine.ui.kit import theme as themes
from ondine.ui.kit.actions import Actions
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.overlay import Blank, Drawer, KeysPage
from ondine.ui.table.side import TableSide

if TYPE_CHECKING:
    # Nobody is in the log in the first frame.
    from ondine.ui.shell.log_door import LogDoor

DRAWER_LEAST_PX = 340
"""A sentence must not become a column of words."""


@runtime_checkable
class HasWater(Protocol):
    """A page that the waterline runs across."""

    def water_line(self) -> float:
        """How far under the page's upper edge it runs."""
        ...


NEAR_EXTRA_PX = 120
"""What a map has under and over its field, which is as high as it is wide."""


class Pages(QStackedWidget):
    """The pages; what is wrapped on one of them does not make the window higher. Emits `resized()`: a message makes
    them lower.
    """

    resized = Signal()

    def hasHeightForWidth(self) -> bool:
        """See QWidget."""
        return False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Tell what lies over the pages."""
        super().resizeEvent(event)
        self.resized.emit()


class Navigation:
    """Turns pages, opens drawers, and keeps the waterline running through what is seen."""

    def __init__(
        self,
        window: QWidget,
        pages: Pages,
        bench: BenchPage,
        log: LogDoor,
        side: TableSide,
        messages: Messages,
    ) -> None:
        self._window, self.pages, self._bench, self._log = window, pages, bench, log
        self._side, self._messages = side, messages
        self.before = Drawer("Before the first shot", side.preflight, window)
        self._keys_page = KeysPage()
        self.keys = Drawer("Keys", self._keys_page, window)
        self.learned = Drawer("What was learned", bench.learned, window)
        self.map = Drawer("Where it is likely", bench.map, window)
        self.own_shapes = Drawer("Your shapes", bench.own_shapes, window)
        self._theme = themes.DAY
        self._drawers = [self.before, self.keys, self.learned, self.map, self.own_shapes]
        self._usual = QRect()
        self.blank = Blank(window)
        self.stops: list[Callable[[], object]] = []
        """What ends what fires by itself."""
        self.step_back: Callable[[], bool] = lambda: False
        """What a page does before it is left: true if that was step enough."""
        for drawer in self._drawers:
            drawer.closed.connect(self.go_back)
        self.blank.lifted.connect(self.blank.hide)
        side.turned.connect(self.turn_to)
        side.moved.connect(self.follow_water)
        bench.water_moved.connect(self.follow_water)
        bench.water_moved.connect(self._make_room)
        pages.resized.connect(self._make_room)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "toggle_keys": self.toggle_keys,
            "toggle_log": self.toggle_log,
            "search_log": self.search_log,
            "toggle_blank": self.cover,
            "go_back": self.go_back,
        }

    @property
    def in_log(self) -> bool:
        """Whether the log is in view."""
        return self._log.opened is not None and self.pages.currentWidget() is self._log.opened.view

    @property
    def on_bench(self) -> bool:
        """Whether the bench is in view."""
        return self.pages.currentWidget() is self._bench

    def turn_to(self, page: QWidget | None) -> None:
        """Show a page; None is the way back to the bench."""
        if page is None:
            self.go_back()
            return
        self._close_drawers()
        self.pages.setCurrentWidget(page)
        self.follow_water()

    def go_back(self) -> None:
        """Close what lies over the bench, dismiss a message, stop what fires by itself, and go back to the chart."""
        for stop in self.stops:
            stop()
        self._messages.dismiss()
        if self.in_log and any(drawer.isVisible() for drawer in self._drawers):
            # What lies over the log is closed; the next press leaves it.
            self._close_drawers()
            self._log.room.view.go_to_shots()
            return
        if self.step_back():
            return
        self.turn_to(self._bench)
        self._bench.chart.setFocus()

    def toggle_log(self) -> None:
        """Go to the log, or back to the bench."""
        if self.in_log:
            self.go_back()
            return
        self.turn_to(self._log.room.view)
        self._log.room.actions.come()

    def search_log(self) -> None:
        """Go to the log and type what to find."""
        if not self.in_log:
            self.toggle_log()
        self._log.room.view.text.setFocus()
        self._log.room.view.text.selectAll()

    def toggle_keys(self) -> None:
        """Open or close the page of keys; arrows scroll it."""
        self.toggle(self.keys)
        if self.keys.isVisible():
            self._keys_page.setFocus()

    def add_drawer(self, title: str, body: QWidget) -> Drawer:
        """Return a new drawer, for what is only made when it is needed."""
        drawer = Drawer(title, body, self._window)
        drawer.theme = self._theme
        drawer.closed.connect(self.go_back)
        drawer.setGeometry(self._drawer_area())
        self._drawers.append(drawer)
        return drawer

    def toggle(self, drawer: Drawer, near: QPoint | None = None) -> None:
        """Open or close a drawer; one at a time. Where `near`, on the screen, lies on the chart, it opens there."""
        showing = not drawer.isVisible()
        self._close_drawers()
        if showing:
            self._usual = self._drawer_area()
            drawer.setGeometry(self._usual if near is None else self._near(near))
            drawer.show()
            drawer.raise_()
            self._side.tools.signals.altered.emit()
        elif self.in_log:
            self._log.room.view.go_to_shots()
        else:
            self._bench.chart.setFocus()

    def _close_drawers(self) -> None:
        for drawer in self._drawers:
            drawer.hide()

    def cover(self) -> None:
        """Blank the window; any key brings it back."""
        self.blank.setGeometry(self._window.rect())
        self.blank.show()
        self.blank.raise_()

    def follow_water(self) -> None:
        """Run the waterline of the page in view on through the edge."""
        height = float(self._window.height())
        page = self.pages.currentWidget()
        self._side.follow_water(page, page.water_line() if isinstance(page, HasWater) else height, height)

    def fit(self) -> None:
        """Keep what lies over the page in its place."""
        for drawer in self._drawers:
            drawer.setGeometry(self._drawer_area())
        self.blank.setGeometry(self._window.rect())

    def _make_room(self) -> None:
        """Let an open drawer keep to the right column when a message makes the page lower, unless it lies elsewhere."""
        before, self._usual = self._usual, self._drawer_area()
        for drawer in self._drawers:
            if drawer.isVisible() and drawer.geometry() == before:
                drawer.setGeometry(self._usual)

    def _drawer_area(self) -> QRect:
        """Drawers lie over the right column and leave chart and tags in sight; in the log they reach to its foot."""
        width = max(self._bench.splash.width() + 3 * themes.GRID_PX, DRAWER_LEAST_PX)
        top = self.pages.mapTo(self._window, QPoint(0, 0)).y()
        board = 0 if self.in_log else self._bench.board.height() + 2 * themes.GRID_PX
        height = self._window.height() - top - board
        return QRect(self._window.width() - width, top, width, height)

    def _near(self, place: QPoint) -> QRect:
        """Where a drawer lies under the cursor; at its usual place if that is not on the chart."""
        usual, chart = self._drawer_area(), self._bench.chart
        if not self.on_bench or not chart.rect().contains(chart.mapFromGlobal(place)):
            return usual
        made = QRect(0, 0, usual.width(), min(usual.height(), usual.width() + NEAR_EXTRA_PX))
        made.moveCenter(self._window.mapFromGlobal(place))
        made.moveLeft(min(max(made.left(), 0), self._window.width() - made.width()))
        made.moveTop(min(max(made.top(), usual.top()), usual.bottom() - made.height()))
        return made

    def set_theme(self, theme: themes.Theme) -> None:
        """Apply the theme to the drawers."""
        self._theme = theme
        for drawer in self._drawers:
            drawer.theme = theme
