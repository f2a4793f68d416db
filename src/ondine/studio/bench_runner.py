"""Runs the bench in a thread of its own: shots, series, pours; and reckons what has run through the valve."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import datetime, timedelta

from ondine.bench.protocol import BenchError, Clock, Controller, FiringReport, Pour, Sleep
from ondine.core.forecast.plan import Plan
from ondine.core.light.recycle import recycle_s
from ondine.core.setup import Setup
from ondine.core.table.ledger import Ledger
from ondine.core.table.reservoir import head_after_m
from ondine.core.timing.dials import dialled
from ondine.core.timing.latency import commands_for
from ondine.logbook.file import LogbookError
from ondine.logbook.records import ShotRecord
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
    Trouble,
)
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.sitting import SittingInHand


class BenchRunner:
    """Fires and pours; a shot is written before the valve opens and completed afterwards."""

    def __init__(
        self,
        controller: Controller,
        writer: LogbookWriter,
        sitting: SittingInHand,
        ledger: Ledger,
        clock: Clock,
        emit: Callable[[Event], None],
        sleep: Sleep | None = None,
    ) -> None:
        self.state = BenchState.READY
        self.ledger = ledger
        self._controller, self._writer, self._sitting = controller, writer, sitting
        self._clock, self._emit = clock, emit
        self._thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix="bench")
        self._stop_pouring = threading.Event()
        self._stop_series = threading.Event()
        # Waits end at once when a series is stopped or the window closes.
        self._sleep = sleep or self._stop_series.wait
        self._flash_ready_at: datetime | None = None

    @property
    def name(self) -> str:
        """What the controller is called."""
        return self._controller.name

    def _enter(self, state: BenchState) -> None:
        self.state = state
        self._emit(BenchChanged(state))

    # Firing

    def fire(self, plan: Plan, dark: bool = False, count: int = 1, interval_s: float = 0.0) -> bool:
        """Log and fire a plan; return whether the bench was free to begin.

        `dark` leaves the flash out, to see what the room alone does. A series of `count` goes on at an interval, but
        never faster than the flash recycles; `stop_series` ends it.
        With a box that a hand dials nothing is driven: the shot is logged as the box ran it. Raises DialError.
        """
        if self.state is not BenchState.READY:
            return False
        if plan.setup.box.in_use:
            plan = replace(plan, sequence=dialled(plan.sequence, plan.setup.box))
        self._enter(BenchState.FIRING)
        self._stop_series.clear()
        if count > 1:
            self._thread.submit(self._series, plan, count, interval_s)
        else:
            self._thread.submit(self._once, plan, dark)
        return True

    def stop_series(self) -> None:
        """End a series after the shot under way."""
        self._stop_series.set()

    def _once(self, plan: Plan, dark: bool) -> None:
        try:
            self._fire(plan, dark)
        finally:
            self._enter(BenchState.READY)

    def _series(self, plan: Plan, count: int, interval_s: float) -> None:
        try:
            self._fire_many(plan, count, interval_s)
        finally:
            self._emit(SeriesGoesOn(0, 0))
            self._enter(BenchState.READY)

    def _fire_many(self, plan: Plan, count: int, interval_s: float) -> None:
        for number in range(count):
            if self._stop_series.is_set():
                break
            began = self._clock()
            self._emit(SeriesGoesOn(number, count))
            self._fire(plan, dark=False)
            if number < count - 1:
                self._enter(BenchState.RECYCLING)
                self._sleep(max(interval_s - (self._clock() - began).total_seconds(), 0.0))
                self._enter(BenchState.FIRING)

    def _await_flash(self, setup: Setup) -> bool:
        """Wait until the units have recycled: a flash fired too early is dark or dim, and the water is spent.

        Returns False if the waiting was cut short: then nothing must be fired.
        """
        wait = 0.0 if self._flash_ready_at is None else (self._flash_ready_at - self._clock()).total_seconds()
        if wait > 0:
            self._enter(BenchState.RECYCLING)
            self._sleep(wait)
            self._enter(BenchState.FIRING)
        if self._stop_series.is_set():
            return False
        slowest = max(recycle_s(unit) for unit in setup.light.units)
        self._flash_ready_at = self._clock() + timedelta(seconds=slowest)
        return True

    def _fire(self, plan: Plan, dark: bool) -> None:
        try:
            if not dark and not plan.setup.box.in_use and not self._await_flash(plan.setup):
                return
            shot = self._writer.submit(self._log_planned, plan).result()
            self._emit(ShotLogged(shot))
            self._run(shot.id, plan, dark)
        except LogbookError as error:
            self._emit(Trouble(f"Not fired, because the shot could not be logged. {error}"))

    def _log_planned(self, plan: Plan) -> ShotRecord:
        self._writer.retry()
        shots = self._writer.logbook.shots
        head_m = head_after_m(plan.setup.rig, self.ledger.open_s)
        return shots.get(shots.plan(self._sitting.begun(), plan, self._clock(), head_m))

    def _run(self, shot_id: int, plan: Plan, dark: bool) -> None:
        shots = self._writer.logbook.shots
        try:
            report = self._report(plan, dark)
        except BenchError as error:
            why = str(error)
            self._emit(Trouble(why))
            self._writer.write_surely(lambda: shots.fail(shot_id, why), shot_id)
            return
        self._note_ledger(self.ledger.after_shot(plan.sequence, plan.setup.rig))
        done = (shot_id, report.fired_at, report.flash_us, report.note)
        self._writer.write_surely(lambda: shots.complete(*done), shot_id)
        if report.note and not plan.setup.box.in_use:
            self._emit(Notice(f"Shot {shot_id}: {report.note}."))

    def _report(self, plan: Plan, dark: bool) -> FiringReport:
        box = plan.setup.box
        if box.in_use:
            # Nobody measured when the flash of a box fired.
            return FiringReport(self._clock(), None, f"dialled by hand on {box.name}")
        commands = replace(commands_for(plan.setup, plan.sequence), dark=dark)
        return self._controller.fire(commands, plan.setup)

    # Pouring

    def pour(self, pour: Pour, purpose: Purpose, setup: Setup) -> bool:
        """Dispense without light; return whether the bench was free to begin. `stop_pouring` cuts it short."""
        if self.state is not BenchState.READY:
            return False
        self._stop_pouring.clear()
        self._enter(BenchState.POURING)
        self._thread.submit(self._pour, pour, purpose, setup)
        return True

    def stop_pouring(self) -> None:
        """End a pour after the pulse under way."""
        self._stop_pouring.set()

    def _pour(self, pour: Pour, purpose: Purpose, setup: Setup) -> None:
        def goes_on(done: int) -> bool:
            self._emit(Pouring(done, pour.pulses))
            return not self._stop_pouring.is_set()

        try:
            dispensed = self._controller.pour(pour, setup, goes_on)
            into_bowl = purpose is Purpose.TEST_DROP
            self._note_ledger(self.ledger.after_pour(pour.open_us, dispensed.pulses, setup.rig, into_bowl))
            self._emit(PourEnded(purpose, pour, dispensed))
        except BenchError as error:
            self._emit(Trouble(str(error)))
        finally:
            self._enter(BenchState.READY)

    # What has run through

    def refilled(self) -> None:
        """The reservoir was filled to its mark."""
        self._controller.refilled()
        self._note_ledger(self.ledger.refilled())

    def bowl_changed(self) -> None:
        """The bowl was emptied and filled anew."""
        self._note_ledger(self.ledger.bowl_changed())

    def _note_ledger(self, ledger: Ledger) -> None:
        self.ledger = ledger
        self._writer.write(lambda: self._writer.logbook.state.put("ledger", ledger.to_json()))
        self._emit(LedgerChanged())

    def close(self) -> None:
        """End a firing or a pour in hand."""
        self.stop_pouring()
        self.stop_series()
        self._thread.shutdown(wait=True)
