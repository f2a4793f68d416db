"""One photographer at one table: composing, bench, log and intake, joined.

Edits are answered at once; firing, reading and the logbook's writes run in threads of their own, and everything
that comes of them is told as events.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import datetime
from typing import TYPE_CHECKING

from ondine.bench.protocol import Bench, Clock, Sleep, Ticks
from ondine.core import plain
from ondine.core.forecast.plan import Plan
from ondine.core.table.ledger import Ledger
from ondine.logbook.errors import RESCUE
from ondine.logbook.snapshot import Snapshot
from ondine.studio.bench_runner import BenchRunner
from ondine.studio.composer import Composer, plan_kept
from ondine.studio.events import Event, Trouble
from ondine.studio.exchange import Exchange
from ondine.studio.foreseen.preview import Preview, StartTracer
from ondine.studio.intake import Intake
from ondine.studio.kept import ASIDE, KeptState
from ondine.studio.light_table import LightTable
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.sitting import SittingInHand, greeting
from ondine.studio.worker import Guard

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook
    from ondine.studio.coaching import Coaching


class Studio:
    """Builds the use-cases around one logbook and one bench, and ends them in order.

    `emit` is called for every event, from any thread. Without `start_tracer` no picture is foreseen.
    """

    def __init__(
        self,
        open_logbook: Callable[[], Logbook],
        snapshot: Snapshot,
        bench: Bench,
        clock: Clock,
        emit: Callable[[Event], None],
        start: Plan,
        sitting: str,
        sleep: Sleep | None = None,
        ticks: Ticks = time.monotonic,
        start_tracer: StartTracer | None = None,
    ) -> None:
        self.snapshot, self._emit = snapshot, emit
        self.kept = KeptState(snapshot.state)
        self.guard = Guard(emit)
        self.writer = LogbookWriter(open_logbook, emit, self.guard)
        self.composer = Composer(plan_kept(self.kept, start), self.writer, emit, self.guard)
        self.log = LogService(self.writer, clock, emit, self.guard)
        self.sitting = SittingInHand(self.writer, clock, emit, greeting(self.composer.setup, sitting))
        ledger = self.kept.read("ledger", Ledger.from_json, Ledger())
        self.intake = Intake(bench, self.writer, clock, ticks, emit, self.guard)
        self.bench = BenchRunner(
            bench,
            self.writer,
            self.sitting,
            ledger,
            clock,
            ticks,
            emit,
            self.guard,
            self.intake.shot_fires,
            sleep,
        )
        self.light_table = LightTable(emit, self.guard)
        self.exchange = Exchange(bench.kind, emit, self.guard)
        self.preview = Preview(start_tracer, emit, self.guard)
        self._coach: Coaching | None = None

    @property
    def coach(self) -> Coaching:
        """The coach, which comes when it is first asked for."""
        if self._coach is None:
            from ondine.core.coach.changes import Correction
            from ondine.studio.coaching import Coaching

            none: list[Correction] = []
            corrections = self.kept.read("corrections", lambda text: plain.parse_list(Correction, text), none)
            self._coach = Coaching(
                self.writer, self.composer, self.bench.kind, self._emit, self.guard, frozenset(corrections)
            )
        return self._coach

    def say_what_was_set_aside(self) -> None:
        """Tell what of the logbook could not be read at the start, and keep its old text; once somebody listens."""
        for key, text in self.kept.set_aside.items():
            self.log.keep(f"{ASIDE}{key}", text)
        words = [self.kept.words]
        if self.snapshot.unreadable:
            words.append(f"{self.snapshot.unreadable} of the newest shots cannot be read and are left out. {RESCUE}")
        said = " ".join(word for word in words if word)
        if said:
            self._emit(Trouble(said))

    def settle(self) -> str:
        """End what the bench does and write what waits; return a sentence if something cannot be written."""
        self.bench.stop_pouring()
        self.bench.stop_series()
        self.bench.wait()
        return self.writer.settle()

    def close(self) -> None:
        """End a firing in hand, write what is waiting, and let everything go."""
        self.bench.stop_pouring()
        self.bench.stop_series()
        if self._coach is not None:
            self._coach.close()
        self.preview.close()
        self.light_table.close()
        self.exchange.close()
        self.bench.close()
        self.intake.close()
        self.composer.close()
        self.log.close()
        self.writer.close()


def now() -> datetime:
    """The computer's time, with its zone."""
    return datetime.now().astimezone()
