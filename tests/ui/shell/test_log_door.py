"""The log's room is made when somebody goes there, or while nobody does anything."""

import subprocess
import sys

import pytest
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.shell import log_door
from ondine.ui.shell.log_door import ACTIONS

FIRST_FRAME = """
import sys
from pathlib import Path
from tests.conftest import TestClock
from tests.ui.conftest import Bench
from ondine.ui.shell import app as ui
app = ui.application()
made = Bench(Path(sys.argv[1]), TestClock())
made.window.show()
app.processEvents()
made.window.grab()
assert made.window.log_door.opened is None
print(*(name for name in sys.modules if name.startswith(("ondine.ui.log.", "ondine.studio.card", "ondine.core.log.card"))))
made.window.close()
"""


class Shown(QObject):
    """Hears of every window that is shown."""

    def __init__(self):
        super().__init__()
        self.windows = []

    def eventFilter(self, of, event):
        if event.type() is QEvent.Type.Show and of.isWidgetType() and of.isWindow():
            self.windows.append(of)
        return False


@pytest.fixture
def soon(monkeypatch):
    monkeypatch.setattr(log_door, "READY_AFTER_MS", 20)


def test_the_first_frame_loads_nothing_of_the_log(tmp_path):
    done = subprocess.run(
        [sys.executable, "-c", FIRST_FRAME, str(tmp_path)], capture_output=True, text=True, timeout=60, check=False
    )
    assert (done.returncode, done.stdout.split()) == (0, ["ondine.ui.log.kinds"]), done.stderr


def test_its_shots_are_there_before_anybody_asks(soon, bench, qtbot):
    door = bench.window.log_door
    qtbot.waitUntil(lambda: door.opened is not None and len(door.opened.view.model.ids) == 2, timeout=5000)
    bench.settle(qtbot)
    view = door.opened.view
    assert not view.isVisible() and view.model._records.keys() == {1, 2} and bench.window.bench.chart.hasFocus()
    qtbot.keyClick(bench.window, Qt.Key.Key_F3)
    # At once, before the logbook answers.
    assert view.isVisible() and view.tally.text() == "2 shots" and view.current() is not None


def test_what_is_asked_often_is_read_before_and_the_rest_once_somebody_looks(soon, bench, qtbot):
    search = bench.studio.writer.logbook.search

    def are_read(columns):
        return all(name in search._shelf._columns for name in columns)

    qtbot.waitUntil(lambda: are_read(search.OFTEN), timeout=5000)
    bench.settle(qtbot)
    assert not are_read(search.SELDOM)
    qtbot.keyClick(bench.window, Qt.Key.Key_F3)
    qtbot.waitUntil(lambda: are_read(search.SELDOM), timeout=5000)


def test_it_waits_for_a_hand_that_drags(soon, bench, qtbot):
    chart = bench.window.bench.chart
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=chart.rect().center())
    qtbot.wait(200)
    assert bench.window.log_door.opened is None
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=chart.rect().center())
    qtbot.waitUntil(lambda: bench.window.log_door.opened is not None, timeout=5000)


def test_it_has_the_colours_that_the_window_has(bench, qtbot):
    window = bench.window
    window.toggle_theme()
    room = window.log_door.room
    assert room.view.delegate.theme is DARKROOM and room.exchange.drawer.theme is DARKROOM
    window.toggle_theme()
    assert room.view.delegate.theme is DAY and room.exchange.drawer.theme is DAY


def test_its_keys_are_those_that_the_window_knows(bench):
    assert bench.window.log_door.room.key_actions().keys() == set(ACTIONS)


def test_making_it_shows_no_window_and_takes_no_keys_away(bench, qtbot):
    shown = Shown()
    QApplication.instance().installEventFilter(shown)
    try:
        assert not bench.window.log.isVisible() and shown.windows == []
    finally:
        QApplication.instance().removeEventFilter(shown)
    assert QApplication.activeWindow() is bench.window and bench.window.bench.chart.hasFocus()
