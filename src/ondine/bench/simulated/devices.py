"""The simulated controller and camera, joined by one simulated table."""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from multiprocessing import get_context
from pathlib import Path

from ondine.bench.protocol import BenchError, Clock, FiringReport, Sleep
from ondine.bench.simulated.frame import Frame, take_frame
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.look import Look
from ondine.core.sequence import Sequence
from ondine.core.setup import Setup

LONGEST_AFTERMATH_S = 0.15
"""How long the bench stays busy after the last pulse."""


@dataclass
class SimulatedTable:
    """What controller and camera share: the hidden rig, the reservoir's level, the light, the shots so far."""

    seed: int
    clock: Clock
    sleep: Sleep
    look: Look = field(default_factory=Look)
    shots: int = 0
    rig: HiddenRig = field(init=False)
    head_m: float = field(init=False)
    flashed_at: datetime | None = None

    def __post_init__(self) -> None:
        self.rig = HiddenRig.from_seed(self.seed)
        self.refill()

    def refill(self) -> None:
        """Fill the reservoir to its mark."""
        self.head_m = self.rig.head_m


class SimulatedCamera:
    """Renders what the table shows while the flash burns, and drops a JPEG.

    It works in a process of its own, as a camera would: compiling and tracing never hold up the window.
    """

    name = "Simulated camera"

    def __init__(self, table: SimulatedTable) -> None:
        self._table = table
        self._folder: Path | None = None
        self._on_error: Callable[[BenchError], None] = lambda _: None
        self._worker: ProcessPoolExecutor | None = None

    def deliver_to(self, folder: Path, on_error: Callable[[BenchError], None]) -> None:
        """See `Camera.deliver_to`."""
        self._folder, self._on_error = folder, on_error

    def close(self) -> None:
        """Finish the frame under way, drop those behind it."""
        if self._worker is not None:
            self._worker.shutdown(wait=True, cancel_futures=True)
            self._worker = None

    def expose(self, sequence: Sequence, setup: Setup, shot: int, head_m: float, lit: bool, taken_at: datetime) -> None:
        """Take one frame of a firing. Returns at once."""
        folder = self._folder
        if folder is None:
            return
        if self._worker is None:
            # Spawned, not forked: a fork would copy Qt's threads half alive.
            self._worker = ProcessPoolExecutor(max_workers=1, mp_context=get_context("spawn"))
        frame = Frame(self._table.seed, self._table.look, sequence, setup, shot, head_m, lit, taken_at)
        self._worker.submit(take_frame, frame, folder).add_done_callback(lambda done: self._delivered(done, folder))

    def _delivered(self, done: Future[None], folder: Path) -> None:
        if done.cancelled():
            return
        error = done.exception()
        if isinstance(error, OSError):
            why = error.strerror or str(error)
            self._on_error(
                BenchError(
                    f"The picture of this shot could not be written to {folder}: {why}. "
                    "Make room or choose another folder; the shot itself is in the log."
                )
            )
        elif error is not None:
            self._worker = None
            self._on_error(
                BenchError("The simulated camera stopped and lost this picture. It starts anew with the next shot.")
            )


class SimulatedController:
    """Runs sequences on the simulated table and tells the camera when light fell."""

    name = "Simulated bench"

    def __init__(self, table: SimulatedTable, camera: SimulatedCamera) -> None:
        self._table = table
        self._camera = camera

    def fire(self, sequence: Sequence, setup: Setup) -> FiringReport:
        """See `Controller.fire`."""
        table = self._table
        if table.head_m <= 0:
            raise BenchError("The reservoir of the simulated bench is empty. Refill it, then fire again.")
        fired_at = table.clock()
        table.shots += 1
        flashes_at = fired_at + timedelta(microseconds=sequence.flash_us)
        lit = _recycled(table, flashes_at, setup.light.power)
        if lit:
            table.flashed_at = flashes_at
        self._camera.expose(sequence, setup, table.shots, table.head_m, lit, fired_at)
        table.head_m -= _drawn_m3(table, sequence) / table.rig.reservoir_area_m2
        last_us = max(sequence.flash_us, sequence.drops[-1].end_us)
        table.sleep(last_us / 1e6 + LONGEST_AFTERMATH_S)
        return FiringReport(fired_at, sequence.flash_us, "" if lit else "flash not ready")


def simulated_bench(
    seed: int, clock: Clock, sleep: Sleep, look: Look | None = None
) -> tuple[SimulatedController, SimulatedCamera]:
    """Set up a table from a seed and return its two devices."""
    table = SimulatedTable(seed, clock, sleep, look or Look())
    camera = SimulatedCamera(table)
    return SimulatedController(table, camera), camera


def _drawn_m3(table: SimulatedTable, sequence: Sequence) -> float:
    open_s = sum(p.open_us for p in sequence.drops) / 1e6
    return float(table.rig.discharge_m3_s_sqrt_m * math.sqrt(max(table.head_m, 0.0)) * open_s)


def recycle_s(power: float) -> float:
    """Time the simulated flash needs before it can fire again."""
    return 0.15 + 12.0 * power


def _recycled(table: SimulatedTable, at: datetime, power: float) -> bool:
    return table.flashed_at is None or (at - table.flashed_at).total_seconds() >= recycle_s(power)
