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
from ondine.core.physics.splash import JET_TAPER, jet_radii_m, jet_top_m

Floats = NDArray[np.float64]


# Where along each part its outline is drawn.
_POOL, _CROWN, _COLUMN, _SHEET = (np.linspace(0, 1, points) for points in (24, 8, 10, 9))
_TAPER = (1 - _COLUMN) ** JET_TAPER
_CAP = np.cos(np.linspace(0, np.pi / 2, 5)), np.sin(np.linspace(0, np.pi / 2, 5))


EDGE_M = 1.0
"""The surface is drawn so far to both sides."""

LEAST_SHEET_M = 0.25e-3
"""A sheet is drawn at least as thick."""


@dataclass(frozen=True, eq=False)
class Form:
    """Something that stands `x_m` to the right of the landing spot: its right half as rows of (radius, height) [m], to
    be mirrored about its axis.
    """

    x_m: float
    profile: Floats


@dataclass
class Outline:
    """One rig's splash. `pool` is the whole surface as rows of (place to the right, height) [m]."""

    drops: list[tuple[int, float, float, float]] = field(default_factory=list)
    """(drop, place to the right, height of its centre, radius)."""
    pool: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    columns: list[Form] = field(default_factory=list)
    crowns: list[Form] = field(default_factory=list)
    sheets: list[Form] = field(default_factory=list)
    edges: list[Edge] = field(default_factory=list)


def outline(what: Forecast, now: Instant, rig: int = 0) -> Outline:
    """Return the outline of one sampled rig at an instant; rig 0 is the mean of the belief."""
    shape, places = Outline(), _places_m(what)
    for k in range(len(what.sequence.drops)):
        height = now.drop_height_m[k, rig]
        if np.isfinite(height):
            radius = float(what.falls.diameter_m[k, rig]) / 2
            shape.drops.append((k, float(places[k, 0]), float(height), radius))
            speed = float(now.drop_speed_m_s[k, rig])
            shape.edges.append(Edge(f"drop {k + 1}", speed, radius, float(height)))
    shape.pool = _pool(now, places[:, 0], rig)
    for k in range(len(what.sequence.drops)):
        _add_crown(shape, what, now, k, rig)
    _add_columns(shape, what, now, rig)
    _add_sheets(shape, what, now, rig)
    return shape


def _places_m(what: Forecast) -> Floats:
    """How far to the right of the landing spot each drop comes down, shape (k, 1) [m]."""
    valves = [what.setup.valve(pulse.valve) for pulse in what.sequence.drops]
    return np.array([[valve.aside_m] for valve in valves])


def _pool(now: Instant, places_m: Floats, rig: int) -> Floats:
    """The surface from left to right, with the craters that are open."""
    depths = np.nan_to_num(now.crater_depth_m[:, rig])
    rows = [np.array([[-EDGE_M, 0.0]])]
    for k in sorted(np.flatnonzero(depths > 1e-5), key=lambda k: places_m[k]):
        depth, reach = float(depths[k]), _POOL
        bowl = np.column_stack([reach * depth * 1.05, -depth * np.sqrt(np.maximum(1 - reach**2, 0))])
        half = np.concatenate([bowl, [[depth * 1.12, depth * 0.10], [depth * 1.45, 0.0]]])
        whole = np.concatenate([half[::-1] * np.array([-1, 1]), half]) + np.array([places_m[k], 0.0])
        # Where two run into each other, the left one ends where the right one begins; a wider one may hide one whole.
        seen = whole[whole[:, 0] > rows[-1][-1, 0]]
        if len(seen):
            rows.append(seen)
    return np.concatenate([*rows, [[EDGE_M, 0.0]]])


def _add_crown(shape: Outline, what: Forecast, now: Instant, k: int, rig: int) -> None:
    share = float(now.crown_share[k, rig])
    if not np.isfinite(share):
        return
    made, crater = what.splashes, float(what.splashes.crater_m[k, rig])
    lift = float(np.sin(np.pi * share**0.6))
    radius, height = float(now.crater_depth_m[k, rig]) * 1.05, 0.9 * crater * lift
    up = _CROWN
    profile = np.column_stack([radius + 0.3 * height * up**2, height * up])
    shape.crowns.append(Form(float(_places_m(what)[k, 0]), profile))
    rise = np.pi * 0.9 * crater / float(made.crown_end_s[k, rig] - made.touchdown_s[k, rig])
    speed = abs(rise * 0.6 * np.cos(np.pi * share**0.6) * max(share, 0.02) ** -0.4)
    shape.edges.append(Edge("crown", float(speed), float(profile[-1, 0]), height))


def _add_columns(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    stand = _columns_stand(what, now, slice(rig, rig + 1))
    for k, top, thin, base in zip(*stand, strict=True):
        shape.columns.append(Form(float(_places_m(what)[k, 0]), _columns(top, thin, base)))
        if np.isfinite(now.jet_tip_m[k, rig]):
            speed = abs(float(now.jet_speed_m_s[k, rig]))
            shape.edges.append(Edge("jet tip", speed, float(thin), float(top)))


def _columns_stand(
    what: Forecast, now: Instant, rigs: slice | list[int]
) -> tuple[NDArray[np.intp], Floats, Floats, Floats]:
    """Jets, and columns that drops have stopped, on some rigs: the drop that made or met each, height, radius of its
    top and of its base [m]; shape (m,).
    """
    tip, left = now.jet_tip_m[:, rigs], now.column_m[:, rigs]
    crater = what.splashes.crater_m[:, rigs]
    owner = np.maximum(what.meetings.splash[:, rigs], 0)
    with np.errstate(invalid="ignore"):
        rises = tip > 1e-4
    top = np.where(rises, tip, left)
    stands = np.isfinite(top)
    whole = jet_top_m(what.splashes.jet_m_s[:, rigs], what.splashes.jet_slows_m_s2[:, rigs])
    from_m, jet_top = (
        np.where(rises, part, np.take_along_axis(part, owner, axis=0))[stands] for part in (crater, whole)
    )
    top = top[stands]
    thin, base = jet_radii_m(top, jet_top, from_m)
    return np.nonzero(stands)[0], top, thin * np.where(rises[stands], 1.0, 1.2), base


def _columns(top_m: Floats, thin_m: Floats, base_m: Floats) -> Floats:
    """Profiles of jets, shape (..., points, 2) for arguments of shape (...)."""
    top, thin, base = (np.asarray(part)[..., None] for part in (top_m, thin_m, base_m))
    radius = np.concatenate([thin + (base - thin) * _TAPER, thin * _CAP[0]], axis=-1)
    height = np.concatenate([_COLUMN * (top - thin), top + thin * (_CAP[1] - 1)], axis=-1)
    return np.stack([radius, height], axis=-1)


def _add_sheets(shape: Outline, what: Forecast, now: Instant, rig: int) -> None:
    drops, profiles = _sheets(what, now, slice(rig, rig + 1))
    for drop, profile in zip(drops.tolist(), profiles, strict=True):
        shape.sheets.append(Form(float(_places_m(what)[drop, 0]), profile))
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
    # It droops once it has begun to slow.
    late = np.broadcast_to(what.rigs.sheet_peak_share[rigs], there.shape)[there][:, None] / 2
    droop = radius * (0.12 + 0.5 * np.maximum(share - late, 0.0))
    # The drop's volume, spread over the disc.
    thick = np.minimum(drop_radius, np.maximum(4 / 3 * drop_radius**3 / radius**2, LEAST_SHEET_M))
    out, top = _SHEET * radius, height - droop * _SHEET**2
    profiles = np.empty((len(drops), 2 * len(_SHEET), 2))
    profiles[..., 0] = np.concatenate([out, out[:, ::-1]], axis=1)
    profiles[..., 1] = np.concatenate([top, (top - thick)[:, ::-1]], axis=1)
    return drops, profiles


@dataclass(frozen=True, eq=False)
class Ghosts:
    """The splash on m rigs, to be drawn faintly: profiles as in `Form`, m at most, shape (·, points, 2), each standing
    at `columns_x_m`, `sheets_x_m` to the right, shape (·,).

    `drops` has rows of (place to the right, height of its centre, radius) [m].
    """

    columns: Floats
    columns_x_m: Floats
    sheets: Floats
    sheets_x_m: Floats
    drops: Floats


def ghosts(what: Forecast, now: Instant, rigs: slice | list[int]) -> Ghosts:
    """Return columns, sheets and drops of some rigs at once: a hand drags, and one by one they cost thrice as much."""
    places = _places_m(what)[:, 0]
    whose, top, thin, base = _columns_stand(what, now, rigs)
    opened, sheets = _sheets(what, now, rigs)
    height = now.drop_height_m[:, rigs]
    flies = np.nonzero(np.isfinite(height))
    return Ghosts(
        columns=_columns(top, thin, base),
        columns_x_m=places[whose],
        sheets=sheets,
        sheets_x_m=places[opened],
        drops=np.column_stack([places[flies[0]], height[flies], what.falls.diameter_m[:, rigs][flies] / 2]),
    )
