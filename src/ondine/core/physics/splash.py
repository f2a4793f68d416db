"""What one drop does to the pool: crater, crown, jet."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.physics.liquid import Liquid

Floats = NDArray[np.float64]

JET_MIN_WEBER = 64.0
"""Below it a drop slips in as a vortex ring, without a jet. Hsiao, Lichter & Quintero 1988 (from memory)."""

CROWN_MIN_SPLASH_NUMBER = 2100.0
"""Least We·Oh^-0.4 for a crown that breaks up. Cossali, Coghe & Marengo 1997 (from memory)."""

CROWN_RISE_SHARE, CROWN_END_SHARE = 0.3, 0.7
"""When the crown stands highest and when it is gone, in crater clocks. Drawn from practice, not derived."""

CRATER_DEEPEST_SHARE = 0.8
"""When the crater is deepest, in crater clocks."""

JET_DAMPING_REYNOLDS = 60.0
"""Crater Reynolds number at which viscosity halves the jet's speed. An estimate: tagged shots would tell."""

BEAD_PINCH_FACTOR = 2.5
"""Jet-tip capillary times from the jet's emergence to the first bead. An estimate."""

JET_TIP_RADIUS_SHARE = 0.16
"""Radius of the jet's tip in crater radii. An estimate from practice's jets of 3 mm from craters of 10 mm."""


def weber(diameter_m: ArrayLike, speed_m_s: ArrayLike, liquid: Liquid) -> Floats:
    """Weber number ρDU²/σ [1]; diameter_m [m], speed_m_s [m/s], they broadcast."""
    u = np.asarray(speed_m_s)
    return np.asarray(liquid.density_kg_m3 * np.asarray(diameter_m) * u * u / liquid.surface_tension_n_m)


def froude(diameter_m: ArrayLike, speed_m_s: ArrayLike) -> Floats:
    """Froude number U²/(gD) [1], squared form; diameter_m [m], speed_m_s [m/s], they broadcast."""
    return np.asarray(np.asarray(speed_m_s) ** 2 / (G * np.asarray(diameter_m)))


def reynolds(diameter_m: ArrayLike, speed_m_s: ArrayLike, liquid: Liquid) -> Floats:
    """Reynolds number ρDU/μ [1]; diameter_m [m], speed_m_s [m/s], they broadcast."""
    return np.asarray(liquid.density_kg_m3 * np.asarray(diameter_m) * np.asarray(speed_m_s) / liquid.viscosity_pa_s)


def ohnesorge(diameter_m: ArrayLike, liquid: Liquid) -> Floats:
    """Ohnesorge number μ/√(ρσD) [1]; diameter_m [m]."""
    inertia = liquid.density_kg_m3 * liquid.surface_tension_n_m * np.asarray(diameter_m)
    return np.asarray(liquid.viscosity_pa_s / np.sqrt(inertia))


def makes_jet(diameter_m: ArrayLike, speed_m_s: ArrayLike, liquid: Liquid) -> NDArray[np.bool_]:
    """Whether the impact is strong enough for a jet; diameter_m [m], speed_m_s [m/s], they broadcast."""
    return np.asarray(weber(diameter_m, speed_m_s, liquid) > JET_MIN_WEBER)


def makes_crown(diameter_m: ArrayLike, speed_m_s: ArrayLike, liquid: Liquid) -> NDArray[np.bool_]:
    """Whether the impact is strong enough for a crown; diameter_m [m], speed_m_s [m/s], they broadcast."""
    with np.errstate(divide="ignore"):
        number = weber(diameter_m, speed_m_s, liquid) * ohnesorge(diameter_m, liquid) ** -0.4
    return np.asarray(number > CROWN_MIN_SPLASH_NUMBER)


def crater_radius_m(diameter_m: ArrayLike, speed_m_s: ArrayLike, energy_share: ArrayLike) -> Floats:
    """Greatest radius (and depth) of the crater, D·(η·Fr/3)^¼.

    diameter_m : [m]; speed_m_s : [m/s]; energy_share : η, the part of the kinetic energy that becomes the
    potential energy of a hemisphere [1]; they broadcast. Returns [m].
    Engel 1967; Pumphrey & Elmore 1990 (from memory).
    """
    return np.asarray(np.asarray(diameter_m) * (np.asarray(energy_share) * froude(diameter_m, speed_m_s) / 3) ** 0.25)


def crater_clock_s(crater_m: ArrayLike) -> Floats:
    """Time scale of a crater, √(R/g); crater_m [m]. Returns [s]."""
    return np.asarray(np.sqrt(np.asarray(crater_m) / G))


def crater_depth_m(since_touchdown_s: ArrayLike, crater_m: ArrayLike, jet_delay_s: ArrayLike) -> Floats:
    """Depth of the crater while it opens and fills again, for drawing.

    since_touchdown_s : [s]; crater_m : greatest depth [m]; jet_delay_s : touchdown to the jet's emergence
    [s]; they broadcast. Returns [m]: zero outside the crater's life.
    """
    s = np.asarray(since_touchdown_s, dtype=float)
    deepest = CRATER_DEEPEST_SHARE * crater_clock_s(crater_m)
    opening = np.sin(np.pi / 2 * np.clip(s / deepest, 0, 1)) ** 0.6
    filling = np.cos(np.pi / 2 * np.clip((s - deepest) / (np.asarray(jet_delay_s) - deepest), 0, 1))
    return np.asarray(np.asarray(crater_m) * np.where(s < deepest, opening, filling))


def jet_speed_m_s(crater_m: ArrayLike, speed_factor: ArrayLike, liquid: Liquid) -> Floats:
    """Speed of the jet's tip as it leaves the surface, c_j·√(gR)/(1 + 60/Re), Re = ρ·√(gR)·R/μ.

    crater_m : [m]; speed_factor : c_j [1]; they broadcast. Returns [m/s].
    The wave-speed scaling is common practice, the damping an estimate: no published source.
    """
    wave = np.sqrt(G * np.asarray(crater_m))
    crater_reynolds = liquid.density_kg_m3 * wave * np.asarray(crater_m) / liquid.viscosity_pa_s
    return np.asarray(np.asarray(speed_factor) * wave / (1 + JET_DAMPING_REYNOLDS / crater_reynolds))


def jet_height_m(since_emergence_s: ArrayLike, jet_speed_m_s: ArrayLike, slowing_m_s2: ArrayLike) -> Floats:
    """Height of the jet's tip over the rest level, v·s - a·s²/2, not below zero.

    since_emergence_s : [s]; jet_speed_m_s : [m/s]; slowing_m_s2 : a, gravity and what necking, beads and the sinking
    base take besides [m/s2]; they broadcast. Returns [m].
    """
    s = np.maximum(np.asarray(since_emergence_s, dtype=float), 0.0)
    return np.asarray(np.maximum(np.asarray(jet_speed_m_s) * s - np.asarray(slowing_m_s2) * s * s / 2, 0.0))


def jet_rise_s(jet_speed_m_s: ArrayLike, slowing_m_s2: ArrayLike) -> Floats:
    """Time from the jet's emergence to its top, v/a; it has sunk after twice as long.

    jet_speed_m_s : [m/s]; slowing_m_s2 : [m/s2]; they broadcast. Returns [s].
    """
    return np.asarray(np.asarray(jet_speed_m_s) / np.asarray(slowing_m_s2))


def jet_top_m(jet_speed_m_s: ArrayLike, slowing_m_s2: ArrayLike) -> Floats:
    """Greatest height of the jet's tip, v²/(2a).

    jet_speed_m_s : [m/s]; slowing_m_s2 : [m/s2]; they broadcast. Returns [m].
    """
    return np.asarray(np.asarray(jet_speed_m_s) ** 2 / (2 * np.asarray(slowing_m_s2)))


def bead_delay_s(crater_m: ArrayLike, liquid: Liquid) -> Floats:
    """Time from the jet's emergence to the first bead pinching off its tip.

    crater_m : [m]. Returns [s]: 2.5 capillary times √(ρr³/σ) of the tip radius. An estimate.
    """
    tip = JET_TIP_RADIUS_SHARE * np.asarray(crater_m)
    return np.asarray(BEAD_PINCH_FACTOR * np.sqrt(liquid.density_kg_m3 * tip**3 / liquid.surface_tension_n_m))
