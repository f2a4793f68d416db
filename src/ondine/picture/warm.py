"""Compiles the tracer, so that the first picture does not wait for it: `python -m ondine.picture.warm`."""

from __future__ import annotations

from ondine.core.setup import Camera
from ondine.picture.exposure import trace
from ondine.picture.look import Look
from ondine.picture.scene import Scene


def warm() -> None:
    """Trace a few pixels of still water: the first call compiles everything, or loads what was compiled before."""
    trace([Scene()], Look(), Camera(), 1, size=(4, 4))


if __name__ == "__main__":
    warm()
