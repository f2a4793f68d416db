"""Copies of the open logbook: one a day by itself, others when they are asked for; in a thread of its own."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from ondine.bench.protocol import Clock
from ondine.logbook.backup import back_up_now, backups, folder_of
from ondine.logbook.errors import LogbookError
from ondine.logbook.parts import sweep
from ondine.studio.events import Event, Notice, Trouble
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

A_DAY = timedelta(hours=20)
"""A copy younger than this is today's: nobody sits down at the same minute every day."""


class Backups:
    """Returns at once. What fails is told; the logbook goes on."""

    def __init__(self, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None], guard: Guard) -> None:
        self._writer, self._clock, self._emit = writer, clock, emit
        self._worker = Worker("backup", "copying the logbook", guard)

    def begin(self) -> None:
        """Keep a copy if today's is missing; says nothing where that goes well."""
        self._worker.do(self._daily)

    def now(self) -> None:
        """Keep a copy now, and say where."""
        self._worker.do(self._now)

    @property
    def folder(self) -> Path:
        """Where the copies are kept, once the logbook is open."""
        return folder_of(self._writer.logbook.path)

    def close(self) -> None:
        """Finish the copy in hand, and end."""
        self._worker.close()

    def _daily(self) -> None:
        try:
            logbook = self._writer.logbook
            sweep(folder_of(logbook.path))
            newest = next(iter(backups(logbook.path)), None)
            is_todays = newest is not None and timedelta() <= newest.age(self._clock()) < A_DAY
            if not is_todays and logbook.shots.count():
                back_up_now(logbook.path, self._clock())
        except LogbookError as error:
            self._emit(Trouble(str(error)))

    def _now(self) -> None:
        try:
            self._writer.wait()
            copy = back_up_now(self._writer.logbook.path, self._clock())
        except LogbookError as error:
            self._emit(Trouble(str(error)))
        else:
            self._emit(Notice(f"A verified copy of the logbook is kept as {copy}."))
