"""The window: builds its parts, joins them with the studio, and shows what is in hand."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ondine.core.forecast.prediction import Prediction
from ondine.core.physics.liquid import LiquidError
from ondine.logbook.thumbnails import Thumbnails
from ondine.studio.events import BenchChanged, BenchState, Notice, PlanChanged, Trouble
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit import theme as themes
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.choices import following
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.shell.anywhere import KeysAnywhere
from ondine.ui.shell.bench_actions import BenchActions
from ondine.ui.shell.bench_choice import BenchChoice
from ondine.ui.shell.coach_actions import CoachActions
from ondine.ui.shell.desk_actions import DeskActions
from ondine.ui.shell.files import Files
from ondine.ui.shell.header import Header
from ondine.ui.shell.keys import bind_keys
from ondine.ui.shell.log_door import LogDoor
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation, Pages
from ondine.ui.shell.notation import NotationActions
from ondine.ui.shell.own_shape_actions import OwnShapeActions
from ondine.ui.shell.page_keys import PageKeys
from ondine.ui.shell.practice_actions import PracticeActions
from ondine.ui.shell.shot_browser import ShotBrowser
from ondine.ui.table.side import TableSide
from ondine.ui.table.state import table_state

if TYPE_CHECKING:
    # See `LogDoor`.
    from ondine.ui.log.view import LogView

LEAST_PX = 1180, 632
"""What all pages need; a screen of 1366×768, or of 1920×1080 at 150 %, has it beside its panel and the title bar."""


class MainWindow(QMainWindow):
    """One studio in one window. Emits `drawn()` once: after the first frame, or when it closes without one; `ended()`
    when it lets its studio go; and what it wants instead of itself: `wants_logbook(path)`, `wants_practice()`,
    `wants_table()`.
    """

    drawn = Signal()
    ended = Signal()
    wants_logbook = Signal(object)
    wants_practice = Signal()
    wants_table = Signal()

    def __init__(
        self,
        studio: Studio,
        bridge: Bridge,
        logbook: Path,
        theme: themes.Theme = themes.DAY,
        asks: bool = False,
        thumbnails: Thumbnails | None = None,
    ) -> None:
        """`asks`: begin with the question what opens the valve. `thumbnails`: where small pictures are kept."""
        super().__init__()
        self.studio, self.logbook = studio, logbook
        practice = ", practice" if not studio.bench.kind.is_real else ""
        self.setWindowTitle(f"Ondine: {logbook.stem}{practice}")
        self.theme = theme
        self._seen = False
        self._ended = self._was_warned = self._closes_when_ready = False
        self._prediction: Prediction | None = None
        self.loader = PictureLoader(self, thumbnails)
        self.in_view = ShotInView(self)
        self.header, self.messages = Header(), Messages()
        self.bench = BenchPage(self.loader)
        self.pages = Pages()
        self.pages.addWidget(self.bench)
        self.foresight = self.bench.splash.foresight = Foresight(studio.preview, bridge, self)
        self.foresight.changed.connect(self.bench.splash.update)
        self.side = TableSide(studio, self.loader, self.pages, self.in_view, self.foresight, bridge)
        self._lay_out()
        self.log_door = LogDoor(self, bridge)
        self.navigation = Navigation(self, self.pages, self.bench, self.log_door, self.side, self.messages)
        self.shots = ShotBrowser(studio, self.in_view, self.bench, bridge)
        self.bench_actions = BenchActions(
            studio, self.bench, self.header, self.navigation, self.messages, bridge, lambda: self.theme.dark
        )
        self.files = Files(
            self, studio, self.side.tools.editor, self.navigation, self.messages, bridge, self.wants_logbook.emit
        )
        self.choice = BenchChoice(
            studio, logbook, self.pages, self.navigation, self.side, self.wants_practice.emit, self.wants_table.emit,
            self.files.open, asks,
        )  # fmt: skip
        self.desk = DeskActions(studio, self.bench, self.navigation, self.messages)
        self.coach = CoachActions(
            studio, self.bench, self.bench_actions, self.navigation, self.side.tools.editor, self.messages, bridge
        )
        self.practice = PracticeActions(
            studio, self.loader, self.pages, self.navigation, self.bench_actions, self.coach, self.side.tools.editor,
            self.messages, bridge,
        )  # fmt: skip
        self.notation = NotationActions(studio, self.bench, self.desk, self.in_view, self.messages)
        page_keys = PageKeys(self.navigation, self.log_door, self.shots, self._is_firing_page)
        self.own_shapes = OwnShapeActions(studio, self.bench, self.navigation, self.in_view, page_keys, bridge)
        self._anywhere = KeysAnywhere(
            self, self.navigation.blank, self._is_firing_page, page_keys.is_tagging_page, self.bench_actions.fire,
            page_keys.tag, self.coach.take,
        )  # fmt: skip
        # The moves of a hand that is faster than the picture are gathered to one frame.
        self._refresh = QTimer(self)
        self._refresh.setSingleShot(True)
        self._refresh.setInterval(0)
        self._refresh.timeout.connect(self.show_plan)
        self._connect(bridge)
        self._begin(theme, asks, page_keys)

    def _begin(self, theme: themes.Theme, asks: bool, page_keys: PageKeys) -> None:
        """Show what is in hand, and listen to the keys."""
        handlers = (
            self.notation, self.desk, self, self.navigation, self.shots, self.bench_actions, self.side, self.files,
            self.choice, self.coach, self.practice, self.log_door, self.own_shapes,
        )  # fmt: skip
        bind_keys(self, [part.key_actions() for part in handlers], page_keys.here)
        self.set_theme(theme)
        self.show_plan()
        self.studio.log.list_setups()
        self.shots.start(list(self.studio.snapshot.shots))
        self.bench_actions.show_state()
        self.bench.chart.setFocus()
        if asks:
            self.choice.open()
        _app().installEventFilter(self._anywhere)

    def _lay_out(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.messages)
        across = QHBoxLayout()
        across.setSpacing(0)
        across.addWidget(self.side.edge)
        across.addWidget(self.pages, 1)
        column.addLayout(across, 1)
        body.setMinimumSize(*LEAST_PX)
        # A smaller screen scrolls.
        whole = QScrollArea()
        whole.setWidget(body)
        whole.setWidgetResizable(True)
        whole.setFrameShape(QFrame.Shape.NoFrame)
        whole.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setCentralWidget(whole)
        self.resize(1280, 800)

    def _connect(self, bridge: Bridge) -> None:
        tools, fire = self.side.tools, self.bench_actions.fire
        self.bench.settled.connect(tools.editor.end_gesture)
        tools.signals.altered.connect(self.show_table)
        self.in_view.changed.connect(lambda _: None if self.navigation.on_bench else self.show_table())
        self.pages.currentChanged.connect(lambda _: self._show_on_bench())
        self.side.preflight.go.clicked.connect(fire)
        self.header.bench.clicked.connect(self.choice.toggle)
        self.header.rig.clicked.connect(self.side.toggle_table)
        self.header.log.clicked.connect(self.navigation.toggle_log)
        self.header.practice.clicked.connect(self.practice.toggle)
        self.header.practice.setVisible(self.studio.practice is not None)
        self.header.light.clicked.connect(self.toggle_theme)
        self.header.keys.clicked.connect(self.navigation.toggle_keys)
        bridge.on(PlanChanged, lambda _: self._plan_changed())
        bridge.on(BenchChanged, lambda event: self._bench_changed(event.state))
        bridge.on(Trouble, lambda event: self.messages.trouble(event.message, event.details))
        bridge.on(Notice, lambda event: self.messages.notice(event.message))

    @property
    def log(self) -> LogView:
        """The log's page; made when it is first asked for."""
        return self.log_door.room.view

    # Keys

    def key_actions(self) -> Actions:
        """What keys can ask the window itself for."""
        return {
            "toggle_theme": self.toggle_theme,
            "close": self.close,
            "toggle_full_screen": self.toggle_full_screen,
            "change_splash": self.change_splash,
        }

    def _is_firing_page(self) -> bool:
        return self.pages.currentWidget() in (self.bench, self.side.card)

    # What is shown

    def _plan_changed(self) -> None:
        if QApplication.mouseButtons() == Qt.MouseButton.NoButton:
            self.show_plan()
        else:
            self._refresh.start()

    def show_plan(self) -> None:
        """Show the plan in hand, wherever one is."""
        self._refresh.stop()
        composer = self.studio.composer
        try:
            self._prediction = composer.foresee(self.side.tools.light.session.room_stops(composer.setup))
        except LiquidError as error:
            self.messages.trouble(str(error))
            return
        self._show_on_bench()
        self.header.show_history(composer.undoes, composer.redoes)
        self.show_table()

    def show_table(self) -> None:
        """Show the table's side as it is now."""
        if self._refresh.isActive():
            # A change is waiting to be shown: with it everything is.
            self.show_plan()
        elif self._prediction is not None:
            table = table_state(self.side.tools, self._prediction, self.shots.newest)
            self.side.show_table(table)
            self.header.show_setup(table.setup, table.units)
            # Rated test frames change what is foreseen, and no plan.
            plan = self.studio.composer.plan
            self.foresight.take(plan, table.light.gain_stops(plan.setup, table.times))

    def _show_on_bench(self) -> None:
        known = self._prediction
        if known is not None and self.navigation.on_bench and self.bench.prediction is not known:
            self.bench.show_prediction(known, self.studio.composer.plan.locks)
            self.navigation.follow_water()

    # Theme

    def toggle_theme(self) -> None:
        """Day or dark room."""
        self.set_theme(themes.DAY if self.theme.dark else themes.DARKROOM)
        self.studio.log.keep("theme", self.theme.name)

    def set_theme(self, theme: themes.Theme) -> None:
        """Apply the theme to everything."""
        self.theme = theme
        themes.apply(self, theme)
        for part in (self.header, self.bench, self.log_door, self.side, self.navigation, self.choice, self.practice):
            part.set_theme(theme)

    def change_splash(self) -> None:
        """Show the splash as a picture with outlines of other rigs over it, as a picture alone, or drawn."""
        self.foresight.over = following(self.foresight.over)
        self.bench.splash.update()
        self.messages.notice(self.foresight.over.value)

    # Window

    def say(self, message: str) -> None:
        """Show a message that needs no answer."""
        self.messages.notice(message)

    def toggle_full_screen(self) -> None:
        """Fill the screen, or stand in a window again."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Tell that the window is there."""
        super().paintEvent(event)
        if not self._seen:
            QTimer.singleShot(0, self, self._tell_drawn)

    def _tell_drawn(self) -> None:
        if not self._seen:
            self._seen = True
            self.drawn.emit()
            self.own_shapes.start()
            self.log_door.start()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep what lies over the page in its place."""
        super().resizeEvent(event)
        self.navigation.fit()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Let the studio write what is waiting; stay open for a shot in hand, and for what cannot be written."""
        if self._ended:
            super().closeEvent(event)
            return
        self._keep_what_is_typed()
        if self.studio.bench.state is not BenchState.READY:
            self._closes_when_ready = True
            self.studio.bench.stop_pouring()
            self.studio.bench.stop_series()
            self.messages.notice("Ondine closes as soon as the bench has done what it is at.")
            event.ignore()
            return
        problem = self.studio.settle()
        if problem and (not self._was_warned or self.studio.writer.holds_what_is_kept_nowhere):
            self._was_warned = True
            self.messages.trouble(f"{problem} Then close again.")
            event.ignore()
            return
        # It is gone from the screen at once; what a camera has under way may take a moment more.
        self.hide()
        self._end()
        super().closeEvent(event)

    def end_now(self) -> None:
        """End in order without asking: a log-out does not wait. What cannot be written is kept beside the logbook."""
        if not self._ended:
            self.hide()
            self.keep_and_end()
        self.close()

    def keep_and_end(self) -> None:
        """Write what is typed and what waits, and let everything go; draws nothing."""
        if not self._ended:
            self._keep_what_is_typed()
            self._end()

    def _keep_what_is_typed(self) -> None:
        # What waits for the first frame need not wait any longer.
        self._tell_drawn()
        # A note or number still being typed counts: leaving its field keeps it.
        if self.focusWidget() is not None:
            self.focusWidget().clearFocus()
        self.bench.shot.keep_note()

    def _end(self) -> None:
        self._ended = True
        _app().removeEventFilter(self._anywhere)
        self.ended.emit()
        self.log_door.end()
        self.studio.close()

    def _bench_changed(self, state: BenchState) -> None:
        self.show_table()
        if self._closes_when_ready and state is BenchState.READY:
            self._closes_when_ready = False
            QTimer.singleShot(0, self, self.close)


def _app() -> QApplication:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    return app
