"""Taking pictures in: as they arrive in the watched folder, those that came while nobody looked, and files by hand."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import Bench, Clock, Ticks
from ondine.core.setup import BenchKind
from ondine.logbook.bench_kind import KEY, kept_bench
from ondine.logbook.errors import LogbookError
from ondine.logbook.intake import PictureFacts, read_picture
from ondine.logbook.pairing import ARRIVES_WITHIN, Candidate, Pairing, agreed, pair_by_arrival, pair_by_clock
from ondine.logbook.picture_error import PictureError
from ondine.studio.events import Event, FolderChanged, Notice, PictureArrived, ShotChanged, Trouble
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.watch import FolderWatch
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook

MOST_CAUGHT_UP = 500
"""So many of the newest pictures are looked at that came while Ondine was closed."""


@dataclass(frozen=True)
class Taken:
    """A picture that is in the log now: its shot, if one fits, whether that is sure, and whether it was new."""

    path: Path
    shot_id: int | None
    sure: bool
    new: bool


@dataclass
class Waiting:
    """Shots of this run that have no picture yet, with when they fired; and how much the camera's clock is fast.

    The moments are those of a clock that nobody sets, so that a computer's time that jumps pairs nothing wrongly.
    Shared by the bench's thread and the watching one.
    """

    ticks: Ticks
    offset: timedelta | None = None
    _fired_s: dict[int, float] = field(default_factory=dict)
    _reserved: set[int] = field(default_factory=set)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def fires(self, shot_id: int) -> None:
        """A shot is about to be fired."""
        with self._lock:
            self._fired_s[shot_id] = self.ticks()
            for old in [number for number, at in self._fired_s.items() if self._fired_s[shot_id] - at > 3600]:
                del self._fired_s[old]

    def reserve(self) -> Pairing:
        """Pair a picture by its first sight, before it is whole: nobody else's picture will be taken for that shot."""
        with self._lock:
            found = self._last(but=self._reserved)
            if found.shot_id is not None:
                self._reserved.add(found.shot_id)
            return found

    def second_guess(self) -> Pairing:
        """Pair a picture that no shot was left for: a file that came before may be none. Never sure."""
        with self._lock:
            return Pairing(self._last(but=set()).shot_id, sure=False)

    def _last(self, but: set[int]) -> Pairing:
        zero = datetime(2000, 1, 1, tzinfo=UTC)
        fired = self._fired_s.items()
        listed = [Candidate(number, zero + timedelta(seconds=at), number in but) for number, at in fired]
        return pair_by_arrival(zero + timedelta(seconds=self.ticks()), listed)

    def taken(self, reserved: Pairing, shot_id: int | None) -> None:
        """A picture went to a shot, or to none; the one that it was reserved for by mistake waits again."""
        with self._lock:
            if reserved.shot_id is not None:
                self._reserved.discard(reserved.shot_id)
            if shot_id is not None:
                self._reserved.discard(shot_id)
                self._fired_s.pop(shot_id, None)


class Intake:
    """Watches the folder that pictures arrive in, and logs each with its shot. All of it in threads of its own."""

    def __init__(
        self,
        bench: Bench,
        writer: LogbookWriter,
        clock: Clock,
        ticks: Ticks,
        emit: Callable[[Event], None],
        guard: Guard,
    ) -> None:
        self._kind, self._camera = bench.kind, bench.camera
        self._writer, self._clock, self._emit, self._guard = writer, clock, emit, guard
        self._waiting = Waiting(ticks)
        self._worker = Worker("intake", "looking after the folder of pictures", guard)
        self._watch: FolderWatch | None = None
        self._troubled = False

    def shot_fires(self, shot_id: int) -> None:
        """A shot is about to be fired: the next picture is its own."""
        self._waiting.fires(shot_id)

    def watch(self, folder: Path, make: bool = False) -> None:
        """Take pictures from this folder from now on; the camera, if it can be told, delivers there.

        make : make the folder if it is not there. Returns at once.
        """
        self._worker.do(self._change, folder.absolute(), make)

    def _change(self, folder: Path, make: bool) -> None:
        self._stop()
        if make:
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                self._emit(
                    Trouble(
                        f"The folder {folder} for pictures cannot be made ({error.strerror}). Choose another folder."
                    )
                )
        self._camera.deliver_to(folder, lambda error: self._emit(Trouble(str(error))))
        self._watch = FolderWatch(folder, self)
        self._emit(FolderChanged(folder, self._watch.is_present))
        self._writer.write(lambda: self._writer.logbook.state.put("folder", str(folder)))
        self._watch.start()

    def wait(self) -> None:
        """Wait until the folder is watched; never called in a window that is used."""
        self._worker.wait()

    def close(self) -> None:
        """Stop watching; the camera finishes or drops what is under way."""
        self._worker.do(self._stop)
        self._worker.close()
        self._camera.close()

    def _stop(self) -> None:
        if self._watch is not None:
            self._watch.stop()

    # What the watching thread finds (see `watch.Finder`)

    def guarded(self, job: Callable[..., object], *arguments: object) -> None:
        """Run a job of the watching thread, which lives on whatever it raises."""
        self._guard("taking in a picture", job, *arguments)

    def catch_up(self, files: Iterable[tuple[Path, datetime]]) -> None:
        """Pair pictures that came while nobody looked: (path, when it was written), the newest last."""
        listed = list(files)[-MOST_CAUGHT_UP:]
        try:
            logbook = self._writer.logbook
            waiting, known = logbook.pictures.shots_without(), logbook.pictures.paths()
        except LogbookError:
            # It could not be opened, which was told.
            return
        if not waiting:
            return
        oldest = min(c.fired_at for c in waiting) - timedelta(minutes=1)
        for path, written_at in listed:
            if written_at >= oldest and str(path) not in known:
                self._guard("taking in an older picture", self._catch_up_one, path, written_at)

    def _catch_up_one(self, path: Path, written_at: datetime) -> None:
        try:
            facts = read_for(self._kind, path)
        except PictureError:
            # Nobody asks about what lies there of old.
            return
        by_arrival = Pairing(pair_by_arrival(written_at, self._shots_without()).shot_id, sure=False)
        pairing = agreed(by_arrival, pair_by_clock(facts.taken_at, self._shots_without()), clock_is_known=False)
        if pairing.shot_id is not None:
            self._log(facts, pairing)

    def _shots_without(self) -> list[Candidate]:
        return self._writer.logbook.pictures.shots_without()

    def sighted(self) -> Pairing:
        """A file is seen for the first time; it may not be whole for a long time yet."""
        return self._waiting.reserve()

    def take(self, path: Path, reserved: Pairing) -> None:
        """Log a file that has stopped growing.

        Raises PictureError if it cannot be read (yet), LogbookError if it cannot be logged now.
        """
        facts = read_for(self._kind, path)
        try:
            taken = self._log(facts, self._writer.submit(self._pair, facts, reserved).result())
        except LogbookError as error:
            if not self._troubled:
                self._troubled = True
                self._emit(Trouble(f"The picture {path.name} is not logged yet. {error} Ondine tries again."))
            raise
        self._troubled = False
        self._waiting.taken(reserved, taken.shot_id if taken.new else None)

    def _pair(self, facts: PictureFacts, reserved: Pairing) -> Pairing:
        found = self._pair_by_both(facts, reserved)
        return self._waiting.second_guess() if found.shot_id is None else found

    def _pair_by_both(self, facts: PictureFacts, reserved: Pairing) -> Pairing:
        offset = self._waiting.offset
        if facts.taken_at is None:
            return reserved
        around = self._writer.logbook.pictures.candidates(facts.taken_at - (offset or timedelta()), ARRIVES_WITHIN)
        known = offset is not None
        by_clock = pair_by_clock(facts.taken_at, around, offset)
        if by_clock.shot_id is None and known:
            # The clock was set anew, or it is another camera.
            by_clock = pair_by_clock(facts.taken_at, around)
        return agreed(reserved, by_clock, known)

    def _log(self, facts: PictureFacts, pairing: Pairing) -> Taken:
        taken = self._writer.submit(log_picture, self._writer.logbook, facts, pairing, self._clock()).result()
        if taken.shot_id is None:
            self._emit(Notice(f"{facts.path.name} was kept without a shot: none was fired just before it came."))
        elif taken.new:
            shot = self._writer.logbook.shots.get(taken.shot_id)
            if pairing.sure and facts.taken_at is not None:
                self._waiting.offset = facts.taken_at - shot.at
            self._emit(PictureArrived(shot))
        else:
            # The JPEG of a raw file that was there before, or a picture that was moved.
            self._emit(ShotChanged(self._writer.logbook.shots.get(taken.shot_id)))
        return taken

    def dropped(self, reserved: Pairing) -> None:
        """A file that was sighted is not taken: its shot waits again."""
        self._waiting.taken(reserved, None)

    def refused(self, error: PictureError) -> None:
        """A file is no picture, and does not become one."""
        self._emit(Trouble(str(error)))

    def presence(self, folder: Path, present: bool) -> None:
        """The folder went, or came back."""
        self._emit(FolderChanged(folder, present))
        if not present:
            self._emit(
                Trouble(
                    f"The folder {folder} is gone or closed to Ondine, so no pictures come in. Put it back, or choose "
                    "another folder."
                )
            )


def read_for(kind: BenchKind, path: Path) -> PictureFacts:
    """Read a picture for a logbook of a kind of bench. Raises PictureError, also for one that is not of its world."""
    facts = read_picture(path)
    if facts.is_simulated == kind.is_real:
        raise PictureError(
            f"{path.name} was made by the simulated camera, so it is not taken into the logbook of a real table. It "
            "belongs to the practice logbook."
            if facts.is_simulated
            else f"{path.name} was not made by the simulated camera, so it is not taken into a practice logbook. Open "
            "the logbook of your table for it."
        )
    return facts


def log_picture(logbook: Logbook, facts: PictureFacts, pairing: Pairing, arrived_at: datetime) -> Taken:
    """Log a picture with the shot it was paired with. Raises LogbookError."""
    new, shot_id = logbook.pictures.add(facts, pairing, arrived_at)
    return Taken(facts.path, shot_id, pairing.sure, new)


def take_file(logbook: Logbook, path: Path, now: datetime) -> Taken:
    """Log a picture given by hand: by its own clock, or with the shot just fired if it has none.

    Raises PictureError, LogbookError.
    """
    facts = read_for(kept_bench(logbook.state.get(KEY)) or BenchKind.BY_HAND, path.absolute())
    if facts.taken_at is not None:
        pairing = pair_by_clock(facts.taken_at, logbook.pictures.candidates(facts.taken_at, ARRIVES_WITHIN))
    else:
        pairing = pair_by_arrival(now, logbook.pictures.candidates(now, ARRIVES_WITHIN + timedelta(minutes=1)))
    return log_picture(logbook, facts, pairing, now)


def import_files(
    logbook: Logbook,
    paths: Iterable[Path],
    now: datetime,
    taken: Callable[[Taken], None],
    refused: Callable[[PictureError], None],
) -> None:
    """Log many files, one by one: what cannot be read is reported and does not stop the rest."""
    for path in paths:
        try:
            taken(take_file(logbook, path, now))
        except PictureError as error:
            refused(error)
