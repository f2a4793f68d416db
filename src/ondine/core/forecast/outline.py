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
_POOL, _CROWN, _COLUMN, _SHEET = (np.linspace(0, 1, points) for points in (24, 8, 10, 9))
_TAPER = (1 - _COLUMN) ** 2.4
_CAP = np.cos(np.linspace(0, np.pi / 2, 5)), np.sin(np.linspace(0, np.pi / 2, 5))


LEAST_SHEET_M = 0.25e-3
"""A sheet is drawn at least as thick."""


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
    top, thin = (values[0] for values in _columns_stand(what, now, slice(rig, rig + 1)))
    if not np.isfinite(top):
        return
    shape.jet = _columns(top, thin, what.first.crater_m[rig])
    if np.isfinite(now.jet_tip_m[rig]):
        shape.edges.append(Edge("jet tip", abs(float(now.jet_speed_m_s[rig])), float(thin), float(top)))


def _columns_stand(what: Forecast, now: Instant, rigs: slice | list[int]) -> tuple[Floats, Floats]:
    """How high and how thin the jet stands on some rigs, or the column that a drop has stopped; NaN where none does."""
    tip = now.jet_tip_m[rigs]
    age, height = now.sheet_age_s[:, rigs], now.sheet_height_m[:, rigs]
    with np.errstate(invalid="ignore"):
        stopped = np.where(age < 2 * what.meetings.sheet_life_s[:, rigs], height, -np.inf).max(axis=0)
    rises, remains = tip > 1e-4, stopped > 1e-3
    thin = JET_TIP_RADIUS_SHARE * what.first.crater_m[rigs]
    return np.where(rises, tip, np.where(remains, stopped, np.nan)), np.where(rises, thin, 1.2 * thin)


def _columns(top_m: Floats, thin_m: Floats, crater_m: Floats) -> Floats:
    """Profiles of jets, shape (..., points, 2) for arguments of shape (...)."""
    top, thin, crater = top_m[..., None], thin_m[..., None], crater_m[..., None]
    base = np.minimum(0.55 * crater, 0.3 * crater + 0.08 * top)
    radius = np.concatenate([thin + (base - thin) * _TAPER, thin * _CAP[0]], axis=-1)
    height = np.concatenate([_COLUMN * (top - thin), top + thin * (_CAP[1] - 1)], axis=-1)
    return np.stack([radius, height], axis=-1)


def _add_sheets(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    drops, profiles = _sheets(what, now, slice(rig, rig + 1))
    for drop, profile in zip(drops.tolist(), profiles, strict=True):
        shape.sheets.append(profile)
        rim, height = profile[len(_SHEET) - 1].tolist()
        shape.edges.append(Edge("sheet rim", abs(float(now.sheet_edge_m_s[drop, rig])), rim, height))


def _sheets(what: Forecast, now: Instant, rigs: slice | list[int]) -> tuple[NDArray[np.intp], Floats]:
    """Which drops have opened sheets over the water on some rigs, shape (m,), and profiles of these, (m, points, 2)."""
    radius, height = now.sheet_radius_m[:, rigs], now.sheet_height_m[:, rigs]
    # Not a number where nothing was met: no comparison holds there.
    with np.errstate(invalid="ignore"):
        there = (radius > 0) & (height >= -radius / 2)
    drops = np.nonzero(there)[0]
    share = (now.sheet_age_s[:, rigs][there] / what.meetings.sheet_life_s[:, rigs][there])[:, None]
    drop_radius = what.falls.diameter_m[:, rigs][there][:, None] / 2
    radius, height = radius[there][:, None], height[there][:, None]
    droop = radius * (0.12 + 0.6 * np.maximum(share - SHEET_PEAK_SHARE / 2, 0.0))
    # The drop's volume, spread over the disc.
    thick = np.minimum(drop_radius, np.maximum(4 / 3 * drop_radius**3 / radius**2, LEAST_SHEET_M))
    out, top = _SHEET * radius, height - droop * _SHEET**2
    profiles = np.empty((len(drops), 2 * len(_SHEET), 2))
    profiles[..., 0] = np.concatenate([out, out[:, ::-1]], axis=1)
    profiles[..., 1] = np.concatenate([top, (top - thick)[:, ::-1]], axis=1)
    return drops, profiles


@dataclass(frozen=True, eq=False)
class Ghosts:
    """The splash on m rigs, to be drawn faintly: profiles as in `Outline`, m at most, shape (·, points, 2).

    `drops` has rows of (height of its centre, radius) [m].
    """

    columns: Floats
    sheets: Floats
    drops: Floats


def ghosts(what: Forecast, now: Instant, rigs: slice | list[int]) -> Ghosts:
    """Return columns, sheets and drops of some rigs at once: a hand drags, and one by one they cost thrice as much."""
    top, thin = _columns_stand(what, now, rigs)
    stand = np.isfinite(top)
    height = now.drop_height_m[:, rigs]
    flies = np.isfinite(height)
    return Ghosts(
        columns=_columns(top[stand], thin[stand], what.first.crater_m[rigs][stand]),
        sheets=_sheets(what, now, rigs)[1],
        drops=np.column_stack([height[flies], what.falls.diameter_m[:, rigs][flies] / 2]),
    )
