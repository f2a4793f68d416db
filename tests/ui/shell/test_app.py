"""Opening a window on yesterday's logbook."""

import gc
import shutil
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import SIGNAL
from PySide6.QtGui import QImage

from ondine.core.belief.priors import STILL_HOLDS, Belief
from ondine.core.units import Length
from ondine.logbook.errors import LogbookError
from ondine.ui.shell import app as ui_app
from ondine.ui.shell import windows
from ondine.ui.shell.opening import fresh

DATA = Path(__file__).parents[2] / "data"


def test_a_logbook_of_before_opens_as_it_was_left(opened_window, tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v2.ondine", path)
    window = opened_window(fresh(path, tmp_path))
    try:
        plan = window.studio.composer.plan
        assert plan.setup.name == "Tidal Mill" and len(plan.sequence.drops) == 3
        # What was believed by older laws is taken as far as it still holds.
        assert plan.belief == replace(Belief(), **{name: getattr(plan.belief, name) for name in STILL_HOLDS})
        assert window.theme.dark and window.side.tools.editor.units.length is Length.CM
        assert len(window.bench.strip.shots.shots) == 7 and window.in_view.shot.id == 7
        assert window.side.tools.valve.weighings[0].grams == 1.67
        assert list(window.side.tools.library.mixes) == ["House"]
    finally:
        window.close()


def test_a_picture_of_the_coach_shows_it_each_time_and_leaves_it_as_it_was(opened_window, tmp_path, monkeypatch):
    path, spoke = tmp_path / "log.ondine", []
    monkeypatch.setattr(ui_app, "open_window", lambda opening, theme, tracer: opened_window(opening))
    show_view = ui_app.show_view
    monkeypatch.setattr(ui_app, "show_view", lambda *what: (show_view(*what), spoke.append(what[0].bench.coach_speaks)))
    for number in range(2):
        ui_app.screenshot(fresh(path, tmp_path), None, ui_app.Shot(tmp_path / f"{number}.png", "coach", (1280, 800)))
        assert QImage(str(tmp_path / f"{number}.png")).size().toTuple() == (1280, 800)
    window = opened_window(fresh(path, tmp_path))
    assert spoke == [True, True] and not window.bench.coach_speaks
    window.coach.open()
    window.close()
    # Whoever has turned it on finds it on, however many pictures were drawn.
    ui_app.screenshot(fresh(path, tmp_path), None, ui_app.Shot(tmp_path / "2.png", "coach", (1280, 800)))
    window = opened_window(fresh(path, tmp_path))
    assert spoke == [True] * 3 and window.bench.coach_speaks
    window.close()


def test_a_refused_logbook_is_let_go(qapp, tmp_path):
    path = tmp_path / "notes.txt"
    path.write_text("95 ms")
    for _ in range(2):
        # The second time it would be said to be open in another Ondine if the first had kept its claim.
        with pytest.raises(LogbookError, match="not an Ondine logbook"):
            windows.open_window(fresh(path, tmp_path))


FIRST_FRAME = """
import gc, sys
from pathlib import Path
from ondine.ui.shell import app as ui, windows
from ondine.ui.shell.opening import fresh
windows.FIRST_FRAME_S = 60.0
app = ui.application()
window = windows.open_window(fresh(Path(sys.argv[1]), None))
before = "sqlalchemy" in sys.modules, "numba" in sys.modules, "pydantic" in sys.modules
window.show()
app.processEvents()
ui.settle(app, window, 50)
print(before, "sqlalchemy" in sys.modules, gc.get_freeze_count() > 50_000, window.studio.writer.logbook.shots.count())
window.close()
"""


def test_the_first_frame_needs_no_database_and_the_database_comes_after_it(tmp_path):
    done = subprocess.run(
        [sys.executable, "-c", FIRST_FRAME, str(tmp_path / "new.ondine")], capture_output=True, text=True, timeout=50
    )
    assert done.stdout.split("\n")[0] == "(False, False, False) True True 0", done.stderr


def test_a_window_that_is_never_drawn_opens_its_logbook_all_the_same(tmp_path, opened_window):
    window = opened_window(fresh(tmp_path / "new.ondine", None))
    assert window.studio.writer.logbook.shots.count() == 0
    window.close()


def test_a_window_that_is_closed_before_it_was_drawn_does_not_wait_for_that(tmp_path, opened_window, monkeypatch):
    monkeypatch.setattr(windows, "FIRST_FRAME_S", 60.0)
    began = time.monotonic()
    opened_window(fresh(tmp_path / "new.ondine", None)).close()
    assert time.monotonic() - began < 30


def test_a_window_that_cannot_be_built_lets_its_logbook_go_and_says_so(opened_window, tmp_path, monkeypatch):
    def breaks(*_: object) -> None:
        raise RuntimeError("what nobody expected")

    path = tmp_path / "log.ondine"
    with monkeypatch.context() as broken:
        broken.setattr(windows, "MainWindow", breaks)
        with pytest.raises(RuntimeError, match="nobody expected"):
            windows.open_window(fresh(path, tmp_path))
    # Nothing of it holds the logbook, or goes on.
    opened_window(fresh(path, tmp_path)).close()
    words = windows.no_window_words(path, tmp_path / "ondine.log")
    assert str(path) in words and "ondine.log" in words and "ondine rescue" in words


def test_no_other_thread_takes_anything_off_the_windows_signals(opened_window, tmp_path):
    """PySide does so where the last reference to a slot's object dies; two threads then wait for each other for ever."""
    window = opened_window(fresh(tmp_path / "new.ondine", None))
    # The closure that the logbook's thread runs is gone with it.
    before = window.receivers(SIGNAL("drawn()"))
    assert window.studio.writer.logbook.shots.count() == 0
    window.studio.log.wait()
    gc.collect()
    assert window.receivers(SIGNAL("drawn()")) == before > 0
    window.close()
