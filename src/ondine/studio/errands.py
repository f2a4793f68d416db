"""Errands with files, done one after the other in a thread of their own: told as they go, cancelled, ended with the
program.
"""

from __future__ import annotations

import threading
from collections.abc import Callable

from ondine.logbook.errors import LogbookError
from ondine.logbook.writing import WriteError
from ondine.studio.events import Event, Trouble
from ondine.studio.log_events import ExchangeProgress
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

TOLD_EACH = 10
"""Progress is told so often: at each of so many."""


class Errands:
    """Runs jobs; what goes wrong with a file or the logbook is told as a sentence, and their end always."""

    def __init__(self, writer: LogbookWriter, emit: Callable[[Event], None], guard: Guard) -> None:
        self._writer, self._emit = writer, emit
        self._worker = Worker("log-exchange", "writing out or taking in shots", guard)
        self._stop = threading.Event()
        self._is_closed = False

    def do(self, job: Callable[..., None], *arguments: object) -> None:
        """Do a job after those that wait."""
        if not self._is_closed:
            self._worker.do(self._told, job, *arguments)

    @property
    def is_stopped(self) -> bool:
        """Whether the job under way shall end."""
        return self._stop.is_set()

    def count(self, what: str) -> Callable[[int, int], None]:
        """Return what tells how far a job is."""

        def tell(done: int, of: int) -> None:
            if done == of or done % TOLD_EACH == 0:
                self._emit(ExchangeProgress(what, done, of))

        return tell

    def cancel(self) -> None:
        """End the job under way; what is written stays."""
        self._stop.set()

    def wait(self) -> None:
        """Wait until all is done; never called in a window that is used."""
        self._worker.wait()

    def close(self) -> None:
        """Stop and end."""
        self._is_closed = True
        self.cancel()
        self._worker.close(drop_waiting=True)

    def _told(self, job: Callable[..., None], *arguments: object) -> None:
        from ondine.logbook.foreign_table import TableError

        self._stop.clear()
        if self._is_closed:
            return
        try:
            # What leaves or joins the log includes the tag that was given just before.
            self._writer.wait()
            job(*arguments)
        except (LogbookError, WriteError, TableError) as error:
            self._emit(Trouble(str(error)))
        except OSError as error:
            self._emit(Trouble(f"{error.filename or 'A file'} cannot be read or written ({error.strerror})."))
        finally:
            self._emit(ExchangeProgress("", 0, 0))
