"""Hidden rigs as wide as practice, each with what its photographer has measured: to search on, as a coach or by hand.

A population is a module that offers `make_rig(seed)`; docs/coach.md says what its rigs must have. This is the built-in
one. Its laws are those of the simulated world, which shares no formula with the predictor.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.levels import ROOMS, Level
from ondine.bench.simulated.witness import seen
from ondine.bench.simulated.world import Happening, happen
from ondine.core.setup import Mix, Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

FRAME_MARGIN = 0.12
"""So much of the height over the water is in the picture, at least [m]."""

MIDDLE_M, LUCKS = 0.375, 1_000_003


class PracticeRig:
    """One hidden rig with its photographer.

    `setup` : what was measured and entered; `start` : the drops to begin with; `hidden` : what nobody is told. `fire`
    shows a shape; what the rig would do without luck is for those who check what was learned, not for those who learn.
    """

    def __init__(self, seed: int, level: Level = Level.TREACHEROUS, luck: int = 0) -> None:
        """`luck` : another number gives the same rig other luck."""
        rng, rooms = np.random.default_rng([seed, 853]), ROOMS[level]
        true_flow_m3_s = float(rng.uniform(2.0e-6, 3.2e-6))
        self._luck_seed, self._shots = seed + LUCKS * luck, 0
        self.hidden = HiddenRig.of_practice(seed, true_flow_m3_s, rooms=rooms)
        height_m = float(rng.uniform(0.15, 0.60))
        if rooms.share < 1:
            height_m = MIDDLE_M + rooms.share * (height_m - MIDDLE_M)
        entered = Valve(
            nozzle_height_m=round(height_m, 3),
            flow_m3_s=true_flow_m3_s * float(rng.choice([1 / 1.2, 1.2])) ** (float(rng.uniform(0, 1)) * rooms.share),
        )
        self.setup = Setup(name=f"Practice rig {seed}", valves=(entered,), mix=_mix(rng))
        open_us = int(rng.integers(15, 36)) * 1000
        self.start = Sequence.with_one_flash((Pulse(0, open_us), Pulse(open_us + 75_000, open_us)), 300_000)

    @property
    def jitter_s(self) -> float:
        """By how much its drops let go earlier or later from shot to shot, standard deviation [s]."""
        return self.hidden.timing_jitter_s

    def fire(self, sequence: Sequence) -> str:
        """Fire once; return the key of the shape in the picture."""
        self._shots += 1
        luck = Luck.of_shot(self.hidden, self._luck_seed, self._shots, len(sequence.drops))
        return self._seen(self._happening(sequence, luck), sequence)

    def jet_height_m(self, sequence: Sequence) -> float | None:
        """Return how high the jet stands over the water at the flash, without luck; None where there is none [m]."""
        now = self._light_s(sequence)
        for splash in self._happening(sequence, self._calm(sequence)).splashes:
            met = splash.umbrellas[0].met if splash.umbrellas else np.inf
            if splash.jet is not None and splash.jet.risen <= now < min(splash.jet.sunk, met):
                return float(splash.jet.track(now)[0])
        return None

    def events_s(self, sequence: Sequence) -> dict[str, float]:
        """Return when a flash must be asked for to show each event, without luck [s]: what there is of the first
        touchdown, the rise of its jet, the meeting of the second drop with it, and the sheet at its widest.
        """
        what, lag = self._happening(sequence, self._calm(sequence)), self.hidden.flash_lag_s
        if not what.splashes:
            return {}
        first = what.splashes[0]
        found = {"touchdown": first.drop.landed - lag}
        if first.jet is not None:
            found["jet leaves the surface"] = first.jet.risen - lag
        if first.umbrellas:
            sheet = first.umbrellas[0]
            times = np.linspace(sheet.met, sheet.gone, 200)
            widest = times[int(np.argmax([float(sheet.track(t)[0]) for t in times]))]
            found |= {"drop meets the jet": sheet.met - lag, "sheet widest": float(widest) - lag}
        return found

    def _light_s(self, sequence: Sequence) -> float:
        return sequence.first_flash_us / 1e6 + self.hidden.flash_lag_s

    def _seen(self, what: Happening, sequence: Sequence) -> str:
        return seen(what, self._light_s(sequence), max(self.setup.camera.frame_top_m, FRAME_MARGIN))

    def _happening(self, sequence: Sequence, luck: Luck) -> Happening:
        return happen([self.hidden], luck, self.setup, sequence, [self.hidden.head_m])

    def _calm(self, sequence: Sequence) -> Luck:
        none = np.zeros(len(sequence.drops))
        return replace(
            Luck.of_shot(self.hidden, self._luck_seed, 0, len(none)), timing_s=none, volume=none + 1, aside_m=none
        )


def _mix(rng: np.random.Generator) -> Mix:
    kind = rng.integers(3)
    if kind == 0:
        return Mix()
    if kind == 1:
        return Mix(glycerine_mass_fraction=round(float(rng.uniform(0, 0.4)), 2))
    return Mix(milk_mass_fraction=round(float(rng.uniform(0, 0.5)), 2))


def make_rig(seed: int) -> PracticeRig:
    """Return the rig of a seed: the same each time, as new."""
    return PracticeRig(seed)
