"""Pulses without light: priming, a test drop, and those that are weighed. Within the valve's limits, always."""

from __future__ import annotations

import math

from ondine.bench.protocol import Pour
from ondine.core.constants import US_PER_S
from ondine.core.setup import Rig
from ondine.core.timing.sequence import MIN_GAP_US

APART_US = 60_000
"""Some valves misbehave when opened again sooner. Common practice."""

PRIME_LIMIT_S = 20.0
"""Longest that holding the key may prime: by then the line is full or the jug is."""


def pour_of(rig: Rig, open_us: int, pulses: int) -> Pour:
    """Space pulses so that the valve rests enough: its duty is kept, and drops do not run together.

    Raises ValueError for an open time or a number that no valve should be given.
    """
    if not 0 < open_us <= rig.max_open_us:
        raise ValueError(
            f"The valve may open for up to {rig.max_open_us / 1000:g} ms, not {open_us / 1000:g} ms: shorten it."
        )
    if not 1 <= pulses <= 500:
        raise ValueError(f"Dispense 1 to 500 pulses at a time, not {pulses}.")
    period = max(open_us / rig.max_duty, open_us + max(APART_US, MIN_GAP_US))
    return Pour(open_us, pulses, math.ceil(period))


def prime_of(rig: Rig) -> Pour:
    """Return the longest pulses that the valve's limits allow, for as long as a hand holds the key."""
    period = math.ceil(rig.max_open_us / rig.max_duty)
    return Pour(rig.max_open_us, max(1, round(PRIME_LIMIT_S * US_PER_S / period)), period)
