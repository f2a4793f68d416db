"""The splash as a side view at one instant: outlines to scale, and how fast each edge moves.

The forms between the predicted numbers (how a jet tapers, how a sheet droops) are drawn, not predicted.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.instant import Instant
from ondine.core.forecast.whole import Forecast
from ondine.core.light.blur import Edge
from ondine.core.physics.meeting import SHEET_PEAK_SHARE
from ondine.core.physics.splash import JET_TIP_RADIUS_SHARE

Floats = NDArray[np.float64]


# Where along each part its outline is drawn.
_POOL, _CROWN, _COLUMN, _SHEET = (np.linspace(0, 1, points) for points in (24, 8, 12, 14))
_TAPER = (1 - _COLUMN) ** 2.4
_CAP = np.cos(np.linspace(0, np.pi / 2, 5)), np.sin(np.linspace(0, np.pi / 2, 5))


@dataclass
class Outline:
    """One rig's splash. Profiles are right halves, rows of (radius, height) [m]; mirror them about the axis."""

    drops: list[tuple[int, float, float]] = field(default_factory=list)
    """(drop, height of its centre, radius)."""
    pool: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    jet: Floats | None = None
    crown: Floats | None = None
    sheets: list[Floats] = field(default_factory=list)
    edges: list[Edge] = field(default_factory=list)


def outline(what: Forecast, now: Instant, rig: int = 0) -> Outline:
    """Return the outline of one sampled rig at an instant; rig 0 is the mean of the belief."""
    shape = Outline()
    for k in range(len(what.sequence.drops)):
        height = now.drop_height_m[k, rig]
        if np.isfinite(height):
            radius = float(what.falls.diameter_m[k, rig]) / 2
            shape.drops.append((k, float(height), radius))
            speed = float(now.drop_speed_m_s[k, rig])
            shape.edges.append(Edge(f"drop {k + 1}", speed, radius, float(height)))
    shape.pool = _pool(what, now, rig)
    _add_crown(shape, what, now, rig)
    _add_jet(shape, what, now, rig)
    _add_sheets(shape, what, now, rig)
    return shape


def _pool(what: Forecast, now: Instant, rig: int) -> Floats:
    depth = float(now.crater_depth_m[rig])
    if not depth > 1e-5:
        return np.array([[0.0, 0.0], [1.0, 0.0]])
    reach = _POOL
    bowl = np.column_stack([reach * depth * 1.05, -depth * np.sqrt(np.maximum(1 - reach**2, 0))])
    lip = np.array([[depth * 1.12, depth * 0.10], [depth * 1.45, 0.0], [1.0, 0.0]])
    return np.concatenate([bowl, lip])


def _add_crown(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    share = float(now.crown_share[rig])
    if not np.isfinite(share):
        return
    lift = float(np.sin(np.pi * share**0.6))
    radius, height = float(now.crater_depth_m[rig]) * 1.05, 0.9 * float(what.first.crater_m[rig]) * lift
    up = _CROWN
    shape.crown = np.column_stack([radius + 0.3 * height * up**2, height * up])
    rise = (
        np.pi
        * 0.9
        * float(what.first.crater_m[rig])
        / float(what.first.crown_end_s[rig] - what.falls.touchdown_s[0, rig])
    )
    speed = abs(rise * 0.6 * np.cos(np.pi * share**0.6) * max(share, 0.02) ** -0.4)
    shape.edges.append(Edge("crown", float(speed), float(shape.crown[-1, 0]), height))


def _add_jet(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    tip, speed = float(now.jet_tip_m[rig]), float(now.jet_speed_m_s[rig])
    thin = JET_TIP_RADIUS_SHARE * float(what.first.crater_m[rig])
    if np.isfinite(tip) and tip > 1e-4:
        shape.jet = _column(tip, thin, float(what.first.crater_m[rig]))
        shape.edges.append(Edge("jet tip", abs(speed), thin, tip))
        return
    standing = [
        float(now.sheet_height_m[k, rig])
        for k in range(1, len(what.sequence.drops))
        if np.isfinite(now.sheet_age_s[k, rig]) and now.sheet_age_s[k, rig] < what.meetings.sheet_life_s[k, rig] * 2
    ]
    if standing and max(standing) > 1e-3:
        shape.jet = _column(max(standing), thin * 1.2, float(what.first.crater_m[rig]))


def _column(top: float, thin: float, crater: float) -> Floats:
    up = _COLUMN
    base = min(0.55 * crater, 0.3 * crater + 0.08 * top)
    radius = thin + (base - thin) * _TAPER
    rounded = np.column_stack([thin * _CAP[0], top + thin * (_CAP[1] - 1)])
    return np.concatenate([np.column_stack([radius, up * (top - thin)]), rounded])


def _add_sheets(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    for k in range(1, len(what.sequence.drops)):
        age, radius = float(now.sheet_age_s[k, rig]), float(now.sheet_radius_m[k, rig])
        if not np.isfinite(age) or radius <= 0:
            continue
        life = float(what.meetings.sheet_life_s[k, rig])
        height = float(now.sheet_height_m[k, rig])
        if height < -radius / 2:
            continue
        share = age / life
        reach = _SHEET
        droop = radius * (0.12 + 0.6 * max(share - SHEET_PEAK_SHARE / 2, 0.0))
        top = np.column_stack([reach * radius, height - droop * reach**2])
        drop_radius = float(what.falls.diameter_m[k, rig]) / 2
        # The drop's volume, spread over the disc.
        thick = min(drop_radius, max(2 / 3 * drop_radius**3 / radius**2, 0.25e-3))
        below = top[::-1] - np.array([0.0, thick])
        shape.sheets.append(np.concatenate([top, below]))
        shape.edges.append(Edge("sheet rim", abs(float(now.sheet_edge_m_s[k, rig])), radius, float(top[-1, 1])))
