"""The flight chart's curves: heights over time, with a band of one standard deviation."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.whole import Forecast
from ondine.core.physics import flight, meeting, splash

Floats = NDArray[np.float64]

POINTS = 24
BAND_POINTS = 6
"""The band is computed at fewer places: it is smooth, and each asks all rigs."""

# Closer together towards the water, where the chart is stretched.
_DOWN = 1 - (1 - np.linspace(0, 1, POINTS)) ** 1.6
_EVEN = np.linspace(0, 1, POINTS)
_BAND = np.linspace(0, 1, BAND_POINTS)
_JET_BAND = np.linspace(0, 1, 2 * BAND_POINTS)


@dataclass(frozen=True)
class FallCurve:
    """A falling drop: at each `height_m` the mean rig's `time_s` and the spread `sd_s` over all rigs.

    Arrays of shape (POINTS,), from the nozzle down to `stops_at_m`, where it meets a jet or the pool.
    """

    drop: int
    height_m: Floats
    time_s: Floats
    sd_s: Floats
    stops_at_m: float


@dataclass(frozen=True)
class JetCurve:
    """The jet's tip: at each `time_s` the mean rig's height and the 16th and 84th percentile, shape (POINTS,)."""

    time_s: Floats
    height_m: Floats
    low_m: Floats
    high_m: Floats
    ends_s: float


@dataclass(frozen=True)
class SheetCurve:
    """An open sheet on the mean rig: the height of its centre and its radius over time, shape (POINTS,)."""

    drop: int
    time_s: Floats
    height_m: Floats
    radius_m: Floats
    full_from_s: float
    full_until_s: float


@dataclass(frozen=True)
class CraterCurve:
    """The crater's floor on the mean rig over time, shape (POINTS,): `depth_m` counts down from the rest level."""

    time_s: Floats
    depth_m: Floats


def fall_curves(what: Forecast) -> list[FallCurve]:
    """Return one curve per drop that leaves the nozzle on its own."""
    curves = []
    falls = what.falls
    for k in range(len(what.sequence.drops)):
        if not np.isfinite(falls.touchdown_s[k, 0]):
            continue
        stop = what.meetings.height_m[k, 0]
        stop = float(stop) if np.isfinite(stop) else 0.0
        drop = falls.height_m[k, 0] - stop
        start, terminal = falls.start_m_s[k, 0], falls.terminal_m_s[k, 0]
        elapsed = _DOWN * flight.fall_time_s(drop, start, terminal)
        fallen = flight.fall_distance_m(elapsed, start, terminal)
        times = falls.release_s[k] + flight.fall_time_s(
            _BAND[:, None] * drop, falls.start_m_s[k], falls.terminal_m_s[k]
        )
        falling = np.isfinite(falls.release_s[k])
        spread = np.interp(fallen / drop, _BAND, times[:, falling].std(axis=1))
        time = falls.release_s[k, 0] + elapsed
        curves.append(FallCurve(k, falls.height_m[k, 0] - fallen, time, spread, stop))
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
    heights = splash.jet_height_m(band[:, None] - first.jet_s, first.jet_m_s, first.jet_slows_m_s2)
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
        full = np.flatnonzero(radius >= 0.9 * radius.max())
        curves.append(
            SheetCurve(k, start + age, height, radius, float(start + age[full[0]]), float(start + age[full[-1]]))
        )
    return curves


def crater_curve(what: Forecast) -> CraterCurve | None:
    """Return the crater's floor from touchdown to the jet; None if nothing falls."""
    first, start = what.first, what.falls.touchdown_s[0, 0]
    if not np.isfinite(start):
        return None
    since = _EVEN * first.jet_delay_s[0]
    return CraterCurve(start + since, splash.crater_depth_m(since, first.crater_m[0], first.jet_delay_s[0]))
