"""The state of the water at one instant, for every sampled rig."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import US_PER_S
from ondine.core.forecast.train import LEAST_COLUMN_M
from ondine.core.forecast.whole import Forecast
from ondine.core.physics import flight, meeting, splash

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Instant:
    """The water at `time_s`; arrays of shape (k, n), a row for each drop and what it made. NaN: not there now.

    A drop's height is given while it flies; the jet's tip while the jet stands and no drop has met it.
    A sheet's `sheet_age_s` counts on after it has collapsed; its radius is then zero. `column_m` is the height of the
    column that a met jet leaves standing, under its sheet and after it. `gone` tells where a splash is over because a
    later one has taken its place.
    """

    time_s: float
    drop_height_m: Floats
    drop_speed_m_s: Floats
    since_touchdown_s: Floats
    crater_depth_m: Floats
    crown_share: Floats
    jet_tip_m: Floats
    jet_speed_m_s: Floats
    since_jet_s: Floats
    sheet_age_s: Floats
    sheet_height_m: Floats
    sheet_radius_m: Floats
    sheet_edge_m_s: Floats
    column_m: Floats
    gone: NDArray[np.bool_]


def at_instant(what: Forecast, time_us: int) -> Instant:
    """Return the state at a time of the sequence."""
    now = time_us / US_PER_S
    falls, made, meets = what.falls, what.splashes, what.meetings
    height, speed = drop_heights_m(what, now)
    with np.errstate(invalid="ignore"):
        gone = now >= what.replaced_s
        since_touchdown = np.where(gone | (now < made.touchdown_s), np.nan, now - made.touchdown_s)
        since_jet = np.where(gone | ~(made.jet_s < made.ends_s), np.nan, now - made.jet_s)
        sinks = 2 * splash.jet_rise_s(made.jet_m_s, made.jet_slows_m_s2)
        standing = (since_jet >= 0) & (now < made.ends_s) & (since_jet < sinks)
        crown = since_touchdown / (made.crown_end_s - made.touchdown_s)
        age = now - meets.stops_s
        began = (age >= 0) & (now < what.taken_s)
        life = meets.sheet_life_s
        on_the_way = meeting.sheet_height_m(age, meets.height_m, meets.sheet_m_s, meets.brake_m)
        # What the sheet leaves behind stands on, and sinks slowly.
        at_end = meeting.sheet_height_m(life, meets.height_m, meets.sheet_m_s, meets.brake_m)
        left = at_end - what.rigs.column_sinks_m_s * (age - life)
        column = np.where(age < life, on_the_way, left)
        stands = began & (age < life + what.rigs.column_stands_s) & (column > LEAST_COLUMN_M)
        depth = splash.crater_depth_m(since_touchdown, made.crater_m, made.jet_delay_s)
        peak = what.rigs.sheet_peak_share
        radius = meeting.sheet_radius_m(age, life, peak, meets.widest_m, falls.diameter_m)
        edge = meeting.sheet_edge_speed_m_s(age, life, peak, meets.widest_m)
    return Instant(
        time_s=now,
        drop_height_m=height,
        drop_speed_m_s=speed,
        since_touchdown_s=since_touchdown,
        crater_depth_m=np.where(since_touchdown > 0, depth, 0.0),
        crown_share=np.where((crown > 0) & (crown < 1), crown, np.nan),
        jet_tip_m=np.where(standing, splash.jet_height_m(since_jet, made.jet_m_s, made.jet_slows_m_s2), np.nan),
        jet_speed_m_s=np.where(standing, made.jet_m_s - made.jet_slows_m_s2 * since_jet, np.nan),
        since_jet_s=since_jet,
        sheet_age_s=np.where(began, age, np.nan),
        sheet_height_m=np.where(began, on_the_way, np.nan),
        sheet_radius_m=np.where(began, radius, np.nan),
        sheet_edge_m_s=np.where(began, edge, np.nan),
        column_m=np.where(stands, column, np.nan),
        gone=gone,
    )


def drop_heights_m(what: Forecast, time_s: float | Floats) -> tuple[Floats, Floats]:
    """Heights of the centres [m] and speeds [m/s] of all drops, shape (k, n), NaN before release and after they hit.

    time_s : a time [s], or times that broadcast against (k, n).
    """
    falls = what.falls
    # A drop that ran into another one on the way has no touchdown of its own.
    hit = np.fmin(np.fmin(falls.touchdown_s, what.meetings.stops_s), falls.joined_s)
    elapsed = time_s - falls.release_s
    flying = (elapsed >= 0) & (time_s < hit)
    elapsed = np.where(flying, elapsed, np.nan)
    lowest = falls.height_m - flight.fall_distance_m(elapsed, falls.start_m_s, falls.terminal_m_s)
    return lowest + falls.diameter_m / 2, flight.fall_speed_m_s(elapsed, falls.start_m_s, falls.terminal_m_s)
