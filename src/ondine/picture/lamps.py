"""What the simulated flashes throw on the scene: each by the square of its distance, by its place and its gel."""

from __future__ import annotations

import math

from ondine.core.setup import Flash, Place, Setup
from ondine.picture.look import Lamps

SEASON_BEHIND, SEASON_SIDE = 72.99, 94.47
"""What the season's two units throw from behind and from the side, in the units of `_throw`."""


def lamps_of(setup: Setup) -> Lamps:
    """Add up a set-up's units."""
    thrown = dict.fromkeys(Place, 0.0)
    for unit in setup.light.units:
        thrown[unit.place] += _throw(unit)
    behind = (thrown[Place.BEHIND] + 0.7 * thrown[Place.BOUNCED]) / SEASON_BEHIND
    side = (thrown[Place.SIDE] + thrown[Place.ABOVE]) / SEASON_SIDE
    return Lamps(behind, side, thrown[Place.BOWL] / SEASON_SIDE, _gains(setup))


def _throw(unit: Flash) -> float:
    beam = unit.guide_number_m**2 * unit.zoom_mm / unit.guide_zoom_mm
    held_back = 2.0 ** -(unit.losses_stops + unit.gel_stops)
    away = max(unit.x_m**2 + unit.height_m**2 + unit.aside_m**2, 0.0025)
    return float(beam * unit.power * held_back / away)


def _gains(setup: Setup) -> tuple[float, float, float]:
    """Redder when the light is warmer than the balance; a law of this world's own."""
    key = setup.light.key
    warmer = 1e6 / key.colour_k + key.gel_mired - 1e6 / setup.light.white_balance_k
    return math.exp(0.0026 * warmer), 1.0, math.exp(-0.0034 * warmer)
