"""Loads much at once without looking through it for what can be let go."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def uncollected() -> Iterator[None]:
    """Collect no garbage meanwhile, and keep for good what was made: what loads a program leaves next to none.

    The collector would take a tenth of the time to the first frame, and later a tenth of a second amid a drag.
    """
    on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if on:
            gc.enable()


def collect_ended() -> None:
    """Let go of what has ended, of what was kept for good too: it takes a tenth of a second or two."""
    gc.unfreeze()
    gc.collect()
    gc.freeze()
