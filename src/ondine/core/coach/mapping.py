"""The chance of a goal over any two timings of a sequence, for a map."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.chances import courses
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.posterior import Posterior
from ondine.core.coach.tags import clean_share
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX
from ondine.core.timing.sequence import MIN_GAP_US, MIN_OPEN_US, Sequence, held

Floats = NDArray[np.float64]
Micros = NDArray[np.int64]

STEPS, RIGS = 33, 96
REACH_US = {"flash": 40_000, "interval": 60_000, "open": 12_000}
"""How far to either side of what is in hand a map looks, unless what is likely lies farther."""


@dataclass(frozen=True)
class Axis:
    """One timing: the first flash, the interval before a drop, or a drop's opening. `drop` counts from 0."""

    kind: str
    drop: int = 0

    @property
    def name(self) -> str:
        """What it is called."""
        if self.kind == "flash":
            return "flash"
        return f"interval {self.drop}" if self.kind == "interval" else f"drop {self.drop + 1} open"

    def of(self, sequence: Sequence) -> int:
        """Read it off a sequence [µs]."""
        if self.kind == "flash":
            return sequence.first_flash_us
        if self.kind == "open":
            return sequence.drops[self.drop].open_us
        return sequence.drops[self.drop].start_us - sequence.drops[self.drop - 1].start_us

    def put(self, sequence: Sequence, time_us: int) -> Sequence:
        """Return a sequence in which it has another value [µs]; a longer interval moves all later drops."""
        if self.kind == "flash":
            flashes = list(sequence.flashes)
            first = min(range(len(flashes)), key=lambda k: flashes[k].at_us)
            flashes[first] = replace(flashes[first], at_us=held(time_us))
            return replace(sequence, flashes=tuple(flashes))
        drops = list(sequence.drops)
        if self.kind == "open":
            drops[self.drop] = replace(drops[self.drop], open_us=max(time_us, MIN_OPEN_US))
        else:
            shift = time_us - self.of(sequence)
            drops[self.drop :] = [replace(pulse, start_us=pulse.start_us + shift) for pulse in drops[self.drop :]]
        return replace(sequence, drops=tuple(drops))


def axes(sequence: Sequence) -> tuple[Axis, ...]:
    """Return all timings of a sequence that a map can have, the usual two first."""
    count = len(sequence.drops)
    intervals = [Axis("interval", drop) for drop in range(count - 1, 0, -1)]
    opens = [Axis("open", drop) for drop in range(count - 1, -1, -1)]
    return (*intervals[:1], Axis("flash"), *intervals[1:], *opens)


@dataclass(frozen=True, eq=False)
class ChanceMap:
    """The chance of a goal over two timings: `x_us`, `y_us` of shape (m,) and (n,), `chance` of shape (n, m); and where
    shots of the same other timings lie, as (x, y, shape) in µs.
    """

    goal: Goal
    sequence: Sequence
    x: Axis
    y: Axis
    x_us: Micros
    y_us: Micros
    chance: Floats
    shots: tuple[tuple[int, int, str], ...]

    def is_of(self, sequence: Sequence) -> bool:
        """Whether its chances are those of a sequence, which differs from that of the map in the two timings alone."""
        return _is_like(sequence, self.sequence, self.x, self.y)


def chance_map(
    belief: Posterior, goal: Goal, sequence: Sequence, x: Axis, y: Axis, seen: tuple[Seen, ...] = ()
) -> ChanceMap:
    """Return the map around a sequence, with the shots that differ from it in these two timings alone."""
    rigs = belief.unknowns.rigs(belief.even(RIGS))
    x_us, y_us = _around(x, sequence), _around(y, sequence)
    if x.kind == "flash":
        chance = _over(belief, goal, rigs, [y.put(sequence, int(us)) for us in y_us], x_us)
    elif y.kind == "flash":
        chance = _over(belief, goal, rigs, [x.put(sequence, int(us)) for us in x_us], y_us).T
    else:
        flash_us = np.array([sequence.first_flash_us])
        rows = [[x.put(y.put(sequence, int(v)), int(u)) for u in x_us] for v in y_us]
        chance = np.stack([_over(belief, goal, rigs, row, flash_us)[:, 0] for row in rows])
    points = tuple(
        (x.of(one.sequence), y.of(one.sequence), one.shape) for one in seen if _is_like(one.sequence, sequence, x, y)
    )
    return ChanceMap(goal, sequence, x, y, x_us, y_us, chance, points)


def _around(axis: Axis, sequence: Sequence) -> Micros:
    """Return the values of an axis, in whole milliseconds."""
    middle, reach = axis.of(sequence), REACH_US[axis.kind]
    least = {"flash": 0, "open": MIN_OPEN_US}.get(axis.kind, 0)
    if axis.kind == "interval":
        least = sequence.drops[axis.drop - 1].open_us + MIN_GAP_US
    low = max(middle - reach, least)
    return np.asarray(np.linspace(low, low + 2 * reach, STEPS).round(-3), dtype=np.int64)


def _over(belief: Posterior, goal: Goal, rigs: Rigs, rows: list[Sequence], flash_us: Micros) -> Floats:
    """Chance of the goal for trains of drops and flash times, shape (rows, flashes)."""
    made = courses([row.drops for row in rows], belief.unknowns, rigs)
    shown = made.chances(np.tile(flash_us / US_PER_S, (len(rows), 1)))
    clean = clean_share(belief.unknowns.belief.variation, len(rows[0].drops))
    hits = shown[INDEX[goal.shape or "full-umbrella"]] * made.height_fits(goal)[:, None]
    return np.asarray(clean * hits.mean(axis=2), dtype=float)


def _is_like(one: Sequence, other: Sequence, x: Axis, y: Axis) -> bool:
    """Whether a sequence differs from another in nothing but two timings."""
    if len(one.drops) != len(other.drops) or not one.flashes:
        return False
    moved = y.put(x.put(one, x.of(other)), y.of(other))
    return moved.drops == other.drops and moved.first_flash_us == other.first_flash_us
