"""What of the flight chart can be moved, for those who hear the window."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from ondine.core.timing.arrange import with_camera
from ondine.core.timing.items import CAMERA_FIELDS, items_of, time_us
from ondine.core.timing.limits import flash_label
from ondine.core.timing.sequence import Sequence
from ondine.ui.kit.number_field import MILLISECONDS
from ondine.ui.kit.stand_in import Part, StandIns

if TYPE_CHECKING:
    from ondine.ui.bench.flight_chart import FlightChart

TELL_MS, TOP_PX = 200, 24


class ChartEars(QObject):
    """Stand-ins for flashes and drops. Emits `composed(change, gesture)` and `released()` as the chart does."""

    composed = Signal(object, str)
    released = Signal()

    def __init__(self, chart: FlightChart) -> None:
        super().__init__(chart)
        self._chart = chart
        self._parts = StandIns(chart)
        self._parts.changed.connect(self._set)
        # Nobody hears sixty values a second, and the first frame does without them.
        self._telling = QTimer(self)
        self._telling.setSingleShot(True)
        self._telling.setInterval(TELL_MS)
        self._telling.timeout.connect(self._tell)

    def tell(self) -> None:
        """Let those who hear the window know, in a moment, what can be moved and where it stands."""
        self._telling.start()

    def _tell(self) -> None:
        sequence, lanes = self._chart.sequence, self._chart.lanes()
        found = []
        for index, flash in enumerate(sequence.flashes):
            name = flash_label(sequence, index).capitalize()
            found.append(self._part(f"flash {index + 1}", name, flash.at_us, TOP_PX))
        for number, pulse in enumerate(sequence.drops, start=1):
            lane = lanes.valve_y(pulse.valve) + lanes.px / 2
            found.append(self._part(f"drop {number}", f"Drop {number} starts", pulse.start_us, lane))
            found.append(self._part(f"open {number}", f"Drop {number} open for", pulse.open_us, lane))
        for item in items_of(sequence, self._chart.setup):
            if item.kind in CAMERA_FIELDS:
                at_us = time_us(sequence, item, self._chart.setup)
                found.append(self._part(f"{item.kind} 1", item.kind.capitalize(), at_us, lanes.top + lanes.px / 2))
        self._parts.show_parts(found)

    def _part(self, key: str, name: str, value_us: int, y: float) -> Part:
        return Part(key, name, MILLISECONDS, value_us, self._chart.place_of(value_us, y))

    def _set(self, key: str, value: float) -> None:
        what, _, number = key.rpartition(" ")
        us, index = round(value), int(number) - 1
        changes: dict[str, Callable[[Sequence], Sequence]] = {
            "flash": lambda sequence: sequence.with_flash(index, us),
            "drop": lambda sequence: sequence.with_start(index, us),
            "open": lambda sequence: sequence.with_open(index, us),
            **{kind.value: partial(with_camera, kind=kind, at_us=us) for kind in CAMERA_FIELDS},
        }
        self.composed.emit(changes[what], f"heard {key}")
        self.released.emit()
