"""Mired, planckian colours, adaptation and differences against colour-science."""

import warnings
from dataclasses import replace

import numpy as np
import pytest

from ondine.core.light.colour import (
    adapted,
    difference,
    lab,
    mired_shift,
    palette,
    planckian_xy,
    seen_under,
    sheet_size_m,
    shifted_k,
    white_xyz,
)
from ondine.core.light.exposure import unit_on_subject
from ondine.core.light.tones import linear
from ondine.core.setup import Light
from ondine.demo.scenario import TIDAL_MILL

with warnings.catch_warnings():
    # It misses plotting libraries that nobody needs here.
    warnings.simplefilter("ignore")
    import colour


@pytest.mark.parametrize(
    ("one", "other", "shift"),
    # Catalogue values of conversion filters, from memory.
    [(5500, 3400, 112), (5500, 3200, 131), (3200, 5500, -131), (4200, 5500, -56), (6500, 3200, 159), (5500, 3500, 104)],
)
def test_mired_shifts_of_published_filters(one, other, shift):
    assert mired_shift(one, other) == pytest.approx(shift, abs=0.6)
    assert mired_shift(one, other) == pytest.approx(
        float(colour.temperature.CCT_to_mired(other) - colour.temperature.CCT_to_mired(one)), abs=1e-6
    )
    assert shifted_k(one, mired_shift(one, other)) == pytest.approx(other)


@pytest.mark.parametrize("kelvin", [1800, 2500, 3200, 4000, 4500, 5600, 6500, 9000, 12000])
def test_planckian_colours(kelvin):
    uv = colour.temperature.CCT_to_uv_Ohno2013(np.array([kelvin, 0.0]))
    assert planckian_xy(kelvin) == pytest.approx(colour.UCS_uv_to_xy(uv), abs=0.0006)


def test_bradford_adaptation():
    xyz = np.array([0.3, 0.4, 0.2])
    one, other = white_xyz(3200), white_xyz(5500)
    reference = colour.adaptation.chromatic_adaptation_VonKries(xyz, one, other, transform="Bradford")
    assert adapted(xyz, one, other) == pytest.approx(reference, abs=1e-4)


@pytest.mark.parametrize("tint", ["#8c1c3a", "#2f6b57", "#ffffff", "#102030", "#d8cfc0", "#060301", "#000000"])
def test_lab_and_differences(tint):
    rgb = np.array([int(tint[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    xyz = colour.RGB_to_XYZ(linear(rgb), "sRGB")
    white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    assert lab(tint) == pytest.approx(colour.XYZ_to_Lab(xyz, white), abs=0.15)
    expected = colour.delta_E(lab(tint), lab("#336699"), method="CIE 1976")
    assert difference(tint, "#336699") == pytest.approx(float(expected), abs=1e-6)


def test_a_flash_at_tungsten_balance_is_blue():
    # Common practice, no published source: daylight flash at 3500 K gives a blue picture, −104 mired.
    blue = replace(TIDAL_MILL, light=replace(TIDAL_MILL.light, white_balance_k=3500))
    found = palette(blue)
    assert [by for _, by in found.shifts] == pytest.approx([-104, -104], abs=1) and "blue, strongly" in found.words
    red, _, azure = (int(found.background[i : i + 2], 16) for i in (1, 3, 5))
    assert azure > red + 40
    neutral = palette(TIDAL_MILL)
    assert {by for _, by in neutral.shifts} == {0} and "neutral" in neutral.words
    assert difference(seen_under("#8c1c3a", white_xyz(5500), 5500), seen_under("#8c1c3a", white_xyz(3500), 3500)) < 2


def test_each_unit_colours_what_it_falls_on_as_much_as_it_lights():
    behind, side = TIDAL_MILL.light.units
    orange = replace(TIDAL_MILL, light=replace(TIDAL_MILL.light, units=(behind, replace(side, gel_mired=150.0))))
    found, neutral = palette(orange), palette(TIDAL_MILL)
    # The lamp at the side lights the drop far more than the sheet behind it.
    assert difference(found.drop, neutral.drop) > 2 * difference(found.background, neutral.background)
    assert [round(by) for _, by in found.shifts] == [0, 150] and "Unit B: +150 mired, warm, strongly." in found.words
    # Where it does not light, it colours nothing; where it lights alone, all is as under its colour.
    assert palette(orange, (1, 0)) == palette(replace(orange, light=replace(orange.light, units=(behind,))))
    alone = palette(orange, (0, 1))
    assert alone.drop == seen_under(orange.mix.tint, white_xyz(shifted_k(5500, 150)), 5500)
    # Light adds up as XYZ does (CIE 015, colorimetry: additivity).
    shares = np.array([unit_on_subject(unit) for unit in orange.light.units])
    white = shares @ np.array([white_xyz(5500), white_xyz(shifted_k(5500, 150))]) / shares.sum()
    reference = colour.adaptation.chromatic_adaptation_VonKries(
        np.array([0.2, 0.2, 0.2]), white_xyz(6504), white, transform="Bradford"
    )
    assert adapted(np.array([0.2, 0.2, 0.2]), white_xyz(6504), white) == pytest.approx(reference, abs=1e-4)


def test_colours_that_are_hard_to_tell_apart_are_named():
    alike = replace(TIDAL_MILL, light=Light(background_tint=TIDAL_MILL.bowl.tint))
    assert "bowl and background" in palette(alike).words


def test_a_background_sheet_fills_the_frame_behind_the_splash():
    wide, tall = sheet_size_m(TIDAL_MILL, spare=1.0)
    # Similar triangles: 315 mm to the drops, 350 mm more to the sheet.
    assert wide == pytest.approx(TIDAL_MILL.camera.frame_width_m * (0.315 + 0.35) / 0.315)
    assert wide / tall == pytest.approx(1.5)
