"""A table that others wrote, on the desk: read, understood as somebody says, taken in."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.forecast.plan import Plan
from ondine.core.numbers import counted
from ondine.studio.errands import Errands
from ondine.studio.events import Event, Notice
from ondine.studio.log_events import LogReplaced, TableRead, TableUnderstood
from ondine.studio.logbook_writer import LogbookWriter

if TYPE_CHECKING:
    # Nobody reads a table before the first frame.
    from ondine.logbook.column_map import Meaning
    from ondine.logbook.foreign_table import ForeignTable
    from ondine.logbook.import_table import Dates, Import

SOME = 200
"""So many shots of a table are written in one go: one that fires is written in between."""


class TableDesk:
    """Returns at once; what it finds comes as events. Nothing is written before `take_in`."""

    def __init__(self, errands: Errands, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None]) -> None:
        self._errands, self._writer, self._clock, self._emit = errands, writer, clock, emit
        self._table: ForeignTable | None = None
        self._table_name = ""
        self._understood: Import | None = None

    def read(self, path: Path) -> None:
        """Read a table that others wrote; it comes as `TableRead`, with what its columns may mean."""
        self._errands.do(self._read, path)

    def understand(self, meanings: Mapping[str, Meaning], dates: Dates | None, plan: Plan) -> None:
        """Say what the table comes to, its columns meaning this; it comes as `TableUnderstood`."""
        self._errands.do(self._understand, dict(meanings), dates, plan)

    def take_in(self) -> None:
        """Take in the shots of the table, as it was understood last."""
        self._errands.do(self._take_in)

    def _read(self, path: Path) -> None:
        from ondine.logbook.column_map import guess
        from ondine.logbook.foreign_table import read_table

        self._understood = None
        self._table, self._table_name = read_table(path, lambda: self._errands.is_stopped), path.stem
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
        count = self._errands.count("Taking in")
        for first in range(0, len(shots), SOME):
            if self._errands.is_stopped:
                break
            part = shots[first : first + SOME]
            self._writer.submit(self._writer.logbook.shots.add_history, part).result()
            done += len(part)
            count(done, len(shots))
        self._emit(Notice(f"In the log: {counted(done, 'shot')} of the table."))
        self._emit(LogReplaced())
