"""Taking pictures in: from the watched folder as they arrive, or from files given by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import CameraDevice, Clock
from ondine.logbook.file import LogbookError
from ondine.logbook.intake import PictureError, PictureFacts, read_picture
from ondine.logbook.pairing import ARRIVES_WITHIN, CLOCKS_AGREE_WITHIN, pair_arrival, pair_by_clock
from ondine.studio.events import Event, FolderChanged, Notice, PictureArrived, Trouble
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.watch import FolderWatch

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook


@dataclass(frozen=True)
class Taken:
    """A picture that is in the log now: its shot, if one fits, and whether it was new."""

    path: Path
    shot_id: int | None
    new: bool


class Intake:
    """Watches the folder that pictures arrive in, and logs each with the shot fired just before."""

    def __init__(
        self, camera: CameraDevice, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None]
    ) -> None:
        self._camera, self._writer, self._clock, self._emit = camera, writer, clock, emit
        self._watch: FolderWatch | None = None

    def watch(self, folder: Path) -> None:
        """Take pictures from this folder from now on; the camera, if it can be told, delivers there."""
        folder = folder.absolute()
        self._stop()
        self._camera.deliver_to(folder, lambda error: self._emit(Trouble(str(error))))
        self._watch = FolderWatch(folder, self._arrived, self._refused, self._presence)
        self._watch.start()
        self._writer.write(lambda: self._writer.logbook.state.put("folder", str(folder)))
        self._emit(FolderChanged(folder, folder.is_dir()))

    def close(self) -> None:
        """Stop watching; the camera finishes what is under way."""
        self._stop()
        self._camera.close()

    def _stop(self) -> None:
        if self._watch is not None:
            self._watch.stop()

    def _arrived(self, path: Path) -> None:
        facts, at = read_picture(path), self._clock()
        try:
            taken = self._writer.submit(lambda: take_arrival(self._writer.logbook, facts, at)).result()
            if taken.shot_id is None:
                self._emit(Notice(f"{path.name} was kept without a shot: none was fired just before it came."))
            elif taken.new:
                self._emit(PictureArrived(self._writer.logbook.shots.get(taken.shot_id)))
        except LogbookError as error:
            self._emit(Trouble(f"The picture {path.name} is not logged. {error}"))
            raise PictureError(str(error)) from error

    def _refused(self, error: PictureError) -> None:
        self._emit(Trouble(str(error)))

    def _presence(self, folder: Path, present: bool) -> None:
        self._emit(FolderChanged(folder, present))
        if not present:
            self._emit(
                Trouble(f"The folder {folder} is gone, so no pictures come in. Put it back, or choose another folder.")
            )


def take_arrival(logbook: Logbook, facts: PictureFacts, arrived_at: datetime) -> Taken:
    """Log a picture that has just arrived in the watched folder. Raises LogbookError."""
    candidates = logbook.pictures.candidates(arrived_at, ARRIVES_WITHIN + timedelta(minutes=1))
    shot = pair_arrival(arrived_at, facts.taken_at, candidates)
    return Taken(facts.path, shot, logbook.pictures.add(facts, shot, arrived_at))


def take_file(logbook: Logbook, path: Path, now: datetime) -> Taken:
    """Log a picture given by hand: by its own clock, or with the shot just fired if it has none.

    Raises PictureError, LogbookError.
    """
    facts = read_picture(path.absolute())
    shot = _shot_by_clock(logbook, facts)
    if shot is None and facts.taken_at is None:
        candidates = logbook.pictures.candidates(now, ARRIVES_WITHIN + timedelta(minutes=1))
        shot = pair_arrival(now, None, candidates)
    return Taken(path, shot, logbook.pictures.add(facts, shot, now))


def _shot_by_clock(logbook: Logbook, facts: PictureFacts) -> int | None:
    if facts.taken_at is None:
        return None
    candidates = logbook.pictures.candidates(facts.taken_at, CLOCKS_AGREE_WITHIN * 3)
    return pair_by_clock(facts.taken_at, candidates)


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
