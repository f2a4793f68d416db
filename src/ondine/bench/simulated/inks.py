"""How the world's liquids look: the table's as the sitting has it, a valve's own by the tint of what is in it."""

from __future__ import annotations

import math

from ondine.core.setup import Mix, Setup
from ondine.picture.look import Ink

SEEN_THROUGH_MM, DIMMEST, CLOUDED_BY = 5.0, 0.03, 0.05
"""A tint is what so much liquid shows; how dark a channel can be; the share of fat that turns a drop white."""


def ink_number(setup: Setup, valve: int) -> int:
    """Number of the ink that falls from a valve: 0 is the table's liquid."""
    liquid = setup.valve(valve).liquid
    return 0 if liquid is None or liquid == setup.mix else 1 + _own_liquids(setup).index(liquid)


def inks_of(setup: Setup, at_table: Ink) -> tuple[Ink, ...]:
    """Return the inks of a table by their numbers."""
    return at_table, *(_ink_of(liquid) for liquid in _own_liquids(setup))


def _own_liquids(setup: Setup) -> list[Mix]:
    found = [valve.liquid for valve in setup.valves if valve.liquid is not None and valve.liquid != setup.mix]
    return list(dict.fromkeys(found))


def _ink_of(mix: Mix) -> Ink:
    shown = [max((int(mix.tint[at : at + 2], 16) / 255) ** 2.2, DIMMEST) for at in (1, 3, 5)]
    red, green, blue = (-math.log(part) / SEEN_THROUGH_MM for part in shown)
    white = min((mix.milk_mass_fraction + 6 * mix.cream_mass_fraction) / CLOUDED_BY, 1.0)
    return Ink((red, green, blue), white, (shown[0], shown[1], shown[2]))
