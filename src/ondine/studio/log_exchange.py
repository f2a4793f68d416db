"""What leaves the log and what comes into it from other logbooks and folders, from the window.

It reads a copy of the moment, so that neither a shot that fires nor a search waits for it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from pathlib import Path

from ondine.bench.protocol import Clock
from ondine.core.numbers import counted
from ondine.logbook.errors import LogbookError
from ondine.studio.errands import Errands
from ondine.studio.events import Event, LogbookNamed, Notice, Trouble
from ondine.studio.log_events import ExchangeProgress, LogReplaced, SittingTold
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter

Ids = Sequence[int]

MOST_NAMED = 3
"""So many of the things that went wrong are told; the rest by number."""


class Form(StrEnum):
    """What shots are written out as."""

    CSV = "table"
    JSON = "JSON"
    SQLITE = "database"


class LogExchange:
    """Returns at once; what comes of it comes as events."""

    def __init__(
        self, errands: Errands, writer: LogbookWriter, log: LogService, clock: Clock, emit: Callable[[Event], None]
    ) -> None:
        self._errands, self._writer, self._log, self._clock, self._emit = errands, writer, log, clock, emit

    # Out

    def write(self, form: Form, shot_ids: Ids, out: Path) -> None:
        """Write shots, oldest first, as a table, JSON or a database; a Notice or Trouble comes of it."""
        self._errands.do(self._write, form, tuple(shot_ids), out)

    def write_sidecars(self, shot_ids: Ids, naming: str) -> None:
        """Write an XMP sidecar beside each picture of shots. `naming`: "stem" or "full"."""
        self._errands.do(self._write_sidecars, tuple(shot_ids), naming)

    def write_logbook(self, shot_ids: Ids, out: Path) -> None:
        """Write shots, with all that belongs to them, into a new logbook."""
        self._errands.do(self._write_logbook, tuple(shot_ids), out)

    def tell_sitting(self, shot_id: int) -> None:
        """Tell all of the sitting that a shot belongs to, as `SittingTold`."""
        self._errands.do(self._tell_sitting, shot_id)

    # In

    def merge(self, other: Path) -> None:
        """Bring the shots of another logbook into this one, none twice; a copy of what it was is kept first."""
        self._errands.do(self._merge, other)

    def find_moved(self, folder: Path) -> None:
        """Look in a folder for pictures that are not where they were, and remember where they lie now."""
        self._errands.do(self._find_moved, folder)

    def open_copy(self, copy: Path) -> None:
        """Make a logbook of its own out of a backup, beside the open one, and name it to be opened."""
        self._errands.do(self._open_copy, copy)

    # In the thread

    def _write(self, form: Form, shot_ids: tuple[int, ...], out: Path) -> None:
        from ondine.logbook.export import export_csv
        from ondine.logbook.export_json import export_json
        from ondine.logbook.export_sqlite import export_sqlite
        from ondine.logbook.reading import reading

        self._emit(ExchangeProgress(f"Writing {out.name}", 0, len(shot_ids)))
        with reading(self._writer.logbook.path) as logbook:
            ids = logbook.search.oldest_first(shot_ids).tolist()
            match form:
                case Form.CSV:
                    shots = export_csv(logbook, out, shot_ids=ids).shots
                case Form.JSON:
                    shots = export_json(logbook, out, ids)
                case Form.SQLITE:
                    shots = export_sqlite(logbook, out, ids)
        self._emit(Notice(f"{counted(shots, 'shot')} written to {out}."))

    def _write_sidecars(self, shot_ids: tuple[int, ...], naming: str) -> None:
        from ondine.logbook.reading import reading
        from ondine.logbook.xmp import Naming, write_sidecars

        with reading(self._writer.logbook.path) as logbook:
            done = write_sidecars(
                logbook,
                shot_ids,
                Naming(naming),
                None,
                self._errands.count("Writing sidecars"),
                lambda: self._errands.is_stopped,
            )
        self._emit(Notice(f"{done.words} {_some(done.kept)}".rstrip()))
        if done.refused:
            self._emit(Trouble(_some(done.refused)))

    def _write_logbook(self, shot_ids: tuple[int, ...], out: Path) -> None:
        from ondine.logbook.bench_kind import KEY
        from ondine.logbook.merge import merge
        from ondine.logbook.reading import reading
        from ondine.logbook.store import Logbook

        if out.exists():
            raise LogbookError(f"{out} is there already, and was left as it is. Give the new logbook another name.")
        with reading(self._writer.logbook.path) as source:
            made = Logbook.open(out)
            try:
                kind = source.state.get(KEY)
                if kind is not None:
                    made.state.put(KEY, kind)
                done = merge(made.path, source.path, shot_ids)
            finally:
                made.close()
        self._emit(
            Notice(f"{out} is a logbook of {counted(done.shots, 'shot')} and {counted(done.pictures, 'picture')} now.")
        )

    def _tell_sitting(self, shot_id: int) -> None:
        from ondine.logbook.reading import reading
        from ondine.studio.sitting_report import report_of

        with reading(self._writer.logbook.path) as logbook:
            sitting = logbook.search.sitting_of(shot_id)
            if sitting is not None:
                self._emit(SittingTold(report_of(logbook, sitting)))

    def _merge(self, other: Path) -> None:
        from ondine.logbook.backup import back_up_now
        from ondine.logbook.bench_kind import check_may_merge
        from ondine.logbook.locking import is_held_here
        from ondine.logbook.merge import merge
        from ondine.logbook.reading import reading

        logbook = self._writer.logbook
        if is_held_here(other):
            raise LogbookError("This is the logbook that is open. Choose another one.")
        with reading(other) as source:
            check_may_merge(logbook, source)
            kept = back_up_now(logbook.path, self._clock())
            done = self._writer.submit(merge, logbook.path, source.path).result()
        self._writer.submit(logbook.came_from_outside).result()
        self._log.tell_facts()
        self._emit(Notice(f"{done.words} What the logbook was before is kept as {kept}."))
        self._emit(LogReplaced())

    def _find_moved(self, folder: Path) -> None:
        from ondine.logbook.card import CardGoneError
        from ondine.logbook.moved import find_moved

        try:
            done = find_moved(
                self._writer.logbook, folder, self._errands.count("Looking at files"), lambda: self._errands.is_stopped
            )
        except CardGoneError as error:
            self._emit(Trouble(str(error)))
            return
        if done.found:
            self._writer.submit(self._writer.logbook.pictures.moved, done.found).result()
            self._emit(LogReplaced())
        nothing = not done.found and not done.missing
        self._emit(Notice("All pictures are where they were." if nothing else done.words))

    def _open_copy(self, copy: Path) -> None:
        from ondine.logbook.copying import copy_verified, put_in_place
        from ondine.logbook.parts import part_beside
        from ondine.logbook.reading import reading

        place = self._writer.logbook.path.with_name(copy.name)
        if not place.exists():
            with reading(copy) as source:
                part = part_beside(place)
                try:
                    copy_verified(source.path, part)
                    put_in_place(part, place)
                finally:
                    part.unlink(missing_ok=True)
        self._emit(LogbookNamed(place))


def _some(sentences: Sequence[str]) -> str:
    """Tell the first few of many sentences."""
    more = f" And {len(sentences) - MOST_NAMED} more like this." if len(sentences) > MOST_NAMED else ""
    return " ".join(sentences[:MOST_NAMED]) + more
