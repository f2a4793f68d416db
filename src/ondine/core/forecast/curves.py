"""The flight chart's curves: heights over time, with a band of one standard deviation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.shapes import FULL_SHARE
from ondine.core.forecast.train import LEAST_COLUMN_M
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
_BAND = np.linspace(0, 1, BAND_POINTS)
_JET_BAND = np.linspace(0, 1, 2 * BAND_POINTS)


@dataclass(frozen=True, eq=False)
class FallCurve:
    """A falling drop: at each `height_m` of its lower edge the mean rig's `time_s` and the spread `sd_s` over the rigs.

    Arrays of shape (FALL_POINTS,), from the nozzle down to `stops_at_m`, where it meets a jet or the pool.
    """

    drop: int
    height_m: Floats
    time_s: Floats
    sd_s: Floats
    stops_at_m: float


@dataclass(frozen=True, eq=False)
class JetCurve:
    """The tip of a jet: at each `time_s` the mean rig's height, and its 16th and 84th percentile, shape (POINTS,)."""

    drop: int
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
class ColumnCurve:
    """The top of the column that outlives a drop's sheet, on the mean rig: two points of time and height."""

    drop: int
    time_s: Floats
    height_m: Floats


@dataclass(frozen=True, eq=False)
class CraterCurve:
    """The floor of a drop's crater on the mean rig over time, shape (POINTS,): `depth_m` down from the rest level."""

    drop: int
    time_s: Floats
    depth_m: Floats


Curve = FallCurve | JetCurve | SheetCurve | ColumnCurve | CraterCurve

Of = Sequence[int] | None
"""The drops that are asked for, by their numbers; None for all."""


def fall_curves(what: Forecast, of: Of = None) -> list[FallCurve]:
    """Return one curve per drop that leaves the nozzle on its own."""
    falls = what.falls
    drops = _where(falls.touchdown_s, of)
    # All drops at once: shapes (drops, points), and (drops, band points, rigs).
    stops = np.isfinite(what.meetings.stops_s[drops, 0])
    stop = np.where(stops, what.meetings.height_m[drops, 0], 0.0)
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


def jet_curves(what: Forecast, of: Of = None) -> list[JetCurve]:
    """Return the jets of the mean rig, each until a drop meets it or it has sunk."""
    made, curves = what.splashes, []
    for k in _where(made.jet_s, of).tolist():
        start, speed, slows = made.jet_s[k, 0], made.jet_m_s[k, 0], made.jet_slows_m_s2[k, 0]
        if not start < made.ends_s[k, 0]:
            continue
        end = min(float(made.ends_s[k, 0]), float(start + 2 * splash.jet_rise_s(speed, slows)))
        time, band = start + _EVEN * (end - start), start + _JET_BAND * (end - start)
        height = splash.jet_height_m(time - start, speed, slows)
        since = band[:, None] - made.jet_s[k, BAND_RIGS]
        heights = splash.jet_height_m(since, made.jet_m_s[k, BAND_RIGS], made.jet_slows_m_s2[k, BAND_RIGS])
        last = heights.shape[1] - 1
        ranks = [round(0.16 * last), round(0.84 * last)]
        ranked = np.partition(np.where(np.isfinite(heights), heights, 0.0), ranks, axis=1)
        low, high = (np.interp(time, band, ranked[:, rank]) for rank in ranks)
        curves.append(JetCurve(k, time, height, low, high, end))
    return curves


def column_curves(what: Forecast, of: Of = None) -> list[ColumnCurve]:
    """Return the columns that stand on the mean rig when their sheets are gone."""
    meets, taken_s, curves = what.meetings, what.drawn.taken_s, []
    for k in _where(meets.stops_s, of).tolist():
        met, life = meets.time_s[k, 0], meets.sheet_life_s[k, 0]
        drift = meets.sheet_m_s[k, 0], meets.brake_m[k, 0]
        top = float(meeting.sheet_height_m(life, meets.height_m[k, 0], *drift))
        sinks, stands = what.rigs.column_sinks_m_s[0], what.rigs.column_stands_s[0]
        start, end = met + life, min(met + life + stands, taken_s[k, 0])
        if top > LEAST_COLUMN_M and end > start:
            end = min(end, start + (top - LEAST_COLUMN_M) / sinks) if sinks > 0 else end
            curves.append(ColumnCurve(k, np.array([start, end]), np.array([top, top - sinks * (end - start)])))
    return curves


def sheet_curves(what: Forecast, of: Of = None) -> list[SheetCurve]:
    """Return the sheets that open on the mean rig."""
    curves = []
    meets = what.meetings
    peak = float(what.rigs.sheet_peak_share[0])
    full = [float(share) for share in meeting.sheet_full_shares(FULL_SHARE, peak)]
    for k in _where(meets.stops_s, of).tolist():
        start, life = meets.time_s[k, 0], meets.sheet_life_s[k, 0]
        age = _EVEN * life
        radius = meeting.sheet_radius_m(age, life, peak, meets.widest_m[k, 0], what.falls.diameter_m[k, 0])
        height = meeting.sheet_height_m(age, meets.height_m[k, 0], meets.sheet_m_s[k, 0], meets.brake_m[k, 0])
        full_from, full_until = (float(start + share * life) for share in full)
        curves.append(SheetCurve(k, start + age, height, radius, full_from, full_until))
    return curves


def crater_curves(what: Forecast, of: Of = None) -> list[CraterCurve]:
    """Return the floors of the mean rig's craters, each from touchdown to its jet, or until it is struck again."""
    made = what.splashes
    drops = _where(made.touchdown_s, of)
    start, delay, crater = (part[drops, 0, None] for part in (made.touchdown_s, made.jet_delay_s, made.crater_m))
    since = _OPENING * np.minimum(delay, what.drawn.replaced_s[drops, 0, None] - start)
    times, depths = start + since, splash.crater_depth_m(since, crater, delay)
    return [CraterCurve(drop, times[row], depths[row]) for row, drop in enumerate(drops.tolist())]


def _where(times_s: Floats, of: Of) -> NDArray[np.intp]:
    """Return those of the drops to which it happens on the mean rig, in order."""
    drops = np.arange(len(times_s)) if of is None else np.array(of, dtype=np.intp)
    return np.asarray(drops[np.isfinite(times_s[drops, 0])])
