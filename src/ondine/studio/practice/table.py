"""The practice table: puts hidden rigs on the simulated bench, counts the shots, and says when the goal is reached."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Protocol

from ondine.bench.protocol import Clock
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.levels import Level
from ondine.core.belief.priors import Belief, belief_from_json
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import counted
from ondine.core.setup import Camera
from ondine.core.setup.wire import setup_from_json
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from ondine.logbook.records import SittingFacts
from ondine.studio.bench_runner import BenchRunner
from ondine.studio.composer import Composer
from ondine.studio.events import BenchState, Event, Notice, PracticeChanged, RigMeasured, Showed
from ondine.studio.kept import KeptState
from ondine.studio.log_service import LogService
from ondine.studio.practice.book import Before, PracticeBook, Round, Run, book_from_json
from ondine.studio.sitting import SittingInHand
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SciPy stands behind it, and nobody practises in the first frame.
    from ondine.bench.simulated.population import PracticeRig

GOALS = ("full-umbrella", "jet-top", "crown")
"""What a run may be after: what two equal drops of one valve can show on each hidden rig."""

KEY = "practice"
MAGNIFICATION = 0.16
"""The practice tables' frame: tall enough for the jets of high nozzles."""

FIRST_RIG = {Level.EASY: 1001, Level.NORMAL: 2001, Level.TREACHEROUS: 3001}
"""The rigs of a level are numbered on from here: each photographer meets them in the same order."""


class HiddenTable(Protocol):
    """A simulated controller on whose table another rig can be put."""

    def put(self, rig: HiddenRig, seed: int, shots: int) -> None:
        """Simulate this rig, and tell what its pictures show; `shots` it has fired before."""
        ...

    def put_back(self) -> None:
        """Simulate the bench's own rig again."""
        ...


class PracticeTable:
    """Holds what has been practised. Called in the window's thread; the par is found in a thread of its own.

    Raises nothing; what cannot be done now is not done, and the calls say so.
    """

    def __init__(
        self,
        table: HiddenTable,
        composer: Composer,
        bench: BenchRunner,
        sitting: SittingInHand,
        log: LogService,
        kept: KeptState,
        clock: Clock,
        emit: Callable[[Event], None],
        guard: Guard,
    ) -> None:
        self._table, self._composer, self._bench = table, composer, bench
        self._sitting, self._log, self._clock, self._emit = sitting, log, clock, emit
        self.book = kept.read(KEY, book_from_json, PracticeBook())
        self.measured: RigMeasured | None = None
        self._stopped = threading.Event()
        self._worker = Worker("practice", "the par of the practice table", guard)
        if self.book.run is not None:
            self._put(self.book.run, len(self.book.shown))

    @property
    def rig(self) -> PracticeRig | None:
        """The hidden rig that stands on the bench, as new."""
        run = self.book.run
        return None if run is None else _rig(run)

    @property
    def is_running(self) -> bool:
        """Whether a run goes on."""
        return self.book.run is not None and not self.book.run.over

    @property
    def allows_hints(self) -> bool:
        """Whether the coach may speak: not in a run that is made without it."""
        run = self.book.run
        return run is None or run.over or run.hints

    def begin(self, level: Level, goal: str, hints: bool) -> bool:
        """Put the next rig of a level on the bench, with what its photographer entered; return whether it was free."""
        if self._bench.state is not BenchState.READY:
            return False
        self._give_up()
        number = FIRST_RIG[level] + sum(run.level is level for run in self.book.runs)
        plan = self._composer.plan
        before = Before(sequence_to_json(plan.sequence), plan.setup.to_json(), plan.belief.to_json())
        run = Run(level, number, goal, hints, self._clock().isoformat())
        self._keep(self.book.begun(run, before))
        self._put(run, 0)
        rig = _rig(run)
        camera = Camera(magnification=MAGNIFICATION)
        self._use(Plan(rig.start, replace(rig.setup, name=rig_name(run), camera=camera), Belief()))
        self._next_sitting(rig_name(run))
        return True

    def give_up(self) -> None:
        """End a run without having found it."""
        self._give_up()
        self._emit(PracticeChanged())

    def _give_up(self) -> None:
        run = self.book.run
        if run is not None and not run.over:
            self._keep(self.book.with_run(replace(run, over=True)))

    def leave(self) -> bool:
        """Put the bench's own rig back, and what was in hand before; return whether the bench was free."""
        before = self.book.before
        if self._bench.state is not BenchState.READY or self.book.run is None:
            return False
        self._give_up()
        self._stop_measuring()
        self._keep(replace(self.book, on_bench=False, shown=(), before=None))
        self._bench.between_shots(self._table.put_back)
        self._bench.refilled()
        self._bench.bowl_changed()
        if before is not None:
            self._use(_plan(before))
        self._next_sitting("Practice")
        self._emit(PracticeChanged())
        return True

    def showed(self, event: Showed) -> None:
        """Hear what a shot on the hidden rig shows."""
        if self.book.run is not None:
            self._keep(self.book.fired(event))
            self._emit(PracticeChanged())

    def tagged(self, shot: int, shapes: tuple[str, ...]) -> None:
        """Hear how a shot is tagged: a run ends with the first picture that shows the goal and is recognised."""
        run = self.book.run
        if run is None or run.over or run.goal not in shapes:
            return
        truly = next((shown.shape for shown in self.book.shown if shown.shot == shot), None)
        if truly is None:
            return
        if truly != run.goal:
            self._emit(Notice(f"Not yet: that picture shows {BY_KEY[truly].name}. Go on searching."))
            return
        self._keep(self.book.with_run(replace(run, over=True, found=True)))
        self._emit(
            Notice(f"Found in {counted(run.shots, 'shot')}{_par_words(run)}. Ctrl E shows what the rig truly is.")
        )
        self._emit(PracticeChanged())

    def take(self, measured: RigMeasured) -> None:
        """Hear what the coach needs on a rig."""
        run = self.book.run
        if run is not None and run.rig == measured.rig:
            self.measured = measured
            self._keep(self.book.with_run(replace(run, par=measured.par)))
            self._emit(PracticeChanged())

    def add_round(self, one: Round) -> None:
        """Remember a round of naming pictures."""
        self._keep(replace(self.book, rounds=(*self.book.rounds, one)))
        self._emit(PracticeChanged())

    def close(self) -> None:
        """End the search for a par."""
        self._stop_measuring()
        self._worker.close(drop_waiting=True)

    def _put(self, run: Run, shots: int) -> None:
        self._bench.between_shots(lambda: self._table.put(_rig(run).hidden, run.rig, shots))
        self._bench.refilled()
        self._bench.bowl_changed()
        self._stop_measuring()
        self.measured, self._stopped = None, threading.Event()
        self._worker.do(self._measure, run, self._stopped)

    def _measure(self, run: Run, stopped: threading.Event) -> None:
        from ondine.studio.practice.par import measure

        found = measure(run.level, run.rig, run.goal, lambda: not stopped.is_set())
        if found is not None:
            self._emit(found)

    def _stop_measuring(self) -> None:
        self._stopped.set()

    def _use(self, plan: Plan) -> None:
        # What was learned is of another rig.
        self._composer.learn(None)
        self._composer.use_plan(plan)

    def _next_sitting(self, name: str) -> None:
        was_looked_after = self._sitting.preflight_done
        self._sitting.begin_anew(SittingFacts(name=name, temperature_c=self._composer.setup.mix.temperature_c))
        # The same room, the same towels: only the rig is another one.
        self._sitting.preflight_done = was_looked_after

    def _keep(self, book: PracticeBook) -> None:
        self.book = book
        self._log.keep(KEY, book.to_json())


def _rig(run: Run) -> PracticeRig:
    from ondine.bench.simulated.population import PracticeRig

    return PracticeRig(run.rig, run.level)


def rig_name(run: Run) -> str:
    """Name the rig of a run."""
    return f"Hidden rig {run.rig}, {run.level}"


def _par_words(run: Run) -> str:
    return f", par is {run.par}" if run.par else ""


def _plan(before: Before) -> Plan:
    return Plan(sequence_from_json(before.sequence), setup_from_json(before.setup), belief_from_json(before.belief))
