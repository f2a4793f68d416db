"""What the window asks of the logbook and changes in it: one thread writes, another reads, answers come as events."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.belief.priors import Belief
from ondine.core.setup import Setup
from ondine.logbook.errors import LogbookError
from ondine.studio.events import Event, SetupFetched, SetupsFound, Trouble
from ondine.studio.log_events import ShotsChanged
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook


Ids = Sequence[int]

FEW = 8
"""Of so many older shots the figures are told in one go."""

MOST_TOLD = 500
"""So many changed shots are told anew; who shows more reads them again."""


class LogService:
    """Tags, rates and finds shots, keeps set-ups and choices. Returns at once."""

    def __init__(self, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None], guard: Guard) -> None:
        self._writer, self._clock, self._emit = writer, clock, emit
        self._reader = Worker("logbook-reader", "reading the logbook", guard)
        self._lock = threading.Lock()
        self._is_closing = False
        self._reader.do(self._tell_some_facts)

    def wait(self) -> None:
        """Wait until all that was asked and written so far is done; never called in a window that is used."""
        self._writer.submit(lambda: None).result()
        self._reader.wait()

    def close(self) -> None:
        """End the reading; what is still asked for is not answered any more."""
        with self._lock:
            self._is_closing = True
        self._reader.close(drop_waiting=True)

    def read(self, question: Callable[[Logbook], Event | None]) -> None:
        """Answer a question with an event, or with none.

        A search never holds up a shot, and sees what was written before it.
        """

        def run() -> None:
            try:
                written.result()
                told = question(self._writer.logbook)
                if told is not None:
                    self._emit(told)
            except LogbookError as error:
                self._emit(Trouble(str(error)))

        with self._lock:
            # A window that is closing may still ask, and hears no more.
            if not self._is_closing:
                written = self._writer.submit(lambda: None)
                self._reader.do(run)

    def _tell_some_facts(self) -> None:
        """Tell the figures of older shots, few at a time, between all else: a shot that fires waits for no more."""
        try:
            told = self._writer.submit(lambda: self._writer.logbook.facts.tell(FEW)).result()
        except (LogbookError, CancelledError):
            # It could not be opened, which was told; or it is being closed.
            return
        with self._lock:
            if told and not self._is_closing:
                self._reader.do(self._tell_some_facts)

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

    def keep_shots(self, shot_ids: Ids, keeper: bool) -> None:
        """Say whether shots are ones to keep."""
        self._change(shot_ids, lambda logbook: logbook.shots.keep(shot_ids, keeper))

    def tag_shots(self, shot_ids: Ids, shape: str, on: bool) -> None:
        """Tag many shots with a shape, or take the tag off all of them."""
        self._change(shot_ids, lambda logbook: logbook.shots.tag(shot_ids, shape, on))

    def rate_shots(self, shot_ids: Ids, rating: int) -> None:
        """Rate many shots 0 to 5."""
        self._change(shot_ids, lambda logbook: logbook.shots.rate_all(shot_ids, rating))

    def label_shots(self, shot_ids: Ids, word: str, on: bool) -> None:
        """Put a word of the photographer's own on many shots, or take it off."""
        self._change(shot_ids, lambda logbook: logbook.shots.label(shot_ids, word, on))

    def bin_shots(self, shot_ids: Ids, binned: bool) -> None:
        """Put shots into the bin, or take them out again."""
        at = self._clock() if binned else None
        self._change(shot_ids, lambda logbook: logbook.shots.bin(shot_ids, at))

    def _change(self, shot_ids: Ids, change: Callable[[Logbook], object]) -> None:
        """Change many shots at once; they are told anew as one event."""

        def run() -> None:
            change(self._writer.logbook)
            self._emit(ShotsChanged(self._writer.logbook.shots.page(shot_ids[:MOST_TOLD])))

        self._writer.write(run)

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
