"""From when to when each shape stands, on every rig: the rules of `shapes` told along time instead of at an instant.

Where `shapes_seen` answers "what does this rig show now", this answers "when would it show that": one look tells a
whole course, so that a shot can be judged with its jitter, and a better instant be found, without trying each.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.shapes import (
    BY_KEY,
    COLLAPSED_UNTIL,
    FULL_SHARE,
    NEAR_MISS_DIAMETERS,
    TOP_SHARE,
    TORN_UNTIL,
)
from ondine.core.forecast.whole import Forecast, Spot
from ondine.core.physics import flight
from ondine.core.physics.meeting import sheet_full_shares
from ondine.core.physics.splash import jet_rise_s

Floats = NDArray[np.float64]

KEYS = tuple(BY_KEY)
INDEX = {key: index for index, key in enumerate(KEYS)}

NEAR_TOP = math.sqrt(1 - TOP_SHARE)
"""So many rises before and after its top the jet is at its top."""


@dataclass(frozen=True, eq=False)
class Phases:
    """What one landing spot shows, as phases that follow each other and leave no gap.

    `shapes` : the shape of each phase, an index into `KEYS`, shape (m,); `start_s`, `end_s` : when it stands on each
    rig, shape (m, n) [s], equal where it never does. On each rig the phases do not overlap.
    """

    shapes: NDArray[np.intp]
    start_s: Floats
    end_s: Floats

    def at(self, time_s: float) -> NDArray[np.intp]:
        """Return the shape that stands on each rig at a time [s], as an index into `KEYS`, shape (n,)."""
        there = (self.start_s <= time_s) & (time_s < self.end_s)
        return np.asarray(self.shapes[np.argmax(there, axis=0)])


class _Course:
    """Collects the phases of one spot."""

    def __init__(self, merged_s: Floats) -> None:
        self._merged_s = merged_s
        self._found: list[tuple[int, Floats, Floats]] = []

    def run(self, start_s: Floats, stop_s: Floats, *named: tuple[str, Floats]) -> None:
        """Add phases one after the other from a start, each named with its end; none goes on after `stop_s`.

        An end that is no number, or lies before the phase, leaves that phase out.
        """
        stop_s = np.minimum(stop_s, self._merged_s)
        begins = np.minimum(np.where(np.isfinite(start_s), start_s, np.inf), stop_s)
        if not (begins < stop_s).any():
            return
        for key, end_s in named:
            ends = np.minimum(np.fmax(end_s, begins), stop_s)
            if (ends > begins).any():
                self._found.append((INDEX[key], begins, ends))
            begins = ends

    def add(self, key: str, start_s: Floats, end_s: Floats) -> None:
        """Add one phase as it is."""
        self._found.append((INDEX[key], start_s, end_s))

    def phases(self) -> Phases:
        """Return what was collected."""
        shapes, starts, ends = zip(*self._found, strict=True)
        return Phases(np.array(shapes, dtype=np.intp), np.stack(starts), np.stack(ends))


def phases(what: Forecast, spot: Spot) -> Phases:
    """Return what one landing spot of a forecast shows, from long before its first drop until ever.

    Satellites, blur, ghosts and drops that fall aside are left out: they depend on luck and light, not on time.
    """
    own = list(spot.drops)
    falls, touchdown = what.falls, what.splashes.touchdown_s[own]
    first = np.fmin.reduce(np.where(np.isfinite(touchdown), touchdown, np.inf), axis=0)
    merges = falls.merged[own].any(axis=0)
    course = _Course(np.where(merges, first, np.inf))
    seen_from = np.minimum(seen_from_s(what, own), first)
    forever = np.full(first.shape, np.inf)
    course.add("nothing-in-frame", -forever, seen_from)
    course.add("in-flight", seen_from, first)
    if merges.any():
        course.add("merged-drop", np.where(merges, first, np.inf), forever)
    hangs = _hangs_from(what, own)
    for k in own:
        _splash(course, what, own, k, hangs)
        _meeting(course, what, own, k, hangs)
    return course.phases()


def seen_from_s(what: Forecast, own: list[int]) -> Floats:
    """When the first of some drops comes down into the frame, shape (n,) [s]."""
    falls, top_m = what.falls, what.setup.camera.frame_top_m
    way = np.maximum(falls.height_m[own] - top_m, 0.0)
    comes = falls.release_s[own] + flight.fall_time_s(way, falls.start_m_s[own], falls.terminal_m_s[own])
    return np.asarray(np.fmin.reduce(np.where(np.isfinite(comes), comes, np.inf), axis=0))


def _hangs_from(what: Forecast, own: list[int]) -> dict[int, Floats]:
    """From when each drop hangs just above what it is about to meet, by its number, shape (n,) [s]; else infinite."""
    falls, meets = what.falls, what.meetings
    found = {}
    for k in own:
        ahead = NEAR_MISS_DIAMETERS * falls.diameter_m[k] / meets.closing_m_s[k]
        with np.errstate(invalid="ignore"):
            found[k] = np.where(np.isfinite(meets.stops_s[k]), meets.stops_s[k] - ahead, np.inf)
    return found


def _next_on(what: Forecast, own: list[int], k: int, hangs: dict[int, Floats]) -> tuple[Floats, Floats]:
    """From when the next drop hangs over what stands of drop k's splash, and when they meet, shape (n,) [s]."""
    stops_s = what.meetings.stops_s
    began = np.fmax(what.splashes.touchdown_s[k], stops_s[k])
    hang, met = np.full(began.shape, np.inf), np.full(began.shape, np.inf)
    whose = np.where(np.isfinite(stops_s[k]), what.meetings.splash[k], k)
    for other in own:
        when = stops_s[other]
        with np.errstate(invalid="ignore"):
            next_one = (what.meetings.splash[other] == whose) & (when > began) & (when < met)
        hang, met = np.where(next_one, hangs[other], hang), np.where(next_one, when, met)
    return hang, met


def _splash(course: _Course, what: Forecast, own: list[int], k: int, hangs: dict[int, Floats]) -> None:
    """What drop k does to the pool, until a later drop meets its jet or takes its place."""
    made = what.splashes
    landed = made.touchdown_s[k]
    if not np.isfinite(landed).any():
        return
    hang, met = _next_on(what, own, k, hangs)
    stop = np.minimum(np.minimum(what.replaced_s[k], met), np.where(np.isfinite(landed), np.inf, -np.inf))
    entering = landed + what.falls.diameter_m[k] / what.falls.impact_m_s[k]
    opened, struck = landed + made.jet_delay_s[k], made.in_crater[k]
    rise = jet_rise_s(made.jet_m_s[k], made.jet_slows_m_s2[k])
    jet = made.jet_s[k]
    before_hang = np.minimum(stop, np.fmax(np.fmax(hang, jet), entering))
    course.run(
        np.where(struck, np.inf, landed),
        before_hang,
        ("touchdown", entering),
        ("crown", made.crown_end_s[k]),
        ("crater", opened),
    )
    course.run(np.where(struck, landed, np.inf), stop, ("crater-hit", opened))
    top_from = jet + rise * (1 - NEAR_TOP)
    # A crown that outlives its crater hides the foot of the jet.
    hidden = np.where(struck, opened, np.fmax(opened, np.fmax(entering, made.crown_end_s[k])))
    course.run(
        hidden,
        before_hang,
        ("rising-jet", np.fmin(made.bead_s[k], top_from)),
        ("beaded-jet", top_from),
        ("jet-top", jet + rise * (1 + NEAR_TOP)),
        ("falling-jet", jet + 2 * rise),
        ("ripples", np.full(landed.shape, np.inf)),
    )
    course.run(np.where(before_hang < stop, before_hang, np.inf), stop, ("near-miss-above", stop))


def _meeting(course: _Course, what: Forecast, own: list[int], k: int, hangs: dict[int, Floats]) -> None:
    """The sheet that drop k opens and what is left of it, until it is met or something else takes its place."""
    meets = what.meetings
    course.run(meets.passes_s[k], what.falls.touchdown_s[k], ("pass-through", what.falls.touchdown_s[k]))
    began, life = meets.stops_s[k], meets.sheet_life_s[k]
    if not np.isfinite(began).any():
        return
    hang, _ = _next_on(what, own, k, hangs)
    stop = np.where(np.isfinite(began), np.minimum(what.taken_s[k], _passed_s(what, own, k)), -np.inf)
    full_from, full_until = sheet_full_shares(FULL_SHARE, what.rigs.sheet_peak_share)
    with np.errstate(invalid="ignore"):
        on_sheet = np.isfinite(meets.struck_share[k])
        # While the sheet is open it catches the eye; only then the next drop over it does.
        before_hang = np.minimum(stop, np.fmax(hang, began + TORN_UNTIL * life))
        gone = began + life
    until = np.full(life.shape, np.inf)
    course.run(np.where(on_sheet, began, np.inf), stop, ("double-umbrella", gone))
    course.run(
        np.where(on_sheet, np.inf, began),
        before_hang,
        ("contact", began + what.falls.diameter_m[k] / meets.closing_m_s[k]),
        ("opening-umbrella", began + full_from * life),
        ("full-umbrella", began + full_until * life),
        ("torn-umbrella", began + TORN_UNTIL * life),
    )
    course.run(
        np.where(on_sheet, gone, began + TORN_UNTIL * life),
        before_hang,
        ("collapsed", began + COLLAPSED_UNTIL * life),
        ("ripples", until),
    )
    course.run(np.where(before_hang < stop, before_hang, np.inf), stop, ("near-miss-above", stop))


def _passed_s(what: Forecast, own: list[int], k: int) -> Floats:
    """When a later drop goes through the sheet that drop k opened, shape (n,) [s]; infinite if none does."""
    met, when = what.meetings.stops_s[k], np.full(what.rigs.count, np.inf)
    for other in own:
        passes = what.meetings.passes_s[other]
        with np.errstate(invalid="ignore"):
            when = np.where((passes > met) & (passes < when), passes, when)
    return when
