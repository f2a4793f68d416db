"""The window: joins studio and views, and answers keys."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ondine.core.dials import DialError
from ondine.core.safety import preflight
from ondine.core.sequence import Sequence
from ondine.core.setup import Setup
from ondine.logbook.file import LogbookError
from ondine.logbook.records import ShotQuery, ShotRecord
from ondine.studio.events import (
    BenchChanged,
    BenchState,
    Event,
    FolderChanged,
    Notice,
    PictureArrived,
    SequenceChanged,
    ShotChanged,
    ShotLogged,
    ShotsFound,
    Trouble,
)
from ondine.studio.studio import Studio
from ondine.ui import theme as themes
from ondine.ui.bench_page import BenchPage
from ondine.ui.bridge import Bridge
from ondine.ui.header import Header
from ondine.ui.keys import KEYS
from ondine.ui.log_view import LogView
from ondine.ui.overlay import Blank, Drawer, keys_page
from ondine.ui.pictures import PictureLoader
from ondine.ui.prediction import Prediction
from ondine.ui.table_side import TableSide
from ondine.ui.tag_board import SHAPE_KEYS

NOTICE_MS = 8000
TYPING = (QLineEdit, QAbstractSpinBox, QComboBox)


class MainWindow(QMainWindow):
    """One studio in one window."""

    def __init__(self, studio: Studio, bridge: Bridge, title: str, theme: themes.Theme = themes.DAY) -> None:
        super().__init__()
        self.studio = studio
        self.setWindowTitle(f"Ondine: {title}")
        self.theme = theme
        self.shot: ShotRecord | None = None
        self._prediction: Prediction | None = None
        self.loader = PictureLoader(self)
        self.header = Header()
        self.bench = BenchPage(self.loader)
        self.log = LogView(self.loader)
        self.trouble = QLabel()
        self.trouble.setObjectName("trouble")
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        self.pages = QStackedWidget()
        for page in (self.bench, self.log):
            self.pages.addWidget(page)
        self.side = TableSide(studio, self.loader, self.pages)
        self._lay_out()
        self.before = Drawer("Before the first shot", self.side.preflight, self)
        self.keys = Drawer("Keys", keys_page(), self)
        self.blank = Blank(self)
        self._notice = QTimer(self)
        self._notice.setSingleShot(True)
        self._notice.timeout.connect(self.dismiss)
        self._presence = ""
        bridge.arrived.connect(self.hear)
        self._connect()
        self._bind_keys()
        self.set_theme(theme)
        self._show_sequence()
        studio.list_setups()
        self.bench.strip.shots.set_shots(list(studio.glance.shots))
        self._view_newest()
        self._show_bench(studio.state)
        self.bench.chart.setFocus()
        QApplication.instance().installEventFilter(self)

    def _lay_out(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.trouble)
        across = QHBoxLayout()
        across.setSpacing(0)
        across.addWidget(self.side.edge)
        across.addWidget(self.pages, 1)
        column.addLayout(across, 1)
        self.setCentralWidget(body)
        self.setMinimumSize(1200, 720)
        self.resize(1280, 800)

    def _connect(self) -> None:
        self.bench.composed.connect(self.studio.compose)
        self.bench.settled.connect(self.side.desk.end_gesture)
        self.bench.fired.connect(self.fire)
        self.bench.tagged.connect(self.tag)
        self.bench.noted.connect(self.write_note)
        self.bench.viewed.connect(self.view)
        self.bench.drop_added.connect(self.add_drop)
        self.bench.drop_removed.connect(self.remove_drop)
        self.side.desk.altered.connect(self._show_table)
        self.side.turned.connect(self._turn_to)
        self.side.moved.connect(self._follow_water)
        self.side.preflight.go.clicked.connect(self.fire)
        self.header.undo.clicked.connect(self.studio.undo)
        self.header.redo.clicked.connect(self.studio.redo)
        self.header.rig.clicked.connect(self.side.toggle_table)
        self.header.log.clicked.connect(self.toggle_log)
        self.header.light.clicked.connect(self.toggle_theme)
        self.header.keys.clicked.connect(self.toggle_keys)
        self.log.asked.connect(self.search)
        self.log.chosen.connect(self._chosen_in_log)
        self.log.left.connect(self.go_back)
        self.before.closed.connect(self.go_back)
        self.keys.closed.connect(self.go_back)
        self.blank.lifted.connect(self.blank.hide)

    # Keys

    def _bind_keys(self) -> None:
        for key in KEYS:
            if key.keys:
                shortcut = QShortcut(QKeySequence(key.keys), self)
                action = getattr(self.side if hasattr(self.side, key.action) else self, key.action)
                shortcut.activated.connect(action if key.argument is None else partial(action, key.argument))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Space fires and letters tag wherever one is, save where one types."""
        if event.type() != QEvent.Type.KeyPress or not self.isActiveWindow():
            return False
        assert isinstance(event, QKeyEvent)
        if self.blank.isVisible():
            self.blank.hide()
            return True
        if not isinstance(watched, QWidget) or isinstance(QApplication.focusWidget(), TYPING):
            return False
        page = self.pages.currentWidget()
        if event.modifiers() & _COMMANDING or page not in (self.bench, self.side.card):
            return False
        return self._answer(event)

    def _answer(self, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self.fire()
            return True
        shape = SHAPE_KEYS.get(event.text().upper())
        if shape is not None and not event.isAutoRepeat():
            self.tag(shape.key)
            return True
        return False

    def select(self, what: int) -> None:
        """Take hold of the flash (-1) or of a drop."""
        if self.pages.currentWidget() is self.bench:
            self.bench.chart.select(what)
            self.bench.chart.setFocus()

    def toggle_step(self) -> None:
        """Change the step of the arrow keys."""
        self.bench.toggle_step()

    def toggle_close_up(self) -> None:
        """Show the whole flight or the collision."""
        self.bench.chart.toggle_close_up()

    # The sequence

    def add_drop(self) -> None:
        """Add a drop like the last one."""
        sequence = self.studio.sequence
        if len(sequence.drops) < 4:
            self.studio.compose(sequence.with_drop_added())
            self.select(len(sequence.drops))

    def remove_drop(self) -> None:
        """Remove the drop in hand."""
        sequence, held = self.studio.sequence, self.bench.chart.selection
        if held >= 0 and len(sequence.drops) > 1:
            self.studio.compose(sequence.without_drop(held))

    def undo(self) -> None:
        """Take back the last change."""
        self.studio.undo()

    def redo(self) -> None:
        """Do it again."""
        self.studio.redo()

    def take_sequence(self) -> None:
        """Take the sequence of the shot in view in hand."""
        if self.shot is not None:
            self.studio.compose(self.shot.sequence)

    def fire(self) -> None:
        """Fire, unless the bench is busy; a dark room goes dark for it. The first time, look around first."""
        sitting = self.studio.sitting
        if not sitting.looked_around and not self.before.isVisible():
            self._turn_to(self.bench)
            self._toggle(self.before)
            self._show_table()
            return
        if not sitting.looked_around:
            sitting.record_preflight(preflight(self.studio.setup))
            self.before.hide()
            self.bench.chart.setFocus()
        try:
            fired = self.studio.fire()
        except DialError as error:
            self._say(str(error), stays=True)
            return
        if fired and self.theme.dark and not self.studio.setup.box.in_use:
            self._cover()

    # Shots

    def tag(self, shape: str) -> None:
        """Tag the shot in view, or take the tag off."""
        if self.shot is not None:
            self.studio.toggle_tag(self.shot.id, shape)

    def write_note(self, text: str) -> None:
        """Keep the note of the shot in view."""
        if self.shot is not None and text != self.shot.note:
            self.studio.annotate(self.shot.id, text)

    def edit_note(self) -> None:
        """Go to the note; Return keeps it, Esc leaves it."""
        if self.bench.note.isEnabled():
            self.bench.note.setFocus()

    def rate(self, rating: int) -> None:
        """Rate the shot in view."""
        if self.shot is not None:
            self.studio.rate(self.shot.id, rating)

    def view(self, shot: ShotRecord | None) -> None:
        """Show a shot."""
        self.shot = shot
        self.bench.show_shot(shot)
        if self.pages.currentWidget() is not self.bench:
            self._show_table()

    def older_shot(self) -> None:
        """Look at the shot before."""
        self._walk(1)

    def newer_shot(self) -> None:
        """Look at the shot after."""
        self._walk(-1)

    def _walk(self, by: int) -> None:
        model = self.bench.strip.shots
        row = model.row_of(self.shot.id) if self.shot else None
        if row is not None and 0 <= row + by < len(model.shots):
            self.bench.strip.setCurrentIndex(model.index(row + by))

    def _view_newest(self) -> None:
        shots = self.bench.strip.shots.shots
        if shots:
            self.bench.strip.show_shot(shots[0].id)
        self.view(shots[0] if shots else None)

    def _chosen_in_log(self, shot: ShotRecord) -> None:
        self.go_back()
        if self.bench.strip.shots.row_of(shot.id) is None:
            self.bench.strip.clearSelection()
        self.bench.strip.show_shot(shot.id)
        self.view(shot)

    def search(self, query: ShotQuery) -> None:
        """Find shots for the log."""
        self.studio.find(query)

    # Views

    def toggle_keys(self) -> None:
        """Open or close the page of keys."""
        self._toggle(self.keys)

    def _toggle(self, drawer: Drawer) -> None:
        showing = not drawer.isVisible()
        self.before.hide()
        self.keys.hide()
        if showing:
            drawer.setGeometry(self._drawer_area())
            drawer.show()
            drawer.raise_()
        else:
            self.bench.chart.setFocus()

    def _turn_to(self, page: QWidget | None) -> None:
        """Show a page; None is the way back to the bench."""
        if page is None:
            self.go_back()
            return
        self.before.hide()
        self.keys.hide()
        self.pages.setCurrentWidget(page)
        if page is self.bench and self._prediction is not None:
            self._show_bench_prediction()
        self._follow_water()

    def _follow_water(self) -> None:
        on_bench = self.pages.currentWidget() is self.bench
        bench_y = self.bench.water_line() if on_bench else float(self.height())
        self.side.follow_water(self.pages.currentWidget(), bench_y, float(self.height()))

    def toggle_log(self) -> None:
        """Go to the log, or back to the bench."""
        if self.pages.currentWidget() is self.log:
            self.go_back()
            return
        self._turn_to(self.log)
        self.log.ask()
        self.log.list.setFocus()

    def go_back(self) -> None:
        """Close what lies over the bench, dismiss a message, and go back to the chart."""
        self.dismiss()
        self._turn_to(self.bench)
        self.bench.chart.setFocus()

    def toggle_theme(self) -> None:
        """Day or dark room."""
        self.set_theme(themes.DAY if self.theme.dark else themes.DARKROOM)
        self.studio.keep("theme", self.theme.name)

    def set_theme(self, theme: themes.Theme) -> None:
        """Dress everything."""
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        themes.apply(app, theme)
        self.header.set_theme(theme)
        self.bench.set_theme(theme)
        self.log.set_theme(theme)
        self.side.set_theme(theme)
        for drawer in (self.before, self.keys):
            drawer.theme = theme

    def toggle_bright(self) -> None:
        """Show the picture as it is, even in the dark room."""
        self.bench.picture.bright = not self.bench.picture.bright
        self.bench.picture.update()

    def toggle_blank(self) -> None:
        """Blank the window."""
        self._cover()

    def _cover(self) -> None:
        self.blank.setGeometry(self.rect())
        self.blank.show()
        self.blank.raise_()

    def choose_folder(self) -> None:
        """Ask for the folder that pictures arrive in."""
        found = QFileDialog.getExistingDirectory(self, "Folder that pictures arrive in")
        if found:
            self.studio.watch_folder(Path(found))

    # Events

    def hear(self, event: Event) -> None:
        """Answer what the studio tells."""
        match event:
            case SequenceChanged():
                self._show_sequence()
            case BenchChanged(state):
                self._show_bench(state)
            case ShotLogged(shot):
                self.bench.strip.shots.add(shot)
                self.bench.strip.show_shot(shot.id)
                self.view(shot)
            case ShotChanged(shot) | PictureArrived(shot):
                self._refresh(shot)
            case FolderChanged(folder, present):
                self._presence = f"pictures from {folder.name}" if present else "picture folder is gone"
                self._show_bench(self.studio.state)
            case Trouble(message):
                self._say(message, stays=True)
            case Notice(message):
                self._say(message, stays=False)
            case ShotsFound(shots):
                self.log.show_shots(shots)
            case _:
                self.side.hear(event)

    def _refresh(self, shot: ShotRecord) -> None:
        self.bench.strip.shots.change(shot)
        self.log.list.shots.change(shot)
        if self.shot is not None and self.shot.id == shot.id:
            self.view(shot)

    def _show_sequence(self) -> None:
        sequence: Sequence = self.studio.sequence
        setup: Setup = self.studio.setup
        try:
            self._prediction = Prediction.of(setup, sequence, self._prediction)
        except ValueError as error:
            self._say(str(error), stays=True)
            return
        if self.pages.currentWidget() is self.bench:
            self._show_bench_prediction()
        self.header.undo.setEnabled(self.studio.can_undo)
        self.header.redo.setEnabled(self.studio.can_redo)
        self._show_table()

    def _show_bench_prediction(self) -> None:
        assert self._prediction is not None
        if self.bench.prediction is not self._prediction:
            self.bench.show_prediction(self._prediction)
            self._follow_water()

    def _show_table(self) -> None:
        """Show what is in hand wherever the table is seen."""
        if self._prediction is not None:
            shots = self.bench.strip.shots.shots
            scene = self.side.desk.scene(self._prediction, self.shot, shots[0] if shots else None)
            self.side.show_scene(scene)
            self.header.show_setup(scene.setup, scene.units)

    def _show_bench(self, state: BenchState) -> None:
        firing = state is BenchState.FIRING
        self.bench.set_firing(state is not BenchState.READY)
        words = str(state)
        where = f", {self._presence}" if self._presence else ""
        name = self.studio.setup.box.name if self.studio.setup.box.in_use else self.studio.bench_name
        self.header.show_bench(f"{name} {words}{where}", busy=state is not BenchState.READY)
        self._show_table()
        if not firing and self.blank.isVisible() and self.theme.dark:
            self.blank.hide()

    def _say(self, message: str, stays: bool) -> None:
        self.trouble.setText(message if not stays else f"{message}   (Esc)")
        self.trouble.setAccessibleName(message)
        self.trouble.show()
        if stays:
            self._notice.stop()
        else:
            self._notice.start(NOTICE_MS)

    def dismiss(self) -> None:
        """Take the message away."""
        self.trouble.hide()
        self.trouble.clear()

    # Window

    def _drawer_area(self) -> QRect:
        """Drawers lie over the right column and leave chart, fire and tags in sight."""
        width = self.bench.splash.width() + 3 * themes.GRID_PX
        top = self.pages.mapTo(self, QPoint(0, 0)).y()
        height = self.height() - top - self.bench.board.height() - 2 * themes.GRID_PX
        return QRect(self.width() - width, top, width, height)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep what lies over the page in its place."""
        super().resizeEvent(event)
        for drawer in (self.before, self.keys):
            drawer.setGeometry(self._drawer_area())
        self.blank.setGeometry(self.rect())

    def closeEvent(self, event: QCloseEvent) -> None:
        """Let the studio write what is waiting."""
        QApplication.instance().removeEventFilter(self)
        # A note or number still being typed counts: leaving its field keeps it.
        if self.focusWidget() is not None:
            self.focusWidget().clearFocus()
        try:
            self.studio.close()
        except LogbookError as error:
            self._say(str(error), stays=True)
            event.ignore()
            return
        super().closeEvent(event)


_COMMANDING = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
