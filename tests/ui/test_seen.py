"""Nothing is cut and nothing lies over anything, in every view, from the smallest window to the largest screen."""

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QApplication, QLabel, QScrollArea, QVBoxLayout, QWidget

from ondine.ui.log.kinds import KINDS, SHEET
from ondine.ui.shell.main_window import LEAST_PX, MainWindow
from ondine.ui.table.stages import STAGES
from tests.ui.seen import faults
from tests.ui.table.test_extremes import FOUR, TABLES

SIZES = [
    LEAST_PX,  # what 1920×1080 at 150 % leaves beside title bar and panel is larger
    (1200, 720),
    (1200, 1100),  # a screen that stands upright
    (1280, 763),  # 1280×800 under a title bar
    (1366, 690),  # 1366×768 with a title bar and a panel
    (1920, 1080),
    (2560, 1600),
]


def views(window: MainWindow, all_kinds: bool = True) -> Iterator[tuple[str, QWidget]]:
    """Go through all views of a window; `all_kinds`: every way of looking at the log too."""
    settle = QApplication.processEvents
    window.navigation.go_back()
    settle()
    yield "bench", window.centralWidget()
    window.navigation.toggle_keys()
    settle()
    yield "keys", window.navigation.keys
    window.navigation.toggle(window.navigation.before)
    settle()
    yield "before the first shot", window.navigation.before
    window.navigation.toggle_log()
    window.studio.log.wait()
    settle()
    yield "log", window.log
    for kind, _ in KINDS if all_kinds else ():
        window.log.show_as(kind)
        window.studio.log.wait()
        settle()
        yield f"log: {kind}", window.log
    drawers = window.navigation.own_shapes, window.log_door.room.exchange.drawer, window.log_door.room.sitting.drawer
    for drawer in drawers if all_kinds else ():
        window.navigation.toggle(drawer)
        settle()
        yield "drawer", drawer
    window.log.show_as(SHEET)
    window.choice.open()
    settle()
    yield "start", window.choice.page
    window.side.toggle_card()
    settle()
    yield "card", window.side.card
    for stage in STAGES:
        window.side.open_stage(stage.key)
        # A scroll bar that comes or goes makes its panel lay itself out anew, which may take it away again.
        for _ in range(4):
            settle()
        yield stage.key, window.side.page
    window.navigation.go_back()


def all_faults(window: MainWindow, size: tuple[int, int], all_kinds: bool = True) -> list[str]:
    window.resize(*size)
    QApplication.processEvents()
    found = [f"{name}: {fault}" for name, view in views(window, all_kinds) for fault in faults(window, view)]
    whole = window.centralWidget()
    assert isinstance(whole, QScrollArea)
    if whole.verticalScrollBar().isVisible() or whole.horizontalScrollBar().isVisible():
        found.append("the window scrolls")
    return found


def test_all_can_be_read_at_every_size(bench):
    bench.studio.composer.use_sequence(FOUR)
    for size in SIZES:
        # The log's ways of looking at the smallest, and at a usual large one; scaled screens see all of them too.
        assert all_faults(bench.window, size, all_kinds=size in (SIZES[0], (1920, 1080))) == [], size


def test_all_can_be_read_of_tables_at_their_limits(bench):
    for name, (setup, sequence) in TABLES.items():
        bench.studio.composer.use_setup(setup)
        bench.studio.composer.use_sequence(sequence)
        # The log looks the same for any table.
        assert all_faults(bench.window, LEAST_PX, all_kinds=False) == [], name


SCALED = """
import sys
from pathlib import Path
from tests.conftest import TestClock
from tests.ui.conftest import Bench
from tests.ui.test_seen import all_faults
from ondine.ui.shell import app as ui
app = ui.application()
made = Bench(Path(sys.argv[1]), TestClock())
made.window.show()
app.processEvents()
found = all_faults(made.window, (1280, 720))
assert made.window.devicePixelRatio() == float(sys.argv[2]), made.window.devicePixelRatio()
made.window.close()
print("\\n".join(found))
"""


@pytest.mark.parametrize("scale", ["1.5", "2"])
def test_all_can_be_read_on_a_screen_that_is_scaled(tmp_path, scale):
    root = Path(__file__).parents[2]
    env = {**os.environ, "QT_SCALE_FACTOR": scale, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", SCALED, str(tmp_path), scale],
        env=env,
        cwd=root,
        capture_output=True,
        text=True,
        timeout=100,
    )
    assert done.returncode == 0 and not done.stdout.strip(), done.stdout + done.stderr[-2000:]


def test_a_smaller_screen_scrolls_and_cuts_nothing(bench):
    window = bench.window
    window.resize(1024, 600)
    QApplication.processEvents()
    whole = window.centralWidget()
    assert isinstance(whole, QScrollArea) and whole.horizontalScrollBar().isVisible()
    assert whole.widget().width() == LEAST_PX[0] and whole.widget().height() >= LEAST_PX[1]
    assert [
        fault for name, view in views(window) for fault in faults(window, view) if name not in ("keys", "log")
    ] == []


# The eye itself: each fault that it must see


class Figure(QWidget):
    def __init__(self, paint: Callable[[QPainter], object]) -> None:
        super().__init__()
        self.paint = paint
        self.resize(120, 60)

    def paintEvent(self, event: object) -> None:
        with QPainter(self) as p:
            self.paint(p)


Figure.__module__ = "ondine.of.this.test"


def seen(qtbot, part: QWidget) -> list[str]:
    holder = QWidget()
    holder.resize(300, 200)
    part.setParent(holder)
    qtbot.addWidget(holder)
    holder.show()
    return faults(holder, holder)


@pytest.mark.parametrize(
    ("paint", "says"),
    [
        (lambda p: p.drawText(90, 30, "+95.0 ms"), "is painted at"),
        (lambda p: p.drawText(10, 30, "one") or p.drawText(14, 32, "two"), "over each other"),
        (lambda p: p.drawText(2, 2, 40, 16, 0, "too long"), "needs"),
    ],
)
def test_the_eye_sees_painted_text(qtbot, paint, says):
    assert says in " ".join(seen(qtbot, Figure(paint)))


def test_the_eye_sees_a_wrapped_label_that_is_too_low_and_a_part_outside(qtbot):
    label = QLabel("These words need three lines in so narrow a room")
    label.setWordWrap(True)
    label.setFixedSize(120, 20)
    assert "needs" in seen(qtbot, label)[0]
    outside = QLabel("here")
    outside.setGeometry(280, 0, 60, 20)
    assert "stands at" in seen(qtbot, outside)[0]


def test_the_eye_passes_what_is_well(qtbot):
    page = QWidget()
    column = QVBoxLayout(page)
    for words in ("One line", "Another line"):
        column.addWidget(QLabel(words))
    column.addWidget(Figure(lambda p: p.drawText(10, 30, "well")))
    page.resize(280, 180)
    assert seen(qtbot, page) == []


@pytest.mark.parametrize("size", [LEAST_PX, (1366, 690)])
def test_a_message_makes_no_window_scroll_that_has_room_for_it(bench, size):
    window = bench.window
    window.resize(size[0], size[1] + 44)
    window.messages.offer("The timings of a friend are in hand, for your own table.", "Use its table too", lambda: None)
    for _ in range(4):
        QApplication.processEvents()
    whole = window.centralWidget()
    assert isinstance(whole, QScrollArea) and not whole.verticalScrollBar().isVisible()
    assert faults(window, window.centralWidget()) == []
    # Many words wrap, and none is cut.
    window.messages.trouble("A sentence that goes on. " * 30)
    for _ in range(4):
        QApplication.processEvents()
    assert faults(window, window.messages) == [] and window.messages.height() > 60
