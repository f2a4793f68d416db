"""The atlas of a long logbook: from the answer to a drawn picture, and panned."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QApplication

from benchmarks.timing import verdict
from ondine.logbook.query import EVERYTHING
from ondine.logbook.store import Logbook
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY
from ondine.ui.log.atlas_view import AtlasView
from ondine.ui.log.frame_paint import Frames

DRAWN_MS, FRAME_MS = 100.0, 16.0
WIDE, HIGH = 860, 620


def run(app: QApplication, logbook: Logbook) -> Iterator[str]:
    """Yield lines; logbook : a long one."""
    points = logbook.search.points(EVERYTHING, "interval_ms", "flash_ms")
    view = AtlasView(Frames(PictureLoader(), DAY))
    view.resize(WIDE, HIGH)
    view.show()
    app.processEvents()
    drawn = []
    for _ in range(7):
        view._kept.clear()
        began = time.perf_counter()
        view.show_points(points, "interval_ms", "flash_ms")
        view.repaint()
        drawn.append(1e3 * (time.perf_counter() - began))
    yield (
        f"atlas of {len(points.ids)} points, from the answer to the picture: median {np.median(drawn):.0f} ms   bound "
        f"{DRAWN_MS:.0f} ms: {verdict(float(np.median(drawn)), DRAWN_MS)}"
    )
    for turns in (0, 6, 14):
        view.show_all()
        middle = QPointF(view.rect().center())
        for _ in range(turns):
            view._look(view.scale.zoomed(middle, 0.85))
        view.repaint()
        frames = []
        for n in range(150):
            began = time.perf_counter()
            view._look(view.scale.moved(QPointF(3 if n % 50 < 25 else -3, 2 if n % 30 < 15 else -2)))
            view.repaint()
            frames.append(1e3 * (time.perf_counter() - began))
        p95 = float(np.percentile(frames, 95))
        closer = 1 / 0.85**turns
        yield (
            f"  panned, zoomed {closer:.1f} times: median {np.median(frames):.1f} ms, 95th percentile {p95:.1f} "
            f"ms a frame   bound {FRAME_MS:.0f} ms: {verdict(p95, FRAME_MS)}"
        )
    view.close()
