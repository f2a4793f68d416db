"""One photographer at one table: what is composed, fired, taken in and remembered.

Edits are answered at once; firing and the logbook's writes run in threads of their own, and everything that
comes of them is told as events.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import BenchError, Camera, Clock, Controller, FiringReport
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
    Notice,
    PictureArrived,
    SequenceChanged,
    ShotChanged,
    ShotLogged,
    ShotsFound,
    Trouble,
)
from ondine.studio.history import History
from ondine.studio.pictures import take_arrival
from ondine.studio.watch import FolderWatch

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `glance`.
    from ondine.logbook.store import Logbook

DESK_RESTS_S = 0.4
"""How long the hand must rest before the sequence in hand is written: a drag is kept once, not at each pixel."""


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
    ) -> None:
        self.glance = glance
        self.state = BenchState.READY
        self._controller, self._camera = controller, camera
        self._clock, self._emit = clock, emit
        self._sitting_name = sitting
        self._sitting_id: int | None = None
        self._watch: FolderWatch | None = None
        self._pen = ThreadPoolExecutor(max_workers=1, thread_name_prefix="logbook")
        self._bench = ThreadPoolExecutor(max_workers=1, thread_name_prefix="bench")
        self._unwritten: list[Callable[[], object]] = []
        # Loading and opening take a moment: nothing but the pen and those who wait for it need them.
        self._opened = self._pen.submit(open_logbook)
        self._opened.add_done_callback(self._opening_done)
        sequence, self.setup = _from_desk(glance, start)
        self._history = History(sequence)
        self._desk = Afterwards(lambda: self._write(self._keep_desk), DESK_RESTS_S, "desk")

    @property
    def logbook(self) -> Logbook:
        """The logbook, once it is open; never asked for in the window's thread. Raises LogbookError."""
        return self._opened.result()

    def _opening_done(self, opened: Future[Logbook]) -> None:
        error = opened.exception()
        if error is not None:
            self._emit(Trouble(str(error)))

    @property
    def sequence(self) -> Sequence:
        """The sequence in hand."""
        return self._history.present

    # Composing

    def compose(self, sequence: Sequence, gesture: str | None = None) -> None:
        """Take a sequence in hand; steps of one `gesture` are undone together."""
        if self._history.push(sequence, gesture):
            self._changed()

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        self._history.end_gesture()

    def undo(self) -> None:
        """Take back the last change of the sequence."""
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

    def use_setup(self, setup: Setup) -> None:
        """Take another set-up in hand: a new revision, the old ones stay with their shots."""
        if setup != self.setup:
            self.setup = setup
            self._changed()

    def _changed(self) -> None:
        self._emit(SequenceChanged())
        self._desk.ask()

    def _keep_desk(self) -> None:
        self.logbook.put("sequence", sequence_to_json(self.sequence))
        self.logbook.put("setup", self.setup.to_json())

    # Firing

    def fire(self) -> bool:
        """Log and fire the sequence in hand; return whether the bench was free to begin."""
        if self.state is not BenchState.READY:
            return False
        self._enter(BenchState.FIRING)
        self._bench.submit(self._fire, self.sequence, self.setup)
        return True

    def _fire(self, sequence: Sequence, setup: Setup) -> None:
        try:
            shot_id = self._pen.submit(self._plan, sequence, setup).result()
            self._emit(ShotLogged(self.logbook.shot(shot_id)))
            self._run(shot_id, sequence, setup)
        except LogbookError as error:
            self._emit(Trouble(f"Not fired, because the shot could not be logged. {error}"))
        finally:
            self._enter(BenchState.READY)

    def _plan(self, sequence: Sequence, setup: Setup) -> int:
        self._retry_unwritten()
        now = self._clock()
        if self._sitting_id is None:
            self._sitting_id = self.logbook.begin_sitting(self._sitting_name, now)
        return self.logbook.plan_shot(self._sitting_id, sequence, setup, now)

    def _run(self, shot_id: int, sequence: Sequence, setup: Setup) -> None:
        try:
            report = self._controller.fire(sequence, setup)
        except BenchError as error:
            why = str(error)
            self._emit(Trouble(why))
            self._write_surely(lambda: self.logbook.fail_shot(shot_id, why), shot_id)
            return
        self._write_surely(lambda: self._complete(shot_id, report), shot_id)
        if report.note:
            self._emit(Notice(f"Shot {shot_id}: {report.note}."))

    def _complete(self, shot_id: int, report: FiringReport) -> None:
        self.logbook.complete_shot(shot_id, report.fired_at, report.note)

    def _enter(self, state: BenchState) -> None:
        self.state = state
        self._emit(BenchChanged(state))

    # Remembering

    def toggle_tag(self, shot_id: int, shape: str) -> None:
        """Tag a shot, or take the tag off."""
        self._write(lambda: self.logbook.toggle_tag(shot_id, shape), shot_id)

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        self._write(lambda: self.logbook.rate(shot_id, rating), shot_id)

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace a shot's note."""
        self._write(lambda: self.logbook.annotate(shot_id, note), shot_id)

    def keep(self, key: str, value: str) -> None:
        """Keep a choice (theme, folder) on the desk."""
        self._write(lambda: self.logbook.put(key, value))

    def find(self, query: ShotQuery) -> None:
        """Search the log; the answer comes as `ShotsFound`."""
        self._write(lambda: self._emit(ShotsFound(self.logbook.find(query))))

    def _write(self, job: Callable[[], object], shot_id: int | None = None) -> None:
        """Run one change of the logbook in its thread; what fails is told, and nothing of it was written."""

        def run() -> None:
            try:
                self._retry_unwritten()
                job()
                if shot_id is not None:
                    self._emit(ShotChanged(self.logbook.shot(shot_id)))
            except LogbookError as error:
                self._emit(Trouble(str(error)))

        self._pen.submit(run)

    def _write_surely(self, job: Callable[[], object], shot_id: int) -> None:
        """Like `_write`, but a change that fails is kept and tried again: water cannot be fired twice."""

        def run() -> None:
            try:
                job()
                self._emit(ShotChanged(self.logbook.shot(shot_id)))
            except LogbookError as error:
                self._unwritten.append(job)
                self._emit(
                    Trouble(f"Shot {shot_id} fired, but its outcome is not written yet. {error} Ondine tries again.")
                )

        self._pen.submit(run)

    def _retry_unwritten(self) -> None:
        while self._unwritten:
            self._unwritten[0]()
            self._unwritten.pop(0)

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
        self._bench.shutdown(wait=True)
        self._desk.close()
        self._pen.submit(self._last_words)
        self._pen.shutdown(wait=True)
        self._camera.close()
        if self._opened.exception() is None:
            self.logbook.close()

    def _last_words(self) -> None:
        try:
            self._retry_unwritten()
        except LogbookError as error:
            self._emit(Trouble(str(error)))


def _from_desk(glance: Glance, start: tuple[Sequence, Setup]) -> tuple[Sequence, Setup]:
    """What lay on the desk at the last closing, or the start."""
    sequence, setup = glance.desk.get("sequence"), glance.desk.get("setup")
    return (
        sequence_from_json(sequence) if sequence else start[0],
        setup_from_json(setup) if setup else start[1],
    )


def present() -> datetime:
    """The computer's time, with its zone."""
    return datetime.now().astimezone()
