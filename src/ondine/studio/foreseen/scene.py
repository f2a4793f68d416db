"""From a forecast to the scene that stands before the camera at one instant.

Places, sizes and speeds are the forecast's, on the mean rig, as in `core.forecast.outline`. What lies between them is
drawn, not predicted: how a jet tapers, fingers and beads of a rim, rings on the water, droplets.
"""

from __future__ import annotations

import math

import numpy as np

from ondine.core.forecast.instant import Instant
from ondine.core.forecast.whole import Forecast
from ondine.core.physics.splash import jet_radii_m, jet_top_m
from ondine.picture.scene import Blob, Column, Crown, Fingers, Scene, Sheet, Spot
from ondine.studio.foreseen.light import falling

MM = 1e3
MEAN = 0
"""The sampled rig that is the mean of the belief."""

RINGS_M_S, RINGS_LAST_S = 0.30, 0.15
TORN_SHARE = 0.62
"""Share of a sheet's life after which it is drawn with holes."""


def foreseen_scene(what: Forecast, now: Instant) -> Scene:
    """Stage the splash of the mean rig, in millimetres from the landing spot."""
    scene = Scene()
    for drop in range(len(what.sequence.drops)):
        _stage_drop(scene, what, now, drop)
        _stage_pool(scene, what, now, drop)
        _stage_crown(scene, what, now, drop)
        _stage_column(scene, what, now, drop)
        _stage_sheet(scene, what, now, drop)
    return scene


def _place(what: Forecast, drop: int) -> tuple[float, float]:
    """Where a drop comes down, to the right and away from the camera [mm]."""
    valve = what.setup.valve(what.sequence.drops[drop].valve)
    return valve.aside_m * MM, -valve.x_m * MM


def _ink(what: Forecast, drop: int) -> int:
    """Number of the liquid that a drop is of."""
    return falling(what.setup).index(what.setup.mix_of(what.sequence.drops[drop].valve))


def _phase(drop: int) -> float:
    """Every drop's rim is turned its own way, and the same way at each look."""
    return 0.7 + 1.9 * drop


def _stage_drop(scene: Scene, what: Forecast, now: Instant, drop: int) -> None:
    height = float(now.drop_height_m[drop, MEAN])
    if math.isfinite(height):
        radius = float(what.falls.diameter_m[drop, MEAN]) / 2 * MM
        scene.blobs.append(Blob(*_place(what, drop), height * MM, radius, radius, ink=_ink(what, drop)))


def _stage_pool(scene: Scene, what: Forecast, now: Instant, drop: int) -> None:
    depth = float(np.nan_to_num(now.crater_depth_m[drop, MEAN])) * MM
    closed = float(now.since_jet_s[drop, MEAN])
    if depth > 0.01:
        pool = scene.spot(*_place(what, drop)).pool
        pool.crater_depth, pool.crater_radius = depth, 1.05 * depth
    elif 0 <= closed < 4 * RINGS_LAST_S:
        pool = scene.spot(*_place(what, drop)).pool
        pool.ripple_height, pool.ripple_length = 0.12 * math.exp(-closed / RINGS_LAST_S), 9.0
        pool.ripple_front, pool.ripple_width = 10.0 + RINGS_M_S * closed * MM, 9.0 + 0.1 * closed * MM


def _stage_crown(scene: Scene, what: Forecast, now: Instant, drop: int) -> None:
    share = float(now.crown_share[drop, MEAN])
    if not math.isfinite(share):
        return
    lift = math.sin(math.pi * share**0.6)
    height = max(0.9 * float(what.splashes.crater_m[drop, MEAN]) * lift * MM, 0.3)
    radius = max(float(now.crater_depth_m[drop, MEAN]) * 1.05 * MM, 0.5)
    fingers = Fingers(16, 0.55 * height * share**0.4, 0.44 - 0.12 * share, 0.1 + 0.7 * share, _phase(drop))
    spot = scene.spot(*_place(what, drop))
    spot.ink = _ink(what, drop)
    spot.crown = Crown(radius, 0.8 * height, 0.3 * height, 0.32 - 0.12 * share, 0.48 - 0.1 * share, fingers)


def _stage_column(scene: Scene, what: Forecast, now: Instant, drop: int) -> None:
    """A rising or sinking jet, or the column that a drop has stopped."""
    jet, left = float(now.jet_tip_m[drop, MEAN]), float(now.column_m[drop, MEAN])
    rises = jet > 1e-4
    owner = drop if rises else max(int(what.meetings.splash[drop, MEAN]), 0)
    crater, top = float(what.splashes.crater_m[owner, MEAN]) * MM, (jet if rises else left) * MM
    if not (math.isfinite(crater) and math.isfinite(top)):
        return
    whole = jet_top_m(what.splashes.jet_m_s[owner, MEAN], what.splashes.jet_slows_m_s2[owner, MEAN]) * MM
    tip, base = (float(radius) for radius in jet_radii_m(top, whole, crater))
    thin = tip * (1.0 if rises else 1.2)
    spot = scene.spot(*_place(what, drop))
    spot.ink = _ink(what, owner)
    if rises:
        age = float(now.since_jet_s[drop, MEAN])
        waist = min(max((age - 0.012) / 0.09, 0.0), 0.34)
        spot.column = Column(max(top - thin, 0.4), base, thin, waist, thin * (1 + 0.9 * waist), max(top - thin, 0.4))
        _stage_bead(scene, spot, what, now, drop)
    else:
        # A sheet grows out of the column's head.
        spot.column = Column(max(top - 1.25 * thin, 0.4), base, thin)


def _stage_bead(scene: Scene, spot: Spot, what: Forecast, now: Instant, drop: int) -> None:
    """Let the bead fly ahead of its jet once it has pinched off."""
    flies = now.time_s - float(what.splashes.bead_s[drop, MEAN])
    if flies > 0:
        column, lead = spot.column, min(2.0 + 60.0 * flies, 5.0)
        scene.blobs.append(
            Blob(spot.x, spot.y, column.top + lead, column.bead_radius, column.bead_radius, 0.4, spot.ink)
        )
        column.bead_radius = 0.85 * column.tip_radius


def _stage_sheet(scene: Scene, what: Forecast, now: Instant, drop: int) -> None:
    age, life = float(now.sheet_age_s[drop, MEAN]), float(what.meetings.sheet_life_s[drop, MEAN])
    if not (math.isfinite(age) and life > 0):
        return
    height = float(now.sheet_height_m[drop, MEAN]) * MM
    share, drop_radius = age / life, float(what.falls.diameter_m[drop, MEAN]) / 2 * MM
    widest = max(float(what.meetings.widest_m[drop, MEAN]) * MM, 0.5)
    radius = float(now.sheet_radius_m[drop, MEAN]) * MM
    if share >= 1:
        _scatter(scene, what, drop, widest * (1 + 0.5 * (share - 1)), height - 1.2 * widest * (share - 1), 16)
    if share > 1.6 or radius <= 0.3 or height < -radius / 2:
        return
    open_share = min(radius / widest, 1.0)
    peak = float(what.rigs.sheet_peak_share[MEAN])
    closing = share > peak
    # The drop's volume, spread over the disc, but for what has gathered in the rim.
    thickness = min(max(0.09, 0.35 * drop_radius**3 / radius**2), 0.5 * drop_radius)
    rim = min(0.75, 0.22 + 0.15 * drop_radius * (1 - 0.6 * open_share))
    droop = radius * (0.14 + 0.5 * max(share - peak / 2, 0.0))
    length = 0.2 * radius * max(0.0, open_share - 0.5) + (0.22 * radius * share if closing else 0.0)
    fingers = Fingers(19, length, 0.55 * rim, share * share if closing else 0.0, _phase(drop))
    cap = max(0.0, 0.8 * drop_radius * (1 - 1.3 * open_share))
    holes = min(max(share - TORN_SHARE, 0.0) * 3.0, 0.9)
    x, y = _place(what, drop)
    scene.sheets.append(Sheet(height, radius, droop, thickness, rim, cap, fingers, holes, x, y, _ink(what, drop)))
    if share > TORN_SHARE:
        _scatter(scene, what, drop, 1.2 * radius, height - 0.7 * droop, round(14 * share))


def _scatter(scene: Scene, what: Forecast, drop: int, radius: float, height: float, count: int) -> None:
    """Droplets that a sheet has let go."""
    rng, (x, y) = np.random.default_rng(drop), _place(what, drop)
    for _ in range(count):
        angle, size, out, up = rng.uniform(0, 2 * math.pi), rng.uniform(0.28, 0.7), rng.uniform(0.85, 1.2), rng.normal()
        z = height + 2.0 * up
        if z > size:
            place = x + out * radius * math.cos(angle), y + out * radius * math.sin(angle), z
            scene.blobs.append(Blob(*place, size, size, 0.8, _ink(what, drop)))
