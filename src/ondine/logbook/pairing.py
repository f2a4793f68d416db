"""Which shot a picture belongs to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

ARRIVES_WITHIN = timedelta(seconds=90)
"""A picture that comes into the watched folder later than this after a shot is not taken for it."""

CLOCKS_AGREE_WITHIN = timedelta(seconds=5)
"""How far a camera's clock may be off when files are imported by their own times."""


@dataclass(frozen=True)
class Candidate:
    """A shot that could own a picture: when it fired and whether it has one already."""

    shot_id: int
    fired_at: datetime
    has_picture: bool


def pair_arrival(arrived_at: datetime, taken_at: datetime | None, candidates: Sequence[Candidate]) -> int | None:
    """Return the shot that a picture which arrived in the watched folder belongs to, or None.

    Where the camera's clock agrees with ours it decides; otherwise the shot fired just before the arrival.
    """
    waiting = [c for c in candidates if timedelta(0) <= arrived_at - c.fired_at <= ARRIVES_WITHIN]
    by_clock = pair_by_clock(taken_at, waiting)
    if by_clock is not None:
        return by_clock
    waiting = [c for c in waiting if not c.has_picture]
    return max(waiting, key=lambda c: c.fired_at).shot_id if waiting else None


def pair_by_clock(taken_at: datetime | None, candidates: Sequence[Candidate]) -> int | None:
    """Return the shot without a picture whose firing is nearest to the picture's own time, or None."""
    if taken_at is None:
        return None
    near = [c for c in candidates if not c.has_picture and abs(c.fired_at - taken_at) <= CLOCKS_AGREE_WITHIN]
    return min(near, key=lambda c: abs(c.fired_at - taken_at)).shot_id if near else None
