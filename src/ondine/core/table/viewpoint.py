"""Where the camera looks from, and what that does to the picture."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ondine.core.light.lens import distance_at_m
from ondine.core.setup import Setup

LOW_DEG, HIGH_DEG = 6.0, 18.0
"""Below the first the surface is a thin line, above the second it is a floor with rings. Common practice."""


@dataclass(frozen=True)
class Viewpoint:
    """`angle_deg` down to the splash [°]; `jet_share`, `ring_share`: how much of a jet's height and of a ring's
    depth the picture keeps [1]; rims: where the edge of the bowl stands in the plane of the splash, over the water [m].
    """

    angle_deg: float
    jet_share: float
    ring_share: float
    near_rim_m: float | None
    far_rim_m: float
    words: str


def viewpoint(setup: Setup) -> Viewpoint:
    """Tell what a camera sees of the bowl from its height and distance."""
    camera, bowl = setup.camera, setup.bowl
    away = distance_at_m(camera.focal_length_m, camera.magnification)
    angle = math.atan2(camera.height_m, away)
    radius = bowl.diameter_m / 2
    near, far = radius - bowl.landing_m, radius + bowl.landing_m
    rim = -camera.height_m * near / (away - near) if near < away else None
    return Viewpoint(
        angle_deg=math.degrees(angle),
        jet_share=math.cos(angle),
        ring_share=math.sin(angle),
        near_rim_m=rim,
        far_rim_m=camera.height_m * far / (away + far),
        words=_words(setup, math.degrees(angle), rim),
    )


def _words(setup: Setup, angle: float, near_rim_m: float | None) -> str:
    if angle < LOW_DEG:
        says = "Low: jets keep their height, the surface is a line, rings vanish."
    elif angle > HIGH_DEG:
        says = "High: rings show, jets look shorter, and less of the surface is sharp."
    else:
        says = "Between: some rings, nearly all of the jet."
    if near_rim_m is not None and near_rim_m > setup.camera.frame_foot_m:
        says += " The near rim is in the picture, blurred: move the splash towards it, or aim higher."
    return says
