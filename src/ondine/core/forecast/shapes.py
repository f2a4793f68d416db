"""The shapes a picture can show, and how likely each is at an instant."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.instant import Instant, at_instant
from ondine.core.forecast.whole import Forecast
from ondine.core.light.ambient import NO_GHOST_STOPS
from ondine.core.light.depth import circle_of_confusion_m
from ondine.core.physics.splash import jet_top_m

Bools = NDArray[np.bool_]
Floats = NDArray[np.float64]


class ShapeGroup(StrEnum):
    """What a shape belongs to."""

    SINGLE = "one drop"
    COLLISION = "collision"
    FAULT = "fault"
    OWN = "one's own"


@dataclass(frozen=True)
class Shape:
    """A shape that the log knows: a stable `key` and the `name` that people read."""

    key: str
    name: str
    group: ShapeGroup


def _shapes(group: ShapeGroup, names: str) -> tuple[Shape, ...]:
    return tuple(Shape(n.replace(" ", "-"), n, group) for n in names.split(", "))


SHAPES = (
    *_shapes(
        ShapeGroup.SINGLE,
        "in flight, touchdown, crown, crater, rising jet, jet top, beaded jet, falling jet, ripples",
    ),
    *_shapes(
        ShapeGroup.COLLISION,
        "near miss above, contact, opening umbrella, full umbrella, torn umbrella, collapsed, "
        "crater hit, double umbrella, pass-through",
    ),
    *_shapes(
        ShapeGroup.FAULT,
        "merged drop, off axis, satellites or bubbles, nothing in frame, blurred, ghosted",
    ),
)
NOT_FORESEEN = Shape("not-foreseen", "not foreseen", ShapeGroup.FAULT)
"""Stands for what no rule tells; it is no tag."""

BY_KEY = {shape.key: shape for shape in (*SHAPES, NOT_FORESEEN)}
_INDEX = {key: index for index, key in enumerate(BY_KEY)}
_KEYS = tuple(BY_KEY)

NEAR_MISS_DIAMETERS = 3.0
"""How far above the tip, in drop diameters, a drop still reads as a near miss rather than as in flight."""

FULL_SHARE = 0.9
"""A sheet is full while its radius is within a tenth of the greatest."""

TORN_UNTIL, COLLAPSED_UNTIL = 0.85, 2.0
"""Until when, in sheet life times, the umbrella reads as torn, and then as collapsed."""

TOP_SHARE = 0.95
"""The jet is at its top while it stands within a twentieth of its greatest height."""

LOPSIDED_SHARE = 0.3
"""A drop that meets a jet so many of its diameters off the axis opens a lopsided sheet. An estimate."""

BLURRED_CIRCLES = 4.0
"""A smear of so many circles of confusion reads as blurred; strict eyes see half of it, lenient ones twice as much.

Common practice, no published source.
"""

GHOST_STOPS = 3.0
"""Where ambient light begins to ghost, a strict eye sees it; so many stops more and all do. An estimate."""


@dataclass(frozen=True)
class Eye:
    """What decides how sharp and clean a picture is: how long the light lasts [s], and how many stops the room's light
    lies under the flash; None where nobody has measured it.
    """

    duration_s: float = 0.0
    room_stops: float | None = None


def shape_probabilities(
    what: Forecast, time_us: int, instant: Instant | None = None, eye: Eye | None = None
) -> dict[str, float]:
    """Probability of each shape at a time of the sequence, by key, most likely first; they sum to one.

    Each sampled rig shows one shape by the rules of `shapes_seen`; the probability is its share of rigs.
    Pass the `instant` if it is at hand, and the `eye` where the light is known.
    """
    seen = shapes_seen(what, instant or at_instant(what, time_us), eye or Eye())
    counts = np.bincount(seen, minlength=len(_KEYS)) / len(seen)
    order = np.argsort(-counts, kind="stable")
    return {_KEYS[i]: float(counts[i]) for i in order if counts[i] > 0}


def shapes_seen(what: Forecast, now: Instant, eye: Eye) -> NDArray[np.intp]:
    """Return which shape each rig shows, as indices into the keys of `BY_KEY`, shape (n,).

    Of several spots the eye takes the liveliest; faults of the picture lie over all.
    """
    on_spots = _seen_on_spots(what, now)
    lively = _LIVELINESS[on_spots]
    liveliest = np.argmax(lively, axis=0)[None]
    seen: NDArray[np.intp] = np.take_along_axis(on_spots, liveliest, axis=0)[0]
    liveliness = np.take_along_axis(lively, liveliest, axis=0)[0]
    begun = np.any(what.falls.touchdown_s <= now.time_s, axis=0)
    for key, condition in (
        ("satellites-or-bubbles", begun & what.rigs.satellites),
        ("blurred", _blurred(what, now, eye)),
        ("ghosted", _ghosted(what, eye) & (liveliness > 0)),
        (NOT_FORESEEN.key, now.time_s >= what.unforeseen_s),
    ):
        np.copyto(seen, _INDEX[key], where=condition)
    return seen


_DULL = ("nothing-in-frame", "in-flight", "ripples", "collapsed", "crater", "crown", "touchdown")
"""From the dullest on; all others are livelier."""

_LIVELINESS = np.array([_DULL.index(key) if key in _DULL else len(_DULL) for key in _KEYS])


def _seen_on_spots(what: Forecast, now: Instant) -> NDArray[np.intp]:
    """Return which shape each rig shows on each landing spot, shape (spots, n)."""
    here = _Here(what, now)
    rules = [*_collision_rules(here), *_single_rules(here)]
    merged = here.any_of(what.falls.merged) & here.any_of(what.falls.touchdown_s < now.time_s)
    seen = np.full(merged.shape, _INDEX["nothing-in-frame"], dtype=np.intp)
    # From the last rule to the first, which has the last word.
    for key, condition in (*reversed(rules), ("merged-drop", merged)):
        np.copyto(seen, _INDEX[key], where=condition)
    return seen


class _Here:
    """What stands on each spot now, on each rig: of its splashes and of its meetings one at most is not yet over.

    All spots at once: where there are fewer drops, the first one stands in for the missing and changes nothing.
    """

    def __init__(self, what: Forecast, now: Instant) -> None:
        self.what, self.now = what, now
        spots = [spot.drops for spot in what.spots]
        most = max(map(len, spots))
        self._own = np.array([[*drops, *[drops[0]] * (most - len(drops))] for drops in spots])
        self._met = np.isfinite(now.sheet_age_s[self._own])
        # A drop that goes through a sheet meets nothing under it.
        self._passes = what.meetings.passes[self._own]
        self._made = np.isfinite(now.since_touchdown_s[self._own])
        self.met = np.asarray(self._met.any(axis=1))

    def any_of(self, of_drops: Bools) -> Bools:
        """Whether something holds for any drop of the spot, shape (spots, n); of_drops : of each drop, shape (k, n)."""
        return np.asarray(np.any(of_drops[self._own], axis=1))

    def of_met(self, values: Floats) -> Floats:
        """Values of the drop whose meeting is not over, shape (spots, n); NaN where there is none."""
        return np.asarray(np.fmax.reduce(np.where(self._met, values[self._own], np.nan), axis=1))

    def of_made(self, values: Floats) -> Floats:
        """Values of the drop whose splash is not over, shape (spots, n); NaN where there is none."""
        return np.asarray(np.fmax.reduce(np.where(self._made, values[self._own], np.nan), axis=1))

    def hangs_over(self, top_m: Floats) -> Bools:
        """Whether a drop is just above a height, shape (spots, n)."""
        size = self.what.falls.diameter_m[self._own]
        above = self.now.drop_height_m[self._own] - size / 2 - top_m[:, None]
        near = NEAR_MISS_DIAMETERS * size
        return np.asarray(np.any((above > 0) & (above < near) & ~self._passes, axis=1))


def _collision_rules(here: _Here) -> list[tuple[str, Bools]]:
    """Rules in order of precedence: the sheet that is open decides, then what a later drop is about to do."""
    what, now, met = here.what, here.now, here.met
    meets = what.meetings
    # Not a number where there is nothing: no comparison holds there.
    with np.errstate(invalid="ignore"):
        age, life = here.of_met(now.sheet_age_s), here.of_met(meets.sheet_life_s)
        share, struck = age / life, here.of_met(meets.struck_share)
        open_on_sheet = np.isfinite(struck) & (share < 1)
        size = here.of_met(what.falls.diameter_m)
        aside = here.of_met(meets.aside_m)
        passing = (now.time_s >= meets.passes_s) & (now.time_s < what.falls.touchdown_s)
        over_column = here.hangs_over(here.of_met(now.column_m))
        tip = here.of_made(now.jet_tip_m)
        in_crater = here.of_made(what.splashes.in_crater.astype(float)) > 0
        open_for = here.of_made(what.splashes.jet_delay_s)
        return [
            ("pass-through", here.any_of(passing)),
            ("off-axis", (share < TORN_UNTIL) & (aside > LOPSIDED_SHARE * size)),
            ("double-umbrella", open_on_sheet),
            ("contact", age < size / here.of_met(meets.closing_m_s)),
            ("full-umbrella", here.of_met(now.sheet_radius_m) >= FULL_SHARE * here.of_met(meets.widest_m)),
            ("opening-umbrella", share < what.rigs.sheet_peak_share),
            ("torn-umbrella", share < TORN_UNTIL),
            ("near-miss-above", met & over_column),
            ("collapsed", share < COLLAPSED_UNTIL),
            ("ripples", met),
            ("crater-hit", in_crater & (here.of_made(now.since_touchdown_s) < open_for)),
            ("near-miss-above", np.isfinite(tip) & here.hangs_over(tip)),
        ]


def _single_rules(here: _Here) -> list[tuple[str, Bools]]:
    what, now, made = here.what, here.now, here.what.splashes
    since, tip, speed = (here.of_made(part) for part in (now.since_touchdown_s, now.jet_tip_m, now.jet_speed_m_s))
    heights = now.drop_height_m - what.falls.diameter_m / 2
    with np.errstate(invalid="ignore"):
        top_m = jet_top_m(here.of_made(made.jet_m_s), here.of_made(made.jet_slows_m_s2))
        jet_up = np.isfinite(tip)
        visible = (heights > 0) & (heights < what.setup.camera.frame_top_m)
        entering = here.of_made(what.falls.diameter_m) / here.of_made(what.falls.impact_m_s)
        return [
            ("touchdown", (since >= 0) & (since < entering)),
            ("crown", (since >= 0) & np.isfinite(here.of_made(now.crown_share))),
            # A crater whose jet is too weak stays open as long as one with a jet.
            ("crater", (since >= 0) & (since < here.of_made(made.jet_delay_s))),
            ("jet-top", jet_up & (tip >= TOP_SHARE * top_m)),
            ("falling-jet", jet_up & (speed < 0)),
            ("beaded-jet", jet_up & (now.time_s >= here.of_made(made.bead_s))),
            ("rising-jet", jet_up),
            ("ripples", since >= 0),
            ("in-flight", here.any_of(visible)),
        ]


def _blurred(what: Forecast, now: Instant, eye: Eye) -> Bools:
    """Where what the picture is of smears while the light lasts: the sheet's rim, else the jet's tip, else a drop."""
    camera = what.setup.camera
    with np.errstate(invalid="ignore"):
        shown = (now.drop_height_m > 0) & (now.drop_height_m < camera.frame_top_m)
        rim = np.where(now.sheet_radius_m > 0, np.abs(now.sheet_edge_m_s), np.nan)
    speed = np.full(what.rigs.count, np.nan)
    for edges in (rim, np.abs(now.jet_speed_m_s), np.where(shown, now.drop_speed_m_s, np.nan)):
        speed = np.where(np.isfinite(speed), speed, np.fmax.reduce(edges, axis=0))
    smear_px = np.nan_to_num(speed) * eye.duration_s / camera.pixel_on_subject_m
    seen_px = BLURRED_CIRCLES * circle_of_confusion_m(camera) / camera.pixel_pitch_m
    return np.asarray(smear_px > seen_px * 2.0 ** (2 * what.rigs.eye - 1))


def _ghosted(what: Forecast, eye: Eye) -> Bools:
    """Where the room's own light shows beside the flash."""
    if eye.room_stops is None:
        return np.zeros(what.rigs.count, dtype=bool)
    return np.asarray(eye.room_stops > NO_GHOST_STOPS + GHOST_STOPS * what.rigs.eye)
