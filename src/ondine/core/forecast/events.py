"""The forecast as a list: what happens, when, how high, how fast, how big, and how sure."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.whole import Forecast
from ondine.core.physics.meeting import SHEET_PEAK_SHARE
from ondine.core.physics.splash import CROWN_END_SHARE, CROWN_RISE_SHARE, jet_rise_s, jet_top_m

Floats = NDArray[np.float64]


class EventKind(StrEnum):
    """The events that a forecast names."""

    RELEASE = "release"
    TOUCHDOWN = "touchdown"
    CROWN_TOP = "crown highest"
    CROWN_END = "crown gone"
    CRATER_DEEPEST = "crater deepest"
    JET_RISES = "jet leaves the surface"
    BEAD = "first bead pinches off"
    JET_TOP = "jet top"
    JET_GONE = "jet has sunk"
    MEETING = "drop meets the jet"
    SHEET_HIT = "drop meets the sheet"
    SHEET_FULL = "sheet widest"
    SHEET_GONE = "sheet gone"


@dataclass(frozen=True)
class Spread:
    """Mean and standard deviation over the sampled rigs, SI."""

    mean: float
    sd: float


@dataclass(frozen=True)
class Event:
    """One event. `drop` counts from 1; `probability` is the share of rigs on which it happens at all.

    `time_s` from the trigger; `height_m` over the rest level; `size_m` a diameter (drop, crater, sheet).
    """

    kind: EventKind
    drop: int
    probability: float
    time_s: Spread
    height_m: Spread | None = None
    speed_m_s: Spread | None = None
    size_m: Spread | None = None


def events(what: Forecast) -> list[Event]:
    """Return all events that at least one rig in a hundred shows, in the order of their mean times."""
    found = [*_drop_events(what), *_splash_events(what), *_meeting_events(what)]
    return sorted((e for e in found if e is not None), key=lambda e: e.time_s.mean)


def _event(
    kind: EventKind,
    drop: int,
    time_s: Floats,
    height_m: Floats | None = None,
    speed_m_s: Floats | None = None,
    size_m: Floats | None = None,
) -> Event | None:
    happens = np.isfinite(time_s)
    share = float(np.count_nonzero(happens)) / len(happens)
    if share < 0.01:
        return None

    def spread(values: Floats | None) -> Spread | None:
        if values is None:
            return None
        kept = values if share == 1 else values[happens]
        mean = float(kept.sum()) / len(kept)
        return Spread(mean, math.sqrt(max(float(np.dot(kept, kept)) / len(kept) - mean * mean, 0.0)))

    when = spread(time_s)
    assert when is not None
    return Event(kind, drop, share, when, spread(height_m), spread(speed_m_s), spread(size_m))


def _drop_events(what: Forecast) -> list[Event | None]:
    found = []
    falls = what.falls
    for k in range(len(what.sequence.drops)):
        reaches_pool = np.where(np.isfinite(what.meetings.time_s[k]), np.nan, falls.touchdown_s[k])
        size = falls.diameter_m[k]
        found += [
            _event(EventKind.RELEASE, k + 1, falls.release_s[k], falls.height_m[k], falls.start_m_s[k], size),
            _event(EventKind.TOUCHDOWN, k + 1, reaches_pool, np.zeros_like(size), falls.impact_m_s[k], size),
        ]
    return found


def _splash_events(what: Forecast) -> list[Event | None]:
    first, touchdown = what.first, what.falls.touchdown_s[0]
    # The crown stands highest this share of its own life after touchdown.
    crown_top = touchdown + (first.crown_end_s - touchdown) * CROWN_RISE_SHARE / CROWN_END_SHARE
    slows = first.jet_slows_m_s2
    rise, top = jet_rise_s(first.jet_m_s, slows), jet_top_m(first.jet_m_s, slows)
    still = np.zeros_like(rise)
    spent = np.fmin.reduce(what.meetings.time_s, axis=0)

    def unless_met(time_s: Floats) -> Floats:
        return np.where(np.nan_to_num(spent, nan=np.inf) > time_s, time_s, np.nan)

    bead = unless_met(first.bead_s)
    bead_rise = bead - first.jet_s
    bead_height = first.jet_m_s * bead_rise - slows * bead_rise**2 / 2
    return [
        _event(EventKind.CROWN_TOP, 1, crown_top),
        _event(EventKind.CROWN_END, 1, first.crown_end_s),
        _event(EventKind.CRATER_DEEPEST, 1, first.deepest_s, -first.crater_m, still, 2 * first.crater_m),
        _event(EventKind.JET_RISES, 1, first.jet_s, still, first.jet_m_s),
        _event(EventKind.BEAD, 1, bead, bead_height, first.jet_m_s - slows * bead_rise),
        _event(EventKind.JET_TOP, 1, unless_met(first.jet_s + rise), top, still),
        _event(EventKind.JET_GONE, 1, unless_met(first.jet_s + 2 * rise), still, first.jet_m_s),
    ]


def _meeting_events(what: Forecast) -> list[Event | None]:
    found = []
    meets = what.meetings
    for k in range(1, len(what.sequence.drops)):
        size = what.falls.diameter_m[k]
        on_jet = np.where(meets.on_sheet[k], np.nan, meets.time_s[k])
        on_sheet = np.where(meets.on_sheet[k], meets.time_s[k], np.nan)
        peak = meets.sheet_life_s[k] * SHEET_PEAK_SHARE
        full = meets.height_m[k] + meets.sheet_m_s[k] * peak - G * peak**2 / 2
        still = np.zeros_like(size)
        found += [
            _event(EventKind.MEETING, k + 1, on_jet, meets.height_m[k], meets.closing_m_s[k], size),
            _event(EventKind.SHEET_HIT, k + 1, on_sheet, meets.height_m[k], meets.closing_m_s[k], size),
            _event(EventKind.SHEET_FULL, k + 1, meets.time_s[k] + peak, full, still, 2 * meets.widest_m[k]),
            _event(EventKind.SHEET_GONE, k + 1, meets.time_s[k] + meets.sheet_life_s[k]),
        ]
    return found
