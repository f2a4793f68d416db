"""Whether a goal can be had at a table at all; and where it cannot, which goal nearest to it can."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.chances import Courses, courses
from ondine.core.coach.goal import Goal, larger, trains
from ondine.core.coach.posterior import Posterior
from ondine.core.forecast.phases import INDEX
from ondine.core.timing.sequence import Pulse, Sequence

Floats = NDArray[np.float64]

TRAINS, FINE_TRAINS = 24, 96
"""So many trains of drops are tried for a goal; more before it is said that none of them can show it."""

LEAST_SHARE = 2e-3
"""A goal that fewer of the believed rigs show, with the train that suits it best, cannot be had."""

FAIR_SHARE = 0.2
"""The height that is offered instead is met by this share of what the best height is."""

HEIGHTS = 200

SIMPLER = {
    "pass-through": "double-umbrella",
    "double-umbrella": "full-umbrella",
    "collapsed": "torn-umbrella",
    "torn-umbrella": "full-umbrella",
    "full-umbrella": "opening-umbrella",
    "opening-umbrella": "contact",
    "contact": "near-miss-above",
    "near-miss-above": "jet-top",
    "falling-jet": "jet-top",
    "beaded-jet": "jet-top",
    "jet-top": "rising-jet",
    "rising-jet": "crater",
    "crater-hit": "crater",
    "crown": "crater",
    "crater": "touchdown",
    "touchdown": "in-flight",
}
"""What is most like a shape and takes less: where a shape cannot be had, the next one is tried."""

NO_DROP = "No drop falls with these openings: open the valve longer than its dead time."


class CoachError(ValueError):
    """Nothing can be proposed; the text says why, and what to do."""


@dataclass(frozen=True)
class Reach:
    """A goal that can be had, the trains of drops among which it lies, and what they do on the rigs that were asked."""

    goal: Goal
    trains: list[tuple[Pulse, ...]]
    made: Courses


def reach(belief: Posterior, goal: Goal, begin: Sequence, rigs: Rigs) -> Reach:
    """Return a goal with its trains of drops where it can be had; else the nearest one that can: the same shape at
    another height, or a simpler shape.

    begin : what is in hand; rigs : some that are believed. Raises CoachError where no drop falls.
    """
    for one in _simpler(goal):
        found = _tried(belief, one, begin, rigs)
        if found is not None:
            return found
    raise CoachError(NO_DROP)


def sized(belief: Posterior, goal: Goal, begin: Sequence) -> Sequence:
    """Return what is in hand; for the very first shot with larger drops, where that makes the goal easier to hit.
    Later ones keep their sizes: what was learned is of these.
    """
    if belief.seen or goal.keeps_sizes or not goal.is_collision:
        return begin
    return larger(begin, belief.unknowns.setup) or begin


def _simpler(goal: Goal) -> Iterator[Goal]:
    yield goal
    while goal.shape in SIMPLER:
        goal = replace(goal, shape=SIMPLER[goal.shape])
        yield goal


def _tried(belief: Posterior, goal: Goal, begin: Sequence, rigs: Rigs) -> Reach | None:
    """Return a goal as it was asked for, or at the nearest height; None where its shape cannot be had."""
    made_of = sized(belief, goal, begin)
    for count in (TRAINS, FINE_TRAINS):
        drops = trains(goal, made_of, count)
        found = Reach(goal, drops, courses(drops, belief.unknowns, rigs))
        if goal.shape is None:
            return found
        stands = _stands(found.made, goal.shape)
        if _share(stands * found.made.height_fits(goal)) >= LEAST_SHARE:
            return found
        if goal.drops == 1:
            return None
    if _share(stands) < LEAST_SHARE:
        return None
    return replace(found, goal=replace(goal, height_m=_nearest_height_m(found.made, goal, stands)))


def _stands(made: Courses, shape: str) -> Floats:
    """Whether a shape ever stands, 1 or 0, shape (trains, n)."""
    first, last = made.window_s(INDEX[shape])
    with np.errstate(invalid="ignore"):
        return np.asarray(last > first, dtype=float)


def _share(shown: Floats) -> float:
    """Share of the rigs with the train that suits them best."""
    return float(shown.mean(axis=1).max())


def _nearest_height_m(made: Courses, goal: Goal, stands: Floats) -> float:
    """Return the height nearest to the one that is wanted at which a fair share of the rigs can meet [m]."""
    met = made.height_m[(stands > 0) & np.isfinite(made.height_m)]
    heights = np.linspace(met.min(), met.max(), HEIGHTS)
    shares = np.array([_share(stands * made.height_fits(replace(goal, height_m=float(h)))) for h in heights])
    fair = heights[shares >= FAIR_SHARE * shares.max()]
    wanted = goal.height_m or 0.0
    return float(fair[np.argmin(np.abs(fair - wanted))])
