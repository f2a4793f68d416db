"""One photographer at one table: composing, bench, log and intake, joined.

Edits are answered at once; firing, reading and the logbook's writes run in threads of their own, and everything
that comes of them is told as events.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import TYPE_CHECKING

from ondine.bench.protocol import CameraDevice, Clock, Controller, Sleep
from ondine.core.forecast.plan import Plan
from ondine.core.table.ledger import Ledger
from ondine.logbook.snapshot import Snapshot
from ondine.studio.bench_runner import BenchRunner
from ondine.studio.composer import Composer, plan_kept
from ondine.studio.events import Event
from ondine.studio.intake import Intake
from ondine.studio.light_table import LightTable
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.sitting import SittingInHand, greeting

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook


class Studio:
    """Builds the use-cases around one logbook and one bench, and ends them in order.

    `emit` is called for every event, from any thread.
    """

    def __init__(
        self,
        open_logbook: Callable[[], Logbook],
        snapshot: Snapshot,
        controller: Controller,
        camera: CameraDevice,
        clock: Clock,
        emit: Callable[[Event], None],
        start: Plan,
        sitting: str,
        sleep: Sleep | None = None,
    ) -> None:
        self.snapshot = snapshot
        self.writer = LogbookWriter(open_logbook, emit)
        self.composer = Composer(plan_kept(snapshot.state, start), self.writer, emit)
        self.log = LogService(self.writer, clock, emit)
        self.sitting = SittingInHand(self.writer, clock, emit, greeting(self.composer.setup, sitting))
        ledger = Ledger.from_json(snapshot.state["ledger"]) if "ledger" in snapshot.state else Ledger()
        self.bench = BenchRunner(controller, self.writer, self.sitting, ledger, clock, emit, sleep)
        self.intake = Intake(camera, self.writer, clock, emit)
        self.light_table = LightTable(emit)

    def close(self) -> None:
        """End a firing in hand, write what is waiting, and let everything go."""
        self.bench.stop_pouring()
        self.bench.stop_series()
        self.light_table.close()
        self.bench.close()
        self.intake.close()
        self.composer.close()
        self.log.close()
        self.writer.close()


def now() -> datetime:
    """The computer's time, with its zone."""
    return datetime.now().astimezone()
