"""Thumbnails of many large pictures, against Pillow's draft decode of the same files on as many threads."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.timing import verdict
from ondine.logbook.thumbnails import THREADS, Original, Thumbnails, fitted

COUNT, DISTINCT, FEWEST = 1000, 25, 2
SIZE = 4000, 3000
LEAST_SHARE = 0.9


def run(folder: Path, small: bool = False) -> Iterator[str]:
    """Yield lines; pictures are written into the folder first."""
    count = FEWEST if small else COUNT
    files = _pictures(folder / "originals", count)
    _draft(files[:40])
    shares, ours_s, bare_s = [], [], []
    for turn in range(3):
        bare = _timed(lambda: _draft(files))
        made = Thumbnails(folder / f"thumbnails-{turn}")
        originals = [Original(path, f"{number:064x}") for number, path in enumerate(files)]
        ours = _timed(lambda: made.make_all(originals, lambda done, of: None, lambda: False))  # noqa: B023
        shares.append(bare / ours)
        ours_s.append(ours)
        bare_s.append(bare)
    share = float(np.median(shares))
    yield (
        f"{count} thumbnails of 12 megapixels: {count / np.median(ours_s):.0f} a second, draft decode alone "
        f"{count / np.median(bare_s):.0f}; share {share:.2f}   bound {LEAST_SHARE}: {verdict(LEAST_SHARE, share)}"
    )


def _pictures(folder: Path, count: int) -> list[Path]:
    folder.mkdir()
    rng = np.random.default_rng(3)
    files = []
    for number in range(min(DISTINCT, count)):
        # As grainy as a picture at a low sensitivity.
        base = np.asarray(Image.radial_gradient("L").resize(SIZE).convert("RGB"), np.int16)
        grain = rng.normal(0, 3, (SIZE[1], SIZE[0], 1)).astype(np.int16)
        path = folder / f"{number}.jpg"
        Image.fromarray(np.clip(base + grain, 0, 255).astype(np.uint8)).save(path, quality=92)
        files.append(path)
    for number in range(DISTINCT, count):
        path = folder / f"{number}.jpg"
        os.link(files[number % DISTINCT], path)
        files.append(path)
    return files


def _draft(files: list[Path]) -> None:
    def decode(path: Path) -> None:
        with Image.open(path) as image:
            image.draft("RGB", fitted(image.size))
            image.load()

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(decode, files))


def _timed(job: Callable[[], object]) -> float:
    began = time.perf_counter()
    job()
    return time.perf_counter() - began
