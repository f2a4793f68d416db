"""Runs the bench in a thread of its own: shots, series, pours; and reckons what has run through the valve.

The controller and the ledger belong to that thread alone. All waiting goes by a clock that nobody can set.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from collections.abc import Sequence as Plans
from dataclasses import replace
from datetime import datetime

from ondine.bench.protocol import Bench, BenchError, Clock, Pour, Sleep, Ticks
from ondine.core.forecast.plan import Plan
from ondine.core.light.recycle import recycle_s
from ondine.core.setup import Setup
from ondine.core.table.firing import as_fired, pour_problems, problems
from ondine.core.table.ledger import Ledger
from ondine.core.timing.latency import commands_for
from ondine.core.timing.limits import Outputs, Problem, SequenceError
from ondine.logbook.errors import LogbookError
from ondine.logbook.outcomes import Outcome
from ondine.logbook.records import ShotRecord, ShotState
from ondine.studio.events import (
    BenchChanged,
    BenchState,
    Event,
    LedgerChanged,
    Notice,
    PourEnded,
    Pouring,
    Purpose,
    SeriesGoesOn,
    ShotLogged,
    Showed,
    Trouble,
)
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.sitting import SittingInHand
from ondine.studio.valve_book import ValveBook
from ondine.studio.worker import Guard, Worker


class BenchRunner:
    """Fires and pours; a shot is written before the valve opens and completed afterwards.

    `shot_fires(number)` is called in the moment before: pictures are told apart by it.
    """

    def __init__(
        self,
        bench: Bench,
        writer: LogbookWriter,
        sitting: SittingInHand,
        ledger: Ledger,
        clock: Clock,
        ticks: Ticks,
        emit: Callable[[Event], None],
        guard: Guard,
        shot_fires: Callable[[int], None] = lambda _: None,
        sleep: Sleep | None = None,
    ) -> None:
        self.state = BenchState.READY
        self.kind, self._controller = bench.kind, bench.controller
        self._writer, self._sitting = writer, sitting
        self._clock, self._ticks, self._emit, self._shot_fires = clock, ticks, emit, shot_fires
        self.valves = ValveBook(ledger, ticks, self._keep_ledger)
        self._worker = Worker("bench", "at the bench", guard)
        self._stop_pouring = threading.Event()
        self._stop_series = threading.Event()
        # Waits end at once when a series is stopped or the window closes.
        self._sleep = sleep or self._stop_series.wait
        self._flash_ready_s: float | None = None

    def _enter(self, state: BenchState) -> None:
        self.state = state
        self._emit(BenchChanged(state))

    def _job(self, job: Callable[..., object], *arguments: object) -> None:
        """Do a job in the bench's thread; whatever comes of it, the bench is free again."""

        def run() -> None:
            try:
                job(*arguments)
            finally:
                self._enter(BenchState.READY)

        self._worker.do(run)

    # Firing

    @property
    def outputs(self) -> Outputs | None:
        """What the controller can drive; None where a hand does it."""
        return self._controller.outputs

    @property
    def ledger(self) -> Ledger:
        """What has run through the valves, and what lies in the bowl."""
        return self.valves.ledger

    def problems(self, plan: Plan) -> tuple[Problem, ...]:
        """Return why a plan must not be fired now; none if it may be."""
        return problems(plan.sequence, plan.setup, self.valves.use, self._ticks(), self.outputs)

    def _checked(self, plan: Plan) -> Plan:
        """Return a plan as its box can be dialled. Raises DialError, and SequenceError for one that must not fire."""
        made = as_fired(plan.sequence, plan.setup, self.valves.use, self._ticks(), self.outputs)
        return replace(plan, sequence=made)

    def fire(self, plan: Plan, dark: bool = False, count: int = 1, interval_s: float = 0.0) -> bool:
        """Log and fire a plan; return whether the bench was free to begin.

        `dark` leaves the flash out, to see what the room alone does. A series of `count` goes on at an interval, but
        never faster than the flash recycles; `stop_series` ends it.
        With a box that a hand dials the shot is fired and logged as its dials can say it.
        Raises DialError; SequenceError for what the valve or the table does not allow.
        """
        if count > 1:
            return self.fire_all([plan] * count, interval_s)
        if self.state is not BenchState.READY:
            return False
        checked = self._checked(plan)
        self._stop_series.clear()
        self._enter(BenchState.FIRING)
        self._job(self._fire, checked, dark)
        return True

    def fire_all(self, plans: Plans[Plan], interval_s: float = 0.0) -> bool:
        """Fire plans one after the other, as `fire` fires each; return whether the bench was free to begin.

        All are checked before the first, and each once more before it fires. Raises as `fire` does.
        """
        if self.state is not BenchState.READY:
            return False
        checked = [self._checked(plan) for plan in plans]
        self._stop_series.clear()
        self._enter(BenchState.FIRING)
        self._job(self._series, checked, interval_s)
        return True

    def stop_series(self) -> None:
        """End a series after the shot under way."""
        self._stop_series.set()

    def _series(self, plans: Plans[Plan], interval_s: float) -> None:
        count = len(plans)
        try:
            for number, plan in enumerate(plans):
                if self._stop_series.is_set():
                    break
                began_s = self._ticks()
                self._emit(SeriesGoesOn(number, count))
                self._wait(self.valves.rest_s(plan, began_s), BenchState.RESTING)
                if not self._fire(plan, dark=False):
                    break
                if number < count - 1:
                    self._wait(interval_s - (self._ticks() - began_s), BenchState.BETWEEN)
        finally:
            self._emit(SeriesGoesOn(0, 0))

    def _wait(self, seconds: float, state: BenchState) -> None:
        if seconds > 0:
            self._enter(state)
            self._sleep(seconds)
            self._enter(BenchState.FIRING)

    def _await_flash(self, setup: Setup) -> None:
        """Wait until the units have recycled: a flash fired too early is dark or dim, and the water is spent."""
        if self._flash_ready_s is not None:
            self._wait(self._flash_ready_s - self._ticks(), BenchState.RECYCLING)
        slowest = max(recycle_s(unit) for unit in setup.light.units)
        self._flash_ready_s = self._ticks() + slowest

    def _fire(self, plan: Plan, dark: bool) -> bool:
        """Fire once; return whether it was done."""
        if not dark and self.kind.is_driven:
            self._await_flash(plan.setup)
        if self._stop_series.is_set():
            return False
        # Asked once more: minutes may have passed since the hand asked, and the valve was open in them.
        found = self.problems(plan)
        if found:
            self._emit(Trouble(f"Not fired. {' '.join(problem.says for problem in found)}"))
            return False
        head_m = self.valves.head_m(plan)
        try:
            shot, planned_at = self._writer.submit(self._log_planned, plan, head_m).result()
        except LogbookError as error:
            self._emit(Trouble(f"Not fired, because the shot could not be logged. {error}"))
            return False
        self._emit(ShotLogged(shot))
        self._shot_fires(shot.id)
        self._run(Outcome(shot.id, planned_at, ShotState.UNKNOWN), plan, dark)
        return True

    def _log_planned(self, plan: Plan, head_m: float) -> tuple[ShotRecord, datetime]:
        self._writer.retry()
        shots, planned_at = self._writer.logbook.shots, self._clock()
        number = shots.plan(self._sitting.begun(), plan, planned_at, head_m, self.kind)
        return shots.get(number), planned_at

    def _run(self, outcome: Outcome, plan: Plan, dark: bool) -> None:
        try:
            commands = replace(commands_for(plan.setup, plan.sequence), dark=dark)
            report = self._controller.fire(commands, plan.setup)
        except BenchError as error:
            self._emit(Trouble(str(error)))
            self._writer.finish(replace(outcome, state=ShotState.FAILED, report=str(error)))
            return
        except Exception:
            # Whether water fell nobody knows; the valve counts as used.
            self._writer.finish(replace(outcome, fired_at=outcome.planned_at, report="the bench failed"))
            self.valves.opened(plan)
            raise
        self.valves.opened(plan)
        self.valves.fired(plan)
        fired = replace(outcome, state=ShotState.FIRED, fired_at=report.fired_at, flash_reports_us=report.flashes_us)
        self._writer.finish(replace(fired, report=report.note))
        if report.showed:
            self._emit(Showed(outcome.shot_id, plan.sequence, report.showed))
        if report.note and self.kind.is_driven:
            self._emit(Notice(f"Shot {outcome.shot_id}: {report.note}."))

    # Pouring

    def pour(self, pour: Pour, purpose: Purpose, setup: Setup) -> bool:
        """Dispense without light; return whether the bench was free to begin. `stop_pouring` cuts it short.

        Raises SequenceError for what the valve does not allow.
        """
        if self.state is not BenchState.READY:
            return False
        use, valve = self.valves.use_of(pour.valve), setup.valve(pour.valve)
        found = pour_problems(pour.open_us, pour.pulses, pour.period_us, valve, use, self._ticks())
        if found:
            raise SequenceError(found)
        self._stop_pouring.clear()
        self._enter(BenchState.POURING)
        self._job(self._pour, pour, purpose, setup)
        return True

    def stop_pouring(self) -> None:
        """End a pour after the pulse under way."""
        self._stop_pouring.set()

    def _pour(self, pour: Pour, purpose: Purpose, setup: Setup) -> None:
        came = 0

        def goes_on(done: int) -> bool:
            nonlocal came
            came = done
            self._emit(Pouring(done, pour.pulses))
            return not self._stop_pouring.is_set()

        dispensed = None
        try:
            dispensed = self._controller.pour(pour, setup, goes_on)
        except BenchError as error:
            self._emit(Trouble(str(error)))
        finally:
            # What came before the bench failed has run through the valve too.
            self.valves.poured(pour, came, setup, into_bowl=purpose is Purpose.TEST_DROP)
        if dispensed is not None:
            self._emit(PourEnded(purpose, pour, dispensed))

    def between_shots(self, job: Callable[[], object]) -> None:
        """Do something to the table once what the bench is at is done."""
        self._worker.do(job)

    # What has run through

    def refilled(self) -> None:
        """The reservoir was filled to its mark."""
        self._worker.do(self._refilled)

    def _refilled(self) -> None:
        self._controller.refilled()
        self.valves.write(self.ledger.refilled())

    def bowl_changed(self) -> None:
        """The bowl was emptied and filled anew."""
        self._worker.do(lambda: self.valves.write(self.ledger.bowl_changed()))

    def _keep_ledger(self, ledger: Ledger) -> None:
        self._writer.write(lambda: self._writer.logbook.state.put("ledger", ledger.to_json()))
        self._emit(LedgerChanged())

    def wait(self) -> None:
        """Wait until what was begun is done; never called in a window that is used."""
        self._worker.wait()

    def close(self) -> None:
        """End a firing or a pour in hand."""
        self.stop_pouring()
        self.stop_series()
        self._worker.close()
