"""Which shot a picture belongs to, and whether that is sure; what is not is shown as a question."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

ARRIVES_WITHIN = timedelta(seconds=90)
"""A picture that is first seen later than this after a shot is not taken for it by its arrival alone."""

CLOCKS_AGREE_WITHIN = timedelta(seconds=5)
"""How far a camera's clock may be off where nothing better is known of it."""

KNOWN_CLOCK_WITHIN = timedelta(seconds=1.5)
"""How far a clock may wander whose offset an earlier picture told. Cameras write whole seconds."""


@dataclass(frozen=True)
class Candidate:
    """A shot that could own a picture: when it fired and whether it has one already."""

    shot_id: int
    fired_at: datetime
    has_picture: bool


@dataclass(frozen=True)
class Pairing:
    """The shot that a picture is taken for, None if no shot fits; and whether no other could be meant."""

    shot_id: int | None = None
    sure: bool = True


def pair_by_clock(
    taken_at: datetime | None, candidates: Sequence[Candidate], offset: timedelta | None = None
) -> Pairing:
    """Pair by the picture's own time; sure where one shot alone fired about then.

    offset : how much the camera's clock is fast, where an earlier picture told.
    """
    if taken_at is None:
        return Pairing()
    moment = taken_at - (offset or timedelta())
    within = CLOCKS_AGREE_WITHIN if offset is None else KNOWN_CLOCK_WITHIN
    near = [c for c in candidates if not c.has_picture and abs(c.fired_at - moment) <= within]
    if not near:
        return Pairing()
    return Pairing(min(near, key=lambda c: abs(c.fired_at - moment)).shot_id, len(near) == 1)


def pair_by_arrival(seen_at: datetime, candidates: Sequence[Candidate]) -> Pairing:
    """Pair with the shot that fired last before the picture was first seen; sure where no other waits for one."""
    waiting = [c for c in candidates if not c.has_picture and timedelta(0) <= seen_at - c.fired_at <= ARRIVES_WITHIN]
    if not waiting:
        return Pairing()
    return Pairing(max(waiting, key=lambda c: c.fired_at).shot_id, len(waiting) == 1)


def agreed(by_arrival: Pairing, by_clock: Pairing, clock_is_known: bool) -> Pairing:
    """Join what arrival and clock say. Where they differ, the surer one is taken, and that is a question.

    clock_is_known : whether the clock's offset was told by an earlier picture; it then outweighs an unsure arrival.
    """
    if by_clock.shot_id is None:
        # A clock that was right until now and fits no shot: perhaps a stray picture.
        return Pairing(by_arrival.shot_id, by_arrival.sure and not clock_is_known)
    if by_arrival.shot_id is None or by_arrival.shot_id == by_clock.shot_id:
        return Pairing(by_clock.shot_id, by_clock.sure or by_arrival.shot_id is not None)
    if by_arrival.sure:
        return Pairing(by_arrival.shot_id, not by_clock.sure)
    return Pairing(by_clock.shot_id, by_clock.sure and clock_is_known)
