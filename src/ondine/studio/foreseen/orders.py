"""What a window wants of its tracer; light, for a window that has not drawn its first frame yet."""

from __future__ import annotations

import pickle
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Camera
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Wanted:
    """A picture that is wanted: of a plan, `size` in pixels.

    gain_stops : see `light.look_of`; noisy : whether a finished picture has the noise of its ISO.
    """

    plan: Plan
    size: tuple[int, int]
    gain_stops: float = 0.0
    noisy: bool = True


@dataclass(frozen=True)
class Order:
    """A picture that is wanted, by its number: a greater one takes its place."""

    number: int
    wanted: Wanted

    def __reduce__(self) -> tuple[Callable[..., Order], tuple[object, ...]]:
        """Go to the tracer without what the picture does not show, and the table as it was packed for the last one.

        A hand drags: to pack the whole table for each move costs the window's thread more than it has to spare.
        """
        wanted, plan = self.wanted, self.wanted.plan
        table = _packed(plan.setup), _packed(plan.belief)
        return _unpacked, (self.number, plan.sequence, *table, wanted.size, wanted.gain_stops, wanted.noisy)


def _unpacked(
    number: int, sequence: Sequence, setup: bytes, belief: bytes, size: tuple[int, int], gain_stops: float, noisy: bool
) -> Order:
    return Order(number, Wanted(Plan(sequence, _loaded(setup), _loaded(belief)), size, gain_stops, noisy))


_kept: deque[tuple[object, bytes]] = deque(maxlen=4)
"""What was packed last. By what it is, not by what it equals: to compare two tables costs as much as to pack one."""


def _packed(part: object) -> bytes:
    for known, data in tuple(_kept):
        if known is part:
            return data
    data = pickle.dumps(part)
    _kept.append((part, data))
    return data


@lru_cache(maxsize=4)
def _loaded(data: bytes) -> Any:
    return pickle.loads(data)


def size_within(camera: Camera, room_px: tuple[int, int]) -> tuple[int, int]:
    """Return the size of a picture that fits into a room, in the frame's proportions [pixels]."""
    scale = min(room_px[0] / camera.frame_width_m, room_px[1] / camera.frame_height_m)
    return max(round(camera.frame_width_m * scale), 16), max(round(camera.frame_height_m * scale), 16)
