"""One picture of the simulated camera, compiled code warm, on one core; against reading it back as a JPEG."""

import io
import time
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from functools import partial

import numpy as np
from PIL import Image

from benchmarks.timing import seconds, verdict
from ondine.bench.simulated.frame import Frame, photograph
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.lights import as_planned
from ondine.core.timing.sequence import Sequence
from ondine.demo.scenario import ONE, PAIR, SEED, TIDAL_MILL
from ondine.picture.look import Look

MOMENTS = {
    "in flight": (ONE, 250), "crown": (ONE, 272), "crater": (ONE, 290), "jet": (ONE, 380),
    "contact": (PAIR, 351), "full umbrella": (PAIR, 356), "torn umbrella": (PAIR, 360), "collapsed": (PAIR, 367),
}  # fmt: skip


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    one = Sequence.with_one_flash(ONE, 300_000)
    taken_at = datetime(2026, 1, 1, tzinfo=UTC)
    rig, lights = HiddenRig.from_seed(SEED), as_planned(TIDAL_MILL, one)
    frame = Frame(rig, SEED, Look(), one, TIDAL_MILL, 1, (0.12,), lights, taken_at)
    photograph(frame)
    medians = []
    for name, (drops, flash_ms) in list(MOMENTS.items())[: 1 if small else None]:
        sequence = Sequence.with_one_flash(drops, flash_ms * 1000)
        shot = replace(frame, sequence=sequence, lights=as_planned(TIDAL_MILL, sequence))
        began = time.process_time()
        wall = seconds(partial(photograph, shot), 1 if small else 3)
        cores = (time.process_time() - began) / wall.sum()
        medians.append(float(np.median(wall)))
        yield f"{name}: {medians[-1]:.2f} s, {cores:.1f} cores   bound 1 s: {verdict(medians[-1], 1.0)}"
    held = io.BytesIO()
    Image.fromarray(photograph(frame)).save(held, format="JPEG")
    decode = float(np.median(seconds(lambda: Image.open(io.BytesIO(held.getvalue())).load(), 9)))
    median = float(np.median(medians))
    yield f"median picture: {median:.2f} s, as long as decoding {median / decode:.0f} of its JPEGs"
