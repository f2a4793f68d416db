"""A card on the desk: read, matched, slid by hand, taken in; in a thread of its own, and cancelled at any time."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

from ondine.bench.protocol import Clock as Now
from ondine.core.log.camera_clock import Clock
from ondine.core.setup import BenchKind
from ondine.logbook.card import CardFiles, CardGoneError, read_card
from ondine.logbook.errors import LogbookError
from ondine.logbook.intake import PictureFacts
from ondine.studio.card_import import MatchedCard, Taking, matched, take_in
from ondine.studio.events import Event, ShotChanged, Trouble
from ondine.studio.log_events import CardMatched, CardProgress, CardTaken
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard, Worker

TOLD_EACH = 10
"""Progress is told so often: at each of so many files."""


class CardDesk:
    """Returns at once; what it finds comes as events. Nothing is written before `take_in`."""

    def __init__(
        self, kind: BenchKind, writer: LogbookWriter, now: Now, emit: Callable[[Event], None], guard: Guard
    ) -> None:
        self._kind, self._writer, self._now, self._emit = kind, writer, now, emit
        self._worker = Worker("card", "matching a card", guard)
        self._stop = threading.Event()
        self._found: MatchedCard | None = None
        self._is_closed = False

    def read(self, folder: Path) -> None:
        """Read a folder of pictures and match it to the log; comes as `CardMatched`."""
        self._do(self._read, folder)

    def slide(self, clock: Clock) -> None:
        """Match what was read by a clock as somebody sets it by hand."""
        self._do(self._slide, clock)

    def take_in(self, doubtful: bool) -> None:
        """Take in the pictures as they are matched now, sure ones alone or doubtful ones as questions too."""
        self._do(self._take_in, doubtful)

    def cancel(self) -> None:
        """Stop what is under way; what was taken in stays."""
        self._stop.set()

    def close(self) -> None:
        """Stop and end."""
        self._is_closed = True
        self.cancel()
        self._worker.close(drop_waiting=True)

    def _do(self, job: Callable[..., None], *arguments: object) -> None:
        # What was begun before is of no use to anybody any more.
        self._stop.set()
        self._stop = stop = threading.Event()
        if not self._is_closed:
            self._worker.do(self._told, job, stop, *arguments)

    def _told(self, job: Callable[..., None], stop: threading.Event, *arguments: object) -> None:
        try:
            job(stop, *arguments)
        except (CardGoneError, LogbookError) as error:
            self._emit(Trouble(str(error)))
            self._emit(CardProgress("", 0, 0))

    def _read(self, stop: threading.Event, folder: Path) -> None:
        def count(done: int, of: int) -> None:
            if done % TOLD_EACH == 0 or done == of:
                self._emit(CardProgress(f"Reading {folder.name}", done, of))

        card: CardFiles = read_card(folder, count, stop.is_set)
        if not stop.is_set():
            self._found = matched(self._writer.logbook, card)
            self._emit(CardMatched(folder, self._found))

    def _slide(self, stop: threading.Event, clock: Clock) -> None:
        if self._found is not None and not stop.is_set():
            self._found = self._found.with_clock(clock)
            self._emit(CardMatched(None, self._found))

    def _take_in(self, stop: threading.Event, doubtful: bool) -> None:
        found = self._found
        if found is None:
            return

        def give(facts: PictureFacts, shot_id: int, sure: bool) -> bool:
            logbook = self._writer.logbook
            new = self._writer.submit(logbook.pictures.give, facts, shot_id, sure, self._now()).result()
            self._emit(ShotChanged(logbook.shots.get(shot_id)))
            return new

        def count(so_far: Taking) -> None:
            if so_far.done % TOLD_EACH == 0 or so_far.done == so_far.of:
                self._emit(CardProgress("Taking in", so_far.done, so_far.of))

        done = take_in(self._kind, found, give, count, stop.is_set, doubtful)
        self._emit(CardTaken(len(done.taken), len(done.questions), tuple(done.refused), done.done < done.of))
