"""Pictures to name: each round is drawn and photographed in a process of its own, one picture ahead of the eye."""

from __future__ import annotations

import shutil
import tempfile
import threading
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.studio.events import Event, InstantReady, Trouble
from ondine.studio.worker import Guard

if TYPE_CHECKING:
    from multiprocessing.connection import Connection
    from multiprocessing.process import BaseProcess

PICTURES = 10
LOST = "The pictures to name could not be made. Begin the round again."


def make_pictures(line: Connection, seed: int, folder: Path) -> None:
    """Photograph the instants of a round into a folder, and send each with its place; the other side closes the line.

    It runs in a process of its own: the compiler behind the tracer is large, and a window must not wait for it.
    """
    from ondine.bench.simulated.frame import Frame, take_frame
    from ondine.bench.simulated.instants import asked_in, instant_of
    from ondine.bench.simulated.lights import as_planned
    from ondine.picture.look import Look
    from ondine.picture.own_process import end_with_parent

    end_with_parent()
    for place, shape in enumerate(asked_in(seed, PICTURES)):
        one = instant_of(seed, place, shape)
        lights = as_planned(one.setup, one.sequence)
        own = folder / str(place)
        own.mkdir()
        heads_m = (one.rig.head_m,)
        take_frame(
            Frame(one.rig, one.seed, Look(), one.sequence, one.setup, 1, heads_m, lights, datetime.now(UTC)), own
        )
        try:
            line.send(InstantReady(place, next(own.iterdir()), one))
        except (BrokenPipeError, ConnectionResetError):
            # Nobody waits for them any more.
            return
    line.close()


Make = Callable[["Connection", int, Path], "BaseProcess | None"]
"""Begins to make the pictures of a round; returns the process that does, if there is one."""


class Gallery:
    """Has pictures made, and tells each as `InstantReady`; the newest round wins."""

    def __init__(self, emit: Callable[[Event], None], guard: Guard, make: Make | None = None) -> None:
        self._emit, self._guard, self._make = emit, guard, make or _spawned
        self._process: BaseProcess | None = None
        self._thread: threading.Thread | None = None
        self._folder: Path | None = None
        self._round = 0

    def begin(self, seed: int) -> None:
        """Make the pictures of another round."""
        from multiprocessing import Pipe

        self.close()
        try:
            self._folder = Path(tempfile.mkdtemp(prefix="ondine-instants-"))
        except OSError as error:
            self._emit(Trouble(f"The pictures to name cannot be kept: {error.strerror}. Make room, then begin again."))
            return
        here, there = Pipe(duplex=False)
        self._process = self._make(there, seed, self._folder)
        self._thread = threading.Thread(
            target=self._guard, args=("the pictures to name", self._hear, here, self._round), name="instants"
        )
        self._thread.start()

    def close(self) -> None:
        """Make no more, and let go of those that there are."""
        self._round += 1
        if self._process is not None:
            self._process.terminate()
            self._process.join()
            self._process = None
        if self._thread is not None:
            self._thread.join()
            self._thread = None
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
            self._folder = None

    def _hear(self, line: Connection, number: int) -> None:
        came = 0
        try:
            while came < PICTURES:
                ready: InstantReady = line.recv()
                came += 1
                if number == self._round:
                    self._emit(ready)
        except (EOFError, OSError):
            if number == self._round:
                self._emit(Trouble(LOST))
        finally:
            line.close()


def _spawned(line: Connection, seed: int, folder: Path) -> BaseProcess:
    from multiprocessing import get_context

    # Spawned, not forked: a fork would copy Qt's threads half alive.
    process = get_context("spawn").Process(
        target=make_pictures, args=(line, seed, folder), name="instants", daemon=True
    )
    process.start()
    # This side's copy: with the other one gone, the line is at its end.
    line.close()
    return process
