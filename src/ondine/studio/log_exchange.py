"""What leaves the log and what comes into it, from the window: in a thread of its own, told as it goes, cancelled.

It reads a copy of the moment, so that neither a shot that fires nor a search waits for it.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.forecast.plan import Plan
from ondine.logbook.errors import LogbookError
from ondine.logbook.writing import WriteError
from ondine.studio.events import Event, LogbookNamed, Notice, Trouble
from ondine.studio.log_events import ExchangeProgress, LogReplaced, SittingTold, TableRead, TableUnderstood
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy and lxml stand behind them; nobody writes anything out before the first frame.
    from ondine.logbook.column_map import Meaning
    from ondine.logbook.foreign_table import ForeignTable
    from ondine.logbook.import_table import Dates, Import

Ids = Sequence[int]

SOME = 200
"""So many shots of a table are written in one go: one that fires is written in between."""

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
        self, writer: LogbookWriter, log: LogService, clock: Clock, emit: Callable[[Event], None], guard: Guard
    ) -> None:
        self._writer, self._log, self._clock, self._emit = writer, log, clock, emit
        self._worker = Worker("log-exchange", "writing out or taking in shots", guard)
        self._stop = threading.Event()
        self._table: ForeignTable | None = None
        self._table_name = ""
        self._understood: Import | None = None
        self._is_closed = False

    # Out

    def write(self, form: Form, shot_ids: Ids, out: Path) -> None:
        """Write shots, oldest first, as a table, JSON or a database; a Notice or Trouble comes of it."""
        self._do(self._write, form, tuple(shot_ids), out)

    def write_sidecars(self, shot_ids: Ids, naming: str) -> None:
        """Write an XMP sidecar beside each picture of shots. `naming`: "stem" or "full"."""
        self._do(self._write_sidecars, tuple(shot_ids), naming)

    def write_logbook(self, shot_ids: Ids, out: Path) -> None:
        """Write shots, with all that belongs to them, into a new logbook."""
        self._do(self._write_logbook, tuple(shot_ids), out)

    def tell_sitting(self, shot_id: int) -> None:
        """Tell all of the sitting that a shot belongs to, as `SittingTold`."""
        self._do(self._tell_sitting, shot_id)

    # In

    def read_table(self, path: Path) -> None:
        """Read a table that others wrote; it comes as `TableRead`, with what its columns may mean."""
        self._do(self._read_table, path)

    def understand(self, meanings: Mapping[str, Meaning], dates: Dates | None, plan: Plan) -> None:
        """Say what the table comes to, its columns meaning this; it comes as `TableUnderstood`."""
        self._do(self._understand, dict(meanings), dates, plan)

    def take_in(self) -> None:
        """Take in the shots of the table, as it was understood last."""
        self._do(self._take_in)

    def merge(self, other: Path) -> None:
        """Bring the shots of another logbook into this one, none twice; a copy of what it was is kept first."""
        self._do(self._merge, other)

    def find_moved(self, folder: Path) -> None:
        """Look in a folder for pictures that are not where they were, and remember where they lie now."""
        self._do(self._find_moved, folder)

    def open_copy(self, copy: Path) -> None:
        """Make a logbook of its own out of a backup, beside the open one, and name it to be opened."""
        self._do(self._open_copy, copy)

    def cancel(self) -> None:
        """Stop what is under way; what is written stays."""
        self._stop.set()

    def close(self) -> None:
        """Stop and end."""
        self._is_closed = True
        self.cancel()
        self._worker.close(drop_waiting=True)

    def wait(self) -> None:
        """Wait until what was asked for is done; never called in a window that is used."""
        self._worker.wait()

    # In the thread

    def _do(self, job: Callable[..., None], *arguments: object) -> None:
        if not self._is_closed:
            self._worker.do(self._told, job, *arguments)

    def _told(self, job: Callable[..., None], *arguments: object) -> None:
        from ondine.logbook.foreign_table import TableError

        self._stop.clear()
        if self._is_closed:
            return
        try:
            job(*arguments)
        except (LogbookError, WriteError, TableError) as error:
            self._emit(Trouble(str(error)))
        except OSError as error:
            self._emit(Trouble(f"{error.filename or 'A file'} cannot be read or written ({error.strerror})."))
        finally:
            self._emit(ExchangeProgress("", 0, 0))

    def _count(self, what: str) -> Callable[[int, int], None]:
        def count(done: int, of: int) -> None:
            if done == of or done % 10 == 0:
                self._emit(ExchangeProgress(what, done, of))

        return count

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
        self._emit(Notice(f"{shots} shots are written to {out}."))

    def _write_sidecars(self, shot_ids: tuple[int, ...], naming: str) -> None:
        from ondine.logbook.reading import reading
        from ondine.logbook.xmp import Naming, write_sidecars

        with reading(self._writer.logbook.path) as logbook:
            done = write_sidecars(
                logbook, shot_ids, Naming(naming), None, self._count("Writing sidecars"), self._stop.is_set
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
        self._emit(Notice(f"{done.shots} shots, with {done.pictures} pictures, are the logbook {out} now."))

    def _tell_sitting(self, shot_id: int) -> None:
        from ondine.logbook.reading import reading
        from ondine.studio.sitting_report import report_of

        with reading(self._writer.logbook.path) as logbook:
            sitting = logbook.search.sitting_of(shot_id)
            if sitting is not None:
                self._emit(SittingTold(report_of(logbook, sitting)))

    def _read_table(self, path: Path) -> None:
        from ondine.logbook.column_map import guess
        from ondine.logbook.foreign_table import read_table

        self._understood = None
        self._table, self._table_name = read_table(path), path.stem
        self._emit(TableRead(path, self._table, guess(self._table.columns)))

    def _understand(self, meanings: dict[str, Meaning], dates: Dates | None, plan: Plan) -> None:
        from ondine.logbook.export import all_ids
        from ondine.logbook.foreign_table import TableError
        from ondine.logbook.import_table import read_shots
        from ondine.logbook.reading import reading

        self._understood = None
        if self._table is None:
            return
        try:
            with reading(self._writer.logbook.path) as logbook:
                known = logbook.shots.each(all_ids(logbook))
                found = read_shots(
                    self._table, meanings, plan, logbook.shapes.all(), known, dates, sitting=self._table_name
                )
        except TableError as error:
            self._emit(TableUnderstood(None, str(error)))
            return
        self._understood = found
        self._emit(TableUnderstood(found, found.words))

    def _take_in(self) -> None:
        from ondine.logbook.backup import back_up_now

        if self._understood is None:
            return
        shots, done = self._understood.shots, 0
        self._understood = None
        if shots:
            back_up_now(self._writer.logbook.path, self._clock())
        count = self._count("Taking in")
        for first in range(0, len(shots), SOME):
            if self._stop.is_set():
                break
            part = shots[first : first + SOME]
            self._writer.submit(self._writer.logbook.shots.add_history, part).result()
            done += len(part)
            count(done, len(shots))
        self._emit(Notice(f"{done} shots of the table are in the log."))
        self._emit(LogReplaced())

    def _merge(self, other: Path) -> None:
        from ondine.logbook.backup import back_up_now
        from ondine.logbook.bench_kind import KEY, kept_bench
        from ondine.logbook.merge import merge
        from ondine.logbook.reading import reading

        logbook = self._writer.logbook
        if other.resolve() == logbook.path.resolve():
            raise LogbookError("This is the logbook that is open. Choose another one.")
        with reading(other) as source:
            kinds = [kept_bench(book.state.get(KEY)) for book in (logbook, source)]
            if None not in kinds and kinds[0].is_real != kinds[1].is_real:  # type: ignore[union-attr]
                raise LogbookError("One is a practice logbook, the other a table's: their shots do not mix.")
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
            done = find_moved(self._writer.logbook, folder, self._count("Looking at files"), self._stop.is_set)
        except CardGoneError as error:
            self._emit(Trouble(str(error)))
            return
        if done.found:
            self._writer.submit(self._writer.logbook.pictures.moved, done.found).result()
            self._emit(LogReplaced())
        nothing = not done.found and not done.missing
        self._emit(Notice("All pictures are where they were." if nothing else done.words))

    def _open_copy(self, copy: Path) -> None:
        from ondine.logbook.migrate import back_up
        from ondine.logbook.reading import reading
        from ondine.logbook.writing import part_beside

        place = self._writer.logbook.path.with_name(copy.name)
        if not place.exists():
            with reading(copy) as source:
                part = part_beside(place)
                try:
                    back_up(source.path, part)
                    part.replace(place)
                finally:
                    part.unlink(missing_ok=True)
        self._emit(LogbookNamed(place))


def _some(sentences: Sequence[str]) -> str:
    """Tell the first few of many sentences."""
    more = f" And {len(sentences) - MOST_NAMED} more like this." if len(sentences) > MOST_NAMED else ""
    return " ".join(sentences[:MOST_NAMED]) + more
