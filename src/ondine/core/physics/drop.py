"""From a pulse on the valve to a drop that has let go."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.physics.liquid import Liquid

Floats = NDArray[np.float64]

NECK_TIMES = 0.6
"""Capillary times of the outlet for which the neck still pulls at a drop after the valve has closed. An estimate."""

PINCH_TIMES = 1.5
"""Capillary times of the outlet from the closing of the valve to the pinch-off of the neck. An estimate."""

HANGING_SHARE = 0.6
"""A drop falls off a wetted outlet once it weighs this share of π·d·σ, the pull of its surface: Harkins & Brown 1919,
J. Am. Chem. Soc. 41:499, at the ratios of usual nozzles.
"""


def drop_volume_m3(open_s: ArrayLike, flow_m3_s: ArrayLike, dead_time_s: ArrayLike) -> Floats:
    """Volume let out by one pulse: flow·max(open - dead time, 0).

    open_s, dead_time_s : [s]; flow_m3_s : [m3/s]; they broadcast. Returns [m3].
    """
    return np.asarray(np.asarray(flow_m3_s) * np.maximum(np.asarray(open_s) - np.asarray(dead_time_s), 0.0))


def drop_diameter_m(volume_m3: ArrayLike) -> Floats:
    """Diameter of the sphere of that volume [m3]. Returns the same shape [m]."""
    return np.asarray(np.cbrt(6 * np.asarray(volume_m3) / np.pi))


@dataclass(frozen=True, eq=False)
class Release:
    """How a drop leaves its outlet: it behaves as if let go, centre at the outlet, `delay_s` after the opening begins,
    at `speed_m_s` downwards; it has left the neck only `pinch_off_m` under the outlet. Arrays of one shape.
    """

    delay_s: Floats
    speed_m_s: Floats
    pinch_off_m: Floats


def release(
    open_s: ArrayLike,
    flowing_s: ArrayLike,
    flow_m3_s: ArrayLike,
    outlet_m: ArrayLike,
    momentum_factor: ArrayLike,
    density_kg_m3: ArrayLike,
    surface_tension_n_m: ArrayLike,
) -> Release:
    """Return how drops leave an outlet: they jet from a narrow one and drip from a wide one.

    open_s, flowing_s : how long the valve is open, and flows; flow_m3_s : while it flows; outlet_m : its diameter d;
    momentum_factor : β, the stream's momentum against that of an even one [1]; density_kg_m3, surface_tension_n_m; they
    broadcast.

    Momentum of what has left: the stream brings ρQ·βu, u = Q/A, the surface at the outlet takes π·d·σ, and goes on
    after the closing while the neck holds. Nothing is left of it at a nozzle Weber number ρu²d/σ of 4, where streams
    turn to dripping (Clanet & Lasheras 1999, J. Fluid Mech. 383:307, from memory, medium confidence). Liquid that
    leaves evenly behaves as if let go in the middle of its flowing. Where the surface pulls more than the stream
    brings, the drop hangs until its weight makes up for that: at last it behaves as if let go at rest at the end of
    the opening, or after it.
    """
    d, q = np.asarray(outlet_m, dtype=float), np.maximum(np.asarray(flow_m3_s, dtype=float), 1e-12)
    open_for, flows = np.asarray(open_s), np.maximum(np.asarray(flowing_s), 1e-4)
    reshapes = np.sqrt(np.asarray(density_kg_m3) * d**3 / np.asarray(surface_tension_n_m))
    stream = np.asarray(momentum_factor) * 4 * q / (np.pi * d * d)
    pull = np.pi * d * np.asarray(surface_tension_n_m) / (np.asarray(density_kg_m3) * q)
    net = stream - pull * (1 + NECK_TIMES * reshapes / flows)
    hangs = np.clip(-net / (G * flows), 0.0, 1.0)
    speed = np.maximum(net, 0.0)
    delay = (1 - (1 - hangs) ** 2 / 2) * open_for + 0.5 * hangs * reshapes
    free = np.maximum(open_for - delay, 0.0) + PINCH_TIMES * reshapes
    return Release(delay, speed, np.asarray(speed * free + G * free * free / 2))


def nozzle_weber(flow_m3_s: ArrayLike, outlet_m: ArrayLike, liquid: Liquid) -> Floats:
    """Weber number of the stream in an outlet, ρu²d/σ [1]; flow_m3_s [m3/s], outlet_m [m], they broadcast.

    Under about 4 an outlet drips (Clanet & Lasheras 1999, from memory).
    """
    d = np.asarray(outlet_m, dtype=float)
    u = np.asarray(flow_m3_s) * 4 / (np.pi * d * d)
    return np.asarray(liquid.density_kg_m3 * u * u * d / liquid.surface_tension_n_m)


def least_falling_m3(outlet_m: float, liquid: Liquid) -> float:
    """Volume under which a drop stays hanging at an outlet of a diameter [m]. Returns [m3]."""
    return HANGING_SHARE * np.pi * outlet_m * liquid.surface_tension_n_m / (liquid.density_kg_m3 * G)


def narrowest_outlet_m(flow_m3_s: ArrayLike, head_m: ArrayLike) -> Floats:
    """Diameter under which a head cannot drive a flow through an outlet: the stream would be faster than √(2g·head).

    flow_m3_s : [m3/s]; head_m : [m]; they broadcast. Returns [m]. Torricelli.
    """
    return np.asarray(np.sqrt(4 * np.asarray(flow_m3_s) / (np.pi * np.sqrt(2 * G * np.asarray(head_m)))))


def capillary_time_s(diameter_m: ArrayLike, density_kg_m3: float, surface_tension_n_m: float) -> Floats:
    """Time in which surface tension reshapes a drop, √(ρ·D³/σ).

    diameter_m : [m]; density_kg_m3 : [kg/m3]; surface_tension_n_m : [N/m]. Returns [s]; 35 ms at 4.5 mm.
    """
    return np.asarray(np.sqrt(density_kg_m3 * np.asarray(diameter_m) ** 3 / surface_tension_n_m))


def merges(gap_s: ArrayLike, capillary_s: ArrayLike, merge_ratio: ArrayLike) -> NDArray[np.bool_]:
    """Whether two drops leave the nozzle as one: gap/capillary time under the valve's own ratio.

    gap_s : from closing to the next opening [s]; capillary_s : of the first drop [s]; merge_ratio : [1]; they
    broadcast. A drop of no volume reshapes in no time and merges with nothing.
    Common practice, no published source: pairs at a ratio of 0.7 come out clean on good valves, some valves misbehave
    up to 1.1, and 0.2 is one drop everywhere.
    """
    return np.asarray(np.asarray(gap_s) < np.asarray(merge_ratio) * np.asarray(capillary_s))
