"""Colours and brightness of the foreseen picture, against what is entered and what the light stages say."""

import math
from dataclasses import replace

import numpy as np
import pytest

from ondine.core.forecast.lit import lit
from ondine.core.light.colour import linear_rgb, seen_under, white_xyz
from ondine.core.setup import Place
from ondine.core.setup.fields import put
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL
from ondine.studio.foreseen.light import falling, look_of


def look(setup=TIDAL_MILL, gain=0.0):
    return look_of(setup, lit(setup, START)[0], gain)


def stops(one, other):
    return math.log2(sum(one) / sum(other))


@pytest.mark.parametrize(("path", "value", "gained"), [
    ("camera.f_number", 11.313708, 1.0), ("camera.iso", 400.0, 1.0), ("light.units.0.power", 1 / 128, -1.0),
    ("light.units.0.losses_stops", 3.0, -1.0), ("light.units.0.gel_stops", 2.0, -2.0),
])  # fmt: skip
def test_the_sheet_gets_brighter_by_as_many_stops_as_the_dials_say(path, value, gained):
    brighter = look(put(TIDAL_MILL, path, value))
    # What unit B spills on the sheet does not follow unit A.
    assert stops(brighter.glow, look().glow) == pytest.approx(gained, abs=0.12)


def test_what_test_frames_have_told_makes_all_of_it_brighter():
    plain, more = look(), look(gain=1.0)
    assert stops(more.glow, plain.glow) == pytest.approx(1.0, abs=1e-6)
    assert more.side_light == pytest.approx(2 * plain.side_light)
    assert stops(more.pool, plain.pool) == pytest.approx(1.0, abs=1e-6)


def test_each_unit_gives_its_own_light():
    first, second = lit(MILL_RACE, RACE)
    behind, beside = look_of(MILL_RACE, first), look_of(MILL_RACE, second)
    assert MILL_RACE.light.units[0].place is Place.BEHIND
    assert behind.side_light == 0 and sum(behind.glow) > 1
    assert beside.side_light > 1 and sum(beside.glow) < 0.2 * sum(behind.glow)
    nobody = replace(first, units=())
    assert look_of(MILL_RACE, nobody).side_light == 0 and sum(look_of(MILL_RACE, nobody).glow) == 0


def test_a_gel_tints_the_sheet_as_the_colour_stage_says():
    warm = put(put(TIDAL_MILL, "light.units.0.gel_mired", 120.0), "light.background_tint", "#808080")
    pictured = linear_rgb(seen_under("#808080", white_xyz(1e6 / (1e6 / 5500 + 120)), 5500))
    shown = np.array(look(warm).low)
    assert shown / shown.sum() == pytest.approx(pictured / pictured.sum(), abs=0.02)


def test_tints_are_what_their_liquids_show():
    red = look(put(TIDAL_MILL, "mix.tint", "#ff2020")).inks[0].dye
    assert red[0] < 0.02 and red[1] == red[2] > 0.4
    assert look(put(TIDAL_MILL, "mix.tint", "#ffffff")).inks[0].dye == pytest.approx((0, 0, 0), abs=1e-9)


def test_milk_clouds():
    assert look().inks[0].cloud == 0
    assert 0.3 < look(put(TIDAL_MILL, "mix.milk_mass_fraction", 0.02)).inks[0].cloud < look(
        put(TIDAL_MILL, "mix.milk_mass_fraction", 0.1)).inks[0].cloud < 1  # fmt: skip


def test_each_liquid_that_falls_has_an_ink_and_those_that_are_alike_share_it():
    blue = replace(MILL_RACE.mix, tint="#2040ff")
    valves = tuple(replace(valve, liquid=None) for valve in MILL_RACE.valves)
    assert falling(replace(MILL_RACE, valves=valves)) == (MILL_RACE.mix,)
    own = replace(MILL_RACE, valves=(valves[0], replace(valves[1], liquid=blue)))
    assert falling(own) == (MILL_RACE.mix, blue)
    table, valve_b = look(own).inks
    assert table == look().inks[0] and valve_b.dye[2] < 0.05 < 0.3 < valve_b.dye[0]
