"""How far a search has come, in the phases that practitioners know."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import HELD, Goal
from ondine.core.coach.posterior import Posterior
from ondine.core.forecast.whole import forecast
from ondine.core.physics.splash import jet_rise_s
from ondine.core.timing.sequence import Sequence

Floats = NDArray[np.float64]

KNOWN_S = {"touchdown": 6e-3, "crown": 9e-3, "jet top": 15e-3, "meeting": 4e-3}
"""So well each instant must be known, as a standard deviation, before it counts as found [s]. Estimates."""

LAST = 5


@dataclass(frozen=True)
class Step:
    """One phase: what it is called, whether it is done, and when its instant comes, with its spread [s]; none for
    holding the goal, which counts `hits` instead.
    """

    name: str
    done: bool
    time_s: float | None = None
    spread_s: float | None = None
    hits: int = 0


def progress(belief: Posterior, goal: Goal, sequence: Sequence) -> tuple[Step, ...]:
    """Return the phases of a search, in their order, for the drops of a sequence."""
    unknowns = belief.unknowns
    what = forecast(unknowns.setup, unknowns.belief, sequence, unknowns.rigs(belief.coordinates))
    made = what.splashes
    first = int(np.argmin([pulse.start_us for pulse in sequence.drops]))
    instants = {
        "touchdown": made.touchdown_s[first],
        "crown": made.crown_end_s[first],
        "jet top": made.jet_s[first] + jet_rise_s(made.jet_m_s[first], made.jet_slows_m_s2[first]),
        "meeting": np.fmin.reduce(what.meetings.stops_s, axis=0),
    }
    if goal.drops == 1:
        del instants["meeting"]
    steps = [_step(name, times, belief.weights) for name, times in instants.items()]
    if goal.shape is not None:
        hits = sum(one.shape == goal.shape for one in _tried(belief.seen, goal)[-LAST:])
        steps.append(Step("hold", hits >= HELD, hits=hits))
    return tuple(steps)


def _step(name: str, times_s: Floats, weights: Floats) -> Step:
    there = np.isfinite(times_s)
    share = float(weights[there].sum())
    if share < 0.5:
        return Step(name, False)
    middle = float(weights[there] @ times_s[there] / share)
    spread = float(np.sqrt(weights[there] @ (times_s[there] - middle) ** 2 / share))
    return Step(name, spread < KNOWN_S[name], middle, spread)


def _tried(seen: tuple[Seen, ...], goal: Goal) -> list[Seen]:
    return [one for one in seen if one.tells and len(one.sequence.drops) >= goal.drops]
