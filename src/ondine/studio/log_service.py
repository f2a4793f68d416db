"""What the window asks of the logbook and changes in it: one thread writes, another reads, answers come as events."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.belief.priors import Belief
from ondine.core.setup import Setup
from ondine.logbook.errors import LogbookError
from ondine.logbook.records import ShotQuery
from ondine.studio.events import Event, SetupFetched, SetupsFound, ShotsFound, Trouble
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook


class LogService:
    """Tags, rates and finds shots, keeps set-ups and choices. Returns at once."""

    def __init__(self, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None], guard: Guard) -> None:
        self._writer, self._clock, self._emit = writer, clock, emit
        self._reader = Worker("logbook-reader", "reading the logbook", guard)

    def wait(self) -> None:
        """Wait until all that was asked and written so far is done; never called in a window that is used."""
        self._writer.submit(lambda: None).result()
        self._reader.wait()

    def close(self) -> None:
        """End the reading; what is still asked for is not answered any more."""
        self._reader.close(drop_waiting=True)

    def read(self, question: Callable[[Logbook], Event]) -> None:
        """Answer a question with an event. A search never holds up a shot, and sees what was written before it."""
        written = self._writer.submit(lambda: None)

        def run() -> None:
            try:
                written.result()
                self._emit(question(self._writer.logbook))
            except LogbookError as error:
                self._emit(Trouble(str(error)))

        self._reader.do(run)

    # Shots

    def toggle_tag(self, shot_id: int, shape: str) -> None:
        """Tag a shot, or take the tag off."""
        self._writer.write(lambda: self._writer.logbook.shots.toggle_tag(shot_id, shape), shot_id)

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        self._writer.write(lambda: self._writer.logbook.shots.rate(shot_id, rating), shot_id)

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace a shot's note."""
        self._writer.write(lambda: self._writer.logbook.shots.annotate(shot_id, note), shot_id)

    def answer_picture(self, shot_id: int, belongs: bool) -> None:
        """Say whether a shot's picture is its own, where that was a question."""
        self._writer.write(lambda: self._writer.logbook.pictures.answer(shot_id, belongs), shot_id)

    def find(self, query: ShotQuery) -> None:
        """Search the log; the answer comes as `ShotsFound`."""
        self.read(lambda logbook: ShotsFound(*logbook.shots.search(query)))

    # Choices and set-ups

    def keep(self, key: str, value: str) -> None:
        """Keep a choice (theme, folder) for the next start."""
        self._writer.write(lambda: self._writer.logbook.state.put(key, value))

    def keep_setup(self, name: str, setup: Setup, belief: Belief) -> None:
        """Keep a set-up under a name."""
        self._writer.write(lambda: self._writer.logbook.setups.keep(name, setup, belief, self._clock()))
        self.list_setups()

    def forget_setup(self, name: str) -> None:
        """Forget a name."""
        self._writer.write(lambda: self._writer.logbook.setups.forget(name))
        self.list_setups()

    def list_setups(self) -> None:
        """Tell the named set-ups."""
        self.read(lambda logbook: SetupsFound(logbook.setups.kept()))

    def fetch_setup(self, shot_id: int) -> None:
        """Tell the set-up that a shot was fired with, as `SetupFetched`."""
        self.read(lambda logbook: SetupFetched(shot_id, *logbook.setups.of_shot(shot_id)))
