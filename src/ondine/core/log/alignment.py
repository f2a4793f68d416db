"""How likely each frame of a card belongs to each shot, once the camera's clock is known.

Frames and shots stand in the order of their times, and a pairing keeps that order: pairs never cross. All pairings
that keep it are summed over, each with its likelihood (the sum over alignments of a pair hidden Markov model, Durbin,
Eddy, Krogh & Mitchison, Biological Sequence Analysis, 1998, ch. 4; from memory). Skipped frames and skipped shots cost
the same wherever they stand, so that only pairs near in time have to be looked at.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MISSING_SHARE = 0.2
"""So many shots have no frame: deleted, or the camera slept. Common practice, no published source."""

EXTRA_SHARE = 0.2
"""So many frames belong to no shot: trials, and what a finger did."""

REACH_SD = 5.0
"""Frames further than so many standard deviations from a shot are not its own."""

OWN_SD = 2.6
"""Of a shot's own frames, 99 in a hundred are within so many standard deviations of the clock."""

LEAST_SCATTER_S = 0.04
"""A shutter answers no more evenly than this. Common practice, no published source."""

PAUSE_S = 300.0
"""Nobody takes trial frames in the longer part of a pause."""

TAIL_SHARE = 0.02
"""So many pairs lie anywhere within reach: a key pressed late, a shutter that hesitated."""

BURST_S = 1.6
FOLLOWER_ODDS = 0.05
"""A frame that comes this soon after another one belongs to a burst, whose first frame is the flash's: those after it
are the dark of the same second.
"""


@dataclass(frozen=True, eq=False)
class Edges:
    """Pairs that may be: shot and frame of each, by their places, shape (e,), sorted by shot, then frame; and the
    logarithm of how much likelier the pair is than both alone, shape (e,).
    """

    shot: Ints
    frame: Ints
    log_odds: Floats


def edges(shots_s: Floats, frames_s: Floats, sd_s: float) -> Edges:
    """Return the pairs that may be.

    shots_s : when each frame of a shot would carry, on the camera's clock, sorted, shape (n,) [s]; frames_s : what the
    frames carry, sorted, shape (m,) [s]; sd_s : standard deviation of one against the other [s].
    """
    reach = REACH_SD * sd_s
    low = np.searchsorted(frames_s, shots_s - reach)
    high = np.searchsorted(frames_s, shots_s + reach, side="right")
    count = high - low
    shot = np.repeat(np.arange(len(shots_s)), count)
    start = np.repeat(np.cumsum(count) - count, count)
    frame = np.repeat(low, count) + np.arange(len(shot)) - start
    away = (frames_s[frame] - shots_s[shot]) / sd_s
    near = np.exp(-0.5 * away**2) / (np.sqrt(2 * np.pi) * sd_s)
    density = (1 - TAIL_SHARE) * near + TAIL_SHARE / (2 * reach)
    extra_per_s = max(EXTRA_SHARE * len(frames_s), 1.0) / _at_work_s(shots_s, frames_s)
    odds = (1 - MISSING_SHARE) * density / (MISSING_SHARE * extra_per_s)
    follows = np.diff(frames_s, prepend=-np.inf) < BURST_S
    odds = odds * np.where(follows[frame], FOLLOWER_ODDS, 1.0)
    return Edges(shot.astype(np.int64), frame.astype(np.int64), np.log(odds))


def _at_work_s(shots_s: Floats, frames_s: Floats) -> float:
    """Return how long somebody was at the table: the time between shots and frames, without the long pauses [s]."""
    gaps = np.diff(np.sort(np.concatenate([shots_s, frames_s])))
    return max(float(np.minimum(gaps, PAUSE_S).sum()), 60.0)


def own_reach_s(sd_s: float, fractions: bool) -> float:
    """Return how far off its clock a shot's own frame may be and still be sure [s].

    Whole seconds put half a second to either side, whatever the scatter; the rest of it is normal.
    """
    if fractions:
        return OWN_SD * sd_s
    return 0.5 + OWN_SD * float(np.sqrt(max(sd_s**2 - 1 / 12, LEAST_SCATTER_S**2)))


def clusters(pairs: Edges) -> list[slice]:
    """Part the pairs into runs that no pairing can join or cross."""
    if not len(pairs.shot):
        return []
    highest = np.maximum.accumulate(pairs.frame)
    lowest_after = np.minimum.accumulate(pairs.frame[::-1])[::-1]
    parted = (pairs.shot[1:] > pairs.shot[:-1]) & (lowest_after[1:] > highest[:-1])
    cuts = [0, *(np.flatnonzero(parted) + 1).tolist(), len(pairs.shot)]
    return [slice(a, b) for a, b in pairwise(cuts)]


def log_evidence(pairs: Edges) -> float:
    """Return the logarithm of the sum over all pairings, against none at all."""
    total = 0.0
    for part in clusters(pairs):
        if part.stop - part.start == 1:
            total += float(np.logaddexp(0.0, pairs.log_odds[part.start]))
        else:
            ends = _forward(pairs, part)
            total += float(np.logaddexp(0.0, np.logaddexp.reduce(ends)))
    return total


def probabilities(pairs: Edges) -> Floats:
    """Return how likely each pair is, over all pairings that keep the order, shape (e,)."""
    found = np.empty(len(pairs.shot))
    for part in clusters(pairs):
        if part.stop - part.start == 1:
            found[part] = 1 / (1 + np.exp(-pairs.log_odds[part]))
            continue
        before, after = _forward(pairs, part), _backward(pairs, part)
        whole = np.logaddexp(0.0, np.logaddexp.reduce(before))
        # Each chain through a pair: what leads to it, and what may follow; its own odds stand in both.
        found[part] = np.exp(np.minimum(before + after - pairs.log_odds[part] - whole, 0.0))
    return found


def _forward(pairs: Edges, part: slice) -> Floats:
    """Logarithm of the sum over all chains of pairs that end in each of a run."""
    shot, frame, odds = pairs.shot[part], pairs.frame[part], pairs.log_odds[part]
    ends = np.empty(len(odds))
    for n in range(len(odds)):
        before = (shot[:n] < shot[n]) & (frame[:n] < frame[n])
        led = np.logaddexp.reduce(ends[:n][before]) if before.any() else -np.inf
        ends[n] = odds[n] + np.logaddexp(0.0, led)
    return ends


def _backward(pairs: Edges, part: slice) -> Floats:
    """The same of all chains that begin in each."""
    # Turned round, what stands after stands before.
    turned = Edges(-pairs.shot[part][::-1], -pairs.frame[part][::-1], pairs.log_odds[part][::-1])
    return _forward(turned, slice(0, len(turned.shot)))[::-1]
