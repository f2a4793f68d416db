"""How a sitting went: what rose, fell or held over its shots, and whether more than chance did it."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping
from collections.abc import Sequence as Shots
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.measured import height_in
from ondine.core.coach.repeating import Drift, drift
from ondine.core.forecast.shapes import BY_KEY, ShapeGroup
from ondine.core.setup import Setup
from ondine.core.table.ledger import Ledger
from ondine.core.timing.sequence import Sequence

Floats = NDArray[np.float64]

RUN = 8
"""A running hit rate is that of so many shots."""

FEWEST = 2


@dataclass(frozen=True)
class CourseShot:
    """One shot of a sitting: when it fired [s], what was commanded on which table, the figures that are known of it by
    the keys of `core.log.quantities`, its shapes (none where nobody has tagged it), and its note.
    """

    at_s: float
    sequence: Sequence
    setup: Setup | None
    figures: Mapping[str, float]
    shapes: tuple[str, ...]
    note: str = ""


@dataclass(frozen=True, eq=False)
class Course:
    """One thing over a sitting: minutes from its first shot and values, both of shape (n,); `drift` where there are
    enough shots to tell.
    """

    name: str
    unit: str
    decimals: int
    minutes: Floats
    values: Floats
    drift: Drift | None

    @property
    def is_level(self) -> bool:
        """Whether the value was the same all the time: nothing to draw."""
        return self._number(float(self.values.min())) == self._number(float(self.values.max()))

    @property
    def words(self) -> str:
        """Say how it went: its range, and how fast it drifts, if it does."""
        low, high = float(self.values.min()), float(self.values.max())
        reach = (
            self._number(low)
            if self._number(low) == self._number(high)
            else f"{self._number(low)} to {self._number(high)}"
        )
        said = f"{reach} {self.unit}".strip()
        if self.drift is None:
            return said
        per_hour = self.drift.slope_per_s * 3600
        if not self.drift.is_real:
            return f"{said}, no drift beyond chance"
        way = "rises" if self.drift.tau > 0 else "falls"
        by = self._number(abs(per_hour))
        return f"{said}, {way}" + (f" by {by} {self.unit} an hour" if by.strip("0.") else "")

    def _number(self, value: float) -> str:
        return f"{value:.{self.decimals}f}"


def usual_goal(shots: Iterable[CourseShot]) -> str | None:
    """Return the shape that a sitting was about: the collision tagged most, else whatever was; None if nothing was."""
    counts = Counter(key for shot in shots for key in shot.shapes)
    if not counts:
        return None
    met = {key: n for key, n in counts.items() if key not in BY_KEY or BY_KEY[key].group is ShapeGroup.COLLISION}
    found = met or counts
    return max(found, key=lambda key: (found[key], key))


def courses(shots: Shots[CourseShot], goal: str | None) -> list[Course]:
    """Return what is known of a sitting's course, oldest shot first; what two shots do not tell is left out.

    goal : the shape that counts as a hit.
    """
    if not shots:
        return []
    minutes = np.array([(shot.at_s - shots[0].at_s) / 60 for shot in shots])
    lists = [
        ("hits", "", 0, _hits(shots, goal)),
        ("height off the pictures", "mm", 0, np.array([_mm(height_in(shot.note)) for shot in shots])),
        ("head", "mm", 0, _figure(shots, "head_mm")),
        ("temperature of the liquid", "°C", 1, _figure(shots, "temperature_c")),
        *_bowl(shots),
    ]
    found = []
    for name, unit, decimals, values in lists:
        known = np.isfinite(values)
        if known.sum() >= FEWEST:
            t, y = minutes[known], values[known]
            found.append(Course(name, unit, decimals, t, y, drift(t * 60, y)))
    return found


def running_share(course: Course) -> Floats:
    """Return the share of hits among the last `RUN` shots up to each, shape (n,), from 0 to 1."""
    summed = np.concatenate([[0.0], np.cumsum(course.values)])
    last = np.arange(1, len(course.values) + 1)
    first = np.maximum(last - RUN, 0)
    share: Floats = (summed[last] - summed[first]) / (last - first)
    return share


def _hits(shots: Shots[CourseShot], goal: str | None) -> Floats:
    return np.array([float(goal in shot.shapes) if shot.shapes and goal is not None else math.nan for shot in shots])


def _mm(height_m: float | None) -> float:
    return math.nan if height_m is None else height_m * 1e3


def _figure(shots: Shots[CourseShot], key: str) -> Floats:
    return np.array([shot.figures.get(key, math.nan) for shot in shots])


def _bowl(shots: Shots[CourseShot]) -> list[tuple[str, str, int, Floats]]:
    """What has fallen into the bowl since the sitting's first shot, and how much dye came with it."""
    ledger, fallen_ml, dye = Ledger(), [], []
    dye_m3 = 0.0
    for shot in shots:
        setup = shot.setup
        if setup is not None:
            before = ledger.bowl_m3
            ledger = ledger.after_shot(shot.sequence, setup)
            dye_m3 += (ledger.bowl_m3 - before) * setup.mix.dye_mass_fraction
        bowl_m3 = math.nan if setup is None else math.pi / 4 * setup.bowl.diameter_m**2 * setup.bowl.depth_m
        fallen_ml.append(ledger.bowl_m3 * 1e6)
        dye.append(dye_m3 / bowl_m3 * 1e6)
    lists = [("fallen into the bowl", "ml", 1, np.array(fallen_ml))]
    # As water weighs it: the two liquids are of nearly one density.
    return [*lists, ("dye in the bowl", "ppm", 0, np.array(dye))] if dye_m3 else lists
