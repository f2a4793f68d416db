"""Whether what a rig truly does lies in the band that the coach gives for it."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ondine.core.coach.posterior import Posterior
from ondine.core.forecast.train import On
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Sequence

BAND = 0.9
OTHER_INTERVAL_US = 15_000
LEAST_SHARE = 0.1


@dataclass(frozen=True)
class Knowing:
    """One event after some shots: how far its truth lies from the middle of the band, in half bands, and how wide the
    band is [s].
    """

    shots: int
    event: str
    off: float
    width_s: float

    @property
    def inside(self) -> bool:
        """Whether the truth lies in the band."""
        return abs(self.off) <= 1


def what_is_known(belief: Posterior, rig: Any, sequence: Sequence, shots: int) -> list[Knowing]:
    """Compare the events of a sequence, and of one with another interval, with what the rig does without luck."""
    moved = replace(sequence.drops[-1], start_us=sequence.drops[-1].start_us + OTHER_INTERVAL_US)
    found = []
    for one in (sequence, sequence.with_pulse(len(sequence.drops) - 1, moved)):
        truth = rig.events_s(one)
        for event, (times, weights) in _foreseen(belief, one).items():
            if event in truth and weights.sum() > LEAST_SHARE:
                low, high = _quantiles(times, weights)
                off = (truth[event] - (low + high) / 2) / ((high - low) / 2)
                found.append(Knowing(shots, event, float(off), float(high - low)))
    return found


def _foreseen(belief: Posterior, sequence: Sequence) -> dict[str, tuple[np.ndarray, np.ndarray]]:
    unknowns = belief.unknowns
    what = forecast(unknowns.setup, unknowns.belief, sequence, unknowns.rigs(belief.coordinates))
    made, meets = what.splashes, what.meetings
    met = np.where(np.isin(meets.on[1], (On.JET, On.BEAD)), meets.time_s[1], np.nan)
    times = {
        "touchdown": made.touchdown_s[0],
        "jet leaves the surface": made.jet_s[0],
        "drop meets the jet": met,
        "sheet widest": met + what.rigs.sheet_peak_share * meets.sheet_life_s[1],
    }
    there = {event: np.isfinite(values) for event, values in times.items()}
    return {event: (values[there[event]], belief.weights[there[event]]) for event, values in times.items()}


def _quantiles(values: np.ndarray, weights: np.ndarray) -> tuple[float, float]:
    order = np.argsort(values)
    passed = (np.cumsum(weights[order]) - weights[order] / 2) / weights.sum()
    low, high = np.interp([(1 - BAND) / 2, (1 + BAND) / 2], passed, values[order])
    return float(low), float(high)
