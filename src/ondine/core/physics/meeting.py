"""A later drop meets the jet in the air and opens into a sheet."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.physics.liquid import Liquid
from ondine.core.physics.splash import weber

Floats = NDArray[np.float64]

SHEET_PEAK_SHARE = 1 / 3
"""The sheet is widest at a third of its time scale: the maximum of T·(1 - T)²."""


def meeting_delay_s(
    surface_lead_s: ArrayLike, drop_speed_m_s: ArrayLike, jet_speed_m_s: ArrayLike, slowing_m_s2: ArrayLike
) -> Floats:
    """Time from the jet's emergence to its tip meeting the falling drop.

    surface_lead_s : when the drop would reach the rest level, counted from the jet's emergence [s];
    drop_speed_m_s : the drop's speed near the surface [m/s]; jet_speed_m_s : [m/s]; slowing_m_s2 : of the jet's tip
    [m/s2]; they broadcast. Returns [s]; NaN where they do not meet: the drop comes before the jet, or after it has
    sunk. The smaller root of U·(τ - x) = v·x - a·x²/2.
    """
    lead = np.asarray(surface_lead_s, dtype=float)
    u = np.asarray(drop_speed_m_s, dtype=float)
    v = np.asarray(jet_speed_m_s, dtype=float)
    a = np.asarray(slowing_m_s2, dtype=float)
    reach = (v + u) ** 2 - 2 * a * u * lead
    with np.errstate(invalid="ignore", divide="ignore"):
        x = (v + u - np.sqrt(reach)) / a
        meets = (lead >= 0) & (reach >= 0) & (x <= 2 * v / a)
        return np.asarray(np.where(meets, x, np.nan))


def sheet_time_s(diameter_m: ArrayLike, liquid: Liquid) -> Floats:
    """Time scale of the sheet, √(ρD³/(6σ)); diameter_m [m]. Returns [s].

    Villermaux & Bossa 2011, J. Fluid Mech. 668:412 (from memory).
    """
    cubed = np.asarray(diameter_m) ** 3
    return np.asarray(np.sqrt(liquid.density_kg_m3 * cubed / (6 * liquid.surface_tension_n_m)))


def sheet_radius_m(since_meeting_s: ArrayLike, life_s: ArrayLike, widest_m: ArrayLike, diameter_m: ArrayLike) -> Floats:
    """Radius of the open sheet, r·(27/4)·T·(1 - T)², T = t/life.

    since_meeting_s, life_s : [s]; widest_m : its greatest radius r [m]; diameter_m : of the falling drop [m]; they
    broadcast. Returns [m]: never below the drop's radius before T = 1/3, zero before the meeting and after T = 1.
    Villermaux & Bossa 2011 (from memory), for a drop on a small solid target: a prior for a drop on a jet.
    """
    t = np.asarray(since_meeting_s, dtype=float) / np.asarray(life_s)
    inside = np.clip(t, 0, 1)
    radius = np.asarray(widest_m) * 6.75 * inside * (1 - inside) ** 2
    radius = np.where((t > 0) & (t < SHEET_PEAK_SHARE), np.maximum(radius, np.asarray(diameter_m) / 2), radius)
    return np.asarray(np.where((t > 0) & (t < 1), radius, 0.0))


def sheet_height_m(since_meeting_s: ArrayLike, met_at_m: ArrayLike, speed_m_s: ArrayLike) -> Floats:
    """Height of the middle of the sheet above the rest level, h + v·t - g·t²/2: thrown from where drop and jet met.

    since_meeting_s : [s]; met_at_m : height of the meeting [m]; speed_m_s : of the sheet then, positive upwards
    [m/s]; they broadcast. Returns [m].
    """
    t = np.asarray(since_meeting_s, dtype=float)
    return np.asarray(np.asarray(met_at_m) + np.asarray(speed_m_s) * t - G * t * t / 2)


def sheet_edge_speed_m_s(since_meeting_s: ArrayLike, life_s: ArrayLike, widest_m: ArrayLike) -> Floats:
    """Radial speed of the sheet's rim, the derivative of `sheet_radius_m`: zero when it is widest.

    since_meeting_s, life_s : [s]; widest_m : [m]; they broadcast. Returns [m/s], positive outwards, zero outside the
    sheet's life.
    """
    life = np.asarray(life_s)
    t = np.asarray(since_meeting_s, dtype=float) / life
    speed = np.asarray(widest_m) * 6.75 * (1 - t) * (1 - 3 * t) / life
    return np.asarray(np.where((t > 0) & (t < 1), speed, 0.0))


def sheet_full_shares(share: float) -> tuple[float, float]:
    """Ages, in sheet life times, between which the sheet's radius is at least a share (0 to 1) of its greatest.

    The smaller roots of T·(1 - T)² = share·4/27.
    """
    roots = np.sort(np.roots([1, -2, 1, -share * 4 / 27]).real)
    return float(roots[0]), float(roots[1])


def widest_sheet_m(diameter_m: ArrayLike, closing_speed_m_s: ArrayLike, liquid: Liquid) -> Floats:
    """Greatest radius of the sheet, (4/27)·√(We/6)·D; diameter_m [m], closing_speed_m_s [m/s]. Returns [m]."""
    d = np.asarray(diameter_m, dtype=float)
    return np.asarray(4 / 27 * np.sqrt(weber(d, closing_speed_m_s, liquid) / 6) * d)
