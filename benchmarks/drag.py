"""From a move of the hand to chart and splash drawn anew, on the real widgets."""

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from benchmarks.timing import verdict
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
        chart = window.bench.chart
        valve = chart.lanes_top() + chart.lane_px() * 1.5
        flash = chart.lanes_top() + chart.lane_px() * 2.5
        first, second = START.drops
        handles = {
            "flash line": (START.flash_us, flash),
            "drop 2": ((second.start_us + second.end_us) // 2, valve),
            "open time of drop 1": (first.end_us, valve),
        }
        for name, (time_us, y) in handles.items():
            x = chart.time_scale.x(time_us / 1e6)
            QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
            before = window.studio.sequence
            taken = []
            for i in range(MOVES):
                began = time.perf_counter()
                # To and fro over 40 pixels; the change asks for all views, and handling events draws them.
                QTest.mouseMove(chart, QPoint(round(x) - 20 + abs(i % 80 - 40), round(y)))
                app.processEvents()
                taken.append((time.perf_counter() - began) * 1e3)
            assert window.studio.sequence != before, f"the {name} did not move"
            QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
            window.studio.compose(START)
            app.processEvents()
            p50, p95, worst = np.percentile(taken, (50, 95, 100))
            yield (
                f"dragging the {name}: median {p50:.1f} ms, 95th percentile {p95:.1f} ms, worst {worst:.1f} ms   "
                f"bound {BOUND_MS:.0f} ms: {verdict(p95, BOUND_MS)}"
            )
        window.close()
