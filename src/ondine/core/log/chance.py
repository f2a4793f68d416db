"""Whether the pairs of a clock are more than chance gives, when so many clocks are tried.

Frames strewn at random among the shots agree with some clock by a few: with 24 of each in an hour, and any offset up to
a day allowed, the best clock has eight or more. The number that falls within reach of one clock is Poisson distributed;
its upper tail is bounded after Chernoff, P(N ≥ k) ≤ exp(-λ) (e λ / k)^k (Mitzenmacher & Upfal, Probability and
Computing, 2005, theorem 5.4; from memory), and multiplied by how many clocks could have been chosen (Bonferroni).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.camera_clock import DAY_S, MOST_DRIFT_S_PER_DAY, Clock, Work

NEAR_S = 300.0
"""How dense the differences of frames and shots are is counted so far to either side of a clock."""


def log_chance(work: Work, clock: Clock, late_s: NDArray[np.float64], allowed_s: float) -> float:
    """Return the logarithm of how likely chance gives some clock as many pairs as this one has, at most 0.

    late_s : how far each pair is off the clock, shape (k,) [s]; allowed_s : the width of all offsets that were tried
    [s].
    """
    count = len(late_s)
    if not count:
        return 0.0
    half_s = max(float(np.abs(late_s).max()), 0.02)
    away = work.frames_s[:, None] - clock.shows_s(work.shots_s)[None, :]
    near = min(NEAR_S, max(allowed_s / 2, half_s))
    others = max(int((np.abs(away) <= near).sum()) - count, 1)
    expected = others / (2 * near) * 2 * half_s
    if count <= expected:
        return 0.0
    days = float(np.ptp(work.shots_s)) / DAY_S if len(work.shots_s) else 0.0
    tried = max(allowed_s / (2 * half_s), 1.0) * (1 + MOST_DRIFT_S_PER_DAY * days / half_s)
    return float(min(-expected + count * (1 + np.log(expected / count)) + np.log(tried), 0.0))
