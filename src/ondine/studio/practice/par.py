"""What the coach itself needs on a hidden rig: the par of a run, and one path of its own."""

from __future__ import annotations

import statistics
from collections.abc import Callable, Iterator

from ondine.bench.simulated.levels import Level
from ondine.bench.simulated.population import PracticeRig
from ondine.core.coach.goal import Goal
from ondine.core.coach.searching import search
from ondine.studio.events import RigMeasured, Showed

TRIES = 5
"""So many searches with other luck make the par: their median."""

MOST_SHOTS = 40


def measure(level: Level, rig: int, goal: str, goes_on: Callable[[], bool]) -> RigMeasured | None:
    """Let the coach search on a rig as new; None if it was stopped. The path is the first of the searches."""
    paths = []
    for luck in range(1, TRIES + 1):
        paths.append(tuple(_path(PracticeRig(rig, level, luck), goal, goes_on)))
        if not goes_on():
            return None
    return RigMeasured(rig, int(statistics.median(len(path) for path in paths)), paths[0])


def _path(rig: PracticeRig, goal: str, goes_on: Callable[[], bool]) -> Iterator[Showed]:
    for tried in search(rig.setup, rig.start, Goal(goal), rig.fire):
        yield Showed(tried.shot, tried.proposed.sequence, tried.shape)
        if tried.shape == goal or tried.shot == MOST_SHOTS or not goes_on():
            return
