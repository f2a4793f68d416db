"""Paints the flight chart: what looks as in the frame before is kept as a picture."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QWidget

from ondine.core.forecast.course import Course
from ondine.core.timing.items import Item, Kind
from ondine.core.timing.sequence import FlashPulse
from ondine.ui.bench.chart_paint import ChartPainter
from ondine.ui.bench.layers import Layer


class ChartCanvas:
    """While a flash is dragged everything else stands still; while a drop is, all that it leaves alone does."""

    def __init__(self, view: QWidget) -> None:
        self._view = view
        self._still = Layer()
        self._last: dict[str, tuple[object, ...]] = {}
        self._moved: set[str] = set()
        self.labels_lay: dict[int, QPointF] = {}
        self._course: Course | None = None
        self._course_key = object()
        self._flashes_rest: tuple[FlashPulse, ...] = ()

    def forget(self) -> None:
        """Draw everything anew: something else has changed."""
        self._last, self._moved = {}, set()
        self._still = Layer()

    def paint(self, brush: ChartPainter, dragged: Item | None) -> None:
        """Draw a frame; `dragged` is what a hand drags."""
        if dragged is None or dragged.kind is not Kind.DROP:
            self._paint_at_rest(brush, dragged)
        else:
            self._paint_moving(brush)
        brush.paint_flash()

    def _paint_at_rest(self, brush: ChartPainter, dragged: Item | None) -> None:
        self._last, self._moved, self.labels_lay = {}, set(), {}
        if self._course is not brush.prediction.course:
            self._course, self._course_key = brush.prediction.course, object()
        if dragged is None:
            # Labels make way for the flash where it rests, not while it moves.
            self._flashes_rest = brush.prediction.sequence.flashes
        drops = brush.prediction.sequence.drops
        key: object = (*brush.scales, self._course_key, drops, brush.chosen, self._flashes_rest, brush.faults)
        brush.painter.drawPixmap(0, 0, self._still.drawn(self._view, key, lambda p: _paint(brush.on(p), None)))

    def _paint_moving(self, brush: ChartPainter) -> None:
        parts = brush.parts()
        # What has moved once since the hand took hold counts as moving: a picture that is kept is seldom drawn anew.
        self._moved |= {part.name for part in parts if self._last.get(part.name, part.facts) != part.facts}
        self._last = {part.name: part.facts for part in parts}
        still = [part for part in parts if part.name not in self._moved]
        names, key = {part.name for part in still}, (*brush.scales, tuple((part.name, part.facts) for part in still))
        brush.painter.drawPixmap(0, 0, self._still.drawn(self._view, key, lambda p: _paint(brush.on(p), names)))
        brush.paint_parts([part for part in parts if part.name in self._moved])


def _paint(brush: ChartPainter, names: set[str] | None) -> None:
    """Draw scales and the parts of these names, None for all."""
    brush.paint_scales()
    brush.paint_parts([part for part in brush.parts() if names is None or part.name in names])
