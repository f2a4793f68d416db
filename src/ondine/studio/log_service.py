"""What the window asks of the logbook and changes in it: one thread writes, another reads, answers come as events."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError
from functools import partial
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.belief.priors import Belief
from ondine.core.numbers import counted
from ondine.core.setup import Setup
from ondine.logbook.errors import LogbookError
from ondine.studio.events import Event, Notice, SetupFetched, SetupOfShot, SetupsFound, Trouble
from ondine.studio.log_events import ShotsChanged
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.said_history import SaidHistory, Step
from ondine.studio.worker import Guard, Worker

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.said import Said
    from ondine.logbook.store import Logbook


Ids = Sequence[int]

FEW = 8
"""Of so many older shots the figures are told in one go."""

MOST_TOLD = 500
"""So many shots are changed in one go, and told anew; who shows more reads them again."""


class LogService:
    """Tags, rates and finds shots, keeps set-ups and choices. Returns at once."""

    def __init__(self, writer: LogbookWriter, clock: Clock, emit: Callable[[Event], None], guard: Guard) -> None:
        self._writer, self._clock, self._emit = writer, clock, emit
        self._reader = Worker("logbook-reader", "reading the logbook", guard)
        self._lock = threading.Lock()
        self._is_closing = False
        self._said = SaidHistory()
        self.tell_facts()

    def tell_facts(self) -> None:
        """Tell the figures of shots that have none yet, beside all else."""
        self._reader.do(self._tell_some_facts)

    def wait(self) -> None:
        """Wait until all that was asked and written so far is done; never called in a window that is used."""
        self._writer.wait()
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
        self._say_one(shot_id, "a tag", lambda logbook: logbook.shots.toggle_tag(shot_id, shape))

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        self._say_one(shot_id, "a rating", lambda logbook: logbook.shots.rate(shot_id, rating))

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace a shot's note."""
        self._say_one(shot_id, "a note", lambda logbook: logbook.shots.annotate(shot_id, note))

    def answer_picture(self, shot_id: int, belongs: bool) -> None:
        """Say whether a shot's picture is its own, where that was a question."""
        self._writer.write(lambda: self._writer.logbook.pictures.answer(shot_id, belongs), shot_id)

    def keep_shots(self, shot_ids: Ids, keeper: bool) -> None:
        """Say whether shots are ones to keep."""
        words = "kept" if keeper else "no longer kept"
        self._say(shot_ids, words, lambda logbook, part: logbook.shots.keep(part, keeper))

    def tag_shots(self, shot_ids: Ids, shape: str, on: bool) -> None:
        """Tag many shots with a shape, or take the tag off all of them."""
        words = "tagged" if on else "no longer tagged"
        self._say(shot_ids, words, lambda logbook, part: logbook.shots.tag(part, shape, on))

    def rate_shots(self, shot_ids: Ids, rating: int) -> None:
        """Rate many shots 0 to 5."""
        self._say(shot_ids, f"rated {rating}", lambda logbook, part: logbook.shots.rate_all(part, rating))

    def label_shots(self, shot_ids: Ids, word: str, on: bool) -> None:
        """Put a word of the photographer's own on many shots, or take it off."""
        words = f"labelled “{word}”" if on else f"no longer labelled “{word}”"
        self._say(shot_ids, words, lambda logbook, part: logbook.shots.label(part, word, on))

    def bin_shots(self, shot_ids: Ids, binned: bool) -> None:
        """Put shots into the bin, or take them out again."""
        at = self._clock() if binned else None
        words = "put into the bin" if binned else "taken out of the bin"
        self._say(shot_ids, words, lambda logbook, part: logbook.shots.bin(part, at))

    def _say_one(self, shot_id: int, what: str, change: Callable[[Logbook], object]) -> None:
        """Say something of one shot, which is told anew."""

        def run() -> None:
            logbook = self._writer.logbook
            before = logbook.said.of([shot_id])
            change(logbook)
            self._said.push(Step(f"{what} of shot {shot_id}", before, logbook.said.of([shot_id])))

        self._writer.write(run, shot_id)

    def _say(self, shot_ids: Ids, words: str, change: Callable[[Logbook, Ids], object]) -> None:
        """Say something of many shots, some at a time, so that a shot which fires is written in between.

        They are told anew as one event, and taken back as one step.
        """
        before: dict[int, Said] = {}
        after: dict[int, Said] = {}

        def some(part: Ids) -> None:
            logbook = self._writer.logbook
            before.update(logbook.said.of(part))
            change(logbook, part)
            after.update(logbook.said.of(part))

        def tell() -> None:
            self._said.push(Step(f"{counted(len(shot_ids), 'shot')} {words}", before, after))
            self._emit(ShotsChanged(self._writer.logbook.shots.page(shot_ids[:MOST_TOLD])))

        for start in range(0, len(shot_ids), MOST_TOLD):
            self._writer.write(partial(some, shot_ids[start : start + MOST_TOLD]))
        self._writer.write(tell)

    def undo(self) -> None:
        """Take back what was said last of shots; a Notice says what it was."""
        self._writer.write(lambda: self._turn(self._said.undo(), "Taken back", back=True))

    def redo(self) -> None:
        """Say again what was taken back last; a Notice says what it is."""
        self._writer.write(lambda: self._turn(self._said.redo(), "Done again", back=False))

    def _turn(self, step: Step | None, words: str, back: bool) -> None:
        if step is None:
            self._emit(Notice("Nothing was said of shots that could be taken back." if back else "Nothing to redo."))
            return
        logbook, numbers = self._writer.logbook, list(step.before)
        now, then = (step.after, step.before) if back else (step.before, step.after)
        logbook.said.put_back(now, then)
        self._emit(ShotsChanged(logbook.shots.page(numbers[:MOST_TOLD])))
        self._emit(Notice(f"{words}: {step.words}."))

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

    def tell_setup(self, shot_id: int) -> None:
        """Tell the set-up that a shot was fired with, as `SetupOfShot`."""
        self.read(lambda logbook: SetupOfShot(shot_id, logbook.setups.of_shot(shot_id)[0]))
