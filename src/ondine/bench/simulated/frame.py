"""One frame of the simulated camera, from commands to pixels or a file. Runs in the camera's own process."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.lights import Light
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence
from ondine.picture.lamps import lamps_of
from ondine.picture.look import Look

if TYPE_CHECKING:
    # SciPy stands behind it.
    from ondine.bench.simulated.world import Happening


@dataclass(frozen=True)
class Frame:
    """All that decides one picture: `rig` with the `seed` of its luck, `heads_m` the levels of the reservoirs, `lights`
    what reached the sensor.
    """

    rig: HiddenRig
    seed: int
    look: Look
    sequence: Sequence
    setup: Setup
    shot: int
    heads_m: tuple[float, ...]
    lights: tuple[Light, ...]
    taken_at: datetime


def photograph(frame: Frame) -> NDArray[np.uint8]:
    """Return what the camera sees, shape (height, width, 3), 8 bit; 800 by 1200 for a frame of 2 to 3."""
    # The compiler behind the tracer takes a second to load: only a bench that fires pays for it.
    from ondine.bench.simulated.inks import inks_of
    from ondine.bench.simulated.staging import scene_at
    from ondine.bench.simulated.unit import light_instants_s
    from ondine.picture.exposure import expose, picture_size, trace

    setup, camera = frame.setup, frame.setup.camera
    rigs = rigs_of(frame.rig, frame.seed, setup)
    noise_seed = frame.seed * 100_003 + frame.shot
    if not frame.lights:
        width, height = picture_size(camera)
        return expose(np.zeros((height, width, 3), dtype=np.float32), camera, rigs[0].room_lux, noise_seed)
    what = firing_of(rigs, frame.seed, frame.shot, setup, frame.sequence, frame.heads_m)
    exposures = []
    for light in frame.lights:
        # On a dark frame each flash adds what its own units show of its own instant.
        units = tuple(setup.light.units[n] for n in light.units)
        look = replace(frame.look, inks=inks_of(setup, frame.look.inks[0]))
        look = look.under(lamps_of(replace(setup, light=replace(setup.light, units=units))))
        times = [light.at_us / 1e6 + t for t in light_instants_s(units[0].power)]
        exposures.append(trace([scene_at(what, time) for time in times], look, camera, noise_seed))
    return expose(np.sum(exposures, axis=0, dtype=np.float32), camera, rigs[0].room_lux, noise_seed)


def rigs_of(rig: HiddenRig, seed: int, setup: Setup) -> tuple[HiddenRig, ...]:
    """Return the hidden numbers of each of a table's valves."""
    return tuple(rig.of_valve(seed, valve) for valve in range(len(setup.valves)))


def firing_of(
    rigs: tuple[HiddenRig, ...], seed: int, shot: int, setup: Setup, sequence: Sequence, heads_m: tuple[float, ...]
) -> Happening:
    """Return what one firing made, by the luck of its number."""
    from ondine.bench.simulated.world import happen

    return happen(rigs, Luck.of_shot(rigs[0], seed, shot, len(sequence.drops)), setup, sequence, heads_m)


def take_frame(frame: Frame, folder: Path) -> None:
    """Photograph and drop the file into a folder. Raises OSError if it cannot be written there."""
    from ondine.bench.simulated.jpeg import write_jpeg

    path = _free_name(folder)
    write_jpeg(path, photograph(frame), frame.setup.camera, frame.taken_at)


def _free_name(folder: Path) -> Path:
    taken = {p.name.upper() for p in folder.iterdir()}
    number = 1
    while f"FRAME{number:04d}.JPG" in taken:
        number += 1
    return folder / f"FRAME{number:04d}.JPG"
