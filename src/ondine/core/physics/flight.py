"""A drop falls through still air, with the drag of a drop that deforms."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G

Floats = NDArray[np.float64]

_WATER_DENSITY_20_C_KG_M3 = 998.2


def terminal_speed_m_s(diameter_m: ArrayLike, density_kg_m3: ArrayLike = _WATER_DENSITY_20_C_KG_M3) -> Floats:
    """Terminal speed of a falling drop.

    diameter_m : [m], 0.6e-3 to 5.8e-3, larger ones are read at the law's flat end; density_kg_m3 : [kg/m3].
    Returns the broadcast shape [m/s].
    9.65 - 10.3·exp(-0.6·D[mm]), Atlas, Srivastava & Sekhon 1973, Rev. Geophys. 11:1 (from memory; within
    2 % of Gunn & Kinzer 1949, see tests); scaled by √density for other liquids. A rigid sphere would be
    up to 30 % too fast, because a large drop flattens.
    """
    mm = np.asarray(diameter_m, dtype=float) * 1e3
    water = np.maximum(9.65 - 10.3 * np.exp(-0.6 * mm), 0.3)
    return np.asarray(water * np.sqrt(np.asarray(density_kg_m3, dtype=float) / _WATER_DENSITY_20_C_KG_M3))


def fall_speed_m_s(elapsed_s: ArrayLike, start_speed_m_s: ArrayLike, terminal_m_s: ArrayLike) -> Floats:
    """Speed after a time of fall under quadratic drag, v_t·tanh(g·t/v_t + α), tanh α = v0/v_t.

    elapsed_s : [s]; start_speed_m_s : downwards [m/s], below terminal_m_s [m/s]; they broadcast.
    """
    v_t = np.asarray(terminal_m_s, dtype=float)
    return np.asarray(v_t * np.tanh(G * np.asarray(elapsed_s) / v_t + np.arctanh(np.asarray(start_speed_m_s) / v_t)))


def fall_distance_m(elapsed_s: ArrayLike, start_speed_m_s: ArrayLike, terminal_m_s: ArrayLike) -> Floats:
    """Distance fallen, (v_t²/g)·ln[cosh(g·t/v_t + α)/cosh α].

    elapsed_s : [s], zero or more; start_speed_m_s, terminal_m_s : [m/s]; they broadcast. Returns [m].
    """
    v_t = np.asarray(terminal_m_s, dtype=float)
    alpha = np.arctanh(np.asarray(start_speed_m_s) / v_t)
    return np.asarray(v_t**2 / G * np.log(np.cosh(G * np.asarray(elapsed_s) / v_t + alpha) / np.cosh(alpha)))


def fall_time_s(height_m: ArrayLike, start_speed_m_s: ArrayLike, terminal_m_s: ArrayLike) -> Floats:
    """Time to fall a height, the inverse of `fall_distance_m`.

    height_m : [m], zero or more; start_speed_m_s, terminal_m_s : [m/s]; they broadcast. Returns [s].
    """
    v_t = np.asarray(terminal_m_s, dtype=float)
    alpha = np.arctanh(np.asarray(start_speed_m_s) / v_t)
    reach = np.arccosh(np.exp(G * np.asarray(height_m) / v_t**2) * np.cosh(alpha))
    return np.asarray(v_t / G * (reach - alpha))
