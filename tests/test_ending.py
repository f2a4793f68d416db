"""However the end comes, what was done is kept and nothing is left alive: signals, kill -9, a display that is gone."""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from ondine.logbook.store import Logbook

SCRIPT = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtTest import QTest
from ondine.core.setup import BenchKind
from ondine.studio.places import Places
from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import Windows

def act(window):
    window.studio.sitting.preflight_done = True
    if "fire" in sys.argv[2]:
        window.bench_actions.fire()
    wait(window)

def wait(window):
    # For what has happened, never for a time: machines differ.
    newest = window.shots.newest
    state = "" if newest is None else newest.state.value
    if ("fired" in sys.argv[2] and state != "fired") or ("fire" in sys.argv[2] and not state):
        QTimer.singleShot(10, window, lambda: wait(window))
        return
    if "note" in sys.argv[2]:
        window.shots.edit_note()
        QTest.keyClicks(window.bench.shot.note, "half a w")
    print("ready", flush=True)

if __name__ == "__main__":
    real = Windows._watch_over

    def watch(windows, window, logbook):
        real(windows, window, logbook)
        window.drawn.connect(lambda: act(window))

    Windows._watch_over = watch
    opening = Opening(Path(sys.argv[1]), bench=BenchKind.SIMULATED)
    sys.exit(ui.run(lambda: opening, None, None, Places.of_user()))
"""


def children_of(group: int) -> list[int]:
    """Processes that still live in a process group, zombies left out."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                fields = (entry / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            if int(fields[2]) == group and fields[0] != "Z":
                found.append(int(entry.name))
    return found


class Running:
    def __init__(self, tmp_path: Path, does: str, **environment: str) -> None:
        script = tmp_path / "run.py"
        script.write_text(SCRIPT)
        self.logbook = tmp_path / "log.ondine"
        inherited = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
        self.process = subprocess.Popen(
            [sys.executable, str(script), str(self.logbook), does],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            start_new_session=True,
            env=inherited
            | {"XDG_STATE_HOME": str(tmp_path / "state"), "XDG_DATA_HOME": str(tmp_path / "data")}
            | {"QT_QPA_PLATFORM": "offscreen"}
            | environment,
        )
        assert self.process.stdout is not None
        said = self.process.stdout.readline()
        assert said == "ready\n", self.process.communicate()

    def ended(self, within_s: float = 20) -> int:
        """Wait for the end, and until nothing of it lives."""
        _, self.errors = self.process.communicate(timeout=within_s)
        end = time.monotonic() + 10
        while children_of(self.process.pid) and time.monotonic() < end:
            time.sleep(0.05)
        assert children_of(self.process.pid) == []
        return self.process.returncode


@pytest.fixture
def run(tmp_path) -> Iterator[object]:
    started: list[Running] = []

    def start(does: str, **environment: str) -> Running:
        started.append(Running(tmp_path, does, **environment))
        return started[-1]

    yield start
    for running in started:
        for pid in children_of(running.process.pid):
            os.kill(pid, signal.SIGKILL)


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_signal_keeps_the_note_that_is_being_typed_and_leaves_nobody_behind(run, number):
    running = run("fired note")
    # The camera's process is at work.
    assert len(children_of(running.process.pid)) > 1
    running.process.send_signal(number)
    assert running.ended() == 0
    assert "Traceback" not in running.errors
    book = Logbook.open(running.logbook)
    (shot,) = book.shots.newest(1000)
    assert shot.note == "half a w" and shot.state.value == "fired"
    book.close()
    assert not running.logbook.with_name("log.ondine.lock").exists()


def test_a_signal_in_the_middle_of_a_shot_waits_for_it(run):
    running = run("fire")
    running.process.send_signal(signal.SIGTERM)
    assert running.ended() == 0
    book = Logbook.open(running.logbook)
    assert [shot.state.value for shot in book.shots.newest(1000)] == ["fired"]
    book.close()


def test_kill_9_leaves_no_camera_alive_and_a_logbook_that_opens(run):
    running = run("fired")
    running.process.kill()
    assert running.ended() == -signal.SIGKILL
    book = Logbook.open(running.logbook)
    assert book.shots.count() == 1
    book.close()


def test_a_display_that_is_gone_keeps_what_was_typed(run, tmp_path):
    if not shutil.which("Xvfb"):
        pytest.skip("Xvfb is not installed")
    read, write = os.pipe()
    server = subprocess.Popen(["Xvfb", "-displayfd", str(write)], pass_fds=[write], stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as pipe:
        display = f":{pipe.readline().strip()}"
    running = run("fired note", DISPLAY=display, QT_QPA_PLATFORM="xcb")
    server.kill()
    server.wait()
    running.ended()
    book = Logbook.open(running.logbook)
    assert [shot.note for shot in book.shots.newest(1000)] == ["half a w"]
    book.close()
    log = (tmp_path / "state" / "ondine" / "ondine.log").read_text()
    assert "half a w" not in log


def test_a_second_start_brings_the_first_window_forth(run):
    running = run("")
    second = subprocess.run(
        [sys.executable, "-m", "ondine", "--logbook", str(running.logbook)],
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
    )
    assert second.returncode == 0 and "its window is in front now" in second.stdout, second.stderr
    running.process.send_signal(signal.SIGTERM)
    assert running.ended() == 0
