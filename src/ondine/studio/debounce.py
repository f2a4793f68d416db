"""Does one thing a moment after the last of many requests."""

from __future__ import annotations

import threading
from collections.abc import Callable


class Debounce:
    """Calls `job` once the requests have rested for `rest_s`; while a hand drags, nothing is done.

    `job` runs in a thread of its own. `close` runs it at once if a request is open.
    """

    def __init__(self, job: Callable[[], None], rest_s: float, name: str) -> None:
        self._job, self._rest_s = job, rest_s
        self._open = False
        self._asked = threading.Event()
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    def ask(self) -> None:
        """Request the job."""
        self._open = True
        self._asked.set()

    def close(self) -> None:
        """Do what was asked for and end."""
        self._closing.set()
        self._asked.set()
        self._thread.join()

    def _run(self) -> None:
        while not self._closing.is_set():
            self._asked.wait()
            self._rest()
            if self._open:
                self._open = False
                self._job()

    def _rest(self) -> None:
        """Return when no request has come for a while, or at closing."""
        while not self._closing.is_set():
            self._asked.clear()
            # A pause between two looks: looking at once would spin for as long as the hand moves.
            self._closing.wait(self._rest_s / 4)
            if not self._asked.wait(self._rest_s):
                return
