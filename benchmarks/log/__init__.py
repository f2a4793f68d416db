"""The log at length: `./dev bench log`."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.log import clock, firing, sheet, thumbs
from benchmarks.log.made import make_logbook

SHOTS, FEWEST_SHOTS = 100_000, 600


def run(small: bool = False) -> Iterator[str]:
    """Yield the lines of all parts."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        path = folder / "log.ondine"
        make_logbook(path, FEWEST_SHOTS if small else SHOTS)
        yield from sheet.run(path, folder / "small")
        yield from clock.run(small)
        yield from thumbs.run(folder, small)
        yield from firing.run(path, folder / "backups", folder / "originals", small)
