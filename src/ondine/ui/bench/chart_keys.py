"""The keys of the flight chart: arrows move what is selected; with Ctrl to events, with Alt the window."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from ondine.core.forecast.marks import marks_of
from ondine.core.setup import Setup
from ondine.core.timing.arrange import lengthened, moved
from ondine.core.timing.items import Item, Kind, time_us
from ondine.core.timing.sequence import Sequence
from ondine.core.timing.snapping import beside

if TYPE_CHECKING:
    from ondine.ui.bench.flight_chart import FlightChart

COARSE_US = 5_000
SHARE, FACTOR = 0.2, 0.7

WAYS = {Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
"""Later or earlier, longer or shorter."""


def pressed(chart: FlightChart, event: QKeyEvent) -> bool:
    """Do what a key asks for; return whether it asks for anything."""
    key, keys = Qt.Key(event.key()), event.modifiers()
    chart.hand.mark = None
    if key == Qt.Key.Key_Home:
        chart.sight.show_whole()
        return True
    if key == Qt.Key.Key_Backspace:
        chart.sight.back()
        return True
    if key not in WAYS:
        return False
    later, longer = WAYS[key]
    coarse = bool(keys & Qt.KeyboardModifier.ShiftModifier)
    if keys & Qt.KeyboardModifier.AltModifier:
        _move_window(chart, later, longer, zooms=coarse)
    elif keys & Qt.KeyboardModifier.ControlModifier:
        return bool(later) and _to_event(chart, later > 0)
    else:
        return _nudge(chart, later, longer, COARSE_US if coarse else chart.step_us)
    return True


def _move_window(chart: FlightChart, right: int, up: int, zooms: bool) -> None:
    if not zooms:
        chart.sight.move(right * SHARE, up * SHARE, "")
    else:
        # About what is in hand: it stays in view.
        held_us = time_us(chart.sequence, chart.selection.held, chart.setup)
        chart.sight.zoom(FACTOR**right, FACTOR**up, chart.place_of(held_us, 0).x(), "")


def _to_event(chart: FlightChart, later: bool) -> bool:
    """Move what is selected so that what is in hand comes to the next event."""
    assert chart.prediction is not None
    held, items = chart.selection.held, chart.moving
    now_us = time_us(chart.sequence, held, chart.setup)
    mark = beside(now_us, marks_of(chart.sequence, chart.prediction.course.events, items), later)
    if mark is not None:
        chart.composed.emit(partial(_put, held, items, mark.at_us, chart.setup), "")
        chart.released.emit()
        chart.hand.mark = mark
        chart.pointed.emit()
    return True


def _put(held: Item, items: frozenset[Item], at_us: int, setup: Setup, sequence: Sequence) -> Sequence:
    return moved(sequence, items, at_us - time_us(sequence, held, setup), setup)


def _nudge(chart: FlightChart, later: int, longer: int, step_us: int) -> bool:
    items, setup = chart.moving, chart.setup
    if longer:
        drops = frozenset(item for item in chart.selection.items if item.kind is Kind.DROP)
        if not drops:
            return False
        chart.composed.emit(lambda sequence: lengthened(sequence, drops, longer * step_us), f"keys open {drops}")
    else:
        chart.composed.emit(lambda sequence: moved(sequence, items, later * step_us, setup), f"keys {sorted(items)}")
    return True
