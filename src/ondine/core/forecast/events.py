"""The forecast as a list: what happens, when, how high, how fast, how big, and how sure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.train import On
from ondine.core.forecast.whole import Forecast
from ondine.core.physics.meeting import sheet_height_m
from ondine.core.physics.splash import CROWN_END_SHARE, CROWN_RISE_SHARE, jet_rise_s, jet_top_m

Floats = NDArray[np.float64]


class EventKind(StrEnum):
    """The events that a forecast names. A drop that meets a bead meets the jet too: the bead flies at its head."""

    RELEASE = "release"
    JOINED = "runs into another drop"
    TOUCHDOWN = "touchdown"
    CRATER_STRUCK = "lands in an open crater"
    CROWN_TOP = "crown highest"
    CROWN_END = "crown gone"
    CRATER_DEEPEST = "crater deepest"
    JET_RISES = "jet leaves the surface"
    BEAD = "first bead pinches off"
    JET_TOP = "jet top"
    JET_GONE = "jet has sunk"
    MEETING = "drop meets the jet"
    SHEET_HIT = "drop meets the sheet"
    COLUMN_HIT = "drop meets the column"
    BEAD_HIT = "drop meets a bead"
    PASSES = "drop goes through the sheet"
    SHEET_FULL = "sheet widest"
    SHEET_GONE = "sheet gone"


MEETINGS = (EventKind.MEETING, EventKind.SHEET_HIT, EventKind.COLUMN_HIT)
"""The kinds of meeting that open a sheet."""

AFTER_MEETING = (
    *MEETINGS,
    EventKind.BEAD_HIT,
    EventKind.PASSES,
    EventKind.SHEET_FULL,
    EventKind.SHEET_GONE,
)
"""The kinds that begin with a meeting."""


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


LEAST_SHARE = 0.01
"""What fewer rigs show is not worth a word."""


@dataclass(frozen=True, eq=False)
class _Row:
    """One kind of event on every rig: arrays of shape (n,), NaN in `time_s` where it does not happen."""

    kind: EventKind
    drop: int
    time_s: Floats
    height_m: Floats | None = None
    speed_m_s: Floats | None = None
    size_m: Floats | None = None

    @property
    def columns(self) -> list[Floats | None]:
        """Time, height, speed, size."""
        return [self.time_s, self.height_m, self.speed_m_s, self.size_m]


def events(what: Forecast) -> list[Event]:
    """Return all events that at least one rig in a hundred shows, in the order of their mean times.

    What comes after two craters have run into each other counts as not foreseen: it adds to no event's share.
    """
    return _over_rigs([*_drop_rows(what), *_splash_rows(what), *_meeting_rows(what)], what.unforeseen_s)


def meeting_events(what: Forecast, of: Sequence[int] | None = None) -> list[Event]:
    """Return those of `events` that begin with a meeting of one of these drops, by their numbers, None for all: what is
    drawn and told while a hand drags.
    """
    return _over_rigs(_meeting_rows(what, of), what.unforeseen_s)


def touchdown_events(what: Forecast) -> list[Event]:
    """Return those of `events` in which a drop comes down on water."""
    rows = [_touchdown_row(what, k) for k in range(len(what.sequence.drops))]
    return _over_rigs(rows, what.unforeseen_s)


def _over_rigs(rows: list[_Row], until_s: Floats) -> list[Event]:
    if not rows:
        return []
    # All at once: a hand drags, and a hundred small means would cost as much as the forecast.
    unknown = np.zeros_like(rows[0].time_s)
    values = np.array([[unknown if c is None else c for c in r.columns] for r in rows])
    with np.errstate(invalid="ignore"):
        happens = np.isfinite(values[:, 0]) & (values[:, 0] <= until_s)
    share = happens.mean(axis=1)
    kept = np.where(happens[:, None], values, 0.0)
    count = np.maximum(happens.sum(axis=1), 1)[:, None]
    mean = kept.sum(axis=2) / count
    sd = np.sqrt(np.maximum((kept * kept).sum(axis=2) / count - mean * mean, 0.0))
    found = []
    for i, row in enumerate(rows):
        if share[i] >= LEAST_SHARE:
            known = zip(row.columns, mean[i].tolist(), sd[i].tolist(), strict=True)
            when, height, speed, size = (None if c is None else Spread(m, s) for c, m, s in known)
            assert when is not None
            found.append(Event(row.kind, row.drop, float(share[i]), when, height, speed, size))
    return sorted(found, key=lambda e: e.time_s.mean)


def _drop_rows(what: Forecast) -> list[_Row]:
    found = []
    falls = what.falls
    for k in range(len(what.sequence.drops)):
        found += [
            _Row(
                EventKind.RELEASE, k + 1, falls.release_s[k], falls.height_m[k], falls.start_m_s[k], falls.released_m[k]
            ),
            _Row(EventKind.JOINED, k + 1, falls.joined_s[k]),
            _touchdown_row(what, k),
        ]
    return found


def _touchdown_row(what: Forecast, k: int) -> _Row:
    size, when = what.falls.diameter_m[k], what.splashes.touchdown_s[k]
    return _Row(EventKind.TOUCHDOWN, k + 1, when, np.zeros_like(size), what.falls.impact_m_s[k], size)


def _splash_rows(what: Forecast) -> list[_Row]:
    found = []
    for k in range(len(what.sequence.drops)):
        found += _rows_of_splash(what, k)
    return found


def _rows_of_splash(what: Forecast, k: int) -> list[_Row]:
    """What one drop does to the pool, as far as no later one has taken its place."""
    made, touchdown, ends = what.splashes, what.splashes.touchdown_s[k], what.splashes.ends_s[k]
    jet, speed, slows, crater = made.jet_s[k], made.jet_m_s[k], made.jet_slows_m_s2[k], made.crater_m[k]
    # The crown stands highest this share of its own life after touchdown.
    crown_top = touchdown + (made.crown_end_s[k] - touchdown) * CROWN_RISE_SHARE / CROWN_END_SHARE
    rise, top = jet_rise_s(speed, slows), jet_top_m(speed, slows)
    still = np.zeros_like(rise)

    def unless_ended(time_s: Floats) -> Floats:
        with np.errstate(invalid="ignore"):
            return np.where(ends > time_s, time_s, np.nan)

    bead = unless_ended(made.bead_s[k])
    bead_rise = bead - jet
    bead_height = speed * bead_rise - slows * bead_rise**2 / 2
    number = k + 1
    return [
        _Row(EventKind.CRATER_STRUCK, number, np.where(made.in_crater[k], touchdown, np.nan)),
        _Row(EventKind.CROWN_TOP, number, unless_ended(crown_top)),
        _Row(EventKind.CROWN_END, number, unless_ended(made.crown_end_s[k])),
        _Row(EventKind.CRATER_DEEPEST, number, unless_ended(made.deepest_s[k]), -crater, still, 2 * crater),
        _Row(EventKind.JET_RISES, number, unless_ended(jet), still, speed),
        _Row(EventKind.BEAD, number, bead, bead_height, speed - slows * bead_rise),
        _Row(EventKind.JET_TOP, number, unless_ended(jet + rise), top, still),
        _Row(EventKind.JET_GONE, number, unless_ended(jet + 2 * rise), still, speed),
    ]


def _meeting_rows(what: Forecast, of: Sequence[int] | None = None) -> list[_Row]:
    meets, size = what.meetings, what.falls.diameter_m
    found = []
    for k in range(len(what.sequence.drops)) if of is None else of:
        # Most drops of a long train meet nothing, and none meets everything: a hand drags, and each row costs.
        met = set(meets.on[k].tolist())
        if met == {On.NOTHING}:
            continue
        for kind, ons in _MET.items():
            if met & ons:
                there = np.isin(meets.on[k], tuple(ons))
                when = np.where(there, meets.time_s[k], np.nan)
                found.append(_Row(kind, k + 1, when, meets.height_m[k], meets.closing_m_s[k], size[k]))
        start, life = meets.time_s[k], meets.sheet_life_s[k]
        peak = life * what.rigs.sheet_peak_share
        height = sheet_height_m(peak, meets.height_m[k], meets.sheet_m_s[k], meets.brake_m[k])
        still = np.zeros_like(peak)
        found += [
            _Row(EventKind.SHEET_FULL, k + 1, start + peak, height, still, 2 * meets.widest_m[k]),
            _Row(EventKind.SHEET_GONE, k + 1, start + life),
        ]
    return found


_MET = {
    EventKind.MEETING: {On.JET, On.BEAD},
    EventKind.BEAD_HIT: {On.BEAD},
    EventKind.SHEET_HIT: {On.SHEET},
    EventKind.COLUMN_HIT: {On.COLUMN},
    EventKind.PASSES: {On.THROUGH},
}
