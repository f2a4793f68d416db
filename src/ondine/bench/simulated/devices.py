"""The simulated controller and camera, joined by one simulated table."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from concurrent.futures import BrokenExecutor, Future, wait
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ondine.bench.protocol import BenchError, Clock, Dispensed, FiringReport, Pour, Sleep, Ticks
from ondine.bench.simulated.fluid import fluid_of
from ondine.bench.simulated.frame import Frame, take_frame
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.lights import Light, fire_lights
from ondine.core.setup import Setup
from ondine.core.timing.commands import Commands
from ondine.core.timing.limits import Outputs
from ondine.core.timing.sequence import Sequence
from ondine.picture.look import Look
from ondine.picture.own_process import end_with_parent

if TYPE_CHECKING:
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing.process import BaseProcess

EMPTY = "The reservoir of the simulated bench is empty. Refill it, then go on."
SCALE_STEP_G, SCALE_ERROR_G = 0.01, 0.006

PATIENCE_S = 4.0
"""So long nobody is told that the camera is still getting ready."""

LAST_FRAME_S = 5.0
"""So long a camera that is closed may go on with the frame under way."""

LONGEST_AFTERMATH_S = 0.15
"""How long the bench stays busy after the last pulse."""


@dataclass
class SimulatedTable:
    """What controller and camera share: the hidden rig, the reservoir's level, the flashes, the shots so far.

    `tells` : whether the controller reports what each picture shows, for a photographer who practises.
    """

    seed: int
    clock: Clock
    sleep: Sleep
    ticks: Ticks = time.monotonic
    look: Look = field(default_factory=Look)
    shots: int = 0
    tells: bool = False
    rig: HiddenRig = field(init=False)
    heads_m: dict[int, float] = field(init=False)
    """Level of each reservoir that is not full, by the number of its valve."""
    flashed_s: dict[int, float] = field(default_factory=dict)
    """When each unit flashed last, by its number."""

    def __post_init__(self) -> None:
        self.rig = HiddenRig.from_seed(self.seed)
        self.refill()

    def put(self, rig: HiddenRig, seed: int, tells: bool, shots: int) -> None:
        """Put another rig on the table, with its reservoirs full, after so many shots of its own."""
        self.rig, self.seed, self.tells, self.shots = rig, seed, tells, shots
        self.refill()

    def refill(self) -> None:
        """Fill the reservoirs to their marks."""
        self.heads_m = {}

    def head_m(self, valve: int) -> float:
        """Level of a valve's reservoir."""
        return self.heads_m.get(valve, self.rig.head_m)

    def draw(self, valve: int, open_s: float) -> float:
        """Let liquid out of a reservoir while its valve is open [s]; return its volume [m3]."""
        rig, head = self.rig.of_valve(self.seed, valve), self.head_m(valve)
        flows_s = max(open_s - rig.dead_time_s, 0.0)
        volume = float(rig.discharge_m3_s_sqrt_m * math.sqrt(max(head, 0.0)) * flows_s)
        self.heads_m[valve] = head - volume / rig.reservoir_area_m2
        return volume


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
        self._warming: BaseProcess | None = None
        self._frames: list[Future[None]] = []
        self._processes: set[BaseProcess] = set()
        self._closed = False

    def deliver_to(self, folder: Path, on_error: Callable[[BenchError], None]) -> None:
        """See `CameraDevice.deliver_to`."""
        self._folder, self._on_error = folder, on_error

    def prepare(self, told: Callable[[bool], None]) -> None:
        """Compile what traces the pictures, beside everything else, so that the first picture need not wait for it.

        told : is called with False if this takes more than a moment, and with True when it is over.
        """
        from multiprocessing import get_context

        # A process of its own: closing the window ends it at once, as it need not end a frame under way.
        self._warming = get_context("spawn").Process(target=_warm, daemon=True)
        self._warming.start()
        threading.Thread(target=self._tell_when_warm, args=(self._warming, told), daemon=True).start()

    def _tell_when_warm(self, warming: BaseProcess, told: Callable[[bool], None]) -> None:
        warming.join(PATIENCE_S)
        if warming.exitcode is not None or self._closed:
            return
        told(False)
        warming.join()
        if warming.exitcode == 0 and not self._closed:
            told(True)

    def close(self) -> None:
        """Finish the frame under way if that takes but a moment, drop it and those behind it otherwise."""
        self._closed = True
        if self._warming is not None:
            self._warming.terminate()
            self._warming.join()
        if self._worker is not None:
            self._worker.shutdown(wait=False, cancel_futures=True)
            wait(self._frames, timeout=LAST_FRAME_S)
            for process in self._processes:
                process.terminate()
                process.join()
            self._worker = None

    def expose(
        self, sequence: Sequence, lights: tuple[Light, ...], setup: Setup, shot: int, heads_m: tuple[float, ...],
        taken_at: datetime,
    ) -> None:  # fmt: skip
        """Take one frame of a firing, by the light that fell. Returns at once."""
        folder = self._folder
        if folder is None or self._closed:
            return
        from multiprocessing import active_children

        frame = Frame(
            self._table.rig, self._table.seed, self._table.look, sequence, setup, shot, heads_m, lights, taken_at
        )
        others = set(active_children())
        try:
            self._worker = self._worker or _process()
            under_way = self._worker.submit(take_frame, frame, folder)
        except BrokenExecutor:
            # It died between two frames, and nobody noticed until now.
            self._worker = _process()
            under_way = self._worker.submit(take_frame, frame, folder)
        self._processes |= set(active_children()) - others
        self._frames = [*(taken for taken in self._frames if not taken.done()), under_way]
        under_way.add_done_callback(lambda done: self._delivered(done, folder))

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
        elif error is not None and not self._closed:
            self._worker = None
            self._on_error(
                BenchError("The simulated camera stopped and lost this picture. It starts anew with the next shot.")
            )


class SimulatedController:
    """Runs sequences on the simulated table and tells the camera when light fell."""

    name = "Simulated bench"
    outputs: Outputs | None = Outputs()

    def __init__(self, table: SimulatedTable, camera: SimulatedCamera) -> None:
        self._table, self._own_seed = table, table.seed
        self._camera = camera

    def put(self, rig: HiddenRig, seed: int, shots: int) -> None:
        """Simulate another rig, and tell what its pictures show; `shots` it has fired before."""
        self._table.put(rig, seed, tells=True, shots=shots)

    def put_back(self) -> None:
        """Simulate the bench's own rig again."""
        self._table.put(HiddenRig.from_seed(self._own_seed), self._own_seed, tells=False, shots=self._table.shots)

    def fire(self, commands: Commands, setup: Setup) -> FiringReport:
        """See `Controller.fire`."""
        table, sequence = self._table, commands.sequence
        used = {pulse.valve for pulse in sequence.drops}
        if min(table.head_m(valve) for valve in used) <= 0:
            raise BenchError(EMPTY)
        fired_at = table.clock()
        table.shots += 1
        luck = Luck.of_shot(table.rig, table.seed, table.shots, len(sequence.drops))
        lights = fire_lights(table.rig, table.flashed_s, table.ticks(), luck, commands, setup)
        heads_m = tuple(table.head_m(valve) for valve in range(len(setup.valves)))
        self._camera.expose(sequence, lights.saw, setup, table.shots, heads_m, fired_at)
        showed = self._shown(sequence, lights.saw[0].at_us / 1e6, setup, heads_m) if table.tells and lights.saw else ""
        for pulse in sequence.drops:
            table.draw(pulse.valve, pulse.open_us / 1e6)
        table.sleep(max(sequence.last_closing_us, lights.last_us) / 1e6 + LONGEST_AFTERMATH_S)
        return FiringReport(fired_at, tuple(flash.at_us for flash in sequence.flashes), lights.failed, showed)

    def _shown(self, sequence: Sequence, light_s: float, setup: Setup, heads_m: tuple[float, ...]) -> str:
        from ondine.bench.simulated.frame import firing_of, rigs_of
        from ondine.bench.simulated.witness import seen

        table = self._table
        rigs = rigs_of(table.rig, table.seed, setup)
        what = firing_of(rigs, table.seed, table.shots, setup, sequence, heads_m)
        return seen(what, light_s, setup.camera.frame_top_m)

    def pour(self, pour: Pour, setup: Setup, goes_on: Callable[[int], bool]) -> Dispensed:
        """See `Controller.pour`. A scale stands under the simulated nozzle."""
        table, volume, done = self._table, 0.0, 0
        rng = np.random.default_rng([table.seed, table.shots, 11])
        while done < pour.pulses:
            if table.head_m(pour.valve) <= 0:
                raise BenchError(EMPTY)
            jitter = 1 + table.rig.volume_jitter * rng.standard_normal()
            volume += table.draw(pour.valve, pour.open_us / 1e6) * jitter
            table.sleep(pour.period_us / 1e6)
            done += 1
            if not goes_on(done):
                break
        grams = volume * fluid_of(setup, pour.valve).density * 1e3 + SCALE_ERROR_G * rng.standard_normal()
        return Dispensed(done, round(max(grams, 0.0) / SCALE_STEP_G) * SCALE_STEP_G)

    def refilled(self) -> None:
        """See `Controller.refilled`."""
        self._table.refill()


def simulated_bench(
    seed: int, clock: Clock, sleep: Sleep, look: Look | None = None, ticks: Ticks = time.monotonic
) -> tuple[SimulatedController, SimulatedCamera]:
    """Set up a table from a seed and return its two devices."""
    table = SimulatedTable(seed, clock, sleep, ticks, look or Look())
    camera = SimulatedCamera(table)
    return SimulatedController(table, camera), camera


def _warm() -> None:
    from ondine.picture.warm import warm

    end_with_parent()
    warm()


def _process() -> ProcessPoolExecutor:
    # Loaded with the first picture: no window needs them for its first frame.
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    # Spawned, not forked: a fork would copy Qt's threads half alive.
    return ProcessPoolExecutor(max_workers=1, mp_context=get_context("spawn"), initializer=end_with_parent)
