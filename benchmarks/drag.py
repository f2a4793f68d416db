"""From a move of the hand to chart and splash drawn anew, on the real widgets."""

import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from benchmarks.timing import verdict
from ondine.core.sequence import Sequence
from ondine.demo.install import demo_logbook, install_demo
from ondine.demo.scenario import SEED, START, TIDAL_MILL
from ondine.ui import app as ui

BOUND_MS = 16.0
MOVES = 300


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as home:
        install_demo(Path(home))
        app = ui.application()
        window = ui.open_window(ui.Opening(demo_logbook(Path(home)), None, "Bench", SEED, (START, TIDAL_MILL)))
        window.show()
        ui.settle(app, window)
        moves: dict[str, Callable[[Sequence, int], Sequence]] = {
            "flash line": lambda s, i: s.with_flash(250_000 + 500 * i),
            "drop 2": lambda s, i: s.with_start(1, 80_000 + 100 * i),
            "open time of drop 1": lambda s, i: s.with_open(0, 12_000 + 50 * i),
        }
        for name, move in moves.items():
            taken = []
            for i in range(MOVES):
                began = time.perf_counter()
                window.studio.compose(move(window.studio.sequence, i), name)
                # The change asks chart, splash and all their words to be drawn; this draws them.
                app.processEvents()
                taken.append((time.perf_counter() - began) * 1e3)
            window.studio.compose(START)
            p50, p95, worst = np.percentile(taken, (50, 95, 100))
            yield (
                f"dragging the {name}: median {p50:.1f} ms, 95th percentile {p95:.1f} ms, worst {worst:.1f} ms   "
                f"bound {BOUND_MS:.0f} ms: {verdict(p95, BOUND_MS)}"
            )
        window.close()
