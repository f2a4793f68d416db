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
from ondine.core.setup import BenchKind
from ondine.core.table.ledger import Ledger
from ondine.logbook.errors import RESCUE
from ondine.logbook.snapshot import Snapshot
from ondine.studio.backups import Backups
from ondine.studio.bench_runner import BenchRunner
from ondine.studio.composer import Composer, plan_kept
from ondine.studio.errands import Errands
from ondine.studio.events import Event, Trouble
from ondine.studio.exchange import Exchange
from ondine.studio.foreseen.preview import Preview, StartTracer
from ondine.studio.intake import Intake
from ondine.studio.kept import ASIDE, KeptState
from ondine.studio.light_table import LightTable
from ondine.studio.log_exchange import LogExchange
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.sitting import SittingInHand, greeting
from ondine.studio.table_desk import TableDesk
from ondine.studio.worker import Guard

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook
    from ondine.studio.atlas import Atlas
    from ondine.studio.card_desk import CardDesk
    from ondine.studio.coaching import Coaching
    from ondine.studio.log_search import LogSearch
    from ondine.studio.practice.gallery import Gallery
    from ondine.studio.practice.table import PracticeTable


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
        self.snapshot, self._clock, self._emit = snapshot, clock, emit
        self.kept = KeptState(snapshot.state)
        self.guard = Guard(emit)
        self.writer = LogbookWriter(open_logbook, emit, self.guard)
        self.composer = Composer(plan_kept(self.kept, start), self.writer, emit, self.guard)
        self.log = LogService(self.writer, clock, emit, self.guard)
        self.errands = Errands(self.writer, emit, self.guard)
        self.log_exchange = LogExchange(self.errands, self.writer, self.log, clock, emit)
        self.table_desk = TableDesk(self.errands, self.writer, clock, emit)
        self.backups = Backups(self.writer, clock, emit, self.guard)
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
        self._search: LogSearch | None = None
        self._atlas: Atlas | None = None
        self._card: CardDesk | None = None
        self._coach: Coaching | None = None
        self._gallery: Gallery | None = None
        self.practice: PracticeTable | None = None
        if bench.kind is BenchKind.SIMULATED:
            self._lay_practice_table(bench, clock)

    def _lay_practice_table(self, bench: Bench, clock: Clock) -> None:
        from ondine.bench.simulated.devices import SimulatedController
        from ondine.studio.practice.table import PracticeTable

        if isinstance(bench.controller, SimulatedController):
            self.practice = PracticeTable(
                bench.controller, self.composer, self.bench, self.sitting, self.log, self.kept, clock, self._emit,
                self.guard,
            )  # fmt: skip

    # What comes when it is first asked for: the first frame does not wait for it

    @property
    def search(self) -> LogSearch:
        """Searches of the log."""
        if self._search is None:
            from ondine.studio.log_search import LogSearch

            self._search = LogSearch(self.log, self.writer, self._clock)
        return self._search

    @property
    def atlas(self) -> Atlas:
        """The atlas's answers."""
        if self._atlas is None:
            from ondine.studio.atlas import Atlas

            self._atlas = Atlas(self.log, self._clock, self._emit, self.guard)
        return self._atlas

    @property
    def card(self) -> CardDesk:
        """A camera's card."""
        if self._card is None:
            from ondine.studio.card_desk import CardDesk

            self._card = CardDesk(self.bench.kind, self.writer, self._clock, self._emit, self.guard)
        return self._card

    @property
    def coach(self) -> Coaching:
        """The coach."""
        if self._coach is None:
            from ondine.core.coach.changes import Correction
            from ondine.studio.coaching import Coaching

            none: list[Correction] = []
            corrections = self.kept.read("corrections", lambda text: plain.parse_list(Correction, text), none)
            self._coach = Coaching(
                self.writer, self.composer, self.bench.kind, self._emit, self.guard, frozenset(corrections),
                self._counts, self.bench.outputs,
            )  # fmt: skip
        return self._coach

    @property
    def gallery(self) -> Gallery:
        """What makes pictures to name."""
        if self._gallery is None:
            from ondine.studio.practice.gallery import Gallery

            self._gallery = Gallery(self._emit, self.guard)
        return self._gallery

    def _counts(self, shot: int) -> bool:
        """Whether a shot was fired on the rig that stands on the bench: others teach nothing of it."""
        return self.practice is None or self.practice.book.counts(shot)

    def say_what_was_set_aside(self) -> None:
        """Tell what of the logbook could not be read at the start, and keep its old text; once somebody listens."""
        for key, text in self.kept.set_aside.items():
            self.log.keep(f"{ASIDE}{key}", text)
        words = [self.kept.words]
        if self.snapshot.unreadable:
            words.append(f"{self.snapshot.unreadable} of the newest shots cannot be read: left out. {RESCUE}")
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
        for part in (self._coach, self._gallery, self.practice, self._atlas, self._card):
            if part is not None:
                part.close()
        self.preview.close()
        self.light_table.close()
        self.exchange.close()
        self.errands.close()
        self.backups.close()
        self.bench.close()
        self.intake.close()
        self.composer.close()
        self.log.close()
        self.writer.close()


def now() -> datetime:
    """The computer's time, with its zone."""
    return datetime.now().astimezone()
