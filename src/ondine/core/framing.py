"""What of the splash the camera's frame will hold."""

from __future__ import annotations

import numpy as np

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast import Forecast
from ondine.core.outline import Outline

LIKELY = 0.16
"""A jet that leaves the frame on more than this share of rigs is worth a word."""


def framing_note(what: Forecast, now: Outline) -> str:
    """Say in a sentence what leaves the frame at this instant or later; empty if all stays inside."""
    camera = what.setup.camera
    half_width, top = camera.frame_width_m / 2, camera.frame_top_m
    for sheet in now.sheets:
        over = float(sheet[:, 0].max()) - half_width
        if over > 0:
            return f"The sheet is {over * 2e3:.0f} mm wider than the frame: widen it."
    rise = what.first.jet_m_s**2 / (2 * G)
    spent = np.nan_to_num(np.fmin.reduce(what.meetings.time_s, axis=0), nan=np.inf)
    freely = spent > what.first.jet_s + what.first.jet_m_s / G
    leaves = freely & (rise > top)
    share = float(np.mean(leaves))
    if share > LIKELY:
        over = float(np.mean(rise[leaves])) - top
        return f"The jet leaves the frame by about {over * 1e3:.0f} mm: lower the camera, widen, or turn to portrait."
    return ""
