"""Every stage with tables at their limits: nothing fails, nothing is left blank, nothing runs out of its place."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QRectF

from ondine.core.setup import (
    Box,
    DurationPoint,
    Flash,
    FlashFiredBy,
    FlashKind,
    Light,
    Method,
    Mix,
    Place,
    Release,
    Setup,
    Triggers,
)
from ondine.core.table.edit import with_magnification
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.units import Length, Temperature, Units
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.ui.kit.theme import DARKROOM
from ondine.ui.table.elevation import Elevation, reach_m
from ondine.ui.table.handles import handles, moved, nudged
from ondine.ui.table.stages import STAGES
from tests.ui.hands import grabbed, opened

KEYS = [stage.key for stage in STAGES]
ONE_WEAK = Sequence.with_one_flash((Pulse(0, 1_000),), 300_000)
FOUR = START
while len(FOUR.drops) < 4:
    FOUR = FOUR.with_drop_added()

MANY = tuple(
    Flash(f"Unit {name}", place=place, x_m=x, height_m=h, aside_m=a)
    for name, place, x, h, a in (
        ("A", Place.BEHIND, -1.2, 0.9, 0.0), ("B", Place.BOWL, 0.1, 0.02, 0.2),
        ("C", Place.ABOVE, 0.05, 0.8, 0.0), ("D", Place.BOUNCED, -0.3, 0.1, 0.3),
    )
)  # fmt: skip

TABLES: dict[str, tuple[Setup, Sequence]] = {
    "fresh": (Setup(), START),
    "no drop falls": (TIDAL_MILL, ONE_WEAK),
    "four drops": (TIDAL_MILL, FOUR),
    "tall": (replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=2.5, head_m=1.5),)), START),
    "low": (replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=0.02),)), START),
    "four flashes": (replace(TIDAL_MILL, light=Light(MANY)), START),
    "close up": (replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, magnification=1.5)), START),
    "far away": (replace(TIDAL_MILL, camera=with_magnification(TIDAL_MILL.camera, 0.03)), START),
    "upright": (replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, portrait=True, water_line_share=0.0)), START),
    "syrup": (replace(TIDAL_MILL, mix=Mix(glycerine_mass_fraction=0.98, temperature_c=2.0)), START),
    "all parts": (
        replace(TIDAL_MILL, mix=Mix(0.2, 0.2, 0.1, 0.005, 0.5, 0.1, "#123456", 38.0, 1010.0, 0.02, 0.05)),
        START,
    ),
    "by hand": (
        replace(
            TIDAL_MILL,
            method=Method.OBJECT,
            box=Box(in_use=True, step_us=7_000, most_us=90_000),
            triggers=Triggers(flash_fired_by=FlashFiredBy.CAMERA, release=Release.HAND, mirror_up=False),
        ),
        START,
    ),
    "studio flash": (
        replace(
            TIDAL_MILL,
            light=Light((Flash(kind=FlashKind.VOLTAGE, least_power=0.5, power=0.5, automatic=True, high_speed_sync=True,
                               durations=(DurationPoint(1.0, 1e-3),)),)),
        ),
        START,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", list(TABLES))
def test_every_stage_can_show_it(bench, qtbot, name):
    setup, sequence = TABLES[name]
    bench.studio.composer.use_setup(setup)
    bench.studio.composer.use_sequence(sequence)
    for index, key in enumerate(KEYS):
        stage = opened(bench, key)
        if index == 5:
            bench.window.side.tools.editor.units = Units(Length.INCH, Temperature.FAHRENHEIT)
        picture = grabbed(stage.figure)
        # Something is drawn: a blank figure would be one colour.
        assert picture.std() > 0.01, key
    bench.window.side.toggle_card()
    assert grabbed(bench.window.side.card).std() > 0.01
    bench.window.navigation.go_back()
    assert not bench.window.side.page.refusal.text() or name in ("four drops",)


@pytest.mark.parametrize("name", ["no drop falls", "four flashes", "studio flash", "by hand"])
def test_the_dark_room_can_show_it_too(bench, name):
    bench.window.set_theme(DARKROOM)
    setup, sequence = TABLES[name]
    bench.studio.composer.use_setup(setup)
    bench.studio.composer.use_sequence(sequence)
    for key in KEYS:
        stage = opened(bench, key)
        assert grabbed(stage.figure)[..., 1:].max() < 0.05, key


@pytest.mark.parametrize("name", list(TABLES))
def test_the_whole_table_fits_the_drawing(name):
    setup, _ = TABLES[name]
    room = QRectF(0, 0, 780, 740)
    scale = Elevation.fitting(setup, room, 520)
    left, right, top, foot = reach_m(setup)
    for x, height in ((left, top), (right, -foot), (0.0, setup.valves[0].nozzle_height_m)):
        spot = scale.point(x, height)
        assert room.adjusted(-1, -1, 1, 1).contains(spot), (x, height)
        assert scale.spot_m(spot) == pytest.approx((x, height))
    for handle in handles(setup):
        assert room.adjusted(-1, -1, 1, 1).contains(scale.point(handle.x_m, handle.height_m)), handle.key


@pytest.mark.parametrize("name", list(TABLES))
def test_a_handle_that_is_put_where_it_is_changes_nothing(name):
    from ondine.core.setup.fields import read

    setup, _ = TABLES[name]
    for handle in handles(setup):
        for path, value in moved(setup, handle, handle.x_m, handle.height_m):
            assert value == pytest.approx(read(setup, path), abs=1e-4), (handle.key, path)


def test_a_nudge_moves_only_along_its_arrow():
    grips = {h.key: h for h in handles(TIDAL_MILL)}
    ((path, value),) = nudged(TIDAL_MILL, grips["camera"], 1, 0, 0.001)
    assert path == "camera.front_glass_m" and value == pytest.approx(0.221)
    ((path, value),) = nudged(TIDAL_MILL, grips["camera"], 0, 1, 0.005)
    assert path == "camera.height_m" and value == pytest.approx(0.036)
    assert nudged(TIDAL_MILL, grips["nozzle 0"], 1, 0, 0.001) == []
    ((path, value),) = nudged(TIDAL_MILL, grips["rim"], 1, 0, 0.001)
    assert path == "bowl.diameter_m" and value == pytest.approx(0.262)
    ((path, value),) = nudged(TIDAL_MILL, grips["floor"], 0, -1, 0.001)
    assert path == "bowl.depth_m" and value == pytest.approx(0.046)
