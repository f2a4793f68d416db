"""What a photographer is after, and which drops could show it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ondine.core.forecast.shapes import BY_KEY, ShapeGroup
from ondine.core.timing.sequence import MIN_GAP_US, Pulse, Sequence

ON_SHEET = ("double-umbrella", "pass-through")

SEARCHED = tuple(
    shape.key for shape in BY_KEY.values() if shape.group is not ShapeGroup.FAULT and shape.key != "ripples"
)
"""The shapes that can be searched for."""

IN_TIME = (
    "nothing-in-frame", "in-flight", "touchdown", "crown", "crater", "crater-hit", "rising-jet", "beaded-jet",
    "jet-top", "falling-jet", "near-miss-above", "contact", "opening-umbrella", "full-umbrella", "double-umbrella",
    "torn-umbrella", "collapsed", "pass-through", "ripples",
)  # fmt: skip
"""The shapes in the order in which a splash goes through them."""

LEAST_GAP_US = 20_000
"""A shorter pause between closing and opening is for those who want it: two drops often leave as one."""

HELD = 3
"""So many hits among the last shots at a goal hold it."""

WIDEST_INTERVAL_US = 260_000


@dataclass(frozen=True)
class Goal:
    """The shape that is wanted, None to map everything; and at what height over the water, where that matters [m]."""

    shape: str | None = "full-umbrella"
    height_m: float | None = None

    @property
    def drops(self) -> int:
        """How many drops it takes."""
        if self.shape is None:
            return 2
        if self.shape in ON_SHEET:
            return 3
        return 2 if BY_KEY[self.shape].group is ShapeGroup.COLLISION else 1

    def lateness(self, shape: str) -> float:
        """Whether a shape comes after what is wanted, 1, before it, -1, or is it, 0; NaN where nobody can say."""
        if self.shape is None or shape not in IN_TIME or self.shape not in IN_TIME:
            return math.nan
        return float(np.sign(IN_TIME.index(shape) - IN_TIME.index(self.shape)))


def trains(goal: Goal, begin: Sequence, count: int) -> list[tuple[Pulse, ...]]:
    """Return the drops that could show a goal: those in hand, the last one of them moved over all that is sensible.

    begin : what is in hand, whose sizes and valves are kept; more drops like its last one are added where the goal
    takes more, and those it does not take are left out. The result begins with what is nearest to the drops in hand.
    """
    sequence = Sequence(begin.drops[: goal.drops], ())
    while len(sequence.drops) < goal.drops:
        sequence = sequence.with_drop_added()
    if goal.drops == 1:
        return [sequence.drops]
    before, last = sequence.drops[-2], sequence.drops[-1]
    least = before.open_us + (MIN_GAP_US if goal.shape == "crater-hit" else LEAST_GAP_US)
    room = np.linspace(least, max(WIDEST_INTERVAL_US, least + 60_000), count)
    intervals = {round(float(us) / 1000) * 1000 for us in room}
    if last.valve == before.valve:
        own = last.start_us - before.start_us
        intervals.add(own if own >= least else int(least))
    return [(*sequence.drops[:-1], Pulse(before.start_us + us, last.open_us, last.valve)) for us in sorted(intervals)]
