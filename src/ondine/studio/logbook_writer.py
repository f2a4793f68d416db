"""The one thread that writes the logbook: in order, plainly told when it fails, and never losing what has happened."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TYPE_CHECKING, TypeVar

from ondine.logbook.file import LogbookError
from ondine.studio.events import Event, ShotChanged, Trouble

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook

T = TypeVar("T")


class LogbookWriter:
    """Opens a logbook in its own thread and runs every change there."""

    def __init__(self, open_logbook: Callable[[], Logbook], emit: Callable[[Event], None]) -> None:
        self._emit = emit
        self._thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix="logbook")
        self._unwritten: list[Callable[[], object]] = []
        # Loading and opening take a moment: only the writer and those who wait for it need them.
        self._opened = self._thread.submit(open_logbook)
        self._opened.add_done_callback(self._opening_done)

    @property
    def logbook(self) -> Logbook:
        """The logbook, once it is open; never asked for in the window's thread. Raises LogbookError."""
        return self._opened.result()

    def _opening_done(self, opened: Future[Logbook]) -> None:
        error = opened.exception()
        if error is not None:
            self._emit(Trouble(str(error)))

    def submit(self, job: Callable[..., T], *arguments: object) -> Future[T]:
        """Run a job in the thread; its error is the caller's."""
        return self._thread.submit(job, *arguments)

    def write(self, job: Callable[[], object], shot_id: int | None = None) -> None:
        """Run one change; what fails is told, and nothing of it was written. A changed shot is told anew."""

        def run() -> None:
            try:
                self.retry()
                job()
                if shot_id is not None:
                    self._emit(ShotChanged(self.logbook.shots.get(shot_id)))
            except LogbookError as error:
                self._emit(Trouble(str(error)))

        self._thread.submit(run)

    def write_surely(self, job: Callable[[], object], shot_id: int) -> None:
        """Like `write`, but a change that fails is kept and tried again: water cannot be fired twice."""

        def run() -> None:
            try:
                job()
                self._emit(ShotChanged(self.logbook.shots.get(shot_id)))
            except LogbookError as error:
                self._unwritten.append(job)
                self._emit(
                    Trouble(f"Shot {shot_id} fired, but its outcome is not written yet. {error} Ondine tries again.")
                )

        self._thread.submit(run)

    def retry(self) -> None:
        """Write what is still unwritten, oldest first. Raises LogbookError at the first that fails again."""
        while self._unwritten:
            self._unwritten[0]()
            self._unwritten.pop(0)

    def close(self) -> None:
        """Write what is waiting and let the logbook go."""
        self._thread.submit(self._last_words)
        self._thread.shutdown(wait=True)
        if self._opened.exception() is None:
            self.logbook.close()

    def _last_words(self) -> None:
        try:
            self.retry()
        except LogbookError as error:
            self._emit(Trouble(str(error)))
