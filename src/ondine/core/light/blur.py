"""What moves while the light lasts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Edge:
    """A moving edge: what it belongs to, its speed [m/s], and where it is [m]."""

    name: str
    speed_m_s: float
    radius_m: float
    height_m: float


def blur_px(speed_m_s: ArrayLike, duration_s: ArrayLike, pixel_on_subject_m: ArrayLike) -> Floats:
    """Smear of a moving edge, speed·duration/pitch; they broadcast. Returns [px].

    speed_m_s : [m/s]; duration_s : [s]; pixel_on_subject_m : pixel pitch in the plane of the splash [m].
    """
    return np.asarray(np.abs(speed_m_s) * np.asarray(duration_s) / np.asarray(pixel_on_subject_m))
