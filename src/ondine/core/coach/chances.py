"""How likely each shape is over many timings at once, on each rig: for choosing a proposal, and for drawing a map."""

from __future__ import annotations

from collections.abc import Sequence as Many
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.evidence import LOGISTIC
from ondine.core.coach.goal import Goal
from ondine.core.coach.unknowns import Unknowns
from ondine.core.forecast.phases import KEYS, phases
from ondine.core.forecast.whole import forecast_each
from ondine.core.timing.sequence import Pulse, Sequence

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

NEVER_S = 60.0

GOAL_HEIGHT_M = 4e-3
"""A height that is asked for is met so nearly."""


@dataclass(frozen=True, eq=False)
class Courses:
    """What several trains of drops do on the same n rigs: phases of shape (m, trains, n) over all landing spots.

    `height_m` : height of the first meeting, shape (trains, n), NaN where there is none.
    """

    shapes: NDArray[np.intp]
    start_s: Floats
    end_s: Floats
    height_m: Floats
    jitter_s: Floats

    def window_s(self, shape: int) -> tuple[Floats, Floats]:
        """First and last instant of a shape, shape (trains, n) [s]; not finite where it never stands."""
        own = np.flatnonzero(self.shapes == shape)
        if not len(own):
            none = np.full(self.start_s.shape[1:], np.nan)
            return none, none
        stands = self.end_s[own] > self.start_s[own]
        first = np.where(stands, self.start_s[own], np.inf).min(axis=0)
        last = np.where(stands, self.end_s[own], -np.inf).max(axis=0)
        return first, last

    def chances(self, time_s: Floats) -> Floats:
        """Probability of each shape at each time, on each rig: time_s of shape (trains, t); returns (K, trains, t, n),
        K the number of `KEYS`. In single precision: hundreds of thousands of them are wanted at once.
        """
        scale = (1 / (2 * LOGISTIC * self.jitter_s)).astype(np.float32)
        made = np.zeros((len(KEYS), *time_s.shape, len(self.jitter_s)), dtype=np.float32)
        passed: dict[bytes, Singles] = {}
        times = np.asarray(time_s[:, :, None], dtype=np.float32) * scale

        def until(edge_s: Floats) -> Singles:
            key = edge_s.tobytes()
            if key not in passed:
                # What never comes is far away: infinities less infinities are no number.
                edge = np.clip(edge_s, -NEVER_S, NEVER_S).astype(np.float32) * scale
                passed[key] = np.tanh(times - edge[:, None])
            return passed[key]

        for shape, start_s, end_s in zip(self.shapes, self.start_s, self.end_s, strict=True):
            made[shape] += until(start_s) - until(end_s)
        made *= 0.5
        return made

    def height_fits(self, goal: Goal) -> Floats:
        """How well each train meets at the height that is wanted, shape (trains, n)."""
        if goal.height_m is None or not goal.is_collision:
            return np.ones_like(self.height_m)
        off = (self.height_m - goal.height_m) / GOAL_HEIGHT_M
        return np.asarray(np.nan_to_num(np.exp(-0.5 * off**2)))

    def of_train(self, number: int) -> Courses:
        """Return what one of the trains does."""
        one = slice(number, number + 1)
        return replace(self, start_s=self.start_s[:, one], end_s=self.end_s[:, one], height_m=self.height_m[one])


def courses(trains: Many[tuple[Pulse, ...]], unknowns: Unknowns, rigs: Rigs) -> Courses:
    """Return what trains of drops do; all open the same valves in the same order."""
    what = forecast_each(unknowns.setup, unknowns.belief, [Sequence(drops, ()) for drops in trains], rigs)
    each = len(trains), rigs.count
    parts = [phases(what, spot) for spot in what.spots]
    met = what.meetings.stops_s
    first = np.argmin(np.where(np.isfinite(met), met, np.inf), axis=0)
    height = np.take_along_axis(what.meetings.height_m, first[None], axis=0)[0]
    return Courses(
        np.concatenate([part.shapes for part in parts]),
        np.concatenate([part.start_s for part in parts]).reshape(-1, *each),
        np.concatenate([part.end_s for part in parts]).reshape(-1, *each),
        height.reshape(each),
        rigs.jitter_s,
    )
