"""From places on the table to places on the drawing, one scale both ways."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from ondine.core.light.lens import distance_at_m
from ondine.core.setup import Setup

MARGIN_M = 0.05
BODY_M = 0.14
"""How far the camera's body reaches behind its front glass at the least."""


@dataclass(frozen=True)
class Elevation:
    """A side view: `axis_px` is where the drops fall, `water_px` the waterline; `px_per_m` the scale."""

    axis_px: float
    water_px: float
    px_per_m: float

    @staticmethod
    def fitting(setup: Setup, room: QRectF, water_px: float) -> Elevation:
        """Return the largest scale at which the whole table fits above and below the waterline."""
        left, right, top, foot = reach_m(setup)
        across = room.width() / (right - left)
        above = (water_px - room.top()) / top
        below = (room.bottom() - water_px) / foot
        scale = min(across, above, below)
        spare = room.width() - scale * (right - left)
        return Elevation(room.left() + spare / 2 - left * scale, water_px, scale)

    def point(self, x_m: float, height_m: float) -> QPointF:
        """Place of a spot `x_m` towards the camera from the drops and `height_m` over the water."""
        return QPointF(self.axis_px + x_m * self.px_per_m, self.water_px - height_m * self.px_per_m)

    def spot_m(self, place: QPointF) -> tuple[float, float]:
        """Spot on the table of a place on the drawing."""
        return (place.x() - self.axis_px) / self.px_per_m, (self.water_px - place.y()) / self.px_per_m


def reach_m(setup: Setup) -> tuple[float, float, float, float]:
    """How far the table reaches: left and right of the drops, above and below the water."""
    bowl, camera = setup.bowl, setup.camera
    rim = bowl.diameter_m / 2
    xs = [flash.x_m for flash in setup.light.units]
    body = max(BODY_M, distance_at_m(camera.focal_length_m, camera.magnification) - camera.front_glass_m + 0.06)
    left = min(-rim - bowl.landing_m, *xs) - MARGIN_M
    right = max(rim - bowl.landing_m, camera.front_glass_m + body, *xs) + MARGIN_M
    heights = [flash.height_m for flash in setup.light.units]
    heights += [valve.nozzle_height_m + valve.head_m + 0.03 for valve in setup.valves]
    top = max(camera.height_m + 0.1, *heights) + MARGIN_M
    return left, right, top, bowl.depth_m + 1.2 * MARGIN_M
