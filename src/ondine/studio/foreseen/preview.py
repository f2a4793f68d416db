"""Keeps a tracer at work on the picture that is wanted last, and tells what it sees."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from ondine.studio.events import Event, ForeseenLost, Notice
from ondine.studio.foreseen.orders import Order, Wanted
from ondine.studio.worker import Guard

if TYPE_CHECKING:
    from multiprocessing.connection import Connection

StartTracer = Callable[[], "Connection"]
"""Starts a tracer, and returns the line to it."""

PATIENCE_S = 4.0
"""So long nobody is told that the tracer is still getting ready."""

MOST_DEATHS = 3
"""A tracer that died so often in one window is not started again."""

WHERE = "the picture of the splash"
GETS_READY = "The picture of the splash is made ready, longest the first time. Until then it is drawn in outline."


class Preview:
    """Takes wishes from the window's thread at once; a thread of its own talks with the tracer.

    Without `start_tracer` nothing is ever seen.
    """

    def __init__(self, start_tracer: StartTracer | None, emit: Callable[[Event], None], guard: Guard) -> None:
        self._start_tracer, self._emit, self._guard = start_tracer, emit, guard
        self._number = 0
        self._next: Order | None = None
        self._closing = False
        self._line: Connection | None = None
        self._deaths = 0
        self._answers_by: float | None = None
        self._bell, self._rings = os.pipe()
        self._thread: threading.Thread | None = None

    @property
    def works(self) -> bool:
        """Whether pictures can be had at all."""
        return self._start_tracer is not None and self._deaths < MOST_DEATHS

    def want(self, wanted: Wanted) -> int:
        """Want a picture instead of the one before; returns its number at once."""
        self._number += 1
        if self.works and not self._closing:
            self._next = Order(self._number, wanted)
            if self._thread is None:
                self._thread = threading.Thread(target=self._guard, args=(WHERE, self._run), name="preview")
                self._thread.start()
            os.write(self._rings, b"!")
        return self._number

    def close(self) -> None:
        """Let the tracer go, whatever it is at."""
        if self._closing:
            return
        self._closing = True
        os.write(self._rings, b".")
        if self._thread is not None:
            self._thread.join()
        os.close(self._bell)
        os.close(self._rings)

    def _run(self) -> None:
        # Loaded with the first picture: no window needs it for its first frame.
        from multiprocessing.connection import wait

        try:
            while not self._closing:
                ready = wait([self._bell, *([self._line] if self._line else [])], self._patience_s())
                if self._bell in ready:
                    os.read(self._bell, 4096)
                    self._send()
                if self._line is not None and self._line in ready:
                    self._receive(self._line)
                if not ready and self._answers_by is not None:
                    self._answers_by = None
                    self._emit(Notice(GETS_READY))
        finally:
            if self._line is not None:
                self._line.close()
            if not self._closing:
                # For a reason that nobody expected, which the guard tells: nobody would hear another wish.
                self._deaths = MOST_DEATHS
                self._emit(ForeseenLost(self._number))

    def _patience_s(self) -> float | None:
        return None if self._answers_by is None else max(self._answers_by - time.monotonic(), 0.0)

    def _send(self) -> None:
        order, self._next = self._next, None
        if order is None or self._closing or not self.works:
            return
        assert self._start_tracer is not None
        try:
            if self._line is None:
                self._line = self._start_tracer()
                self._answers_by = time.monotonic() + PATIENCE_S
            self._line.send(order)
        except OSError as error:
            self._lose(error)

    def _receive(self, line: Connection) -> None:
        try:
            said = line.recv()
        except (EOFError, OSError) as error:
            self._lose(error)
            return
        self._answers_by = None
        if isinstance(said, ForeseenLost) and said.details:
            self._guard.tell(WHERE, RuntimeError(said.details))
        self._emit(said)

    def _lose(self, error: BaseException) -> None:
        """The tracer died: the next wish starts another one, unless that happened too often."""
        if self._line is not None:
            self._line.close()
        self._line, self._answers_by = None, None
        self._deaths += 1
        if self._deaths == MOST_DEATHS:
            self._guard.tell(WHERE, error)
        self._emit(ForeseenLost(self._number))


def in_own_process() -> Connection:
    """Start a tracer in a process of its own; return the line to it. Closing the line ends it."""
    from multiprocessing import Pipe, get_context

    from ondine.studio.foreseen.tracing import run

    here, there = Pipe()
    # Spawned, not forked: a fork would copy Qt's threads half alive.
    get_context("spawn").Process(target=run, args=(there,), name="splash-tracer", daemon=True).start()
    there.close()
    return here
