"""What is to be said of the outlet that drops leave: whether they jet or drip, and what contradicts it."""

from __future__ import annotations

import math

import numpy as np

from ondine.core.belief.priors import Belief
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.constants import US_PER_S
from ondine.core.forecast.falls import measured_outlet_m
from ondine.core.forecast.whole import forecast
from ondine.core.physics import drop
from ondine.core.physics.liquid import DROP_AGE_S
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

AT_REST_M_S = 0.1
"""Slower drops let go nearly at rest."""

LOW, HIGH = 0.05, 0.95


def assumed_outlet_m(valve: Valve, belief: Belief) -> float:
    """Return the outlet that is assumed where nobody has measured it [m]: the middle of what is believed."""
    return valve.orifice_diameter_m * belief.middle("outlet_factor")


def outlet_words(setup: Setup, belief: Belief, number: int, open_us: int) -> str:
    """Say in a sentence how drops of an opening leave a valve's outlet, and what contradicts it.

    Raises LiquidError for a liquid that no formula covers.
    """
    valve = setup.valve(number)
    entered, outlet = valve.outlet_diameter_m, measured_outlet_m(valve)
    if entered is not None and outlet is None:
        return (
            f"Through an outlet of {entered * 1e3:.1f} mm this flow would need a head of {_head_words(valve)}: measure "
            "outlet, flow and head again. Until then the outlet counts as not measured."
        )
    liquid = setup.mix_of(number).liquid().aged(DROP_AGE_S)
    volume = float(drop.drop_volume_m3(open_us / US_PER_S, valve.flow_m3_s, valve.dead_time_s))
    if outlet is not None and 0 < volume < (least := drop.least_falling_m3(outlet, liquid)):
        return (
            f"A drop of {volume * 1e9:.0f} µL hangs at an outlet of {outlet * 1e3:.1f} mm: it takes about "
            f"{least * 1e9:.0f} µL to fall. Open the valve longer, or take a narrower outlet."
        )
    falls = forecast(setup, belief, Sequence((Pulse(0, open_us, number),), ())).falls
    starts = falls.start_m_s[0][np.isfinite(falls.start_m_s[0])]
    if not len(starts):
        return ""
    low, high = (float(value) for value in np.quantile(starts, (LOW, HIGH)))
    if outlet is None and high - low > AT_REST_M_S:
        return f"Not measured: drops leave it at {low:.1f} to {high:.1f} m/s."
    if high < AT_REST_M_S:
        return "So wide an outlet drips: drops let go nearly at rest."
    return f"Drops leave this outlet at {low:.1f} to {high:.1f} m/s."


def _head_words(valve: Valve) -> str:
    """The head that would drive a valve's flow through its outlet: u²/2g (Torricelli)."""
    assert valve.outlet_diameter_m is not None
    speed = valve.flow_m3_s * 4 / (math.pi * valve.outlet_diameter_m**2)
    head_m = speed**2 / (2 * G)
    return f"{head_m:.0f} m" if head_m >= 2 else f"{head_m * 100:.0f} cm"
