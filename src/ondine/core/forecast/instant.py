"""The state of the water at one instant, for every sampled rig."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.constants import US_PER_S
from ondine.core.forecast.whole import Forecast
from ondine.core.physics import flight, meeting, splash

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Instant:
    """The water at `time_s`; arrays of shape (n,), with drops in rows (k, n). NaN: not there now.

    A drop's height is given while it flies; the jet's tip while the jet stands and no drop has met it.
    A sheet's `sheet_age_s` counts on after it has collapsed; its radius is then zero.
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


def at_instant(what: Forecast, time_us: int) -> Instant:
    """Return the state at a time of the sequence."""
    now = time_us / US_PER_S
    falls, first, meets = what.falls, what.first, what.meetings
    height, speed = drop_heights_m(what, now)
    since_touchdown = now - falls.touchdown_s[0]
    since_jet = now - first.jet_s
    spent = what.jet_spent_s
    standing = (
        (since_jet >= 0) & (now < spent) & (since_jet < 2 * splash.jet_rise_s(first.jet_m_s, first.jet_slows_m_s2))
    )
    age = now - meets.time_s
    began = age >= 0
    life = first.crown_end_s - falls.touchdown_s[0]
    with np.errstate(invalid="ignore"):
        crown = since_touchdown / life
    return Instant(
        time_s=now,
        drop_height_m=height,
        drop_speed_m_s=speed,
        since_touchdown_s=since_touchdown,
        crater_depth_m=np.where(
            since_touchdown > 0,
            splash.crater_depth_m(since_touchdown, first.crater_m, first.jet_delay_s),
            0.0,
        ),
        crown_share=np.where((crown > 0) & (crown < 1), crown, np.nan),
        jet_tip_m=np.where(standing, splash.jet_height_m(since_jet, first.jet_m_s, first.jet_slows_m_s2), np.nan),
        jet_speed_m_s=np.where(standing, first.jet_m_s - first.jet_slows_m_s2 * since_jet, np.nan),
        since_jet_s=since_jet,
        sheet_age_s=np.where(began, age, np.nan),
        sheet_height_m=np.where(began, meets.height_m + meets.sheet_m_s * age - G * age * age / 2, np.nan),
        sheet_radius_m=np.where(
            began, meeting.sheet_radius_m(age, meets.sheet_life_s, meets.widest_m, falls.diameter_m), np.nan
        ),
        sheet_edge_m_s=np.where(began, meeting.sheet_edge_speed_m_s(age, meets.sheet_life_s, meets.widest_m), np.nan),
    )


def drop_heights_m(what: Forecast, time_s: float | Floats) -> tuple[Floats, Floats]:
    """Heights [m] and speeds [m/s] of all drops, shape (k, n), NaN before release and after they hit.

    time_s : a time [s], or times that broadcast against (k, n).
    """
    falls = what.falls
    hit = np.fmin(falls.touchdown_s, what.meetings.time_s)
    elapsed = time_s - falls.release_s
    flying = (elapsed >= 0) & (time_s < hit)
    elapsed = np.where(flying, elapsed, np.nan)
    height = falls.height_m - flight.fall_distance_m(elapsed, falls.start_m_s, falls.terminal_m_s)
    return height, flight.fall_speed_m_s(elapsed, falls.start_m_s, falls.terminal_m_s)
