"""How steady a rig is: hits of so many, the jitter that explains them, whether something drifts, what to mend first."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

MOST_FRAMES = 100_000
"""Nobody fires more for one picture."""

FEWEST_FOR_DRIFT = 5
SIGNIFICANT = 0.05


@dataclass(frozen=True)
class Interval:
    """A share with the limits that it has with some confidence."""

    share: float
    low: float
    high: float


def wilson(hits: int, shots: int, confidence: float = 0.95) -> Interval:
    """Share of hits with Wilson's score interval (Wilson 1927, J. Am. Stat. Assoc. 22:209); all from 0 to 1.

    Raises ValueError where there are more hits than shots, or no shot.
    """
    if not 0 <= hits <= shots or shots < 1:
        raise ValueError(f"{hits} hits of {shots} shots cannot be")
    z = NormalDist().inv_cdf((1 + confidence) / 2)
    share = hits / shots
    middle = (share + z * z / (2 * shots)) / (1 + z * z / shots)
    reach = z / (1 + z * z / shots) * math.sqrt(share * (1 - share) / shots + z * z / (4 * shots * shots))
    low = 0.0 if hits == 0 else middle - reach
    high = 1.0 if hits == shots else middle + reach
    return Interval(share, low, high)


def frames_needed(share: float, keepers: int, chance: float = 0.95) -> int | None:
    """Least number of frames that show so many keepers with such a chance, if each does with a share from 0 to 1.

    The first n at which the binomial probability of `keepers` or more reaches the chance. None where it takes more than
    any hand fires.
    """
    if keepers < 1:
        return 0
    if not 0 < share <= 1:
        return None
    if share == 1:
        return keepers
    low, high = keepers - 1, keepers
    while at_least(keepers, high, share) < chance:
        low, high = high, 2 * high
        if low > MOST_FRAMES:
            return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if at_least(keepers, middle, share) >= chance else (middle, high)
    return high


def at_least(keepers: int, frames: int, share: float) -> float:
    """Binomial probability of so many keepers or more among frames, each with a share from 0 to 1."""
    if keepers > frames:
        return 0.0
    if share == 1:
        return 1.0
    ln_share, ln_rest, ln_all = math.log(share), math.log1p(-share), math.lgamma(frames + 1)

    def exactly(k: int) -> float:
        ways = ln_all - math.lgamma(k + 1) - math.lgamma(frames - k + 1)
        return math.exp(ways + k * ln_share + (frames - k) * ln_rest)

    return 1 - math.fsum(map(exactly, range(keepers)))


def jitter_behind(share: float, window_s: float) -> float:
    """Jitter that makes so many of the shots hit a window, its standard deviation [s]: the inverse of `hit_share`.

    share : 0 to 1; 1 gives zero, 0 infinity; window_s : [s].
    """
    if share >= 1:
        return 0.0
    if share <= 0:
        return math.inf
    return window_s / (2 * NormalDist().inv_cdf((1 + share) / 2))


@dataclass(frozen=True)
class Drift:
    """Whether something changes in one direction over a sitting: Kendall's tau-b between time and value, how likely so
    much is by chance (two-sided), and the slope by Theil and Sen [unit of the value per s].
    """

    tau: float
    chance: float
    slope_per_s: float

    @property
    def is_real(self) -> bool:
        """Whether chance alone seldom does as much."""
        return self.chance < SIGNIFICANT


def drift(times_s: ArrayLike, values: ArrayLike) -> Drift | None:
    """Test whether values drift with time: Mann 1945, Kendall 1975, with ties, by the normal approximation.

    times_s : [s]; values : shape (n,), of any unit; entries that are no number are left out. None with fewer than five,
    or where all times or all values are the same.
    """
    t, y = np.asarray(times_s, dtype=float), np.asarray(values, dtype=float)
    there = np.isfinite(t) & np.isfinite(y)
    t, y = t[there], y[there]
    if len(t) < FEWEST_FOR_DRIFT:
        return None
    i, j = np.triu_indices(len(t), 1)
    dt, dy = t[j] - t[i], y[j] - y[i]
    score = float(np.sum(np.sign(dt) * np.sign(dy)))
    untied = float(np.sqrt(np.count_nonzero(dt) * np.count_nonzero(dy)))
    if untied == 0:
        return None
    apart = dt != 0
    slope = float(np.median(dy[apart] / dt[apart]))
    z = score / math.sqrt(_variance(t, y))
    return Drift(score / untied, math.erfc(abs(z) / math.sqrt(2)), slope)


def _variance(t: Floats, y: Floats) -> float:
    """Variance of Kendall's score where there are ties in both."""
    n = len(t)
    ties = [np.unique(values, return_counts=True)[1].astype(float) for values in (t, y)]
    v0 = n * (n - 1) * (2 * n + 5)
    vt, vu = (float(np.sum(c * (c - 1) * (2 * c + 5))) for c in ties)
    one, two = (
        math.prod(float(np.sum(c * (c - 1))) for c in ties),
        math.prod(float(np.sum(c * (c - 1) * (c - 2))) for c in ties),
    )
    return (v0 - vt - vu) / 18 + one / (2 * n * (n - 1)) + two / (9 * n * (n - 1) * (n - 2))


@dataclass(frozen=True)
class Steadiness:
    """What so many shots at one timing say: `hits` with their interval, the window they must fall into and the jitter
    that explains them [s], how many frames show `keepers` with 95 %, the drift, and what to mend first.
    """

    hits: int
    shots: int
    interval: Interval
    window_s: float
    jitter_s: float
    frames: int | None
    keepers: int
    drift: Drift | None
    advice: str


def steadiness(
    hit: Many[bool],
    times_s: Many[float],
    late: Many[float],
    window_s: float,
    trigger_jitter_s: float,
    keepers: int = 1,
) -> Steadiness:
    """Judge shots at one timing. Raises ValueError where there are none.

    hit : whether each showed the goal; times_s : when each was fired, from any beginning [s]; late : for each how late
    its picture was, -1, 0 or 1, or in ms, not a number where nobody knows; window_s : how long the goal stands [s];
    trigger_jitter_s : what the way from trigger to light varies by, as entered [s].
    """
    hits, shots = int(sum(hit)), len(hit)
    interval = wilson(hits, shots)
    # Half a hit more or less: all of three is no proof that nothing varies.
    jitter = jitter_behind(min(max(interval.share, 0.5 / shots), 1 - 0.5 / (shots + 1)), window_s)
    drifts = drift(times_s, late)
    frames = frames_needed(interval.share, keepers)
    advice = _advice(interval, window_s, jitter, drifts, trigger_jitter_s)
    return Steadiness(hits, shots, interval, window_s, jitter, frames, keepers, drifts, advice)


def steady_words(found: Steadiness) -> str:
    """Say how steady it is: the share of hits with its limits, how many frames to take, and what to mend."""
    share = f"{found.hits} of {found.shots} hit ({found.interval.low * 100:.0f} to {found.interval.high:.0%})."
    if found.frames is None:
        return f"{share} {found.advice}"
    keepers = "one keeper" if found.keepers == 1 else f"{found.keepers} keepers"
    return f"{share} For {keepers} take {found.frames} frames. {found.advice}"


def _advice(interval: Interval, window_s: float, jitter_s: float, drifts: Drift | None, trigger_jitter_s: float) -> str:
    if drifts is not None and drifts.is_real:
        way = "later" if drifts.slope_per_s > 0 else "earlier"
        return (
            f"The pictures come {way} and {way} over the sitting. Refill the reservoir to its mark and let the liquid "
            "come to the room's temperature before anything else."
        )
    if interval.low > 0.8:
        return "Steady enough: nothing to mend."
    if interval.share > 0.9:
        return "Steady so far: a few more shots make it sure."
    if trigger_jitter_s > 0.6 * jitter_s and math.isfinite(jitter_s):
        return (
            f"Most of the jitter is in the way from trigger to light ({trigger_jitter_s * 1e3:.1f} ms as entered). "
            "Fire the flash by wire, or let the controller fire it."
        )
    if window_s < 2 * jitter_s:
        return (
            f"The shape stands for {window_s * 1e3:.1f} ms and the drops vary by about {jitter_s * 1e3:.1f} ms. "
            "A larger second drop keeps its sheet open longer."
        )
    return "The valve itself varies most: look for air in the line, and for a steady supply voltage."
