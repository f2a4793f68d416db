"""From a pulse on the valve to a drop that has let go."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

MERGE_CERTAIN, MERGE_UNLIKELY = 0.3, 1.3
"""Closing-to-opening gaps, in capillary times, that surely merge two drops and that hardly ever do."""


def drop_volume_m3(open_s: ArrayLike, flow_m3_s: ArrayLike, dead_time_s: ArrayLike) -> Floats:
    """Volume let out by one pulse: flow·max(open - dead time, 0).

    open_s, dead_time_s : [s]; flow_m3_s : [m3/s]; they broadcast. Returns [m3].
    """
    return np.asarray(np.asarray(flow_m3_s) * np.maximum(np.asarray(open_s) - np.asarray(dead_time_s), 0.0))


def drop_diameter_m(volume_m3: ArrayLike) -> Floats:
    """Diameter of the sphere of that volume [m3]. Returns the same shape [m]."""
    return np.asarray(np.cbrt(6 * np.asarray(volume_m3) / np.pi))


def release_delay_s(open_s: ArrayLike, lag_s: ArrayLike, release_share: ArrayLike) -> Floats:
    """Delay from the opening command to the moment the drop behaves as if let go: lag + share·open.

    open_s, lag_s : [s]; release_share : [1]; they broadcast. Returns [s].
    Common practice, no published source: a long opening is a stream for most of its length.
    """
    return np.asarray(np.asarray(lag_s) + np.asarray(release_share) * np.asarray(open_s))


def capillary_time_s(diameter_m: ArrayLike, density_kg_m3: float, surface_tension_n_m: float) -> Floats:
    """Time in which surface tension reshapes a drop, √(ρ·D³/σ).

    diameter_m : [m]; density_kg_m3 : [kg/m3]; surface_tension_n_m : [N/m]. Returns [s]; 35 ms at 4.5 mm.
    """
    return np.asarray(np.sqrt(density_kg_m3 * np.asarray(diameter_m) ** 3 / surface_tension_n_m))


def merge_probability(gap_s: ArrayLike, capillary_s: ArrayLike) -> Floats:
    """Probability that two drops leave the nozzle as one, by the gap from closing to the next opening.

    gap_s, capillary_s : [s]; they broadcast. Returns [1].
    Falls smoothly from one at 0.3 capillary times to none at 1.3. Common practice, no published source.
    """
    # A drop of no volume reshapes in no time: an infinite ratio, no merging.
    with np.errstate(divide="ignore"):
        ratio = np.asarray(gap_s) / np.asarray(capillary_s)
    x = np.clip((ratio - MERGE_CERTAIN) / (MERGE_UNLIKELY - MERGE_CERTAIN), 0.0, 1.0)
    return np.asarray(1 - x * x * (3 - 2 * x))
