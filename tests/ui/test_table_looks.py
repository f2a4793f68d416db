"""The stages, measured: light in the dark room, names, focus, keys; and what a restart brings back."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QComboBox, QLineEdit, QWidget

from ondine.core.light.anchor import BLACK, RatedFrame
from ondine.core.setup import FlashFiredBy, Method
from ondine.core.setup.fields import leaves, read
from ondine.core.table.focus import STEPS
from ondine.core.units import Length
from ondine.demo.scenario import TIDAL_MILL
from ondine.logbook.file import claim
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.studio import Studio
from ondine.ui.kit.fields import ChoiceField, QuantityField, YesNoField
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.table.stages import STAGES
from ondine.ui.table.tools import TableTools
from tests.conftest import TestCamera
from tests.ui.test_looks import grabbed
from tests.ui.test_table import opened, typed

PRESS = Qt.MouseButton.LeftButton
KEYS = [stage.key for stage in STAGES]


@pytest.mark.parametrize("key", KEYS)
def test_no_stage_is_a_lamp_in_the_dark_room(bench, qtbot, key):
    bench.window.set_theme(DARKROOM)
    opened(bench, key)
    qtbot.wait(20)
    pixels = grabbed(bench.window)
    linear = np.where(pixels <= 0.04045, pixels / 12.92, ((pixels + 0.055) / 1.055) ** 2.4)
    # The caret of a field that is being typed in is Qt's own.
    assert np.percentile(pixels[..., 1:].max(axis=2), 99.9) < 0.02
    assert (linear @ [0.2126, 0.7152, 0.0722]).mean() < 0.02


@pytest.mark.parametrize("key", KEYS)
def test_every_control_of_a_stage_has_a_name_and_is_reached_by_tab(bench, key):
    stage = opened(bench, key)
    kinds = QAbstractButton | QAbstractSpinBox | QLineEdit | QComboBox
    controls = [
        w
        for w in stage.panel.findChildren(QWidget)
        if isinstance(w, kinds)
        and w.isVisible()
        and w.isEnabled()
        and not isinstance(w.parent(), QAbstractSpinBox | QComboBox)
    ]
    assert controls or key == "safe"
    for control in controls:
        named = control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")
        assert named, (key, control)
    if not controls:
        return
    controls[0].setFocus()
    reached = {controls[0]}
    for _ in range(150):
        bench.window.focusNextChild()
        reached.add(bench.window.focusWidget())
    assert set(controls) <= reached, [c.accessibleName() for c in controls if c not in reached]


@pytest.mark.parametrize("theme", [DAY, DARKROOM])
def test_focus_is_seen_on_the_marks_and_on_every_kind_of_field(bench, qtbot, theme):
    bench.window.set_theme(theme)
    stage = opened(bench, "rig")
    form = stage.flashes.currentWidget()
    shown = [
        bench.window.side.edge.marks["valve"],
        bench.window.side.page.drawing,
        stage.form.fields["bowl.depth_m"],
        form.fields["light.units.0.place"],
        form.fields["light.units.0.guard"],
        stage.add,
    ]
    for control in shown:
        bench.window.header.log.setFocus()
        qtbot.wait(5)
        before = grabbed(control)
        control.setFocus()
        qtbot.wait(5)
        assert np.abs(grabbed(control) - before).max() > 0.1, control


@pytest.mark.parametrize("key", KEYS)
def test_a_stage_follows_what_is_changed_elsewhere(bench, key):
    """Every field of every stage shows what the set-up holds after it was replaced as a whole."""
    stage = opened(bench, key)
    other = TIDAL_MILL
    for path, value in (
        ("rig.nozzle_height_m", 0.41), ("rig.orifice_diameter_m", 2.1e-3), ("bowl.depth_m", 0.06),
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
                assert field.currentText() == str(wanted), path
            elif isinstance(field, YesNoField):
                assert field.isChecked() == wanted, path


def test_wheel_and_shift_step_a_field_finely_and_coarsely(bench, qtbot):
    stage = opened(bench, "rig")
    field = stage.form.fields["rig.nozzle_height_m"]
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert bench.studio.composer.setup.rig.nozzle_height_m == pytest.approx(0.366)
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.setup.rig.nozzle_height_m == pytest.approx(0.371)
    qtbot.keyClick(field, Qt.Key.Key_PageDown)
    assert bench.studio.composer.setup.rig.nozzle_height_m == pytest.approx(0.366)


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


def test_marks_are_drawn_only_on_what_they_speak_of(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    assert {place for place, _ in drawing.marks} <= {h.key for h in drawing.handles()} | {"water", "bowl"}
    opened(bench, "safe")
    assert len(drawing.marks) >= 6 and drawing.marks[0][0] == "flash 0"


def test_the_drawing_keeps_its_scale_while_a_hand_drags(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    before = drawing._scale
    start = drawing.place("nozzle")
    QTest.mousePress(drawing, PRESS, pos=start.toPoint())
    QTest.mouseMove(drawing, (start - QPointF(0, 120)).toPoint())
    assert drawing._scale == before
    QTest.mouseRelease(drawing, PRESS, pos=(start - QPointF(0, 120)).toPoint())
    assert drawing._scale != before
    assert drawing.place("head").y() > 0


@pytest.mark.parametrize("length", list(Length))
def test_the_nudge_of_the_drawing_is_a_step_of_the_unit(bench, qtbot, length):
    opened(bench, "rig")
    bench.window.side.tools.editor.set_units(length=length)
    drawing = bench.window.side.page.drawing
    drawing.setFocus()
    qtbot.keyClick(drawing, Qt.Key.Key_Up)
    step = bench.studio.composer.setup.rig.nozzle_height_m - 0.365
    assert step == pytest.approx(0.0016 if length is Length.INCH else 0.001, abs=1e-5)


def test_a_press_beside_every_handle_takes_nothing(bench):
    opened(bench, "rig")
    before = bench.studio.composer.setup
    drawing = bench.window.side.page.drawing
    QTest.mousePress(drawing, PRESS, pos=QPointF(20, drawing.height() - 40).toPoint())
    QTest.mouseMove(drawing, QPointF(90, drawing.height() - 90).toPoint())
    QTest.mouseRelease(drawing, PRESS)
    assert bench.studio.composer.setup == before


def test_a_restart_brings_back_all_that_was_done_at_the_table(bench, qtbot):
    tools = bench.window.side.tools
    valve = opened(bench, "valve")
    typed(valve.rows.grams[0], "1.61")
    tools.editor.set_units(length=Length.CM)
    for step in range(len(STEPS)):
        tools.checks.tick_focus(step)
    tools.library.keep_mix("Mine")
    tools.library.keep_flash(1)
    tools.light.rate_frame("subject", RatedFrame(tools.light.settings_of_trial(), BLACK))
    tools.light.set_clouding(1.5)
    tools.editor.edit("rig.nozzle_height_m", 0.42)
    bench.settle(qtbot)
    bench.window.close()
    claimed = claim(bench.path)
    again = Studio(
        lambda: Logbook(claimed), take_snapshot(claimed, 10), bench.controller, TestCamera(), bench.clock, lambda _: None,
        bench.studio.composer.plan, "Again",
    )  # fmt: skip
    kept = TableTools(again, ShotInView())
    try:
        assert again.composer.setup.rig.nozzle_height_m == 0.42
        assert kept.valve.weighings[0].grams == 1.61 and kept.editor.units.length is Length.CM
        assert all(kept.checks.focus.done) and kept.checks.focus.moved(again.composer.setup) == (
            "Nozzle over the water",
        )
        assert kept.library.mixes == {"Mine": TIDAL_MILL.mix}
        assert kept.library.flashes["Unit B"] == TIDAL_MILL.light.units[1]
        assert kept.light.session.clouding_stops == 1.5 and kept.light.session.subject[0].rating == BLACK
    finally:
        again.close()


def test_a_unit_of_the_library_stands_where_the_one_before_stood(bench):
    stage = opened(bench, "flash")
    tools = bench.window.side.tools
    tools.library.keep_flash(1)
    stage.library.activated.emit(stage.library.findText("Unit B"))
    taken = bench.studio.composer.setup.light.key
    stood = TIDAL_MILL.light.key
    assert taken.guide_number_m == TIDAL_MILL.light.units[1].guide_number_m
    assert (taken.x_m, taken.height_m, taken.place) == (stood.x_m, stood.height_m, stood.place)
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == TIDAL_MILL


def test_the_method_changes_checklist_and_cautions(bench):
    stage = opened(bench, "safe")
    stage.form.fields["method"].edited.emit(Method.SOUND)
    words = [b.accessibleName() for b in stage.ticks.buttons if b.isVisible()]
    assert "Eye protection on" in words and "Backstop stands, nobody in line" in words
    QTest.mouseClick(stage.ticks.buttons[0], PRESS)
    assert 0 < bench.window.side.edge.marks["safe"].share < 1
    for pressed in stage.ticks.buttons[1 : len(words)]:
        QTest.mouseClick(pressed, PRESS)
    assert bench.window.side.edge.marks["safe"].share == 1.0


def test_the_bowl_remembers_its_drops_until_it_is_changed(bench, qtbot):
    stage = opened(bench, "liquid")
    qtbot.keyClick(bench.window, Qt.Key.Key_F2)
    qtbot.keyClick(bench.window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    opened(bench, "liquid")
    assert stage.glass._bowl[1].startswith("2 drops have gone in")
    QTest.mouseClick(stage.changed, PRESS)
    assert stage.glass._bowl[1].startswith("0 drops have gone in")


def test_batches_that_cannot_be_mixed_are_refused(bench):
    stage = opened(bench, "liquid")
    typed(stage.batch, "0")
    assert "batch of nothing" in bench.window.side.page.refusal.text()
    typed(stage.batch, "250")
    assert stage.glass._grams["water"] == pytest.approx(250 * 0.84)
    typed(stage.form.fields["mix.milk_mass_fraction"], "90")
    assert "make 106 %" in bench.window.side.page.refusal.text()
    assert bench.studio.composer.setup.mix.milk_mass_fraction == 0


def test_the_chain_says_what_is_wrong_in_either_school(bench):
    stage = opened(bench, "trigger")
    tools = bench.window.side.tools
    assert stage.chain.accessibleDescription() == "The light falls while the shutter is open."
    tools.editor.edit("camera.exposure_s", 0.1)
    assert "shut again" in stage.chain.accessibleDescription()
    tools.editor.edit("triggers.flash_fired_by", FlashFiredBy.CAMERA)
    assert stage.chain.accessibleDescription() == "The light falls while the shutter is open."
    tools.editor.edit("camera.exposure_s", 1 / 1000)
    assert "sync speed" in stage.chain.accessibleDescription()
    assert bench.window.side.edge.marks["trigger"].share == 0.3
    shown = [p for p, f in stage.times.fields.items() if f.isVisible()]
    assert "triggers.sync_speed_s" in shown and "triggers.shutter_lead_s" not in shown


def test_sittings_begin_anew_and_rooms_have_a_temperature(bench, qtbot):
    stage = opened(bench, "keep")
    typed(stage.temperature, "80")
    assert "A room is between" in bench.window.side.page.refusal.text()
    typed(stage.temperature, "17")
    assert bench.studio.sitting.facts.temperature_c == 17
    QTest.mouseClick(stage.new, PRESS)
    assert not bench.studio.sitting.preflight_done
    bench.settle(qtbot)
    assert "Before" in stage.sittings.item(0).text()


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

    reachable = {"name", "method", *stage_liquid.MEASURED, *stage_rig.PLACES, *stage_trigger.LAGS}
    for module in (stage_colour, stage_dials, stage_expose, stage_frame, stage_freeze, stage_liquid, stage_valve):
        reachable |= set(module.FIELDS)
    reachable |= {*stage_trigger.ALWAYS, *stage_trigger.TIMES}
    reachable |= {f"light.units.0.{n}" for n in (*stage_flash.LEFT, *stage_flash.RIGHT, *stage_rig.FLASH)}
    elsewhere = {
        "camera.name", "camera.sensor_width_m", "camera.pupil_ratio", "camera.water_line_share", "other",
        "rig.flow_sd_m3_s", "rig.dead_time_sd_s",
    }  # fmt: skip
    for path, _ in leaves(TIDAL_MILL):
        skipped = path.startswith(("beliefs.", "light.units.1.")) or ".durations." in path
        assert skipped or path in reachable | elsewhere, path
