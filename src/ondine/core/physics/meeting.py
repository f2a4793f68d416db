"""A later drop meets the jet in the air and opens into a sheet."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.physics.liquid import Liquid
from ondine.core.physics.splash import weber

Floats = NDArray[np.float64]

SHEET_SPREAD = 0.104
"""Greatest radius of a sheet in D·√We: what a rim that keeps its momentum reaches, see `widest_sheet_m`."""

BRAKE_DIAMETERS, THICKENING_DIAMETERS = 0.75, 2.0
"""A drop takes up its own mass of a tall column on so many of its diameters, and sooner on one no taller than so many:
columns are thick at their feet. An estimate: sheets of practice sink 6 to 7 mm in their life.
"""

BEAD_MASS_SHARE, BEAD_BRAKES = 0.4, 2.0
"""Mass of a bead that has pinched off, in shares of what a drop would meet of a jet; and how many times the way it
takes to brake the sheet of a drop that meets it: the jet comes only after the bead. Estimates: beads 3 mm across.
"""


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


def sheet_radius_m(
    since_meeting_s: ArrayLike, life_s: ArrayLike, peak_share: ArrayLike, widest_m: ArrayLike, diameter_m: ArrayLike
) -> Floats:
    """Radius of the open sheet, R·(T/p)·((1 - T)/(1 - p))^((1 - p)/p), T = t/life: widest at T = p.

    since_meeting_s, life_s : [s]; peak_share : p, the share of its life at which it is widest [1]; widest_m : R [m];
    diameter_m : of the falling drop [m]; they broadcast. Returns [m]: never below the drop's radius before the peak,
    zero before the meeting and after T = 1.
    With p = 1/3 it is T·(1 - T)² of Villermaux & Bossa 2011, J. Fluid Mech. 668:412 (from memory), whose rim gives its
    momentum up; free sheets are widest later, at 0.4 to 0.57 (Vernay 2015; a rim that keeps its momentum; from memory).
    """
    t, p = np.asarray(since_meeting_s, dtype=float) / np.asarray(life_s), np.asarray(peak_share)
    inside = np.clip(t, 0, 1)
    radius = np.asarray(widest_m) * inside / p * ((1 - inside) / (1 - p)) ** (1 / p - 1)
    radius = np.where((t > 0) & (t < p), np.maximum(radius, np.asarray(diameter_m) / 2), radius)
    return np.asarray(np.where((t > 0) & (t < 1), radius, 0.0))


def sheet_edge_speed_m_s(
    since_meeting_s: ArrayLike, life_s: ArrayLike, peak_share: ArrayLike, widest_m: ArrayLike
) -> Floats:
    """Radial speed of the sheet's rim, the derivative of `sheet_radius_m`: zero when it is widest.

    since_meeting_s, life_s : [s]; peak_share : [1]; widest_m : [m]; they broadcast. Returns [m/s], positive outwards,
    zero outside the sheet's life.
    """
    life, p = np.asarray(life_s), np.asarray(peak_share)
    t = np.asarray(since_meeting_s, dtype=float) / life
    # The last instant of a sheet that closes all at once is faster than anything can be: leave it out.
    inside = np.clip(t, 0.0, 0.995)
    falling = ((1 - inside) / (1 - p)) ** (1 / p - 2)
    speed = np.asarray(widest_m) / p * falling * (1 - inside / p) / (1 - p) / life
    return np.asarray(np.where((t > 0) & (t < 1), speed, 0.0))


def sheet_sinking_m(since_meeting_s: ArrayLike, speed_m_s: ArrayLike, brake_m: ArrayLike) -> tuple[Floats, Floats]:
    """How far the middle of a sheet has moved, and how fast it moves: s = L·(√(1 + 2v·t/L) - 1), v/√(1 + 2v·t/L).

    since_meeting_s : [s]; speed_m_s : v when drop and jet have met, positive upwards [m/s]; brake_m : L, the way on
    which it takes up its own mass of column [m]; they broadcast. Returns [m], [m/s].
    Momentum kept by a body that takes up a column of even mass: (1 + s/L)·ds/dt = v.
    """
    t, v, brake = np.asarray(since_meeting_s, dtype=float), np.asarray(speed_m_s), np.asarray(brake_m)
    with np.errstate(invalid="ignore"):
        slower = np.sqrt(1 + 2 * np.abs(v) * np.maximum(t, 0.0) / brake)
    return np.asarray(np.sign(v) * brake * (slower - 1)), np.asarray(v / slower)


def sheet_height_m(since_meeting_s: ArrayLike, met_at_m: ArrayLike, speed_m_s: ArrayLike, brake_m: ArrayLike) -> Floats:
    """Height of the middle of the sheet above the rest level: where drop and jet met, moved as in `sheet_sinking_m`.

    since_meeting_s : [s]; met_at_m, brake_m : [m]; speed_m_s : [m/s]; they broadcast. Returns [m].
    """
    return np.asarray(np.asarray(met_at_m) + sheet_sinking_m(since_meeting_s, speed_m_s, brake_m)[0])


def sheet_start_m_s(
    drop_speed_m_s: ArrayLike, tip_speed_m_s: ArrayLike, tip_mass_share: ArrayLike, on_bead: ArrayLike
) -> Floats:
    """Speed of the middle of a sheet as it opens, positive upwards: the momentum of drop and tip, shared by both.

    drop_speed_m_s : downwards; tip_speed_m_s : upwards; tip_mass_share : mass of the tip in drops [1]; on_bead :
    whether it is a bead that has pinched off; they broadcast. Returns [m/s].
    """
    share = np.asarray(tip_mass_share) * np.where(on_bead, BEAD_MASS_SHARE, 1.0)
    return np.asarray((share * np.asarray(tip_speed_m_s) - np.asarray(drop_speed_m_s)) / (1 + share))


def sheet_brake_m(diameter_m: ArrayLike, met_at_m: ArrayLike, tip_mass_share: ArrayLike, on_bead: ArrayLike) -> Floats:
    """Way on which a column takes up the momentum of a drop, see `sheet_sinking_m`.

    diameter_m : of the drop; met_at_m : height of the meeting [m]; tip_mass_share : mass of the tip in drops [1];
    on_bead : whether a bead that has pinched off is met; they broadcast. Returns [m].
    """
    size, height = np.asarray(diameter_m), np.maximum(np.asarray(met_at_m), 1e-4)
    thin = height / (height + THICKENING_DIAMETERS * size)
    return np.asarray(BRAKE_DIAMETERS * size * thin / np.asarray(tip_mass_share) * np.where(on_bead, BEAD_BRAKES, 1.0))


def sheet_share(tip_mass_share: ArrayLike, on_bead: ArrayLike) -> Floats:
    """How wide a sheet opens, as a share of what it does on a column [1]: a bead is lighter than the drop.

    Two drops set free the energy of their reduced mass; equal ones that of `widest_sheet_m`, an estimate.
    """
    bead = BEAD_MASS_SHARE * np.asarray(tip_mass_share)
    return np.where(on_bead, np.sqrt(np.minimum(2 * bead / (1 + bead), 1.0)), 1.0)


def onto_sheet_s(
    surface_lead_s: ArrayLike, drop_speed_m_s: ArrayLike, met_at_m: ArrayLike, speed_m_s: ArrayLike, brake_m: ArrayLike
) -> Floats:
    """Time from a meeting to the next drop reaching the middle of its sheet, as it moves by `sheet_height_m`.

    surface_lead_s : when that drop would reach the rest level, counted from the meeting [s]; drop_speed_m_s : of that
    drop [m/s]; met_at_m, speed_m_s, brake_m : of the sheet; they broadcast. Returns [s]; NaN where it never does.
    With y = √(1 + 2|v|x/L) the heights are equal where U·L/(2|v|)·y² ± L·y = U·(lead + L/(2|v|)) - h ± L.
    """
    lead, u, h = (np.asarray(part, dtype=float) for part in (surface_lead_s, drop_speed_m_s, met_at_m))
    v, brake = np.asarray(speed_m_s, dtype=float), np.asarray(brake_m, dtype=float)
    slow = np.maximum(np.abs(v), 1e-4)
    rises = np.where(v > 0, brake, -brake)
    square = u * brake / (2 * slow)
    with np.errstate(invalid="ignore"):
        y = (np.sqrt(brake**2 + 4 * square * (u * lead + square - h + rises)) - rises) / (2 * square)
        return np.asarray(np.where(y >= 1, brake * (y * y - 1) / (2 * slow), np.nan))


_PEAKS = np.linspace(0.2, 0.8, 121)


@lru_cache(maxsize=8)
def _full_table(share: float) -> tuple[Floats, Floats]:
    """Ages at which sheets of the peaks in `_PEAKS` are as wide as a share of their greatest, by halving."""
    found = []
    for inner, outer in ((np.zeros_like(_PEAKS), _PEAKS), (np.ones_like(_PEAKS), _PEAKS)):
        narrow, wide = inner.copy(), outer.copy()
        for _ in range(50):
            middle = (narrow + wide) / 2
            enough = sheet_radius_m(middle, 1.0, _PEAKS, 1.0, 0.0) >= share
            narrow, wide = np.where(enough, narrow, middle), np.where(enough, middle, wide)
        found.append(wide)
    return found[0], found[1]


def sheet_full_shares(share: float, peak_share: ArrayLike) -> tuple[Floats, Floats]:
    """Ages, in sheet life times, between which the sheet's radius is at least a share (0 to 1) of its greatest.

    peak_share : where it is widest, 0.2 to 0.8, any shape. Returns two arrays of that shape [1].
    """
    first, last = _full_table(share)
    peak = np.asarray(peak_share)
    return np.interp(peak, _PEAKS, first), np.interp(peak, _PEAKS, last)


def widest_sheet_m(diameter_m: ArrayLike, closing_speed_m_s: ArrayLike, liquid: Liquid) -> Floats:
    """Greatest radius of the sheet, 0.104·√We·D; diameter_m [m], closing_speed_m_s [m/s]. Returns [m].

    A sheet of thickness D³/(12·U·t·r) (Villermaux & Bossa 2011, from memory) whose rim keeps its momentum, integrated:
    see tests. Drops on small targets reach 0.11 (Vernay 2015) to 0.15 (Wang & Bourouiba), on a plate with friction 2.2
    to 2.5 D at these speeds (Clanet 2004; Pasandideh-Fard 1996; all from memory).
    """
    d = np.asarray(diameter_m, dtype=float)
    return np.asarray(SHEET_SPREAD * np.sqrt(weber(d, closing_speed_m_s, liquid)) * d)
