"""The flight chart's curves: heights over time, with a band of one standard deviation."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.shapes import FULL_SHARE
from ondine.core.forecast.whole import Forecast
from ondine.core.physics import flight, meeting, splash

Floats = NDArray[np.float64]

FALL_POINTS, POINTS = 20, 16
"""Just enough that no curve on the chart is more than half a pixel off."""

BAND_POINTS, BAND_RIGS = 6, slice(None, None, 2)
"""The band is computed at fewer places and from every second rig: it is smooth, and drawn a few pixels wide."""

# Closer together towards the water, where the chart is stretched.
_DOWN = 1 - (1 - np.linspace(0, 1, FALL_POINTS)) ** 1.8
_EVEN = np.linspace(0, 1, POINTS)
# Closer together at touchdown, where the crater opens fast.
_OPENING = _EVEN**1.5
_FULL = meeting.sheet_full_shares(FULL_SHARE)
_BAND = np.linspace(0, 1, BAND_POINTS)
_JET_BAND = np.linspace(0, 1, 2 * BAND_POINTS)


@dataclass(frozen=True, eq=False)
class FallCurve:
    """A falling drop: at each `height_m` the mean rig's `time_s` and the spread `sd_s` over the rigs.

    Arrays of shape (FALL_POINTS,), from the nozzle down to `stops_at_m`, where it meets a jet or the pool.
    """

    drop: int
    height_m: Floats
    time_s: Floats
    sd_s: Floats
    stops_at_m: float


@dataclass(frozen=True, eq=False)
class JetCurve:
    """The jet's tip: at each `time_s` the mean rig's height and the 16th and 84th percentile, shape (POINTS,)."""

    time_s: Floats
    height_m: Floats
    low_m: Floats
    high_m: Floats
    ends_s: float


@dataclass(frozen=True, eq=False)
class SheetCurve:
    """An open sheet on the mean rig: the height of its centre and its radius over time, shape (POINTS,)."""

    drop: int
    time_s: Floats
    height_m: Floats
    radius_m: Floats
    full_from_s: float
    full_until_s: float


@dataclass(frozen=True, eq=False)
class CraterCurve:
    """The crater's floor on the mean rig over time, shape (POINTS,): `depth_m` counts down from the rest level."""

    time_s: Floats
    depth_m: Floats


def fall_curves(what: Forecast) -> list[FallCurve]:
    """Return one curve per drop that leaves the nozzle on its own."""
    falls = what.falls
    drops = np.flatnonzero(np.isfinite(falls.touchdown_s[:, 0]))
    # All drops at once: shapes (drops, points), and (drops, band points, rigs).
    stop = np.nan_to_num(what.meetings.height_m[drops, 0])
    top = falls.height_m[drops, 0]
    start, terminal = falls.start_m_s[drops, 0, None], falls.terminal_m_s[drops, 0, None]
    elapsed = _DOWN * flight.fall_time_s((top - stop)[:, None], start, terminal)
    fallen = flight.fall_distance_m(elapsed, start, terminal)
    starts, terminals, releases = (
        part[drops, None, BAND_RIGS] for part in (falls.start_m_s, falls.terminal_m_s, falls.release_s)
    )
    times = releases + flight.fall_time_s(_BAND[:, None] * (top - stop)[:, None, None], starts, terminals)
    # A drop that merges away on some rigs is spread over the others.
    spreads = times.std(axis=2) if np.isfinite(releases).all() else np.nanstd(times, axis=2)
    curves = []
    for row, drop in enumerate(drops.tolist()):
        spread = np.interp(fallen[row] / (top[row] - stop[row]), _BAND, spreads[row])
        time = falls.release_s[drop, 0] + elapsed[row]
        curves.append(FallCurve(drop, top[row] - fallen[row], time, spread, float(stop[row])))
    return curves


def jet_curve(what: Forecast) -> JetCurve | None:
    """Return the jet's tip until a drop meets it or it has sunk; None if the impact makes none."""
    first = what.first
    start = first.jet_s[0]
    if not np.isfinite(start):
        return None
    sinks = start + 2 * splash.jet_rise_s(first.jet_m_s[0], first.jet_slows_m_s2[0])
    met = what.meetings.time_s[:, 0]
    end = float(np.nanmin(np.append(met, sinks)))
    time, band = start + _EVEN * (end - start), start + _JET_BAND * (end - start)
    height = splash.jet_height_m(time - start, first.jet_m_s[0], first.jet_slows_m_s2[0])
    since = band[:, None] - first.jet_s[BAND_RIGS]
    heights = splash.jet_height_m(since, first.jet_m_s[BAND_RIGS], first.jet_slows_m_s2[BAND_RIGS])
    last = heights.shape[1] - 1
    ranks = [round(0.16 * last), round(0.84 * last)]
    ranked = np.partition(np.where(np.isfinite(heights), heights, 0.0), ranks, axis=1)
    low, high = (np.interp(time, band, ranked[:, rank]) for rank in ranks)
    return JetCurve(time, height, low, high, end)


def sheet_curves(what: Forecast) -> list[SheetCurve]:
    """Return the sheets that open on the mean rig."""
    curves = []
    meets = what.meetings
    for k in range(1, len(what.sequence.drops)):
        start, life = meets.time_s[k, 0], meets.sheet_life_s[k, 0]
        if not np.isfinite(start):
            continue
        age = _EVEN * life
        radius = meeting.sheet_radius_m(age, life, meets.widest_m[k, 0], what.falls.diameter_m[k, 0])
        height = meets.height_m[k, 0] + meets.sheet_m_s[k, 0] * age - G * age**2 / 2
        full_from, full_until = (float(start + share * life) for share in _FULL)
        curves.append(SheetCurve(k, start + age, height, radius, full_from, full_until))
    return curves


def crater_curve(what: Forecast) -> CraterCurve | None:
    """Return the crater's floor from touchdown to the jet; None if nothing falls."""
    first, start = what.first, what.falls.touchdown_s[0, 0]
    if not np.isfinite(start):
        return None
    since = _OPENING * first.jet_delay_s[0]
    return CraterCurve(start + since, splash.crater_depth_m(since, first.crater_m[0], first.jet_delay_s[0]))
