"""Tracers for tests: one that traces in a thread, and one that dies."""

import threading
from multiprocessing import Pipe
from multiprocessing.connection import Connection

from ondine.studio.foreseen.tracing import serve


def in_thread() -> Connection:
    """Start a tracer that works as the one of a window, without a process; return the line to it."""
    here, there = Pipe()
    threading.Thread(target=_serve, args=(there,), name="test-tracer", daemon=True).start()
    return here


def _serve(line: Connection) -> None:
    try:
        serve(line)
    finally:
        line.close()


def that_dies() -> Connection:
    """Return the line to a tracer that is gone."""
    here, there = Pipe()
    there.close()
    return here
