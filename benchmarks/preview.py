"""The picture before the shot at a view's full size, on one core: its first look and the finished one."""

import time
from collections.abc import Iterator

import numpy as np

from benchmarks.timing import verdict
from ondine.core.forecast.plan import Plan
from ondine.core.timing.sequence import Sequence
from ondine.demo.scenario import ONE, PAIR, TIDAL_MILL
from ondine.demo.taught import RACE_IN_HAND, TAUGHT
from ondine.studio.foreseen.orders import Wanted
from ondine.studio.foreseen.photograph import foresee

FULL = 672, 448
FIRST_S, FINISHED_S = 1 / 15, 0.6
REPEATS = 5
MOMENTS = {
    "in flight": (ONE, 250), "crown": (ONE, 268), "crater": (ONE, 295), "rising jet": (ONE, 330), "jet": (ONE, 390),
    "opening umbrella": (PAIR, 352), "full umbrella": (PAIR, 355), "torn umbrella": (PAIR, 360),
    "collapsed": (PAIR, 367),
}  # fmt: skip


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    plans = {
        name: Plan(Sequence.with_one_flash(drops, flash_ms * 1000), TIDAL_MILL, TAUGHT)
        for name, (drops, flash_ms) in list(MOMENTS.items())[: 1 if small else None]
    }
    plans["two valves, two flashes"] = RACE_IN_HAND
    list(foresee(Wanted(RACE_IN_HAND, (32, 32))))
    for name, plan in plans.items():
        taken = np.array([_looks_s(Wanted(plan, FULL)) for _ in range(1 if small else REPEATS)])
        first, finished = np.median(taken, axis=0)
        yield (
            f"{name}: first look {first * 1e3:.0f} ms (bound {FIRST_S * 1e3:.0f} ms: {verdict(first, FIRST_S)}), "
            f"finished {finished * 1e3:.0f} ms, {finished / first:.0f} first looks "
            f"(bound {FINISHED_S * 1e3:.0f} ms: {verdict(finished, FINISHED_S)})"
        )


def _looks_s(wanted: Wanted) -> tuple[float, float]:
    began, first = time.perf_counter(), 0.0
    for look in foresee(wanted):
        if look is not None and look.level == 0:
            first = time.perf_counter() - began
    return first, time.perf_counter() - began
