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

BEAD_CAPILLARY_TIMES = 5.0
"""Capillary times of the jet's tip from its emergence to the first bead: 20 to 50 ms on rigs of practice. Common
practice, no published source.
"""

BEAD_VISCOUS_DELAY = 6.0
"""By how many times its own Ohnesorge number a thick liquid delays its bead. An estimate, after the growth of
disturbances on a viscous thread (Weber 1931, Z. angew. Math. Mech. 11:136, from memory).
"""

JET_TIP_RADIUS_SHARE = 0.16
"""Radius of the jet's tip in crater radii, where the jet is not so tall that it must be thinner. An estimate from
practice's jets of 3 mm from craters of 10 mm.
"""

JET_ENERGY_SHARE = 0.5
"""A jet holds no more than this share of its crater's energy. An estimate: the rest is in waves."""

MOST_JET_CRATERS = 6.0
"""No jet stands higher than so many crater radii: thinner than a sixteenth of the crater it would fall apart."""

JET_TAPER = 2.4
"""How fast a jet grows thin above its base: the power of (1 - height/top)."""

ENTRAINED_JET_FACTOR = 1.5
"""By how much a jet is faster from a crater that closed early over a bubble, in the middle of a wide spread: it is thin
and fast, and hardly foreseen. From memory, low confidence.
"""

NEAR_ENTRAINMENT = 0.15
"""Within such a share beyond the window's edges a bubble may still be trapped."""


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


def entrainment(diameter_m: ArrayLike, speed_m_s: ArrayLike, liquid: Liquid) -> Floats:
    """How far an impact lies outside the window in which every drop traps a bubble: below 0 inside, in ln(We).

    diameter_m : [m]; speed_m_s : [m/s]; they broadcast. Returns [1].
    41.3·Fr^0.179 < We < 48.3·Fr^0.247, Pumphrey & Elmore 1990, J. Fluid Mech. 220:539 (from memory, high confidence).
    """
    number, fr = weber(diameter_m, speed_m_s, liquid), froude(diameter_m, speed_m_s)
    with np.errstate(divide="ignore", invalid="ignore"):
        below, above = np.log(41.3 * fr**0.179 / number), np.log(number / (48.3 * fr**0.247))
    return np.asarray(np.maximum(below, above))


def crater_radius_m(diameter_m: ArrayLike, speed_m_s: ArrayLike, energy_share: ArrayLike, liquid: Liquid) -> Floats:
    """Greatest radius (and depth) of the crater: a share of the impact's energy lifts the liquid and makes surface.

    diameter_m : [m]; speed_m_s : [m/s]; energy_share : η, the part of the kinetic energy that a hemispherical crater
    holds [1]; they broadcast. Returns [m].
    πρgR⁴/4 + πσR² = η·πρD³U²/12, a quadratic in R². Without surface tension R = D·(η·Fr/3)^¼ (Engel 1967;
    Pumphrey & Elmore 1990, from memory); with it 11 % less from 15 cm, 6 % from 45 cm.
    """
    bare = np.asarray(energy_share) * np.asarray(diameter_m) ** 3 * np.asarray(speed_m_s) ** 2 / (3 * G)
    tension = 2 * liquid.surface_tension_n_m / (liquid.density_kg_m3 * G)
    return np.asarray(np.sqrt(np.sqrt(bare + tension**2) - tension))


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


def jet_speed_m_s(crater_m: ArrayLike, speed_factor: ArrayLike, slowing_m_s2: ArrayLike, liquid: Liquid) -> Floats:
    """Speed of the jet's tip as it leaves the surface, c_j·√(gR)/(1 + 60/Re), Re = ρ·√(gR)·R/μ.

    crater_m : [m]; speed_factor : c_j [1]; slowing_m_s2 : what slows its tip [m/s2]; they broadcast. Returns [m/s],
    never more than lifts the tip to `MOST_JET_CRATERS`. The viscosity is that at the crater's own rate, √(g/R).
    The wave-speed scaling is common practice, the damping an estimate: no published source.
    """
    crater = np.asarray(crater_m, dtype=float)
    wave = np.sqrt(G * crater)
    viscosity = liquid.viscosity_at(np.nan_to_num(np.sqrt(G / crater), nan=1.0))
    crater_reynolds = liquid.density_kg_m3 * wave * crater / viscosity
    speed = np.asarray(speed_factor) * wave / (1 + JET_DAMPING_REYNOLDS / crater_reynolds)
    return np.asarray(np.minimum(speed, np.sqrt(2 * np.asarray(slowing_m_s2) * MOST_JET_CRATERS * crater)))


def jet_radii_m(height_m: ArrayLike, top_m: ArrayLike, crater_m: ArrayLike) -> tuple[Floats, Floats]:
    """Radius of a jet's tip and of its base, while its tip is at a height.

    height_m : of the tip now; top_m : its greatest height; crater_m : radius of the crater; all [m], they broadcast.
    Returns [m]. A jet that rises higher is thinner, so that at its top it holds no more than half of the crater's
    energy πρgR⁴/4: its own is πρg·∫r²·z dz over r(z) = tip + (base - tip)·(1 - z/top)^2.4.
    """
    crater, top = np.asarray(crater_m, dtype=float), np.asarray(top_m, dtype=float)
    tip = JET_TIP_RADIUS_SHARE * crater
    base = _base_m(top, crater)
    once, twice = (1 / ((power + 1) * (power + 2)) for power in (JET_TAPER, 2 * JET_TAPER))
    more = base - tip
    holds = top**2 * (tip**2 / 2 + 2 * tip * more * once + more**2 * twice)
    with np.errstate(divide="ignore", invalid="ignore"):
        thinner = np.sqrt(np.minimum(JET_ENERGY_SHARE * crater**4 / 4 / holds, 1.0))
    thinner = np.where(np.isfinite(thinner), thinner, 1.0)
    return np.asarray(tip * thinner), np.asarray(_base_m(np.asarray(height_m), crater) * thinner)


def _base_m(height_m: Floats, crater_m: Floats) -> Floats:
    """Radius of the base of a jet of a height, drawn from practice [m]."""
    return np.asarray(np.minimum(0.55 * crater_m, 0.3 * crater_m + 0.08 * height_m))


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


def bead_delay_s(tip_m: ArrayLike, liquid: Liquid) -> Floats:
    """Time from the jet's emergence to the first bead pinching off its tip.

    tip_m : radius of the jet's tip [m]. Returns [s]: some capillary times √(ρr³/σ) of the tip, more in a thick liquid,
    and the time in which the threads of a gum spring back. An estimate.
    """
    tip = np.asarray(tip_m, dtype=float)
    inertial = np.sqrt(liquid.density_kg_m3 * tip**3 / liquid.surface_tension_n_m)
    thick = liquid.viscosity_pa_s / np.sqrt(liquid.density_kg_m3 * liquid.surface_tension_n_m * tip)
    return np.asarray(BEAD_CAPILLARY_TIMES * inertial * (1 + BEAD_VISCOUS_DELAY * thick) + 3 * liquid.relaxation_s)
