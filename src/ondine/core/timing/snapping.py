"""Times that a dragged item is drawn to: round ones, or those at which something happens."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class Snap(StrEnum):
    """What a dragged item is drawn to."""

    OFF = "off"
    GRID = "round times"
    EVENTS = "events"


@dataclass(frozen=True)
class Mark:
    """A time at which something happens [µs], and what."""

    at_us: int
    says: str


def on_grid(at_us: int, step_us: int) -> int:
    """Return the nearest whole multiple of a step [µs]."""
    return round(at_us / step_us) * step_us


def nearest(at_us: int, marks: Iterable[Mark], reach_us: int) -> Mark | None:
    """Return the mark that is nearest to a time, at most `reach_us` away; None if there is none."""
    close = [mark for mark in marks if abs(mark.at_us - at_us) <= reach_us]
    return min(close, key=lambda mark: abs(mark.at_us - at_us), default=None)


def beside(at_us: int, marks: Iterable[Mark], later: bool) -> Mark | None:
    """Return the next mark after a time, or the last before it; None if there is none."""
    if later:
        return min((m for m in marks if m.at_us > at_us), key=lambda m: m.at_us, default=None)
    return max((m for m in marks if m.at_us < at_us), key=lambda m: m.at_us, default=None)
