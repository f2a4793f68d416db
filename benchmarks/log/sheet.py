"""A logbook of 100 000 shots in the window: opened to a drawn sheet, searched, scrolled; and the memory it takes."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import numpy as np
from PIL import Image
from PySide6.QtWidgets import QApplication

from benchmarks.log import atlas
from benchmarks.timing import verdict
from ondine.logbook.thumbnails import Thumbnails
from ondine.studio.events import Event
from ondine.ui.shell import app as ui
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window

FRAME_MS, FILTER_MS, MEMORY_MB = 16.0, 50.0, 400.0
LINES = (
    "full umbrella", "gap 60-80", "rating>=4", "full umbrella gap 60-80 rating>=4 glycerine", "not crown",
    "untagged keeper", "milk", 'sitting "Sitting 12"', "since 2024-06", "after touchdown 80-90 flash>=340",
)  # fmt: skip
ROWS = """
    SELECT shot.*, sitting.name, (SELECT group_concat(shape) FROM tag WHERE shot_id = shot.id), picture.path
    FROM shot LEFT JOIN sitting ON sitting.id = sitting_id LEFT JOIN picture ON picture.shot_id = shot.id
    WHERE shot.id IN (SELECT id FROM shot ORDER BY at DESC, id DESC LIMIT 60)
"""


def run(path: Path, folder: Path) -> Iterator[str]:
    """Yield lines on a long logbook; folder : for thumbnails."""
    app = ui.application()
    thumbnails = Thumbnails(folder)
    bare_ms = _bare_ms(path)
    window = open_window(Opening(path), thumbnails=thumbnails)
    window.show()
    app.processEvents()
    window.studio.log.wait()
    window.resize(1280, 800)
    ui.settle(app, window, 1500)
    began = time.perf_counter()
    window.navigation.toggle_log()
    _until(app, lambda: _is_drawn(window))
    window.log.sheet.grab()
    sheet_ms = 1e3 * (time.perf_counter() - began)
    shots = len(window.log.model.ids)
    yield (
        f"from the open window to a drawn sheet of {shots} shots: {sheet_ms:.0f} ms; the same rows from "
        f"bare SQLite: {bare_ms:.0f} ms; {sheet_ms / bare_ms:.2f} times   bound 2: {verdict(sheet_ms, 2 * bare_ms)}"
    )
    yield f"  {_at_once(path)}"
    ui.settle(app, window, 1500)
    yield from _filters(app, window)
    yield from _scrolling(app, window, thumbnails)
    yield from atlas.run(app, window.studio.writer.logbook)
    memory = _memory_mb()
    yield f"memory after all of it: {memory:.0f} MB   bound {MEMORY_MB:.0f} MB: {verdict(memory, MEMORY_MB)}"
    window.close()


AT_ONCE = """
import sys, time
from pathlib import Path
from benchmarks.log.sheet import _is_drawn, _until
from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window
app = ui.application()
window = open_window(Opening(Path(sys.argv[1])))
window.show(); app.processEvents(); window.grab()
began = time.perf_counter()
window.navigation.toggle_log()
_until(app, lambda: _is_drawn(window)); window.log.sheet.grab()
print(round(1e3 * (time.perf_counter() - began)))
window.close()
"""


def _at_once(path: Path) -> str:
    """In a new process, and before anything was made ready: on a copy, as this one has the logbook open."""
    copy = path.with_name("at-once.ondine")
    with closing(sqlite3.connect(path)) as raw, closing(sqlite3.connect(copy)) as to:
        raw.backup(to)
    done = subprocess.run(
        [sys.executable, "-c", AT_ONCE, str(copy)], capture_output=True, text=True, check=True, timeout=120
    )
    return f"asked for at the first frame of a new process, while the database is loaded: {done.stdout.strip()} ms"


def _bare_ms(path: Path) -> float:
    """All numbers in order, and the rows of the first page: what anybody has to ask SQLite."""
    taken = []
    with closing(sqlite3.connect(path)) as raw:
        for _ in range(5):
            began = time.perf_counter()
            raw.execute("SELECT id FROM shot ORDER BY at DESC, id DESC").fetchall()
            raw.execute(ROWS).fetchall()
            taken.append(1e3 * (time.perf_counter() - began))
    return float(np.median(taken))


def _is_drawn(window: MainWindow) -> bool:
    model = window.log.model
    return len(model.ids) > 0 and all(model.record(row) is not None for row in range(20))


def _until(app: QApplication, done: Callable[[], bool]) -> None:
    end = time.perf_counter() + 30
    while not done():
        app.processEvents()
        # As an event loop does: a thread that never sleeps would hold up those that answer it.
        time.sleep(0.0005)
        if time.perf_counter() > end:
            raise TimeoutError


def _filters(app: QApplication, window: MainWindow) -> Iterator[str]:
    heard: list[Event] = []
    window.studio.log._emit, before = heard.append, window.studio.log._emit
    cold: list[float] = []
    warm: list[float] = []
    for taken in (cold, warm):
        for line in LINES:
            heard.clear()
            began = time.perf_counter()
            window.studio.search.find(line)
            while not heard:
                time.sleep(0.0002)
            taken.append(1e3 * (time.perf_counter() - began))
    window.studio.log._emit = before
    slowest = LINES[int(np.argmax(warm))]
    yield (
        f"filters, from the question to the answer: median {np.median(warm):.1f} ms, slowest {max(warm):.1f} ms "
        f"({slowest})   bound {FILTER_MS:.0f} ms: {verdict(max(warm), FILTER_MS)}"
    )
    yield (
        f"  each for the first time, a second after the log was opened: median {np.median(cold):.1f} ms, slowest "
        f"{max(cold):.1f} ms ({LINES[int(np.argmax(cold))]}): {verdict(max(cold), FILTER_MS)}"
    )


def _scrolling(app: QApplication, window: MainWindow, thumbnails: Thumbnails) -> Iterator[str]:
    """Turn the wheel through what has thumbnails, a cell's third at a time."""
    log = window.log
    small = Image.radial_gradient("L").resize((480, 320)).convert("RGB")
    for number in log.model.ids[:800].tolist():
        place = thumbnails.place(f"{number:064x}")
        place.parent.mkdir(parents=True, exist_ok=True)
        small.save(place, "JPEG", quality=82)
    bar, step = log.sheet.verticalScrollBar(), log.sheet.cell.height() // 3
    frames = []
    for n in range(400):
        began = time.perf_counter()
        bar.setValue(n * step)
        app.processEvents()
        frames.append(1e3 * (time.perf_counter() - began))
        # A hand's wheel leaves the loader time, as a screen's frames do.
        time.sleep(max(0.0, 0.016 - (time.perf_counter() - began)))
    far = []
    for n in range(100):
        began = time.perf_counter()
        bar.setValue(n * bar.maximum() // 100)
        app.processEvents()
        far.append(1e3 * (time.perf_counter() - began))
    p95 = float(np.percentile(frames, 95))
    yield (
        f"scrolling: median {np.median(frames):.1f} ms, 95th percentile {p95:.1f} ms a frame   bound {FRAME_MS:.0f} "
        f"ms: {verdict(p95, FRAME_MS)}; leaping through all of it: {np.percentile(far, 95):.1f} ms"
    )


def _memory_mb() -> float:
    status = Path("/proc/self/status").read_text()
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS")) / 1024
