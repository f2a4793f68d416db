"""From a move of the hand to chart and splash drawn anew, on the real widgets, with the live picture on."""

import tempfile
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from benchmarks.timing import verdict
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.demo.install import demo_logbook, install_demo
from ondine.demo.scenario import MILL_RACE, SEED, START
from ondine.demo.taught import IN_HAND
from ondine.studio.foreseen.preview import in_own_process
from ondine.ui.shell import app as ui
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window

BOUND_MS, MEDIAN_BOUND_MS = 16.0, 9.0
MOVES, FEWEST_MOVES = 300, 10
EIGHT = Sequence(
    tuple(Pulse(95_000 * (n // 3) + 4_000 * (n % 3), 20_000, n % 3) for n in range(8)),
    (FlashPulse(START.first_flash_us), FlashPulse(START.first_flash_us + 8_000, 1), FlashPulse(700_000, 0)),
)
THREE_VALVES = replace(
    MILL_RACE, valves=(*MILL_RACE.valves, replace(MILL_RACE.valves[1], name="Valve C", aside_m=0.042))
)
FOUR = Sequence.with_one_flash(
    (Pulse(0, 22_000), Pulse(95_000, 22_000), Pulse(133_000, 18_000), Pulse(190_000, 20_000)), START.first_flash_us
)


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    with tempfile.TemporaryDirectory() as home:
        install_demo(Path(home))
        app = ui.application()
        opening = Opening(demo_logbook(Path(home)), None, "Bench", IN_HAND, rig=SEED)
        window = open_window(opening, tracer=in_own_process)
        window.show()
        ui.settle(app, window)
        try:
            hand = _Hand(app, window, FEWEST_MOVES if small else MOVES)
            yield f"repainting two empty widgets of the same sizes: median {hand.empty_ms:.2f} ms"
            yield from hand.on_chart("")
            window.studio.composer.use_sequence(FOUR)
            ui.settle(app, window)
            yield from hand.on_chart(" of four drops")
            window.studio.composer.use_plan(replace(IN_HAND, setup=THREE_VALVES, sequence=EIGHT))
            ui.settle(app, window)
            yield from hand.on_chart(" of eight drops, three valves, three flashes")
            window.studio.composer.use_plan(IN_HAND)
            ui.settle(app, window)
            yield from hand.on_drawing()
            yield hand.on_power()
        finally:
            # Its threads would outlive a fault.
            window.close()


class _Hand:
    """Drags, so many moves each time, and says how long each took until all was drawn."""

    def __init__(self, app: QApplication, window: MainWindow, moves: int) -> None:
        self._app, self._window, self._moves = app, window, moves
        self.empty_ms = self._empty_ms()

    def _empty_ms(self) -> float:
        """Median time to repaint widgets of the sizes of chart and splash that only fill themselves."""
        views = [QWidget(), QWidget()]
        for view, like in zip(views, (self._window.bench.chart, self._window.bench.splash), strict=True):
            view.setAutoFillBackground(True)
            view.resize(like.size())
            view.show()
        taken = []
        for _ in range(self._moves):
            began = time.perf_counter()
            for view in views:
                view.update()
            self._app.processEvents()
            taken.append((time.perf_counter() - began) * 1e3)
        for view in views:
            view.close()
        return float(np.median(taken))

    def on_chart(self, of: str) -> Iterator[str]:
        """Drag what lies on the chart."""
        chart = self._window.bench.chart
        for name in ("flash line", "drop 2", "open time of drop 1"):
            # A message may have come or gone meanwhile, and moved the chart.
            ui.settle(self._app, self._window)
            first, second = self._window.studio.composer.sequence.drops[:2]
            lanes = chart.lanes()
            time_us, y = {
                "flash line": (START.first_flash_us, lanes.output_y(0)),
                "drop 2": ((second.start_us + second.end_us) // 2, lanes.valve_y(second.valve)),
                "open time of drop 1": (first.end_us, lanes.valve_y(first.valve)),
            }[name]
            at = QPoint(round(chart.time_scale.x(time_us / 1e6)), round(y + lanes.px / 2))
            yield self._dragged(chart, at, QPoint(1, 0), f"dragging the {name}{of}")

    def on_drawing(self) -> Iterator[str]:
        """Drag what lies on the drawing of the rig."""
        self._window.side.open_stage("rig")
        ui.settle(self._app, self._window)
        drawing = self._window.side.page.drawing
        ways = {"nozzle 0": QPoint(0, 1), "camera": QPoint(1, 0), "rim": QPoint(1, 0), "flash 0": QPoint(1, 0)}
        for key, way in ways.items():
            ui.settle(self._app, self._window)
            yield self._dragged(drawing, drawing.place(key).toPoint(), way, f"dragging the {key} on the drawing")

    def on_power(self) -> str:
        """Drag along the powers of a flash."""
        self._window.side.open_stage("freeze")
        ui.settle(self._app, self._window)
        chart = self._window.side.page.stages["freeze"].figure
        at = QPoint(chart.width() // 2, chart.height() // 2)
        return self._dragged(chart, at, QPoint(3, 0), "dragging the power")

    def _dragged(self, view: QWidget, at: QPoint, way: QPoint, says: str) -> str:
        """Drag to and fro over 40 pixels; the change asks for all views, and handling events draws them."""
        app, window = self._app, self._window
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=at)
        before = window.studio.composer.plan
        taken, looks = [], []
        seen = window.foresight.changed.connect(lambda: looks.append(1))
        start = time.perf_counter()
        for i in range(self._moves):
            began = time.perf_counter()
            QTest.mouseMove(view, at + way * (abs(i % 80 - 40) - 20))
            app.processEvents()
            taken.append((time.perf_counter() - began) * 1e3)
        pictures = len(looks) / (time.perf_counter() - start)
        window.foresight.changed.disconnect(seen)
        assert window.studio.composer.plan != before, f"{says}: nothing moved"
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=at)
        window.studio.composer.undo()
        app.processEvents()
        p50, p95, worst = np.percentile(taken, (50, 95, 100))
        return (
            f"{says}: median {p50:.1f} ms ({p50 / self.empty_ms:.0f} empty ones, bound {MEDIAN_BOUND_MS:.0f} ms: "
            f"{verdict(p50, MEDIAN_BOUND_MS)}), 95th percentile {p95:.1f} ms (bound {BOUND_MS:.0f} ms: "
            f"{verdict(p95, BOUND_MS)}), worst {worst:.1f} ms; {pictures:.0f} pictures a second"
        )
