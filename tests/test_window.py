"""The program as people start it: a process of its own, a real window on a display."""

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image

pytestmark = pytest.mark.window

STARTED = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from ondine.demo.install import install_demo, demo_logbook
from ondine.demo.scenario import SEED
from ondine.demo.taught import IN_HAND
from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window
home, out = Path(sys.argv[1]), Path(sys.argv[2])
install_demo(home)
app = ui.application()
assert app.platformName() == "xcb", app.platformName()
window = open_window(Opening(demo_logbook(home), None, "Tidal Mill", IN_HAND, rig=SEED))
window.show()
QTest.qWaitForWindowExposed(window, 10000)
window.activateWindow()
assert QTest.qWaitForWindowActive(window, 10000)
def wait_for_picture():
    end = time.monotonic() + 90
    while time.monotonic() < end and not (window.in_view.shot.id == 153 and window.in_view.shot.picture):
        QTest.qWait(50)
"""

BY_KEYS = """
QTest.keyClick(window.bench.chart, Qt.Key.Key_0)
QTest.keyClick(window.bench.chart, Qt.Key.Key_Right)
QTest.keyClick(window.bench.chart, Qt.Key.Key_Space)
assert window.navigation.before.isVisible(), "the first look around"
QTest.keyClick(window.bench.chart, Qt.Key.Key_Space)
wait_for_picture()
QTest.keyClick(window.bench.chart, Qt.Key.Key_F)
QTest.qWait(300)
CTRL = Qt.KeyboardModifier.ControlModifier
window.bench.shot.note.setFocus()
QTest.keyClicks(window.bench.shot.note, "width 40 mm")
QTest.keyClick(window.bench.shot.note, Qt.Key.Key_E, CTRL)
assert window.pages.currentWidget() is window.practice.page, "on X11 a field takes this key for the end of its line"
QTest.keyClick(window.focusWidget(), Qt.Key.Key_E, CTRL)
QTest.qWait(300)
"""

BY_MOUSE = """
LEFT = Qt.MouseButton.LeftButton
def click(widget):
    assert widget.isVisible() and widget.isEnabled(), widget.accessibleName()
    QTest.mouseClick(widget, LEFT)
    QTest.qWait(100)
def drag(view, at, by):
    QTest.mousePress(view, LEFT, pos=at)
    for share in (0.3, 0.6, 1.0):
        QTest.mouseMove(view, at + by * share)
        QTest.qWait(20)
    QTest.mouseRelease(view, LEFT, pos=at + by)
click(window.side.edge.marks["rig"])
drawing, high = window.side.page.drawing, window.studio.composer.setup.valves[0].nozzle_height_m
drag(drawing, drawing.place("nozzle 0").toPoint(), QPoint(0, -30))
assert window.studio.composer.setup.valves[0].nozzle_height_m > high + 0.005
click(window.header.undo)
assert window.studio.composer.setup.valves[0].nozzle_height_m == high
click(window.header.rig)
chart = window.bench.chart
flash = QPoint(round(chart.time_scale.x(0.356)), round(chart.lanes().top + chart.lanes().px * 2.5))
by = QPoint(round(chart.time_scale.x(0.357) - chart.time_scale.x(0.356)), 0)
drag(chart, flash, by)
click(window.bench.fire)
assert window.navigation.before.isVisible(), "the first look around"
click(window.side.preflight.go)
wait_for_picture()
click(window.bench.board.buttons["full-umbrella"])
QTest.qWait(300)
click(window.header.log)
assert window.pages.currentWidget() is window.log
"""

ENDED = """
ui.settle(app, window)
app.primaryScreen().grabWindow(0).save(str(out))
shot = window.in_view.shot
window.close()
print(shot.id, shot.sequence.first_flash_us, ",".join(shot.shapes), shot.picture.name)
"""


@pytest.fixture
def display() -> Iterator[str]:
    if not shutil.which("Xvfb"):
        pytest.skip("Xvfb is not installed")
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"], pass_fds=[write], stderr=subprocess.DEVNULL
    )
    os.close(write)
    with os.fdopen(read) as pipe:
        number = pipe.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait()


def environment(home: Path, **more: str) -> dict[str, str]:
    kept = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")}
    return {**kept, "XDG_DATA_HOME": str(home), **more}


@pytest.mark.parametrize("hands", [BY_KEYS, BY_MOUSE], ids=["keys", "mouse"])
def test_fire_see_tag_in_a_real_window(display, tmp_path, hands):
    out = tmp_path / "screen.png"
    done = subprocess.run(
        [sys.executable, "-c", STARTED + hands + ENDED, str(tmp_path / "home"), str(out)],
        env=environment(tmp_path, DISPLAY=display, QT_QPA_PLATFORM="xcb"),
        capture_output=True,
        text=True,
        timeout=110,
        check=False,
    )
    assert done.stdout.split()[::2] == ["153", "full-umbrella"] and "FRAME0001.JPG" in done.stdout, done.stderr
    assert abs(int(done.stdout.split()[1]) - 357_000) <= 500
    with Image.open(out) as image:
        colours = image.convert("RGB").getcolors(1 << 24)
    assert colours is not None and len(colours) > 2000


@pytest.mark.parametrize("scale", ["1", "2"])
@pytest.mark.parametrize("view", ["bench", "log"])
def test_a_screenshot_without_any_display(tmp_path, view, scale):
    out = tmp_path / "shot.png"
    subprocess.run(
        [sys.executable, "-m", "ondine", "--demo", "--screenshot", str(out), "--view", view, "--theme", "dark-room"],
        env=environment(tmp_path, QT_SCALE_FACTOR=scale),
        check=True,
        timeout=60,
    )
    with Image.open(out) as image:
        size = image.size
    assert size == (1280 * int(scale), 800 * int(scale))


def test_a_foreign_logbook_is_refused_in_plain_words(tmp_path):
    bad = tmp_path / "bad.ondine"
    bad.write_text("not a logbook")
    done = subprocess.run(
        [sys.executable, "-m", "ondine", "--logbook", str(bad), "--screenshot", str(tmp_path / "x.png")],
        env=environment(tmp_path),
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 2
    assert "not an Ondine logbook" in done.stderr and "Traceback" not in done.stderr
