"""Pulses without light: priming, a test drop, and those that are weighed. Within the valve's limits, always."""

from __future__ import annotations

import math

from ondine.bench.protocol import Pour
from ondine.core.constants import US_PER_S
from ondine.core.setup import Setup
from ondine.core.timing.sequence import MIN_GAP_US

APART_US = 60_000
"""Some valves misbehave when opened again sooner. Common practice."""

PRIME_LIMIT_S = 20.0
"""Longest that holding the key may prime: by then the line is full or the jug is."""


def pour_of(setup: Setup, number: int, open_us: int, pulses: int) -> Pour:
    """Space pulses so that the valve rests enough: its duty is kept, and drops do not run together.

    Raises ValueError for an open time or a number that no valve should be given.
    """
    valve = setup.valve(number)
    if not 0 < open_us <= valve.max_open_us:
        raise ValueError(
            f"The valve may open for up to {valve.max_open_us / 1000:g} ms, not {open_us / 1000:g} ms: shorten it."
        )
    if not 1 <= pulses <= 500:
        raise ValueError(f"Dispense 1 to 500 pulses at a time, not {pulses}.")
    period = max(open_us / valve.max_duty, open_us + max(APART_US, MIN_GAP_US))
    return Pour(open_us, pulses, math.ceil(period), number)


def prime_of(setup: Setup, number: int) -> Pour:
    """Return the longest pulses that the valve's limits allow, for as long as a hand holds the key."""
    valve = setup.valve(number)
    period = math.ceil(valve.max_open_us / valve.max_duty)
    return Pour(valve.max_open_us, max(1, round(PRIME_LIMIT_S * US_PER_S / period)), period, number)
