"""Threads that outlive what happens in them: what nobody expected is told and logged, and goes no further."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TypeVar

from ondine.studio.events import Event, Trouble

T = TypeVar("T")

LOG = logging.getLogger("ondine")


class Guard:
    """The one place where an exception that nobody expected ends: as a sentence, with details to copy, and in the log.

    `emit` is called from whatever thread it happened in.
    """

    def __init__(self, emit: Callable[[Event], None]) -> None:
        self._emit = emit

    def __call__(self, where: str, job: Callable[..., object], *arguments: object) -> None:
        """Run a job; `where` says in words what it belongs to."""
        try:
            job(*arguments)
        except Exception as error:  # noqa: BLE001 - see the class
            self.tell(where, error)

    def tell(self, where: str, error: BaseException) -> None:
        """Log an exception, and say it."""
        details = details_of(where, error)
        LOG.error("%s", details)
        try:
            self._emit(
                Trouble(
                    f"Something that Ondine did not expect went wrong ({where}). What was asked for last may not be "
                    "done; the rest goes on. Copy the details for a report.",
                    details,
                )
            )
        except RuntimeError:
            # The window that would say it is gone; the log has it.
            LOG.error("Nobody was there to hear it.")


def details_of(where: str, error: BaseException) -> str:
    """Return an exception for a report: where it happened, with the home folder left out of its paths."""
    text = "".join(traceback.format_exception(error))
    return f"{where}\n{text}".replace(str(Path.home()), "~")


class Worker:
    """One thread with a name that does jobs in their order."""

    def __init__(self, name: str, where: str, guard: Guard) -> None:
        self._thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix=name)
        self._where, self._guard = where, guard

    def do(self, job: Callable[..., object], *arguments: object) -> None:
        """Do a job some time soon; what it raises is told."""
        self._thread.submit(self._guard, self._where, job, *arguments)

    def ask(self, job: Callable[..., T], *arguments: object) -> Future[T]:
        """Do a job some time soon; what it returns or raises is the caller's, who must look."""
        return self._thread.submit(job, *arguments)

    def wait(self) -> None:
        """Wait until all that was asked for so far is done."""
        self.ask(int).result()

    def close(self, drop_waiting: bool = False) -> None:
        """Do what is waiting, or drop it, and end."""
        self._thread.shutdown(wait=True, cancel_futures=drop_waiting)
