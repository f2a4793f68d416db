"""The ray-traced pictures, and the devices that deliver them."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from ondine.bench.simulated.frame import Frame, photograph
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.lights import as_planned
from ondine.bench.simulated.unit import light_instants_s
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.light.freeze import freeze_table
from ondine.core.setup import Setup
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import MILL_RACE, RACE, SEED, START, TIDAL_MILL
from ondine.demo.taught import TAUGHT
from ondine.picture.look import Look

RIG = HiddenRig.from_seed(SEED)
NOW = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)
ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 258_000)


def moved_away(setup: Setup, stops: float) -> Setup:
    """The same light on the splash from a greater power, through more diffuser."""
    for index, unit in enumerate(setup.light.units):
        setup = put(setup, f"light.units.{index}.power", unit.power * 2**stops)
        setup = put(setup, f"light.units.{index}.losses_stops", unit.losses_stops + stops)
    return setup


@pytest.mark.parametrize("stops", [3, 4])
def test_the_blur_that_was_foreseen_is_the_blur_in_the_picture(stops):
    """A drop on its way down, smeared by a brighter flash, against the same drop frozen."""
    setup = moved_away(TIDAL_MILL, stops)
    what = forecast(setup, TAUGHT, ONE)
    (edge,) = [e for e in outline(what, at_instant(what, ONE.first_flash_us)).edges if e.name == "drop 1"]
    key = setup.light.key
    (row,) = freeze_table([edge], key, [key.power], setup.camera, 200)

    def tall(how: Setup) -> float:
        """Extent of the drop on the picture's axis, in pixels: where it differs from the picture without it."""
        frame = Frame(RIG, SEED, Look(), ONE, how, 5, (0.12,), as_planned(how, ONE), NOW)
        with_drop = photograph(frame).astype(float)
        empty = photograph(replace(frame, lights=as_planned(how, ONE.with_flash(0, 150_000)))).astype(float)
        # Above the water, so that its mirror image does not count; many columns, so that noise does not.
        profile = np.abs(with_drop - empty)[:600, 585:616].mean(axis=(1, 2))
        seen = np.flatnonzero(profile > 3)
        return float(seen.max() - seen.min())

    frozen = put(put(TIDAL_MILL, "light.units.0.least_power", 1 / 1024), "light.units.0.power", 1 / 256)
    frozen = put(frozen, "light.units.0.losses_stops", 0.0)
    own = 1.02 * 19e-6 * edge.speed_m_s / setup.camera.pixel_on_subject_m
    measured = (tall(setup) - tall(frozen)) * setup.camera.width_px / 1200 + own
    assert measured == pytest.approx(row.worst_px, rel=0.15)


def test_light_comes_early_and_is_longer_with_power():
    assert light_instants_s(1.0)[-1] > 10 * light_instants_s(1 / 128)[-1]
    assert np.all(np.diff(light_instants_s(1 / 64)) > 0)


def test_a_dark_flash_gives_a_dark_frame_and_a_lit_one_a_picture():
    frame = Frame(RIG, SEED, Look(), START, TIDAL_MILL, 1, (0.12,), (), NOW)
    dark, lit = photograph(frame), photograph(replace(frame, lights=as_planned(TIDAL_MILL, START)))
    assert dark.shape == lit.shape == (800, 1200, 3)
    assert dark.mean() < 8 < 60 < lit.mean() < 220
    # The umbrella stands in the middle: there is more to see there than at the edge.
    assert lit[300:600, 450:750].std() > 1.3 * lit[300:600, :300].std()


def test_the_same_frame_is_the_same_picture():
    frame = Frame(RIG, SEED, Look(), START, TIDAL_MILL, 3, (0.12,), (), NOW)
    assert np.array_equal(photograph(frame), photograph(frame))


def test_each_flash_adds_what_it_shows_on_a_dark_frame():
    two = START.with_flash_added(START.first_flash_us - 60_000, 0)
    frame = Frame(RIG, SEED, Look(), START, TIDAL_MILL, 3, (0.12,), (), NOW)
    first, second, both = (
        photograph(replace(frame, lights=lights)).astype(float).mean()
        for lights in (as_planned(TIDAL_MILL, START), as_planned(TIDAL_MILL, two)[1:], as_planned(TIDAL_MILL, two))
    )
    assert both > 1.1 * max(first, second)
    # A unit on an output of its own lights its own instant alone.
    apart = replace(TIDAL_MILL, light=replace(TIDAL_MILL.light, units=(
        TIDAL_MILL.light.units[0], replace(TIDAL_MILL.light.units[1], output=1),
    )))  # fmt: skip
    assert [light.units for light in as_planned(apart, START.with_flash_added(300_000, 1))] == [(0,), (1,)]
    assert as_planned(TIDAL_MILL, START)[0].units == (0, 1)


def test_splashes_of_valves_that_stand_apart_stand_apart_in_the_picture():
    """Each column stands where the pinhole of the lens puts its valve: aside over the width of the frame."""
    frame = Frame(RIG, SEED, Look(), RACE, MILL_RACE, 3, (0.12, 0.12), as_planned(MILL_RACE, RACE), NOW)
    lit = photograph(frame).astype(float)
    assert lit.shape == (800, 1200, 3)
    # Above the water's far edge and below the sheet, where only the columns stand before the backdrop.
    backdrop = np.median(lit[460:500], axis=(0, 1))
    differs = np.abs(lit[460:500] - backdrop).mean(axis=(0, 2)) > 25
    columns = np.flatnonzero(differs)
    middle = 600
    for valve, side in (
        (MILL_RACE.valves[0], columns[columns < middle]),
        (MILL_RACE.valves[1], columns[columns >= middle]),
    ):
        expected = middle + valve.aside_m / MILL_RACE.camera.frame_width_m * 1200
        assert np.median(side) == pytest.approx(expected, abs=12)


def test_of_two_spots_one_behind_the_other_both_are_in_the_picture():
    behind = put(put(MILL_RACE, "valves.1.aside_m", 0.0), "valves.1.x_m", -0.03)
    race = replace(RACE, flashes=RACE.flashes[:1])
    frame = Frame(RIG, SEED, Look(), race, behind, 3, (0.12, 0.12), as_planned(behind, race), NOW)
    without = replace(race, drops=tuple(pulse for pulse in race.drops if pulse.valve == 0))
    both, front = photograph(frame).astype(float), photograph(replace(frame, sequence=without)).astype(float)
    assert np.abs(both - front).mean() > 1.0


def test_a_valve_beside_the_frame_leaves_the_picture_as_it_is():
    beside = put(TIDAL_MILL, "valves.0.aside_m", 1.0)
    frame = Frame(RIG, SEED, Look(), START, beside, 3, (0.12,), as_planned(beside, START), NOW)
    nothing = replace(frame, sequence=replace(START, drops=()))
    # Its rings may cross the frame; nothing stands in it.
    assert np.abs(photograph(frame).astype(float) - photograph(nothing))[:500].mean() < 1.0


def test_splashes_side_by_side_stand_before_one_backdrop():
    """No seam between them: along a row of the backdrop no step is greater than the noise."""
    frame = Frame(RIG, SEED, Look(), RACE, MILL_RACE, 3, (0.12, 0.12), as_planned(MILL_RACE, RACE), NOW)
    rows = photograph(frame)[20:60].astype(float).mean(axis=(0, 2))
    assert np.abs(np.diff(rows)).max() < 1.5


def test_a_valve_with_a_liquid_of_its_own_lets_its_colour_fall():
    """Its splash is blue where it was red; the other valve's, and the room, look as before."""
    race = replace(RACE, flashes=RACE.flashes[:1])
    blue = replace(MILL_RACE.mix, tint="#1028ff")
    own = replace(MILL_RACE, valves=(MILL_RACE.valves[0], replace(MILL_RACE.valves[1], liquid=blue)))
    frames = [
        Frame(RIG, SEED, Look(), race, how, 3, (0.12, 0.12), as_planned(how, race), NOW) for how in (MILL_RACE, own)
    ]
    before, after = (photograph(frame).astype(float) for frame in frames)
    changed = after - before
    # Red absorbs green most, blue absorbs red most.
    differs = np.abs(changed).mean(axis=2) > 12
    assert differs[:, 620:].sum() > 300 and differs[:, :560].sum() < 0.02 * differs.sum()
    gained = changed[differs].mean(axis=0)
    assert gained[1] > gained[0] and gained[0] < 0
