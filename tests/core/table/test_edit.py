from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.forecast.whole import forecast
from ondine.core.light.lens import distance_at_m, subject_to_sensor_m
from ondine.core.setup.compare import differences
from ondine.core.setup.fields import put, read
from ondine.core.setup.wire import setup_from_json
from ondine.core.table.edit import EditError, check, edited, with_ruler
from ondine.core.table.results import table_results
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.units import Length, Units
from ondine.demo.scenario import TIDAL_MILL
from tests.calibrated import TAUGHT

ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 300_000)


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        ("valves.0.nozzle_height_m", -0.1, "Nozzle over the water: -100 mm cannot be. Give 20 mm to 3000 mm"),
        ("valves.0.flow_m3_s", 0.0, "Flow while open"),
        ("mix.temperature_c", 70.0, "Temperature: 70 °C cannot be. Give 0 °C to 40 °C"),
        ("mix.milk_mass_fraction", 0.9, "make 106 %"),
        ("bowl.landing_m", 0.2, "fall beside the bowl"),
        ("camera.height_m", 0.01, "would stand in the bowl"),
        ("light.units.0.x_m", 0.005, "in the way of the drops"),
        ("valves.0.dead_time_s", 0.1, "Nothing would flow"),
        ("camera.front_glass_m", -0.01, "Front glass from the drops: -10 mm"),
    ],
)
def test_a_table_that_cannot_stand_is_refused_in_words(path, value, says):
    near = replace(TIDAL_MILL.camera, front_glass_m=0.09)
    setup = replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], max_open_us=90_000),), camera=near)
    with pytest.raises(EditError, match=says):
        edited(setup, path, value)


def test_limits_are_said_in_the_units_of_the_window():
    with pytest.raises(EditError, match=r"0\.79 in to 118\.11 in"):
        edited(TIDAL_MILL, "valves.0.nozzle_height_m", 9.0, Units(Length.INCH))


def test_a_camera_that_moves_changes_its_magnification():
    closer = edited(TIDAL_MILL, "camera.front_glass_m", 0.20)
    assert closer.camera.magnification > TIDAL_MILL.camera.magnification
    moved = distance_at_m(0.09, TIDAL_MILL.camera.magnification) - distance_at_m(0.09, closer.camera.magnification)
    assert moved == pytest.approx(0.02)
    back = edited(closer, "camera.front_glass_m", TIDAL_MILL.camera.front_glass_m)
    assert back.camera.magnification == pytest.approx(TIDAL_MILL.camera.magnification)


def test_magnification_and_lens_move_what_hangs_on_them():
    wide = edited(TIDAL_MILL, "camera.magnification", 0.25)
    assert wide.camera.front_glass_m > TIDAL_MILL.camera.front_glass_m
    longer = edited(TIDAL_MILL, "camera.focal_length_m", 0.105)
    assert longer.camera.front_glass_m == TIDAL_MILL.camera.front_glass_m
    assert longer.camera.magnification > TIDAL_MILL.camera.magnification
    ruled = with_ruler(TIDAL_MILL.camera, 0.094)
    assert ruled.magnification == pytest.approx(0.25) and ruled.frame_width_m == pytest.approx(0.094)


EDITS = st.sampled_from(
    [
        ("valves.0.nozzle_height_m", 0.1, 1.0), ("valves.0.head_m", 0.02, 0.5), ("bowl.diameter_m", 0.1, 0.5),
        ("bowl.depth_m", 0.005, 0.1), ("bowl.landing_m", -0.2, 0.2), ("camera.front_glass_m", 0.02, 1.0),
        ("camera.magnification", 0.05, 1.5), ("camera.focal_length_m", 0.03, 0.2), ("camera.height_m", 0.0, 0.5),
        ("camera.f_number", 2.8, 45.0), ("light.units.0.x_m", -1.0, 1.0), ("light.units.0.power", 1 / 300, 1.0),
        ("mix.glycerine_mass_fraction", 0.0, 1.2), ("mix.milk_mass_fraction", 0.0, 1.0), ("mix.temperature_c", -5.0, 50.0),
    ]
)  # fmt: skip


@given(st.lists(st.tuples(EDITS, st.floats(0, 1)), max_size=12))
@settings(max_examples=60)
def test_no_run_of_edits_leads_to_a_table_that_cannot_stand(run):
    setup = TIDAL_MILL
    for (path, low, high), share in run:
        try:
            setup = edited(setup, path, low + share * (high - low))
        except EditError as error:
            assert str(error)[0].isupper() and str(error).rstrip().endswith((".", "%"))
        check(setup, Units())
    # Whatever was done, camera and lens stay one thing.
    camera = setup.camera
    assert camera.front_glass_m < subject_to_sensor_m(camera.focal_length_m, camera.magnification)
    assert setup_from_json(setup.to_json()) == setup
    assert table_results(forecast(setup, TAUGHT, ONE)).energy_j >= 0


@given(EDITS, st.floats(0, 1))
def test_an_edit_changes_its_field_and_little_else(edit, share):
    path, low, high = edit
    value = low + share * (high - low)
    try:
        made = edited(TIDAL_MILL, path, value)
    except EditError:
        return
    assert read(made, path) == pytest.approx(value)
    changed = {d.path for d in differences(TIDAL_MILL, made)}
    linked = {"camera.front_glass_m", "camera.magnification", "camera.focal_length_m"}
    assert changed <= ({path} | linked if path in linked else {path})
    back = put(made, path, read(TIDAL_MILL, path))
    assert path in linked or back == TIDAL_MILL
