"""Clocks that jump: set by an hour, daylight saving, a computer that slept. Nobody waits, no picture goes astray."""

from __future__ import annotations

import random
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.faults import Tally
from benchmarks.faults.pictures import Ears
from benchmarks.faults.victim import QuickBench, real_jpeg
from ondine.bench.protocol import Bench
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.file import claim
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio import watch
from ondine.studio.studio import Studio

JUMPS = {
    "an hour back": timedelta(hours=-1),
    "an hour on": timedelta(hours=1),
    "a day back": timedelta(days=-1),
    "slept for a night": timedelta(hours=9),
    "a second back": timedelta(seconds=-1),
}


class Computer:
    """A wall clock that can be set, and seconds that cannot: they stand still while it sleeps."""

    def __init__(self) -> None:
        self.offset = timedelta()
        self.slept_s = 0.0

    def clock(self) -> datetime:
        """The time of day."""
        return datetime.now(UTC) + self.offset

    def sleep(self, seconds: float) -> None:
        """Count what somebody waited, and wait a little."""
        self.slept_s += seconds
        time.sleep(min(seconds, 0.01))


def run(seed: int, rounds: int = 4) -> Tally:
    """Let the clock jump at every place between firing and picture."""
    tally, dice = Tally("clocks that jump"), random.Random(seed)
    before, watch.POLL_S = watch.POLL_S, 0.02
    try:
        for _ in range(rounds):
            for name, jump in JUMPS.items():
                for place in ("before the shot", "before the picture"):
                    tally.tried += 1
                    fault = _once(jump, place, dice.random() < 0.5)
                    if fault:
                        tally.faults.append(f"{name}, {place}: {fault}")
    finally:
        watch.POLL_S = before
    return tally


def _once(jump: timedelta, place: str, camera_follows: bool) -> str:
    computer, ears, bench = Computer(), Ears(), QuickBench()
    with tempfile.TemporaryDirectory() as folder:
        incoming = Path(folder) / "incoming"
        incoming.mkdir()
        claimed = claim(Path(folder) / "log.ondine")
        made = Studio(
            lambda: Logbook(claimed), take_snapshot(claimed, 5), Bench(BenchKind.CABLE, bench, bench),  # type: ignore[arg-type]
            computer.clock, ears, Plan(START, TIDAL_MILL), "Clocks", computer.sleep,
        )  # fmt: skip
        made.intake.watch(incoming)
        made.intake.wait()
        made.log.wait()
        try:
            for number in (1, 2, 3):
                if number == 2 and place == "before the shot":
                    computer.offset += jump
                made.bench.fire(made.composer.plan)
                made.bench.wait()
                made.log.wait()
                taken_at = computer.clock() if camera_follows else datetime.now(UTC)
                if number == 2 and place == "before the picture":
                    computer.offset += jump
                shade = np.full((8, 12, 3), 40 * number, np.uint8)
                real_jpeg(incoming / f"{number}.jpg", shade, TIDAL_MILL.camera, taken_at)
                end = time.monotonic() + 10
                while f"{number}.jpg" not in ears.arrived and time.monotonic() < end:
                    time.sleep(0.02)
        finally:
            made.close()
    if ears.unexpected:
        return ears.unexpected[0]
    wanted = {f"{number}.jpg": number for number in (1, 2, 3)}
    if ears.arrived != wanted:
        return f"paired {ears.arrived}"
    return f"waited {computer.slept_s:.0f} s" if computer.slept_s > 30 else ""
