"""From nothing to a drawn window, against a bare window of the same libraries; and memory at rest."""

import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.timing import verdict
from ondine.demo.taught import IN_HAND
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook

RUNS, SHOTS = 7, 10_000

BARE = """
import time; began = time.perf_counter()
import numpy, pyqtgraph
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow(); plot = pyqtgraph.PlotWidget(); plot.plot(numpy.arange(100)); window.setCentralWidget(plot)
window.resize(1280, 800); window.show(); app.processEvents(); window.grab()
print(time.perf_counter() - began)
"""

OURS = """
import time; began = time.perf_counter()
import json, sys
from pathlib import Path
from ondine.ui.shell.loading import uncollected
with uncollected():
    from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window
from ondine.core.setup import BenchKind
app = ui.application()
window = open_window(Opening(Path(sys.argv[1]), bench=BenchKind.BY_HAND))
window.show(); app.processEvents(); window.grab()
took = time.perf_counter() - began
ui.settle(app, window, 1500)
status = Path("/proc/self/status").read_text()
rss = next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
window.close()
print(json.dumps([took, rss / 1024]))
"""


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    runs, shots = (1, 40) if small else (RUNS, SHOTS)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "log.ondine"
        book = Logbook.open(path)
        at = datetime(2026, 1, 1, tzinfo=UTC)
        shapes = ("crown", "jet-top", "full-umbrella", "torn-umbrella")
        book.shots.add_history(
            PastShot(f"Sitting {i // 400}", at + timedelta(seconds=40 * i), IN_HAND, (shapes[i % 4],), i % 6)
            for i in range(shots)
        )
        book.close()
        ratios, memory, bare_s, ours_s = [], [], [], []
        # In turns, so that a machine that slows down slows both; the first pair warms the caches.
        for turn in range(runs + 1):
            bare = float(_output(BARE))
            ours, rss = json.loads(_output(OURS, str(path)))
            if turn:
                ratios.append(ours / bare)
                memory.append(rss)
                bare_s.append(bare)
                ours_s.append(ours)
        ratio = float(np.median(ratios))
        yield f"drawn window with {shots} shots / bare PySide6 + NumPy + pyqtgraph window: {ratio:.2f}"
        yield (
            f"  bound 1.3: {verdict(ratio, 1.3)}   (pairs {min(ratios):.2f} to {max(ratios):.2f}; medians "
            f"{np.median(ours_s):.2f} s, {np.median(bare_s):.2f} s)"
        )
        rss = float(np.median(memory))
        yield f"memory at rest: {rss:.0f} MB   bound 200 MB: {verdict(rss, 200)}"


def _output(script: str, *words: str) -> str:
    # Compiled modules are kept, as on any machine where Ondine was started before.
    env = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    command = [sys.executable, "-c", script, *words]
    return subprocess.run(command, capture_output=True, text=True, check=True, env=env).stdout
