"""The simulated world's own liquid, mixed by laws of its own."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ondine.bench.simulated.inks import ink_number
from ondine.core.setup import Setup

WATER_DENSITY = 998.0

SOAPED = {"soap": 0.031, "rinse aid": 0.028}
AGED = {"soap": (0.5, 0.2), "rinse aid": (0.85, 0.6)}
"""Tension that soap and rinse aid lead to, and how much of the way a surface has gone after some 15 and 5 ms."""


@dataclass(frozen=True)
class Fluid:
    """The world's own liquid: density [kg/m3], viscosity [Pa·s], surface tension [N/m] of a surface some ms old and of
    one just made; number of its ink; `slime` : how many times longer gum holds its threads together.
    """

    density: float
    viscosity: float
    tension: float
    fresh_tension: float
    ink: int = 0
    slime: float = 0.0


def fluid_of(setup: Setup, valve: int | None = None) -> Fluid:
    """Tell the liquid of the bowl, or what falls from a valve.

    Log-linear in glycerine and fat, thinner when warm, slimy with gum.
    """
    mix = setup.mix if valve is None else setup.mix_of(valve)
    share, warm = mix.glycerine_mass_fraction, mix.temperature_c - 20
    thickness = math.exp(2.9 * share + 4.0 * share**4) * math.exp(-0.024 * warm * (1 + share))
    thickness *= math.exp(0.72 * mix.milk_mass_fraction + 2.2 * mix.cream_mass_fraction)
    thickness += 3.4e3 * mix.gum_mass_fraction * (1 - 0.5 ** (mix.gum_stood_h / 1.1))
    fat = mix.milk_mass_fraction + 3 * mix.cream_mass_fraction
    clean = 0.0727 - 0.008 * share - 1.5e-4 * warm
    soaped = 0.024 * fat / (fat + 0.03)
    aged, fresh = AGED.get(mix.wetting_agent, (0.4, 0.15))
    if mix.wetting_agent in SOAPED:
        soaped = max(soaped, clean - SOAPED[mix.wetting_agent])
    return Fluid(
        WATER_DENSITY * (1 + 0.25 * share + 0.03 * mix.milk_mass_fraction),
        1.0e-3 * thickness,
        clean - aged * soaped,
        clean - fresh * soaped,
        0 if valve is None else ink_number(setup, valve),
        3e3 * mix.gum_mass_fraction,
    )
