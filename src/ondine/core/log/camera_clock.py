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
    """A frame whose true time is known, as that of the clock card: both times [s] and how well [s]."""

    camera_s: float
    true_s: float
    sd_s: float = 0.3


@dataclass(frozen=True)
class Clock:
    """How a camera's clock stands: it shows `offset_s` more than the log's at `at_s`, and gains `drift_s_per_day`.

    `sd_s` : how much single frames scatter about it [s]; `weight` : how likely it is this clock, not another one;
    `drift_sd_s_per_day` : how well the drift is known.
    """

    offset_s: float
    drift_s_per_day: float = 0.0
    at_s: float = 0.0
    sd_s: float = ROUGH_SD_S
    weight: float = 1.0
    drift_sd_s_per_day: float = DRIFT_SD_S_PER_DAY

    @property
    def drift_is_known(self) -> bool:
        """Whether its drift is told from none: an evening is too short for it."""
        return abs(self.drift_s_per_day) > 2 * self.drift_sd_s_per_day

    def shows_s(self, times_s: Floats) -> Floats:
        """Return what it shows at times of the log, shape (n,) [s]."""
        return times_s + self.offset_s + self.drift_s_per_day / DAY_S * (times_s - self.at_s)


@dataclass
class Work:
    """What is still unmatched, sorted by time, with the places that it had."""

    shots_s: Floats
    frames_s: Floats
    shots: Ints
    frames: Ints
    fractions: bool
    anchors: Sequence[Anchor] = field(default_factory=tuple)
