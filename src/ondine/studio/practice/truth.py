"""What a hidden rig truly is, beside what its photographer had entered, or could expect of a new table."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ondine.bench.simulated.falls import hang
from ondine.bench.simulated.fluid import fluid_of
from ondine.bench.simulated.population import PracticeRig
from ondine.core.belief.priors import Belief
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.whole import forecast
from ondine.core.numbers import number_words
from ondine.core.timing.sequence import Sequence
from ondine.core.units import Units, value_words


@dataclass(frozen=True)
class Truth:
    """One number of a hidden rig in words: what it is, what it was thought to be, and what it truly is."""

    name: str
    thought: str
    truly: str


def truths(rig: PracticeRig, units: Units) -> tuple[Truth, ...]:
    """Return what was hidden, in the order of its weight on the timing."""
    hidden, valve = rig.hidden, rig.setup.valves[0]
    open_s = rig.start.drops[0].open_us / 1e6
    falls = forecast(rig.setup, Belief(), Sequence(rig.start.drops[:1], ())).falls
    lets_go_s, speed_m_s = as_let_go(rig)
    heights_m = valve.nozzle_height_m, valve.nozzle_height_m + hidden.height_offset_m
    return (
        Truth("The flash lights late by", "nothing entered", _ms(hidden.flash_lag_s)),
        Truth(
            f"A drop of {_ms(open_s)} lets go after",
            _ms(float(falls.release_s[0, 0]) - rig.start.drops[0].start_us / 1e6),
            _ms(hidden.valve_lag_s + lets_go_s),
        ),
        Truth("It leaves the nozzle at", _speed(float(falls.start_m_s[0, 0])), _speed(speed_m_s)),
        Truth("Nozzle height", *(value_words("nozzle_height_m", height_m, units) for height_m in heights_m)),
        Truth("Flow", _flow(valve.flow_m3_s), _flow(hidden.discharge_m3_s_sqrt_m * hidden.head_m**0.5)),
        Truth("From shot to shot a drop varies by", "unknown", _ms(hidden.timing_jitter_s, 1)),
    )


def as_let_go(rig: PracticeRig) -> tuple[float, float]:
    """Return when a drop of a rig behaves as if let go at its outlet, after its flow begins [s], and how fast [m/s].

    The hidden rig lets its neck break farther down and later: what is meant is the same fall traced back to the outlet.
    """
    hidden, pulse = rig.hidden, rig.start.drops[0]
    flows_s = pulse.open_us / 1e6 - hidden.dead_time_s
    hung = hang(hidden, fluid_of(rig.setup, 0), hidden.discharge_m3_s_sqrt_m * hidden.head_m**0.5, flows_s)
    speed = math.sqrt(max(hung.speed_m_s**2 - 2 * G * hung.below_m, 0.0))
    return hung.lasts_s - (hung.speed_m_s - speed) / G, speed


def event_words(rig: PracticeRig, sequence: Sequence) -> str:
    """Say when a flash would have shown each event of a sequence on this rig."""
    found = rig.events_s(sequence)
    return ", ".join(f"{event} {number_words(at_s * 1e3, 0)} ms" for event, at_s in found.items())


def _ms(value_s: float, decimals: int = 0) -> str:
    return f"{number_words(value_s * 1e3, decimals)} ms"


def _speed(value_m_s: float) -> str:
    return f"{number_words(value_m_s, 2)} m/s"


def _flow(value_m3_s: float) -> str:
    return f"{number_words(value_m3_s * 1e6, 2)} µL/ms"
