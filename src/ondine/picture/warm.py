"""Compiles the tracer, so that the first picture does not wait for it: `python -m ondine.picture.warm`."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from filelock import FileLock

from ondine.core.setup import Camera
from ondine.picture.exposure import trace
from ondine.picture.look import Look
from ondine.picture.scene import Scene


def warm() -> None:
    """Trace a few pixels of still water: the first call compiles everything, or loads what was compiled before.

    Of two processes that would compile at once, the second one waits and loads what the first has made.
    """
    with FileLock(Path(tempfile.gettempdir()) / f"ondine-compiles-{os.getuid()}.lock"):
        trace([Scene()], Look(), Camera(), 1, size=(4, 4))


if __name__ == "__main__":
    warm()
