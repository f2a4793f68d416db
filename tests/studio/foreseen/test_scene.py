"""The staged scene, against the forecast that it is staged from."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import MILL_RACE, ONE, PAIR, RACE, TIDAL_MILL
from ondine.picture.pack import pack
from ondine.studio.foreseen.scene import foreseen_scene
from tests.calibrated import TAUGHT


def staged(drops, time_ms, setup=TIDAL_MILL):
    sequence = drops if isinstance(drops, Sequence) else Sequence.with_one_flash(drops, 0)
    what = forecast(setup, TAUGHT, sequence, sample_rigs(TAUGHT, 2))
    now = at_instant(what, round(time_ms * 1000))
    return foreseen_scene(what, now), what, now


@pytest.mark.parametrize(
    ("drops", "time_ms", "stands"),
    [(ONE, 200, "blobs"), (ONE, 268, "crown"), (ONE, 330, "column"), (PAIR, 355, "sheets")],
)
def test_each_stage_of_a_splash_stands_at_its_time(drops, time_ms, stands):
    scene, *_ = staged(drops, time_ms)
    if stands in ("blobs", "sheets"):
        assert getattr(scene, stands)
    elif stands == "crown":
        assert scene.spots[0].crown.height > 3 and scene.spots[0].pool.crater_depth > 2
    else:
        assert scene.spots[0].column.top > 3 and not scene.sheets


def test_places_and_sizes_are_the_outlines():
    """What the picture shows and what the thin lines over it show are the same rig's."""
    scene, what, now = staged(PAIR, 355)
    drawn = outline(what, now)
    (sheet,), (form,) = scene.sheets, drawn.sheets
    assert sheet.radius == pytest.approx(form.profile[:, 0].max() * 1e3, rel=1e-6)
    assert sheet.height == pytest.approx(form.profile[0, 1] * 1e3, rel=1e-6)
    # The column that the second drop has stopped is of the first one's crater.
    (column,) = drawn.columns
    assert scene.spots[0].column.base_radius == pytest.approx(column.profile[0, 0] * 1e3, rel=1e-6)
    scene, what, now = staged(ONE, 330)
    (column,) = outline(what, now).columns
    stands = scene.spots[0].column
    assert stands.top + stands.tip_radius == pytest.approx(column.profile[-1, 1] * 1e3, rel=1e-6)


def test_splashes_of_two_valves_stand_where_their_valves_let_fall():
    scene, *_ = staged(RACE, 356, MILL_RACE)
    assert sorted(spot.x for spot in scene.spots) == [-14.0, 14.0]
    behind = replace(MILL_RACE, valves=(MILL_RACE.valves[0], replace(MILL_RACE.valves[1], aside_m=0.0, x_m=-0.02)))
    scene, *_ = staged(RACE, 356, behind)
    # Away from the camera is +y.
    assert {(spot.x, spot.y) for spot in scene.spots} == {(-14.0, 0.0), (0.0, 20.0)}


PULSES = st.lists(st.tuples(st.integers(20, 200), st.integers(8, 40), st.integers(0, 1)), min_size=1, max_size=8)


@given(PULSES, st.integers(0, 1200))
def test_any_train_at_any_time_can_be_staged_and_packed(gaps, time_ms):
    start, drops = 0, []
    for gap, open_ms, valve in gaps:
        start += gap * 1000
        drops.append(Pulse(start, open_ms * 1000, valve))
    scene, *_ = staged(tuple(drops), time_ms, MILL_RACE)
    assert np.all(np.isfinite(pack(scene)))
    assert all(blob.across > 0 and blob.upright > 0 for blob in scene.blobs)
    assert all(sheet.radius > 0 for sheet in scene.sheets)


def test_what_stands_on_one_spot_is_one_spot():
    scene, *_ = staged((*PAIR, Pulse(190_000, 22_000)), 480)
    assert len(scene.spots) == 1


def test_what_falls_from_a_valve_keeps_its_own_colour_in_all_that_it_becomes():
    blue = replace(MILL_RACE.mix, tint="#2040ff")
    own = replace(MILL_RACE, valves=(MILL_RACE.valves[0], replace(MILL_RACE.valves[1], liquid=blue)))
    sheets = set()
    for time_ms in (250, 300, 340, 356, 370, 380):
        scene, *_ = staged(RACE, time_ms, own)
        parts = [*scene.spots, *scene.sheets, *scene.blobs]
        sheets |= {sheet.ink for sheet in scene.sheets}
        assert parts and {part.ink for part in parts} <= {0, 1}
        for part in parts:
            # The two spots stand 28 mm apart: what is to the right of the middle came from valve B.
            if abs(part.x) > 2:
                assert part.ink == (part.x > 0), (time_ms, part)
    assert sheets == {0, 1}
    scene, *_ = staged(RACE, 356, MILL_RACE)
    assert not any(part.ink for part in (*scene.spots, *scene.sheets, *scene.blobs))
