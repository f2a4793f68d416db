"""One photographer at one table: what is composed, fired, taken in and remembered.

Edits are answered at once; firing and the logbook's writes run in threads of their own, and everything that
comes of them is told as events.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import BenchError, Camera, Clock, Controller, FiringReport, Pour, Sleep
from ondine.core.dials import dialled
from ondine.core.latency import commands_for
from ondine.core.ledger import Ledger
from ondine.core.light.recycle import recycle_s
from ondine.core.sequence import Sequence
from ondine.core.setup import Setup
from ondine.core.wire import sequence_from_json, sequence_to_json, setup_from_json
from ondine.logbook.file import LogbookError
from ondine.logbook.glance import Glance
from ondine.logbook.intake import PictureError
from ondine.logbook.records import ShotQuery
from ondine.studio.afterwards import Afterwards
from ondine.studio.events import (
    BenchChanged,
    BenchState,
    Event,
    FolderChanged,
    LedgerChanged,
    Notice,
    PictureArrived,
    PourEnded,
    Pouring,
    Purpose,
    SequenceChanged,
    SeriesGoesOn,
    SetupFetched,
    SetupsFound,
    ShotLogged,
    ShotsFound,
    Trouble,
)
from ondine.studio.history import History
from ondine.studio.light_table import LightTable
from ondine.studio.pen import Pen
from ondine.studio.pictures import take_arrival
from ondine.studio.sitting import SittingInHand, greeting
from ondine.studio.watch import FolderWatch

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `glance`.
    from ondine.logbook.store import Logbook

DESK_RESTS_S = 0.4
"""How long the hand must rest before the sequence in hand is written: a drag is kept once, not at each pixel."""


@dataclass(frozen=True)
class Table:
    """What is in hand: a sequence and the set-up that it is meant for."""

    sequence: Sequence
    setup: Setup


class Studio:
    """Holds the table in hand and joins bench, logbook and watched folder.

    `emit` is called for every event, from any thread.
    """

    def __init__(
        self,
        open_logbook: Callable[[], Logbook],
        glance: Glance,
        controller: Controller,
        camera: Camera,
        clock: Clock,
        emit: Callable[[Event], None],
        start: tuple[Sequence, Setup],
        sitting: str,
        sleep: Sleep | None = None,
    ) -> None:
        self.glance = glance
        self.state = BenchState.READY
        self._controller, self._camera = controller, camera
        self._clock, self._emit = clock, emit
        self._watch: FolderWatch | None = None
        self.pen = Pen(open_logbook, emit)
        self._bench = ThreadPoolExecutor(max_workers=1, thread_name_prefix="bench")
        self._stop_pouring = threading.Event()
        self._stop_series = threading.Event()
        # Waits end at once when a series is stopped or the window closes.
        self._sleep = sleep or self._stop_series.wait
        self._flash_ready_at: datetime | None = None
        self.light_table = LightTable(emit)
        self._history = History(_from_desk(glance, start))
        self.ledger = Ledger.from_json(glance.desk["ledger"]) if "ledger" in glance.desk else Ledger()
        self.sitting = SittingInHand(self.pen, clock, emit, greeting(self.setup, sitting))
        self._desk = Afterwards(lambda: self.pen.write(self._keep_desk), DESK_RESTS_S, "desk")

    @property
    def logbook(self) -> Logbook:
        """The logbook, once it is open; never asked for in the window's thread. Raises LogbookError."""
        return self.pen.logbook

    @property
    def sequence(self) -> Sequence:
        """The sequence in hand."""
        return self._history.present.sequence

    @property
    def setup(self) -> Setup:
        """The set-up in hand."""
        return self._history.present.setup

    @property
    def bench_name(self) -> str:
        """What the controller is called."""
        return self._controller.name

    # Composing

    def compose(self, sequence: Sequence, gesture: str | None = None) -> None:
        """Take a sequence in hand; steps of one `gesture` are undone together."""
        self._take(Table(sequence, self.setup), gesture)

    def use_setup(self, setup: Setup, gesture: str | None = None) -> None:
        """Take another set-up in hand: a new revision, the old ones stay with their shots."""
        self._take(Table(self.sequence, setup), gesture)

    def _take(self, table: Table, gesture: str | None) -> None:
        if self._history.push(table, gesture):
            self._changed()

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        self._history.end_gesture()

    @property
    def in_gesture(self) -> bool:
        """Whether a hand is dragging, or holding an arrow key."""
        return self._history.in_gesture

    def undo(self) -> None:
        """Take back the last change of sequence or set-up."""
        if self._history.undo():
            self._changed()

    def redo(self) -> None:
        """Do again what was taken back."""
        if self._history.redo():
            self._changed()

    @property
    def can_undo(self) -> bool:
        """Whether there is a change to take back."""
        return self._history.can_undo

    @property
    def can_redo(self) -> bool:
        """Whether there is a change to do again."""
        return self._history.can_redo

    def _changed(self) -> None:
        self._emit(SequenceChanged())
        self._desk.ask()

    def _keep_desk(self) -> None:
        self.logbook.put("sequence", sequence_to_json(self.sequence))
        self.logbook.put("setup", self.setup.to_json())

    # Firing

    def fire(self, dark: bool = False, count: int = 1, interval_s: float = 0.0) -> bool:
        """Log and fire the sequence in hand; return whether the bench was free to begin.

        `dark` leaves the flash out, to see what the room alone does. A series of `count` goes on at an interval, but
        never faster than the flash recycles; `stop_series` ends it.
        With a box that a hand dials nothing is driven: the shot is logged as the box ran it. Raises DialError.
        """
        if self.state is not BenchState.READY:
            return False
        sequence, setup = self.sequence, self.setup
        if setup.box.in_use:
            sequence = dialled(sequence, setup.box)
        self._enter(BenchState.FIRING)
        self._stop_series.clear()
        if count > 1:
            self._bench.submit(self._series, sequence, setup, count, interval_s)
        else:
            self._bench.submit(self._once, sequence, setup, dark)
        return True

    def stop_series(self) -> None:
        """End a series after the shot under way."""
        self._stop_series.set()

    def _once(self, sequence: Sequence, setup: Setup, dark: bool) -> None:
        try:
            self._fire(sequence, setup, dark)
        finally:
            self._enter(BenchState.READY)

    def _series(self, sequence: Sequence, setup: Setup, count: int, interval_s: float) -> None:
        try:
            self._fire_many(sequence, setup, count, interval_s)
        finally:
            self._emit(SeriesGoesOn(0, 0))
            self._enter(BenchState.READY)

    def _fire_many(self, sequence: Sequence, setup: Setup, count: int, interval_s: float) -> None:
        for number in range(count):
            if self._stop_series.is_set():
                break
            began = self._clock()
            self._emit(SeriesGoesOn(number, count))
            self._fire(sequence, setup, dark=False)
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

    def _fire(self, sequence: Sequence, setup: Setup, dark: bool) -> None:
        try:
            if not dark and not setup.box.in_use and not self._await_flash(setup):
                return
            shot_id = self.pen.submit(self._plan, sequence, setup).result()
            self._emit(ShotLogged(self.logbook.shot(shot_id)))
            self._run(shot_id, sequence, setup, dark)
        except LogbookError as error:
            self._emit(Trouble(f"Not fired, because the shot could not be logged. {error}"))

    def _plan(self, sequence: Sequence, setup: Setup) -> int:
        self.pen.retry()
        return self.logbook.plan_shot(self.sitting.begun(), sequence, setup, self._clock())

    def _run(self, shot_id: int, sequence: Sequence, setup: Setup, dark: bool) -> None:
        try:
            if setup.box.in_use:
                report = FiringReport(self._clock(), sequence.flash_us, f"dialled by hand on {setup.box.name}")
            else:
                commands = replace(commands_for(setup, sequence), dark=dark)
                report = self._controller.fire(commands, setup)
        except BenchError as error:
            why = str(error)
            self._emit(Trouble(why))
            self.pen.write_surely(lambda: self.logbook.fail_shot(shot_id, why), shot_id)
            return
        self._note_ledger(self.ledger.after_shot(sequence, setup.rig))
        self.pen.write_surely(lambda: self.logbook.complete_shot(shot_id, report.fired_at, report.note), shot_id)
        if report.note and not setup.box.in_use:
            self._emit(Notice(f"Shot {shot_id}: {report.note}."))

    def _enter(self, state: BenchState) -> None:
        self.state = state
        self._emit(BenchChanged(state))

    # Pouring

    def pour(self, pour: Pour, purpose: Purpose) -> bool:
        """Dispense without light; return whether the bench was free to begin. `stop_pouring` cuts it short."""
        if self.state is not BenchState.READY:
            return False
        self._stop_pouring.clear()
        self._enter(BenchState.POURING)
        self._bench.submit(self._pour, pour, purpose, self.setup)
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

    def refilled(self) -> None:
        """The reservoir was filled to its mark."""
        self._controller.refilled()
        self._note_ledger(self.ledger.refilled())

    def bowl_changed(self) -> None:
        """The bowl was emptied and filled anew."""
        self._note_ledger(self.ledger.bowl_changed())

    def _note_ledger(self, ledger: Ledger) -> None:
        self.ledger = ledger
        self.keep("ledger", ledger.to_json())
        self._emit(LedgerChanged())

    # Remembering

    def toggle_tag(self, shot_id: int, shape: str) -> None:
        """Tag a shot, or take the tag off."""
        self.pen.write(lambda: self.logbook.toggle_tag(shot_id, shape), shot_id)

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        self.pen.write(lambda: self.logbook.rate(shot_id, rating), shot_id)

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace a shot's note."""
        self.pen.write(lambda: self.logbook.annotate(shot_id, note), shot_id)

    def keep(self, key: str, value: str) -> None:
        """Keep a choice (theme, folder) on the desk."""
        self.pen.write(lambda: self.logbook.put(key, value))

    def find(self, query: ShotQuery) -> None:
        """Search the log; the answer comes as `ShotsFound`."""
        self.pen.write(lambda: self._emit(ShotsFound(self.logbook.find(query))))

    def keep_setup(self, name: str) -> None:
        """Keep the set-up in hand under a name."""
        setup = self.setup

        def keep() -> None:
            self.logbook.keep_setup(name, setup, self._clock())
            self._tell_setups()

        self.pen.write(keep)

    def forget_setup(self, name: str) -> None:
        """Take a name off the shelf."""

        def forget() -> None:
            self.logbook.forget_setup(name)
            self._tell_setups()

        self.pen.write(forget)

    def list_setups(self) -> None:
        """Tell the named set-ups."""
        self.pen.write(self._tell_setups)

    def fetch_setup(self, shot_id: int) -> None:
        """Tell the set-up that a shot was fired with, as `SetupFetched`."""

        def fetch() -> None:
            self._emit(SetupFetched(shot_id, self.logbook.setup(self.logbook.shot(shot_id).setup_id)))

        self.pen.write(fetch)

    def _tell_setups(self) -> None:
        self._emit(SetupsFound(self.logbook.kept_setups()))

    # Pictures

    def watch_folder(self, folder: Path) -> None:
        """Take pictures from this folder from now on; the camera, if it can be told, delivers there."""
        folder = folder.absolute()
        if self._watch is not None:
            self._watch.stop()
        self._camera.deliver_to(folder, lambda error: self._emit(Trouble(str(error))))
        self._watch = FolderWatch(folder, self._picture_arrived, self._picture_refused, self._folder_presence)
        self._watch.start()
        self.keep("folder", str(folder))
        self._emit(FolderChanged(folder, folder.is_dir()))

    def _picture_arrived(self, path: Path) -> None:
        try:
            taken = take_arrival(self.logbook, path, self._clock())
        except LogbookError as error:
            self._emit(Trouble(f"The picture {path.name} is not logged. {error}"))
            raise PictureError(str(error)) from error
        if taken.shot_id is None:
            self._emit(Notice(f"{path.name} was kept without a shot: none was fired just before it came."))
        elif taken.new:
            self._emit(PictureArrived(self.logbook.shot(taken.shot_id)))

    def _picture_refused(self, error: PictureError) -> None:
        self._emit(Trouble(str(error)))

    def _folder_presence(self, present: bool) -> None:
        assert self._watch is not None
        folder = self._watch.folder
        self._emit(FolderChanged(folder, present))
        if not present:
            self._emit(
                Trouble(f"The folder {folder} is gone, so no pictures come in. Put it back, or choose another folder.")
            )

    # Leaving

    def close(self) -> None:
        """End a firing in hand, write what is waiting, and let everything go."""
        if self._watch is not None:
            self._watch.stop()
        self.stop_pouring()
        self.stop_series()
        self.light_table.close()
        self._bench.shutdown(wait=True)
        self._desk.close()
        self._camera.close()
        self.pen.close()


def _from_desk(glance: Glance, start: tuple[Sequence, Setup]) -> Table:
    """What lay on the desk at the last closing, or the start."""
    sequence, setup = glance.desk.get("sequence"), glance.desk.get("setup")
    return Table(
        sequence_from_json(sequence) if sequence else start[0],
        setup_from_json(setup) if setup else start[1],
    )


def present() -> datetime:
    """The computer's time, with its zone."""
    return datetime.now().astimezone()
