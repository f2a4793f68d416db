"""How what stands in a picture becomes a tag: eyes take neighbouring shapes for each other, and fingers slip."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.priors import Variation
from ondine.core.forecast.phases import INDEX, KEYS
from ondine.core.forecast.shapes import SHAPES

Floats = NDArray[np.float64]

WRONG_SHARE = 0.045
"""So many tags are simply wrong, whatever the picture showed. Common practice, no published source."""

TELLING_NOTHING = ("satellites-or-bubbles", "blurred", "ghosted", "not-foreseen")
"""Tags of luck and light: they say nothing of when anything stood."""

OFF_AXIS_SHARE = 0.03
"""So many open sheets are tagged as off axis instead of by their age."""


def clean_share(variation: Variation, drops: int) -> float:
    """Share of shots that luck does not spoil: no satellites, and no sheet that opens off the axis."""
    return 1 - variation.satellites_share - (OFF_AXIS_SHARE if drops > 1 else 0.0)


_NEIGHBOURS = {
    ("nothing-in-frame", "in-flight"): 0.04,
    ("in-flight", "touchdown"): 0.01,
    ("touchdown", "crown"): 0.01,
    ("crown", "crater"): 0.03,
    ("touchdown", "crater"): 0.01,
    ("crater", "rising-jet"): 0.01,
    ("crater", "crater-hit"): 0.01,
    ("rising-jet", "beaded-jet"): 0.04,
    ("rising-jet", "jet-top"): 0.01,
    ("beaded-jet", "jet-top"): 0.02,
    ("jet-top", "falling-jet"): 0.02,
    ("beaded-jet", "falling-jet"): 0.01,
    ("falling-jet", "ripples"): 0.01,
    ("near-miss-above", "rising-jet"): 0.01,
    ("near-miss-above", "beaded-jet"): 0.01,
    ("near-miss-above", "jet-top"): 0.01,
    ("near-miss-above", "falling-jet"): 0.01,
    ("near-miss-above", "contact"): 0.01,
    ("contact", "opening-umbrella"): 0.02,
    ("opening-umbrella", "full-umbrella"): 0.01,
    ("full-umbrella", "torn-umbrella"): 0.01,
    ("torn-umbrella", "collapsed"): 0.03,
    ("collapsed", "ripples"): 0.04,
    ("collapsed", "falling-jet"): 0.01,
    ("double-umbrella", "full-umbrella"): 0.01,
    ("double-umbrella", "pass-through"): 0.02,
}
"""Shapes that are taken for each other, and how often either is tagged as the other. Estimates: tags in doubt between
two shapes teach less, and nothing is lost by asking for little.
"""


def _table() -> Floats:
    count, tags = len(KEYS), [INDEX[shape.key] for shape in SHAPES]
    made = np.zeros((count, count))
    for (one, other), share in _NEIGHBOURS.items():
        made[INDEX[one], INDEX[other]] = made[INDEX[other], INDEX[one]] = share
    for open_sheet in ("contact", "opening-umbrella", "full-umbrella", "torn-umbrella"):
        made[INDEX["off-axis"], INDEX[open_sheet]] = OFF_AXIS_SHARE
    made[np.arange(count), np.arange(count)] = 1 - made.sum(axis=0)
    made *= 1 - WRONG_SHARE
    made[tags] += WRONG_SHARE / len(tags)
    return made


TAGGED_AS = _table()
"""Probability that a shape is tagged as another, indices into `KEYS`: [tag, shape]; each column sums to one."""

FLOOR = WRONG_SHARE / len(SHAPES)
"""The least probability of any tag, whatever stood in the picture."""
