"""Naming pictures against the clock: what an answer is worth, and what is to be learned from it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ondine.core.forecast.shapes import BY_KEY

if TYPE_CHECKING:
    from ondine.bench.simulated.instants import Instant

TIME_S = 12.0
"""So long one may look at a picture."""

MOST_POINTS, LEAST_POINTS, BESIDE_POINTS = 10, 5, 3
"""For the right name at once, and at the end of the time; and for the name of the shape just before or after it."""

QUICK_S = 2.0
"""Nobody need be quicker than this."""


def points(instant: Instant, answer: str | None, taken_s: float) -> int:
    """Return what an answer is worth; None is no answer in time."""
    if answer == instant.shape:
        share = min(max(taken_s - QUICK_S, 0.0) / (TIME_S - QUICK_S), 1.0)
        return round(MOST_POINTS - share * (MOST_POINTS - LEAST_POINTS))
    return BESIDE_POINTS if answer is not None and instant.is_beside(answer) else 0


def verdict(instant: Instant, answer: str | None) -> str:
    """Say what the picture shows, and how far the answer lies from it in time."""
    name = BY_KEY[instant.shape].name
    if answer == instant.shape:
        return f"Right: {name}."
    if answer is None:
        return f"Time is up: {name}."
    said, off_s = BY_KEY[answer].name, instant.off_s(answer)
    if off_s is None:
        return f"{name.capitalize()}. This splash never shows {said}."
    when = "later" if off_s < 0 else "earlier"
    return f"{name.capitalize()}. You said {said}: that is {abs(off_s) * 1e3:.0f} ms {when}."
