"""The log at length: `./dev bench log`."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.log import clock, firing, sheet, thumbs
from benchmarks.log.made import make_logbook

SHOTS = 100_000


def run() -> Iterator[str]:
    """Yield the lines of all parts."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        path = folder / "log.ondine"
        make_logbook(path, SHOTS)
        yield from sheet.run(path, folder / "small")
        yield from clock.run()
        yield from thumbs.run(folder)
        yield from firing.run(path, folder / "backups", folder / "originals")
