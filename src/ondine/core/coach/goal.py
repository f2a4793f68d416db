"""What a photographer is after, and which drops could show it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from ondine.core.forecast.shapes import BY_KEY, ShapeGroup
from ondine.core.setup import Setup
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

LEAST_APART_US = 1_000
"""Least pause between the openings of two valves that is tried."""

WIDEST_INTERVAL_US, WIDEST_ON_SHEET_US = 260_000, 60_000

LARGE_OPEN_US, LEAST_GROWTH, MOST_GROWTH = 32_000, 1.15, 3.0
"""Opening of a large drop; by how much drops may grow, and must for it to matter. The sheet of a large drop stands open
longer: the first one is easier to hit.
"""


@dataclass(frozen=True)
class Goal:
    """The shape that is wanted, None to map everything; at what height over the water, where that matters [m]; and
    whether the drops keep their sizes.
    """

    shape: str | None = "full-umbrella"
    height_m: float | None = None
    keeps_sizes: bool = False

    @property
    def drops(self) -> int:
        """How many drops it takes."""
        if self.shape is None:
            return 2
        if self.shape in ON_SHEET:
            return 3
        return 2 if BY_KEY[self.shape].group is ShapeGroup.COLLISION else 1

    @property
    def is_collision(self) -> bool:
        """Whether a drop has to meet something for it: that has a height, and lasts longer with large drops."""
        return self.shape is not None and BY_KEY[self.shape].group is ShapeGroup.COLLISION

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
    if last.valve == before.valve:
        least = before.open_us + (MIN_GAP_US if goal.shape == "crater-hit" else LEAST_GAP_US)
    else:
        # Each valve opens when it likes: a sheet that falls in after some milliseconds can be met.
        least = LEAST_APART_US
    widest = WIDEST_ON_SHEET_US if goal.shape in ON_SHEET else WIDEST_INTERVAL_US
    room = np.linspace(least, max(widest, least + 60_000), count)
    intervals = {round(float(us) / 1000) * 1000 for us in room}
    own = last.start_us - before.start_us
    if own >= least or last.valve == before.valve:
        intervals.add(max(own, int(least)))
    return [(*sequence.drops[:-1], Pulse(before.start_us + us, last.open_us, last.valve)) for us in sorted(intervals)]


def larger(begin: Sequence, setup: Setup) -> Sequence | None:
    """Return a sequence whose drops are all larger by the same share, with the gaps between them kept; None where they
    are large already, the valves are never open so long, or hardly a drop falls yet.
    """
    room = [setup.valve(drop.valve).max_open_us / drop.open_us for drop in begin.drops]
    growth = min([LARGE_OPEN_US / max(drop.open_us for drop in begin.drops), *room])
    if not LEAST_GROWTH <= growth <= MOST_GROWTH:
        return None
    made, later_us = [], 0
    for drop in begin.drops:
        # Down, never up: the valve's limit holds.
        open_us = max(math.floor(growth * drop.open_us / 1000 + 1e-6) * 1000, drop.open_us)
        made.append(Pulse(drop.start_us + later_us, open_us, drop.valve))
        later_us += open_us - drop.open_us
    return replace(begin, drops=tuple(made))
