"""The shapes a picture can show, and how likely each is at an instant."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.instant import Instant, at_instant
from ondine.core.forecast.whole import Forecast
from ondine.core.physics.meeting import SHEET_PEAK_SHARE
from ondine.core.physics.splash import jet_top_m

Bools = NDArray[np.bool_]


class ShapeGroup(StrEnum):
    """What a shape belongs to."""

    SINGLE = "one drop"
    COLLISION = "collision"
    FAULT = "fault"


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
BY_KEY = {shape.key: shape for shape in SHAPES}
_INDEX = {shape.key: index for index, shape in enumerate(SHAPES)}

NEAR_MISS_DIAMETERS = 3.0
"""How far above the tip, in drop diameters, a drop still reads as a near miss rather than as in flight."""

FULL_SHARE = 0.9
"""A sheet is full while its radius is within a tenth of the greatest."""

TORN_UNTIL, COLLAPSED_UNTIL = 0.85, 2.0
"""Until when, in sheet life times, the umbrella reads as torn, and then as collapsed."""

TOP_SHARE = 0.95
"""The jet is at its top while it stands within a twentieth of its greatest height."""

PASS_THROUGH_AGE = 0.6
"""A third drop that meets a sheet older than this share of its life goes through it."""


def shape_probabilities(what: Forecast, time_us: int, instant: Instant | None = None) -> dict[str, float]:
    """Probability of each shape at a time of the sequence, by key, most likely first; they sum to one.

    Each sampled rig shows one shape by the rules of `shapes_seen`; the probability is its share of rigs.
    Pass the `instant` if it is at hand.
    """
    seen = shapes_seen(what, instant or at_instant(what, time_us))
    counts = np.bincount(seen, minlength=len(SHAPES)) / len(seen)
    order = np.argsort(-counts, kind="stable")
    return {SHAPES[i].key: float(counts[i]) for i in order if counts[i] > 0}


def shapes_seen(what: Forecast, now: Instant) -> NDArray[np.intp]:
    """Return which shape each rig shows, as indices into `SHAPES`, shape (n,)."""
    rules = [*_collision_rules(what, now), *_single_rules(what, now)]
    merged = np.any(what.falls.merged, axis=0) & (now.since_touchdown_s > 0)
    seen = np.full(len(merged), _INDEX["nothing-in-frame"], dtype=np.intp)
    # From the last rule to the first, which has the last word.
    for key, condition in (*reversed(rules), ("merged-drop", merged)):
        np.copyto(seen, _INDEX[key], where=condition)
    return seen


def _collision_rules(what: Forecast, now: Instant) -> list[tuple[str, Bools]]:
    """Rules in order of precedence: the latest sheet decides, then what a later drop is about to do."""
    rules: list[tuple[str, Bools]] = []
    meets = what.meetings
    for k in range(len(what.sequence.drops) - 1, 0, -1):
        age, life = now.sheet_age_s[k], meets.sheet_life_s[k]
        met = np.isfinite(age)
        share = np.where(met, age / life, np.nan)
        struck_share = meets.time_s[k] - meets.time_s[k - 1]
        with np.errstate(invalid="ignore"):
            old = meets.on_sheet[k] & (struck_share > PASS_THROUGH_AGE * meets.sheet_life_s[k - 1])
        contact = met & (age < what.falls.diameter_m[k] / meets.closing_m_s[k])
        wide = now.sheet_radius_m[k] >= FULL_SHARE * meets.widest_m[k]
        rules += [
            ("pass-through", old & met & (share < 1)),
            ("double-umbrella", meets.on_sheet[k] & met & (share < 1)),
            ("contact", contact),
            ("full-umbrella", met & wide),
            ("opening-umbrella", met & (share < SHEET_PEAK_SHARE)),
            ("torn-umbrella", met & (share < TORN_UNTIL)),
            ("collapsed", met & (share < COLLAPSED_UNTIL)),
            ("ripples", met),
        ]
    for k in range(1, len(what.sequence.drops)):
        landed = (now.time_s >= what.falls.touchdown_s[k]) & ~np.isfinite(meets.time_s[k])
        jet_up = np.isfinite(now.jet_tip_m)
        above = now.drop_height_m[k] - now.jet_tip_m
        near = jet_up & (above > 0) & (above < NEAR_MISS_DIAMETERS * what.falls.diameter_m[k])
        before_jet = what.falls.touchdown_s[k] < what.first.jet_s
        rules += [("crater-hit", landed & before_jet), ("near-miss-above", near)]
    return rules


def _single_rules(what: Forecast, now: Instant) -> list[tuple[str, Bools]]:
    since, jet_age = now.since_touchdown_s, now.since_jet_s
    top_m = jet_top_m(what.first.jet_m_s, what.first.jet_slows_m_s2)
    jet_up = np.isfinite(now.jet_tip_m)
    beaded = now.time_s >= what.first.bead_s
    visible = (now.drop_height_m > 0) & (now.drop_height_m < what.setup.camera.frame_top_m)
    entering = what.falls.diameter_m[0] / what.falls.impact_m_s[0]
    jet_due = np.nan_to_num(what.first.jet_delay_s, nan=np.inf)
    return [
        ("touchdown", (since >= 0) & (since < entering)),
        ("crown", (since >= 0) & np.isfinite(now.crown_share)),
        ("crater", (since >= 0) & (since < jet_due)),
        ("jet-top", jet_up & (now.jet_tip_m >= TOP_SHARE * top_m)),
        ("falling-jet", jet_up & (now.jet_speed_m_s < 0)),
        ("beaded-jet", jet_up & beaded),
        ("rising-jet", jet_up & (jet_age >= 0)),
        ("ripples", since >= 0),
        ("in-flight", np.any(visible, axis=0)),
    ]
