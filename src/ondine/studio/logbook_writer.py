"""The one thread that writes the logbook: in order, plainly told when it fails, and never losing what has happened."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from ondine.logbook.errors import LogbookError
from ondine.logbook.outcomes import Outcome, OutcomeFile
from ondine.studio.events import Event, Notice, ShotChanged, Trouble
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook

T = TypeVar("T")


class LogbookWriter:
    """Opens a logbook in its own thread and runs every change there."""

    def __init__(self, open_logbook: Callable[[], Logbook], emit: Callable[[Event], None], guard: Guard) -> None:
        self._emit = emit
        self._worker = Worker("logbook", "writing the logbook", guard)
        self._unwritten: list[Outcome] = []
        self._kept_in: Path | None = None
        # Loading and opening take a moment: only the writer and those who wait for it need them.
        self._opened = self._worker.ask(open_logbook)
        self._worker.do(self._tell_opened)

    @property
    def logbook(self) -> Logbook:
        """The logbook, once it is open; never asked for in the window's thread. Raises LogbookError."""
        return self._opened.result()

    def _tell_opened(self) -> None:
        try:
            logbook = self.logbook
        except LogbookError as error:
            self._emit(Trouble(str(error)))
            return
        for shot_id in logbook.made_up_for:
            self._emit(ShotChanged(logbook.shots.get(shot_id)))
        if logbook.made_up_for:
            shots = ", ".join(str(number) for number in logbook.made_up_for)
            self._emit(Notice(f"What could not be written the last time is in the logbook now: shot {shots}."))

    def submit(self, job: Callable[..., T], *arguments: object) -> Future[T]:
        """Run a job in the thread; its error is the caller's."""
        return self._worker.ask(job, *arguments)

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

        self._worker.do(run)

    def wait(self) -> None:
        """Wait until what was asked for so far is written; never called in the window's thread."""
        self._worker.wait()

    def finish(self, outcome: Outcome) -> None:
        """Write what a shot came to. If that fails it is kept in a file of its own, and tried again."""

        def run() -> None:
            self._unwritten.append(outcome)
            try:
                self.retry()
            except LogbookError as error:
                self._kept_in = OutcomeFile(self.logbook.path).keep(self._unwritten)
                self._emit(
                    Trouble(
                        f"Shot {outcome.shot_id} fired, but its outcome is not written yet. {error} Ondine tries again."
                    )
                )

        self._worker.do(run)

    def retry(self) -> None:
        """Write the outcomes that wait, oldest first. Raises LogbookError at the first that fails again."""
        if not self._unwritten:
            return
        while self._unwritten:
            shot_id = self._unwritten[0].shot_id
            self.logbook.shots.finish(self._unwritten[0])
            self._unwritten.pop(0)
            self._emit(ShotChanged(self.logbook.shots.get(shot_id)))
        if self._kept_in is not None:
            OutcomeFile(self.logbook.path).forget()
            self._kept_in = None

    def settle(self) -> str:
        """Write what is waiting; return a sentence if something cannot be, where it is kept, and what to do."""
        return self._worker.ask(self._settle).result()

    def _settle(self) -> str:
        try:
            self.retry()
        except LogbookError as error:
            return f"{error} {self._left_words()}"
        return ""

    def _left_words(self) -> str:
        count = len(self._unwritten)
        shots = "the outcome of a shot" if count == 1 else f"the outcomes of {count} shots"
        if self._kept_in is None:
            return f"Until then {shots} would be lost: leave Ondine open."
        return f"Until then {shots} is kept in {self._kept_in}, and taken in at the next start."

    @property
    def holds_what_is_kept_nowhere(self) -> bool:
        """Whether ending now would lose an outcome."""
        return bool(self._unwritten) and self._kept_in is None

    def close(self) -> None:
        """Write what is waiting and let the logbook go."""
        self._worker.do(self._last_words)
        self._worker.close()
        if self._opened.exception() is None:
            self.logbook.close()

    def _last_words(self) -> None:
        words = self._settle() if self._opened.exception() is None else ""
        if words:
            self._emit(Trouble(words))
