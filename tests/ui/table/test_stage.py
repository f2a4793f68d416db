import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from ondine.core.setup import FlashFiredBy, Method
from ondine.core.setup.fields import leaves, read
from ondine.demo.scenario import TIDAL_MILL
from ondine.ui.kit.fields import ChoiceField, QuantityField, YesNoField
from ondine.ui.table.stages import STAGES
from tests.ui.hands import opened

KEYS = [stage.key for stage in STAGES]


@pytest.mark.parametrize("key", KEYS)
def test_a_stage_follows_what_is_changed_elsewhere(bench, key):
    """Every field of every stage shows what the set-up holds after it was replaced as a whole."""
    stage = opened(bench, key)
    other = TIDAL_MILL
    for path, value in (
        ("valves.0.nozzle_height_m", 0.41), ("valves.0.orifice_diameter_m", 2.1e-3), ("bowl.depth_m", 0.06),
        ("mix.glycerine_mass_fraction", 0.31), ("camera.iso", 400), ("light.max_iso", 1600), ("light.background_m", 0.5),
        ("triggers.flash_fired_by", FlashFiredBy.CAMERA), ("box.step_us", 2_000), ("method", Method.DRIP), ("name", "Another"),
        ("light.units.0.zoom_mm", 70.0),
    ):  # fmt: skip
        from ondine.core.setup.fields import put

        other = put(other, path, value)
    bench.studio.composer.use_setup(other)
    forms = [w for w in stage.panel.findChildren(QWidget) if hasattr(w, "titles") and w.isVisible()]
    assert forms or key == "safe"
    for form in forms:
        for path, field in form.fields.items():
            wanted = read(other, path)
            if isinstance(field, QuantityField):
                assert field.value() == pytest.approx(field._how.shown(wanted), abs=10 ** -field.decimals()), path
            elif isinstance(field, ChoiceField):
                assert field.currentText() == getattr(wanted, "says", str(wanted)), path
            elif isinstance(field, YesNoField):
                assert field.isChecked() == wanted, path


def test_wheel_and_shift_step_a_field_finely_and_coarsely(bench, qtbot):
    stage = opened(bench, "rig")
    field = stage.valves.form.fields["valves.0.nozzle_height_m"]
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == pytest.approx(0.366)
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == pytest.approx(0.371)
    qtbot.keyClick(field, Qt.Key.Key_PageDown)
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == pytest.approx(0.366)


def test_letters_are_text_in_a_stage_and_digits_do_not_leave_it(bench, qtbot):
    stage = opened(bench, "keep")
    shots = bench.studio.writer.logbook.shots.count()
    place = stage.words["place"]
    place.setFocus()
    QTest.keyClicks(place, "Mill loft 2")
    assert place.text() == "Mill loft 2" and bench.window.pages.currentWidget() is bench.window.side.page
    opened(bench, "rig")
    qtbot.keyClick(bench.window.side.page.drawing, Qt.Key.Key_2)
    qtbot.keyClick(bench.window.side.page.drawing, Qt.Key.Key_F)
    bench.settle(qtbot)
    assert bench.window.pages.currentWidget() is bench.window.side.page
    assert bench.studio.writer.logbook.shots.count() == shots and bench.window.in_view.shot.shapes == ("crown",)


def test_no_field_of_the_set_up_is_out_of_reach():
    """Every field a photographer decides about stands on some stage."""
    from ondine.ui.table import (
        stage_colour,
        stage_dials,
        stage_expose,
        stage_flash,
        stage_frame,
        stage_freeze,
        stage_liquid,
        stage_rig,
        stage_trigger,
        stage_valve,
    )

    reachable = {"name", "method", "bowl.tint", *stage_rig.PLACES, *stage_trigger.LAGS}
    for module in (stage_colour, stage_dials, stage_expose, stage_frame, stage_freeze):
        reachable |= set(module.FIELDS)
    liquid = (*stage_liquid.FIELDS, *stage_liquid.MEASURED)
    reachable |= {f"mix.{n}" for n in liquid}
    reachable |= {*stage_trigger.ALWAYS, *stage_trigger.TIMES}
    reachable |= {f"valves.0.{n}" for n in (*stage_valve.FIELDS, *stage_rig.VALVE)}
    reachable |= {f"light.units.0.{n}" for n in (*stage_flash.LEFT, *stage_flash.RIGHT, *stage_rig.FLASH)}
    elsewhere = {
        "camera.name", "camera.sensor_width_m", "camera.pupil_ratio", "camera.water_line_share", "other",
        "valves.0.flow_sd_m3_s", "valves.0.dead_time_sd_s", "valves.0.liquid",  # given by a button
        "valves.0.outlet_diameter_m",  # measured, or taken back
    }  # fmt: skip
    for path, _ in leaves(TIDAL_MILL):
        skipped = path.startswith(("beliefs.", "light.units.1.")) or ".durations." in path
        assert skipped or path in reachable | elsewhere, path
