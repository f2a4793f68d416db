"""What of the splash the camera's frame will hold, and what shooting wider would buy."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ondine.core.forecast.outline import Outline
from ondine.core.forecast.whole import Forecast
from ondine.core.light.depth import camera_depth_m
from ondine.core.physics.splash import jet_rise_s, jet_top_m
from ondine.core.setup import Camera

LIKELY = 0.16
"""A jet that leaves the frame on more than this share of rigs is worth a word."""

INCH_M = 0.0254


def framing_note(what: Forecast, now: Outline) -> str:
    """Say in a sentence what leaves the frame at this instant or later; empty if all stays inside."""
    camera = what.setup.camera
    half_width, top = camera.frame_width_m / 2, camera.frame_top_m
    for sheet in now.sheets:
        over = float(sheet.x_m + sheet.profile[:, 0].max()) - half_width
        if over > 0:
            return f"Frame {over * 2e3:.0f} mm too narrow: widen it."
    made = what.splashes
    with np.errstate(invalid="ignore"):
        rise = jet_top_m(made.jet_m_s, made.jet_slows_m_s2)
        freely = made.ends_s > made.jet_s + jet_rise_s(made.jet_m_s, made.jet_slows_m_s2)
        leaves = freely & (rise > top)
    share = float(leaves.any(axis=0).mean())
    if share > LIKELY:
        over = float(np.mean(rise[leaves])) - top
        return f"The jet leaves the frame by about {over * 1e3:.0f} mm: {_remedy(camera, over)}."
    return ""


def _remedy(camera: Camera, over_m: float) -> str:
    """The least change that helps first: room below the water, then turning the camera, then stepping back."""
    spare = camera.frame_height_m * (camera.water_line_share - 0.08)
    if over_m < spare:
        return "aim the camera higher"
    tall = camera.frame_width_m * (1 - camera.water_line_share)
    if not camera.portrait and tall > camera.frame_top_m + over_m:
        return "turn to portrait, or widen"
    return "widen, or lower the nozzle"


@dataclass(frozen=True)
class Crop:
    """Shooting `wider` times wider and cropping to the same picture.

    `magnification` [1]; `depth_m` depth of field in the cropped print [m]; `across_px` pixels left across the
    picture; `print_ppi` pixels per inch of the print; `room_m` height of air above the picture that comes besides [m].
    """

    wider: float
    magnification: float
    depth_m: float
    across_px: int
    print_ppi: float
    room_m: float


def crop(camera: Camera, wider: float) -> Crop:
    """Compare shooting wider by a factor (1: filling the frame) with the frame as it stands."""
    far = replace(camera, magnification=camera.magnification / wider)
    # The crop is enlarged more to fill the same print, so the disc that is allowed shrinks as much.
    cropped = replace(far, print_width_m=camera.print_width_m * wider)
    across = round(camera.frame_px[0] / wider)
    return Crop(
        wider=wider,
        magnification=far.magnification,
        depth_m=camera_depth_m(cropped),
        across_px=across,
        print_ppi=across / (camera.print_width_m / INCH_M),
        room_m=far.frame_top_m - camera.frame_top_m,
    )
