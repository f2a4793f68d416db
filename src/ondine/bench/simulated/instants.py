"""Instants of simulated splashes, each with the shape that it shows, for learning to read pictures."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.levels import Level
from ondine.bench.simulated.population import PracticeRig
from ondine.bench.simulated.witness import seen
from ondine.bench.simulated.world import Happening, happen
from ondine.core.setup import Camera, Setup
from ondine.core.timing.sequence import Pulse, Sequence

ONE_DROP = ("crown", "crater", "rising-jet", "beaded-jet", "jet-top", "falling-jet", "ripples")
TWO_DROPS = ("near-miss-above", "contact", "opening-umbrella", "full-umbrella", "torn-umbrella", "collapsed")
ASKED = (*ONE_DROP, *TWO_DROPS)
"""The shapes that are asked for, in the order in which a splash goes through them. A touchdown lasts a millisecond, and
looks like a small crown.
"""

STEP_S, LOOKS_ON_S = 0.5e-3, 0.35
LEAST_S, MOST_S = 1e-3, 40e-3
"""Shorter phases show what the eye cannot tell from their neighbours; late in longer ones the water lies still."""

MIDDLE = 0.7
"""Asked is what lies in the middle of a phase, so much of it: at its borders two names are right."""

MAGNIFICATION = 0.16
FIRST_SEED, MOST_TRIES = 50_000, 40


@dataclass(frozen=True)
class Phase:
    """From when to when a firing shows one shape [s]."""

    shape: str
    first_s: float
    last_s: float


@dataclass(frozen=True)
class Instant:
    """One firing of a rig, flashed where it shows `shape`; `phases` are all that it goes through."""

    rig: HiddenRig
    seed: int
    setup: Setup
    sequence: Sequence
    shape: str
    phases: tuple[Phase, ...]

    def is_beside(self, shape: str) -> bool:
        """Whether a shape comes directly before or after the one that stands in the picture."""
        at_s = self.sequence.first_flash_us / 1e6
        here = next(n for n, phase in enumerate(self.phases) if phase.first_s <= at_s <= phase.last_s)
        return any(phase.shape == shape for n, phase in enumerate(self.phases) if abs(n - here) == 1)

    def off_s(self, shape: str) -> float | None:
        """Return how far the instant lies from the nearest one that shows another shape, positive if it comes later
        [s]; None if this firing never shows it.
        """
        at_s = self.sequence.first_flash_us / 1e6
        off = [min(phase.last_s - at_s, 0) or max(phase.first_s - at_s, 0) for phase in self.phases
               if phase.shape == shape]  # fmt: skip
        return -min(off, key=abs) if off else None


def asked_in(seed: int, count: int) -> tuple[str, ...]:
    """Return the shapes of one round, in the order in which they are asked."""
    rng = np.random.default_rng([seed, 31])
    return tuple(str(shape) for shape in rng.permutation(ASKED)[:count])


def instant_of(seed: int, place: int, shape: str) -> Instant:
    """Find a firing that shows a shape; the same for the same round and place. Raises ValueError if none was found."""
    rng = np.random.default_rng([seed, place, 37])
    for _ in range(MOST_TRIES):
        number = FIRST_SEED + int(rng.integers(1_000_000))
        practice = PracticeRig(number, Level.EASY)
        setup = _framed(practice.setup)
        drops = practice.start.drops[:1]
        if shape in TWO_DROPS:
            interval_us = int(rng.integers(45, 130)) * 1000
            drops = (*drops, Pulse(interval_us, drops[0].open_us))
        phases = _phases(practice.hidden, number, setup, Sequence(drops, ()))
        long = [p for p in phases if p.shape == shape and p.last_s - p.first_s >= LEAST_S]
        if long:
            phase = long[0]
            share = (1 - MIDDLE) / 2 + MIDDLE * float(rng.random())
            at_us = round((phase.first_s + share * min(phase.last_s - phase.first_s, MOST_S)) * 1e6)
            return Instant(practice.hidden, number, setup, Sequence.with_one_flash(drops, at_us), shape, phases)
    raise ValueError(f"no rig showed {shape}")


def _framed(setup: Setup) -> Setup:
    return replace(setup, camera=Camera(magnification=MAGNIFICATION))


def _phases(rig: HiddenRig, seed: int, setup: Setup, sequence: Sequence) -> tuple[Phase, ...]:
    """Return what a firing shows along time; none where bubbles or merged drops would spoil the picture."""
    luck = Luck.of_shot(rig, seed, 1, len(sequence.drops))
    what = happen([rig], luck, setup, sequence, [rig.head_m])
    if luck.bubbles or what.merged or not what.splashes:
        return ()
    return _along(what, setup)


def _along(what: Happening, setup: Setup) -> tuple[Phase, ...]:
    begins = what.splashes[0].drop.landed
    found: list[Phase] = []
    for at_s in np.arange(begins, begins + LOOKS_ON_S, STEP_S):
        shape = seen(what, float(at_s), setup.camera.frame_top_m)
        if found and found[-1].shape == shape:
            found[-1] = Phase(shape, found[-1].first_s, float(at_s))
        else:
            found.append(Phase(shape, float(at_s), float(at_s)))
    return tuple(found)
