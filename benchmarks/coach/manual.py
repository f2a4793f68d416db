"""The usual routine by hand, as a script: one drop and steps of 10 ms from the free-fall guess to the jet's top, then a
second drop 100 ms after the first and steps of 5 ms, earlier or later as the picture says.

A hand learns that a jet was at its top from the next picture, in which it is no higher: so two tops in a row end the
first part. `told` ends it with the first one, for a hand that somebody tells so.
"""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from ondine.core.timing.sequence import Sequence

JET_STEP_US, STEP_US, SECOND_AFTER_US = 10_000, 5_000, 100_000
JETS = ("rising-jet", "beaded-jet", "jet-top")
TOO_EARLY = (
    "nothing-in-frame", "in-flight", "touchdown", "crown", "crater", "rising-jet", "beaded-jet", "jet-top",
    "falling-jet", "near-miss-above", "contact", "opening-umbrella",
)  # fmt: skip
TOO_LATE = ("torn-umbrella", "collapsed", "ripples")


def manual_search(rig: Any, begin: Sequence, tag: Callable[[str], str], most: int, told: bool = False) -> int | None:
    """Return how many shots it takes by hand to the first full umbrella; None if there is none in `most`."""
    free_fall_s = math.sqrt(2 * rig.setup.nozzle_height_m / 9.81)
    one = replace(begin, drops=begin.drops[:1])
    at_us, shots, jet_seen, tops = int(free_fall_s * 1e6) // 1000 * 1000, 0, False, 0
    while shots < most:
        shots += 1
        seen = tag(rig.fire(one.with_flash(0, at_us)))
        jet_seen = jet_seen or seen in JETS
        tops = tops + 1 if seen == "jet-top" else 0
        if tops == (1 if told else 2) or seen == "falling-jet" or (seen == "ripples" and jet_seen):
            break
        # Ripples before any jet: the first guess was already too late.
        at_us = max(at_us + (-JET_STEP_US if seen == "ripples" else JET_STEP_US), 0)
    first, last = begin.drops[0], begin.drops[1]
    both = replace(begin, drops=(first, replace(last, start_us=first.start_us + SECOND_AFTER_US)))
    way = 0
    while shots < most:
        shots += 1
        shape = rig.fire(both.with_flash(0, at_us))
        if shape == "full-umbrella":
            return shots
        seen = tag(shape)
        way = 1 if seen in TOO_EARLY else -1 if seen in TOO_LATE else way
        at_us = max(at_us + way * STEP_US, 0)
    return None
