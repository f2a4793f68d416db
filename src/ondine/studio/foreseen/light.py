"""From a set-up to the colours and the light of its picture.

By the tints that were entered, the units that light, their gels and places, and the exposure that is foreseen for them.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ondine.core.forecast.lit import Lit
from ondine.core.light.colour import cast, linear_rgb, shifted_k
from ondine.core.light.exposure import light_on_background, light_on_subject, over_stops
from ondine.core.setup import Flash, Mix, Place, Setup
from ondine.picture.look import Ink, Lamps, Look

Rgb = tuple[float, float, float]

HALO, EDGE, HEAD = 0.75, 0.34, 0.2
"""The lamp behind a sheet bleaches it so much in its middle; its foot and its head have so much of that light."""

DROP_PATH_MM, POOL_PATH_MM, LEAST_CHANNEL = 7.0, 14.0, 0.01
"""So much liquid gives the tint that was entered; no tint swallows a colour whole."""

SIDE_STRENGTH, SHEET_SHARE = 13.0, 0.52
"""Radiance of a lamp at the side, and of the lit sheet, where the light on splash and background is right."""

CLOUDS_AT = 0.03
"""Share of milk that scatters most of the light that enters a drop."""


def look_of(setup: Setup, lit: Lit, gain_stops: float = 0.0) -> Look:
    """Return the colours of a picture under the units that light at one flash.

    gain_stops : how much brighter test frames have shown this table to be than its guide numbers say [stops].
    """
    units = tuple(setup.light.units[n] for n in lit.units)
    if not units:
        return Look(side_light=0.0).under(Lamps(0.0, 0.0))
    light = replace(setup.light, units=units)
    gain = 2.0**gain_stops
    behind = _cast_of(setup, units, (Place.BEHIND, Place.BOUNCED))
    beside = _cast_of(setup, units, (Place.SIDE, Place.ABOVE))
    tint = linear_rgb(setup.light.background_tint) * behind
    pool = linear_rgb(setup.bowl.tint) * 1.4
    backdrop = SHEET_SHARE * gain * 2.0 ** over_stops(light_on_background(light), setup.camera)
    return Look(
        low=_rgb(EDGE * tint * backdrop),
        high=_rgb(HEAD * tint * backdrop),
        glow=_rgb(((1 - HALO) * tint + HALO * behind) * backdrop),
        pool=_rgb(pool * gain * _pool_light(setup, units, backdrop / gain)),
        pool_dye=_absorbs(setup.bowl.tint, POOL_PATH_MM),
        side_light=SIDE_STRENGTH * gain * _ratio(setup, units, (Place.SIDE, Place.ABOVE)),
        side_tint=_rgb(beside),
        inks=tuple(_ink(mix) for mix in falling(setup)),
    )


def falling(setup: Setup) -> tuple[Mix, ...]:
    """Return what falls at a table, each liquid once: its place is the number of its ink."""
    return tuple(dict.fromkeys(setup.mix_of(valve) for valve in range(len(setup.valves))))


def _ink(mix: Mix) -> Ink:
    cloud = 1 - math.exp(-(mix.milk_mass_fraction + 3 * mix.cream_mass_fraction) / CLOUDS_AT)
    return Ink(_absorbs(mix.tint, DROP_PATH_MM), cloud, _rgb(linear_rgb(mix.tint)))


def _ratio(setup: Setup, units: tuple[Flash, ...], places: tuple[Place, ...]) -> float:
    """Light of the units at some places on the splash, over what is right for the camera [1]."""
    there = tuple(unit for unit in units if unit.place in places)
    if not there:
        return 0.0
    return float(2.0 ** over_stops(light_on_subject(replace(setup.light, units=there)), setup.camera))


def _pool_light(setup: Setup, units: tuple[Flash, ...], backdrop: float) -> float:
    """What wells up out of the bowl: the sheet shines in, lamps beside it a little, lamps in it most."""
    beside = _ratio(setup, units, (Place.SIDE, Place.ABOVE))
    return 0.7 * backdrop + 0.8 * beside + 2.5 * _ratio(setup, units, (Place.BOWL,))


def _cast_of(setup: Setup, units: tuple[Flash, ...], places: tuple[Place, ...]) -> np.ndarray:
    """Linear colour that white has in the light of the first unit at some places, or of the first of all."""
    unit = next((unit for unit in units if unit.place in places), units[0])
    return np.maximum(cast(shifted_k(unit.colour_k, unit.gel_mired), setup.light.white_balance_k), 0.0)


def _absorbs(tint: str, path_mm: float) -> Rgb:
    """Absorbance per mm of liquid that shows a tint over a path: what is merely dark about it counts little."""
    channels = np.maximum(linear_rgb(tint), LEAST_CHANNEL)
    purity, darkness = channels / channels.max(), channels.max()
    return _rgb(-(np.log(purity) + 0.2 * math.log(darkness)) / path_mm)


def _rgb(values: np.ndarray) -> Rgb:
    red, green, blue = (float(value) for value in values)
    return red, green, blue
