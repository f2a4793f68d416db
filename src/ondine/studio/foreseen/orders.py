"""What a window wants of its tracer; light, for a window that has not drawn its first frame yet."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Camera


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


def size_within(camera: Camera, room_px: tuple[int, int]) -> tuple[int, int]:
    """Return the size of a picture that fits into a room, in the frame's proportions [pixels]."""
    scale = min(room_px[0] / camera.frame_width_m, room_px[1] / camera.frame_height_m)
    return max(round(camera.frame_width_m * scale), 16), max(round(camera.frame_height_m * scale), 16)
