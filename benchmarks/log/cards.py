"""Made-up cards: shots as a sitting has them, and what a camera with a clock of its own wrote of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

TRIAL_FREE_S = 4.0
"""A trial frame is taken by hand, between shots: nobody presses the shutter while the bench fires."""


AWAY_S = 3600.0
"""Who pauses longer has left the table."""


@dataclass(frozen=True, eq=False)
class Card:
    """Shots' times, frames' times as the camera wrote them [s], and which shot each frame shows (−1: none)."""

    shots_s: Floats
    frames_s: Floats
    truth: NDArray[np.int64]
    fractions: bool
    offset_s: float
    drift_s_per_day: float


def made_card(rng: np.random.Generator, shots: int, missing: float = 0.2, extra: float = 0.2) -> Card:
    """Make a card: one to four sittings within days, series with a fixed pace and shots by hand.

    Its clock is off by up to a day and drifts by up to two seconds a day; frames are missing, and there are extra ones:
    trials, and bursts after a shot.
    """
    fractions = bool(rng.random() < 0.5)
    offset, drift = rng.uniform(-86_400, 86_400), rng.uniform(-2, 2)
    times = _shots(rng, shots)
    shown = times + offset + drift / 86_400 * (times - times[0]) + rng.normal(0.0, 0.04, shots)
    kept = np.flatnonzero(rng.random(shots) >= missing)
    frames, truth = [float(at) for at in shown[kept]], [int(shot) for shot in kept]
    for _ in range(round(extra * len(kept))):
        if rng.random() < 0.3:
            frames.append(shown[rng.choice(kept)] + rng.uniform(0.15, 0.8))
        else:
            at = rng.uniform(times[0] - 600, times[-1] + 600)
            while np.abs(times - at).min() < TRIAL_FREE_S:
                at = rng.uniform(times[0] - 600, times[-1] + 600)
            frames.append(at + offset + drift / 86_400 * (at - times[0]))
        truth.append(-1)
    order = np.argsort(frames)
    written = np.array(frames)[order]
    written = np.floor(written * 100) / 100 if fractions else np.floor(written)
    return Card(times, written, np.array(truth)[order], fractions, float(offset), float(drift))


def strayed_card(rng: np.random.Generator, shots: int = 120, missing: float = 0.2, stray: float = 0.2) -> Card:
    """Make a card whose extra frames fall anywhere while somebody is at the table, near shots without a frame too."""
    fractions = bool(rng.random() < 0.5)
    offset, drift = rng.uniform(-86_400, 86_400), rng.uniform(-2, 2)
    times = _shots(rng, shots)
    kept = np.flatnonzero(rng.random(shots) >= missing)
    at_table = np.concatenate([[0.0], np.cumsum(np.where(np.diff(times) < AWAY_S, np.diff(times), 0.0))])
    since = rng.uniform(0, at_table[-1], round(stray * shots))
    before = np.searchsorted(at_table, since, side="right") - 1
    taken = np.concatenate([times[kept] + rng.normal(0, 0.04, len(kept)), times[before] + since - at_table[before]])
    shown = taken + offset + drift / 86_400 * (taken - times[0])
    order = np.argsort(shown)
    written = np.floor(shown[order] * 100) / 100 if fractions else np.floor(shown[order])
    truth = np.concatenate([kept, np.full(len(since), -1)])[order]
    return Card(times, written, truth, fractions, float(offset), float(drift))


def _shots(rng: np.random.Generator, count: int) -> Floats:
    gaps: list[float] = []
    while len(gaps) < count:
        run = int(rng.integers(5, 40))
        pace = rng.uniform(8, 60)
        jitter = 0.02 if rng.random() < 0.5 else 0.3 * pace
        gaps += [max(pace + rng.normal(0, jitter), 3.0) for _ in range(run)]
        gaps.append(rng.uniform(60, 1200))
    times = np.cumsum(gaps[:count])
    for start in sorted(rng.integers(1, count, int(rng.integers(0, 4)))):
        times[start:] += rng.uniform(0.5, 2.0) * 86_400
    return times
