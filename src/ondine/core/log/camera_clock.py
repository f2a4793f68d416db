"""A camera's clock against the log's, and what it is sought from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

DAY_S = 86_400.0
MOST_OFFSET_S = 26 * 3600.0
"""A day, and the hours that a zone adds to it."""

DRIFT_SD_S_PER_DAY = 1.0
MOST_DRIFT_S_PER_DAY = 4.0
"""Quartz clocks of cameras drift by up to about two seconds a day. Common practice, no published source."""

BIN_S = 1.0
CANDIDATES = 10
ROUGH_SD_S = 0.6
LEAST_SD_S = {True: 0.05, False: 0.30}
"""How well a frame's time can be known at all, by whether it carries fractions of a second [s]: whole seconds alone
spread by 1/√12.
"""

MOST_SD_S = 2.0
MOST_ROUGH = 800
"""So many frames and shots are enough to find the clock roughly."""


@dataclass(frozen=True)
class Anchor:
    """A frame whose true time is known, as that of the clock card: both times [s] and how well [s]; `body` : which
    camera wrote it.
    """

    camera_s: float
    true_s: float
    sd_s: float = 0.3
    body: int = 0


@dataclass(frozen=True)
class Clock:
    """How a camera's clock stands: it shows `offset_s` more than the log's at `at_s`, and gains `drift_s_per_day`.

    `sd_s` : how much single frames scatter about it [s]; `weight` : how likely it is this clock, not another one;
    `drift_sd_s_per_day` : how well the drift is known; `body` : which camera it is in.
    """

    offset_s: float
    drift_s_per_day: float = 0.0
    at_s: float = 0.0
    sd_s: float = ROUGH_SD_S
    weight: float = 1.0
    drift_sd_s_per_day: float = DRIFT_SD_S_PER_DAY
    body: int = 0

    @property
    def drift_is_known(self) -> bool:
        """Whether its drift is told from none: an evening is too short for it."""
        return abs(self.drift_s_per_day) > 2 * self.drift_sd_s_per_day

    def shows_s(self, times_s: Floats) -> Floats:
        """Return what it shows at times of the log, shape (n,) [s]."""
        return times_s + self.offset_s + self.drift_s_per_day / DAY_S * (times_s - self.at_s)


ANCHORED_S = 0.5
"""Anchors that tell the clock so well need no pairs that agree."""

ANCHORS_AGREE_S = 5.0
"""Anchors that are further off one clock than this tell of a clock that was set in between."""


def clock_of_anchors(anchors: Sequence[Anchor], at_s: float) -> tuple[Clock, float] | None:
    """Return the clock that anchors tell, and how well they tell its offset at a time [s]; None if they disagree.

    A least-squares line through the anchors, with the prior of `DRIFT_SD_S_PER_DAY` for its drift.
    """
    if not anchors:
        return None
    true_s = np.array([anchor.true_s for anchor in anchors])
    apart = np.array([anchor.camera_s - anchor.true_s for anchor in anchors])
    precision = 1 / np.array([anchor.sd_s for anchor in anchors]) ** 2
    offset, drift, drift_sd, offset_sd = line((true_s - at_s) / DAY_S, apart, precision)
    clock = Clock(offset, drift, at_s, LEAST_SD_S[False], drift_sd_s_per_day=drift_sd)
    if np.abs(clock.shows_s(true_s) - true_s - apart).max() > ANCHORS_AGREE_S:
        return None
    return clock, offset_sd


def line(since: Floats, late: Floats, precision: Floats) -> tuple[float, float, float, float]:
    """Return offset [s] and drift [s/day] of the weighted line through (since, late), and the deviations of drift and
    offset.

    since : [days]; late : [s]; precision : of each point [1/s²], all of shape (n,). A drift is not believed at once:
    its prior is that of `DRIFT_SD_S_PER_DAY`.
    """
    s0, s1 = precision.sum(), (precision * since).sum()
    s2 = (precision * since**2).sum() + 1 / DRIFT_SD_S_PER_DAY**2
    t0, t1 = (precision * late).sum(), (precision * since * late).sum()
    determinant = s0 * s2 - s1 * s1
    if determinant <= 0:
        return 0.0, 0.0, DRIFT_SD_S_PER_DAY, np.inf
    return (
        float((s2 * t0 - s1 * t1) / determinant),
        float((s0 * t1 - s1 * t0) / determinant),
        float(np.sqrt(s0 / determinant)),
        float(np.sqrt(s2 / determinant)),
    )


@dataclass
class Work:
    """What is still unmatched, sorted by time, with the places that it had; `bodies` : which camera wrote each frame,
    shape (m,), as far as the files name it.
    """

    shots_s: Floats
    frames_s: Floats
    shots: Ints
    frames: Ints
    bodies: Ints
    fractions: bool
    anchors: Sequence[Anchor] = field(default_factory=tuple)
