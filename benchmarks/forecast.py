"""4096 sampled rigs in one vectorised call against the same falls through scipy's integrator."""

import time
from collections.abc import Iterator

import numpy as np
from scipy.integrate import solve_ivp

from benchmarks.timing import seconds, verdict
from ondine.core.belief.rigs import sample_rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.falls import Falls
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.demo.taught import TAUGHT

RIGS = 4096


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    count = 16 if small else RIGS
    rigs = sample_rigs(TAUGHT, count)
    forecast(TIDAL_MILL, TAUGHT, START, rigs)
    ours = float(np.median(seconds(lambda: forecast(TIDAL_MILL, TAUGHT, START, rigs), 20)))
    falls = forecast(TIDAL_MILL, TAUGHT, START, rigs).falls
    worst = 0.0
    began = time.perf_counter()
    for drop in range(2):
        for i in range(count):
            worst = max(worst, abs(_integrated(falls, drop, i) - (falls.touchdown_s - falls.release_s)[drop, i]))
    theirs = time.perf_counter() - began
    ratio = ours / theirs
    yield f"one two-drop forecast on {count} rigs / the same {2 * count} falls by solve_ivp: 1/{1 / ratio:.0f}"
    yield f"  bound 1/200: {verdict(ratio, 1 / 200)}   ({ours * 1e3:.1f} ms, {theirs:.1f} s)"
    pulses = tuple(Pulse(150_000 * n, 20_000) for n in range(8))
    eight = Sequence.with_one_flash(pulses, 1_500_000)
    of_eight = float(np.median(seconds(lambda: forecast(TIDAL_MILL, TAUGHT, eight, rigs), 10)))
    share = of_eight / ours
    yield f"a forecast of eight drops on {count} rigs / one of two: {share:.1f}   bound 12: {verdict(share, 12)}"
    yield f"largest difference in fall time: {worst * 1e6:.1f} µs   bound 200 µs: {verdict(worst, 2e-4)}"


def _integrated(falls: Falls, drop: int, i: int) -> float:
    terminal, start, height = falls.terminal_m_s[drop, i], falls.start_m_s[drop, i], falls.height_m[drop, i]

    def law(_t: float, s: np.ndarray) -> list[float]:
        return [s[1], G * (1 - (s[1] / terminal) ** 2)]

    def lands(_t: float, s: np.ndarray) -> float:
        return float(s[0] - height)

    # SciPy's way to say that it ends there.
    lands.terminal = True  # type: ignore[attr-defined]
    return float(solve_ivp(law, (0, 2), [0.0, start], events=lands, rtol=1e-6).t[-1])
