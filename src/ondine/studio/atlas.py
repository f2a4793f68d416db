"""The atlas's answers: where the shots lie over two figures, and what the belief in hand expects there."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.forecast.plan import Plan
from ondine.core.log.regions import regions
from ondine.logbook.query_line import QueryError, Vocabulary, read_query
from ondine.studio.events import Event
from ondine.studio.log_events import PointsFound, RegionsFound, SearchRefused
from ondine.studio.log_service import LogService
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook

View = tuple[float, float, float, float]


class Atlas:
    """Reads points in the reader's thread, foresees regions in one of its own. Returns at once."""

    def __init__(self, log: LogService, clock: Clock, emit: Callable[[Event], None], guard: Guard) -> None:
        self._log, self._clock, self._emit = log, clock, emit
        self._worker = Worker("atlas", "foreseeing the atlas", guard)
        self._wished = 0
        self._is_closed = False

    def find(self, line: str, x: str, y: str) -> None:
        """Ask for the shots that fit a search, over two figures; they come as `PointsFound`."""

        def answer(logbook: Logbook) -> Event:
            try:
                query = read_query(line, Vocabulary(self._clock(), logbook.shapes.all()))
            except QueryError as error:
                return SearchRefused(line, str(error))
            return PointsFound(line, x, y, logbook.search.points(query, x, y))

        self._log.read(answer)

    def foresee(self, plan: Plan, x: str, y: str, view: View) -> None:
        """Ask for the likeliest shapes in view; they come as `RegionsFound`, unless a newer wish overtakes this one."""
        self._wished += 1
        number = self._wished

        def run() -> None:
            if number == self._wished:
                self._emit(RegionsFound(x, y, regions(plan, x, y, view)))

        # A window that is closing may still wish for something, and hears no more.
        if not self._is_closed:
            self._worker.do(run)

    def close(self) -> None:
        """End; what is still wished for is dropped. Called by the thread that wishes."""
        self._is_closed = True
        self._wished += 1
        self._worker.close(drop_waiting=True)
