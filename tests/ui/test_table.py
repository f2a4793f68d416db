"""The table page, by mouse and by keyboard, on the real widgets."""

import json
from dataclasses import replace

import pytest
from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QLabel, QScrollArea, QWidget

from ondine.core.setup import FlashFiredBy, Mix
from ondine.core.units import Length, Temperature
from ondine.demo.scenario import TIDAL_MILL
from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.table.stages import STAGES

PRESS = Qt.MouseButton.LeftButton


def opened(bench, key: str):
    bench.window.side.open_stage(key)
    QTest.qWait(20)
    return bench.window.side.page.stages[key]


def typed(field: QWidget, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def drag(drawing, key: str, by: QPointF) -> None:
    start = drawing.place(key)
    QTest.mousePress(drawing, PRESS, pos=start.toPoint())
    for share in (0.3, 0.6, 1.0):
        QTest.mouseMove(drawing, (start + by * share).toPoint())
    QTest.mouseRelease(drawing, PRESS, pos=(start + by).toPoint())


def test_f2_and_the_edge_lead_to_the_stages_and_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F2)
    assert window.pages.currentWidget() is window.side.page and window.side.page.open_key == "rig"
    for stage in STAGES:
        QTest.mouseClick(window.side.edge.marks[stage.key], PRESS)
        assert window.side.page.open_key == stage.key and window.side.edge.marks[stage.key].isChecked()
    qtbot.keyClick(window, Qt.Key.Key_PageUp, Qt.KeyboardModifier.ControlModifier)
    assert window.side.page.open_key == "dials"
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.bench and not any(
        m.isChecked() for m in window.side.edge.marks.values()
    )


@pytest.mark.parametrize(
    ("handle", "by", "path", "sign"),
    [
        ("nozzle", QPointF(0, -40), "rig.nozzle_height_m", 1),
        ("head", QPointF(0, 20), "rig.head_m", -1),
        ("rim", QPointF(20, 0), "bowl.diameter_m", 1),
        ("floor", QPointF(0, 20), "bowl.depth_m", 1),
        ("landing", QPointF(-20, 0), "bowl.landing_m", 1),
        ("aim", QPointF(0, -4), "camera.water_line_share", -1),
        ("camera", QPointF(40, 0), "camera.front_glass_m", 1),
        ("flash 0", QPointF(-30, 0), "light.units.0.x_m", -1),
    ],
)
def test_every_handle_moves_its_number_and_one_undo_takes_it_back(bench, handle, by, path, sign):
    from ondine.core.setup.fields import read

    opened(bench, "rig")
    before = bench.studio.composer.setup
    drag(bench.window.side.page.drawing, handle, by)
    assert (read(bench.studio.composer.setup, path) - read(before, path)) * sign > 0
    assert bench.studio.composer.setup.revision != before.revision
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == before


def test_a_drag_changes_the_results_where_they_stand(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    before = drawing._results
    drag(drawing, "nozzle", QPointF(0, -30))
    after = drawing._results
    assert after.fall_s.mean > before.fall_s.mean and after.impact_m_s.mean > before.impact_m_s.mean
    assert "falls" not in drawing.accessibleDescription() or f"{after.fall_s.mean * 1e3:.0f} ms" in (
        drawing.accessibleDescription()
    )


def test_the_drawing_by_keyboard_alone(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F2)
    drawing = window.side.page.drawing
    assert drawing.hasFocus() and drawing.selection == "nozzle"
    qtbot.keyClick(drawing, Qt.Key.Key_Up)
    qtbot.keyClick(drawing, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.setup.rig.nozzle_height_m == pytest.approx(0.371)
    while drawing.selection != "camera":
        qtbot.keyClick(drawing, Qt.Key.Key_Comma)
    qtbot.keyClick(drawing, Qt.Key.Key_Right)
    assert bench.studio.composer.setup.camera.front_glass_m == pytest.approx(0.221)
    qtbot.keyClick(drawing, Qt.Key.Key_Semicolon)
    assert drawing.selection != "camera"


def test_what_cannot_be_is_said_where_it_happens_and_the_last_good_value_stays(bench):
    stage = opened(bench, "rig")
    page, before = bench.window.side.page, bench.studio.composer.setup
    typed(stage.form.fields["rig.nozzle_height_m"], "5")
    assert "Nozzle over the water: 5 mm cannot be" in page.refusal.text() and page.refusal.isVisible()
    assert bench.studio.composer.setup == before
    assert stage.form.fields["rig.nozzle_height_m"].value() == 365
    typed(stage.form.fields["bowl.landing_m"], "400")
    assert "fall beside the bowl" in page.refusal.text()
    typed(stage.form.fields["rig.nozzle_height_m"], "400")
    assert not page.refusal.isVisible() and bench.studio.composer.setup.rig.nozzle_height_m == 0.4
    liquid = opened(bench, "liquid")
    typed(liquid.form.fields["mix.glycerine_mass_fraction"], "120")
    assert "Glycerine: 120.0 % cannot be" in page.refusal.text()
    assert bench.studio.composer.setup.mix.glycerine_mass_fraction == 0.15


def test_units_change_what_is_shown_and_nothing_else(bench, qtbot):
    stage = opened(bench, "rig")
    before = bench.studio.composer.setup
    for length in [*Length, *Length, Length.INCH]:
        bench.window.side.tools.editor.set_units(length=length)
    bench.window.side.tools.editor.set_units(temperature=Temperature.FAHRENHEIT)
    qtbot.wait(10)
    assert bench.studio.composer.setup == before
    assert stage.form.fields["rig.nozzle_height_m"].text() == "14.37 in"
    assert "14.37 in" in bench.window.header.table.text() and "66 °F" in bench.window.header.table.text()
    typed(stage.form.fields["rig.nozzle_height_m"], "15")
    assert bench.studio.composer.setup.rig.nozzle_height_m == pytest.approx(0.381)
    bench.settle(qtbot)
    assert json.loads(bench.studio.writer.logbook.state.get("units")) == {"length": "in", "temperature": "°F"}


def test_weighing_driven_by_the_bench(bench, qtbot):
    stage = opened(bench, "valve")
    for index, grams in ((0, 1.60), (1, 2.93)):
        bench.controller.grams = grams
        QTest.mouseClick(stage.rows.dispense[index], PRESS)
        bench.settle(qtbot)
    assert len(bench.controller.poured) == 80
    assert stage.rows.grams[0].value() == 1.60 and stage.flow is not None
    assert "dead time" in stage.found.text() and stage.warning.text() == ""
    QTest.mouseClick(stage.use, PRESS)
    assert bench.studio.composer.setup.rig.flow_m3_s == pytest.approx(stage.flow.flow_m3_s)
    assert bench.window.side.edge.marks["valve"].share == 1.0
    # A third weighing that cannot be true.
    typed(stage.rows.grams[2], "4.5")
    assert "off the line" in stage.warning.text()
    typed(stage.rows.grams[1], "0")
    typed(stage.rows.grams[2], "0")
    assert "two open times" in stage.warning.text() and not stage.use.isEnabled()


def test_priming_flows_while_held_and_a_test_drop_falls_into_the_bowl(bench, qtbot):
    stage = opened(bench, "valve")
    QTest.mousePress(stage.prime, PRESS)
    QTest.mouseRelease(stage.prime, PRESS)
    bench.settle(qtbot)
    assert 1 <= len(bench.controller.poured) <= 30
    drops = bench.studio.bench.ledger.bowl_drops
    QTest.mouseClick(stage.test, PRESS)
    bench.settle(qtbot)
    assert bench.studio.bench.ledger.bowl_drops == drops + 1
    assert bench.controller.poured[-1].open_us == bench.studio.composer.sequence.drops[0].open_us
    QTest.mouseClick(stage.refilled, PRESS)
    assert bench.controller.fillings == 1 and bench.studio.bench.ledger.open_s == 0


def test_mixing_for_a_viscosity_and_measuring_one(bench):
    stage = opened(bench, "liquid")
    typed(stage.target, "3")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert bench.studio.composer.setup.mix.liquid().viscosity_pa_s == pytest.approx(3e-3, rel=1e-6)
    typed(stage.target, "0.2")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert "glycerine and water reach" in bench.window.side.page.refusal.text()
    measured = stage.measured["mix.measured_viscosity_pa_s"]
    typed(measured.field, "4.2")
    assert bench.studio.composer.setup.mix.measured_viscosity_pa_s == pytest.approx(4.2e-3)
    QTest.mouseClick(measured.back, PRESS)
    assert bench.studio.composer.setup.mix.measured_viscosity_pa_s is None
    stage.name.setText("Mine")
    QTest.mouseClick(stage.keep, PRESS)
    kept = bench.studio.composer.setup.mix
    stage.library.activated.emit(stage.library.findText("Whole milk"))
    assert bench.studio.composer.setup.mix.milk_mass_fraction == 1.0
    stage.library.activated.emit(stage.library.findText("Mine"))
    assert bench.studio.composer.setup.mix == kept


def test_a_mix_with_no_path_back_is_not_needed_undo_brings_it(bench):
    opened(bench, "liquid")
    bench.window.side.tools.library.use_mix(Mix(milk_mass_fraction=0.5))
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == TIDAL_MILL


def test_focus_is_ticked_and_asked_for_again_when_the_nozzle_moves(bench):
    stage = opened(bench, "frame")
    for pressed in stage.focus.buttons:
        QTest.mouseClick(pressed, PRESS)
    assert bench.window.side.edge.marks["frame"].share == 1.0 and stage.moved.text() == ""
    bench.window.side.tools.editor.edit("rig.nozzle_height_m", 0.40)
    assert "nozzle over the water" in stage.moved.text() and "Focus again" in stage.moved.text()
    assert bench.window.side.edge.marks["frame"].share == 0.0


def test_framing_by_mouse_wheel_key_and_ruler(bench, qtbot):
    stage = opened(bench, "frame")
    before = bench.studio.composer.setup.camera
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_Minus)
    assert bench.studio.composer.setup.camera.magnification < before.magnification
    assert bench.studio.composer.setup.camera.front_glass_m > before.front_glass_m
    qtbot.keyClick(stage.view, Qt.Key.Key_Up)
    assert bench.studio.composer.setup.camera.water_line_share == pytest.approx(0.19)
    typed(stage.ruler, "94")
    assert bench.studio.composer.setup.camera.magnification == pytest.approx(0.25)
    typed(stage.ruler, "0")
    assert "ruler" in bench.window.side.page.refusal.text()
    QTest.mouseClick(stage.form.fields["camera.portrait"], PRESS)
    assert bench.studio.composer.setup.camera.portrait
    bench.window.navigation.go_back()
    page = bench.window.bench
    splash = page.splash.mapTo(page, page.splash.rect().topLeft()).y() + page.splash.water_line()
    assert abs(splash - page.water_line()) < 1.5


def test_schools_and_lag_by_two_series(bench, qtbot):
    stage = opened(bench, "trigger")
    QTest.mouseClick(stage.fire[0], PRESS)
    assert (
        bench.studio.composer.setup.triggers.flash_fired_by is FlashFiredBy.CONTROLLER
        and len(bench.studio.composer.sequence.drops) == 1
    )
    stage.series[0].setText("18.0 18.4 17.7 18.1")
    QTest.mouseClick(stage.fire[1], PRESS)
    assert bench.studio.composer.setup.triggers.flash_fired_by is FlashFiredBy.CAMERA
    stage.series[1].setText("9.0, 12.1")
    stage.series[1].editingFinished.emit()
    assert "3 pictures or more" in stage.found.text() and not stage.use.isEnabled()
    stage.series[1].setText("9.0 12.1 10.2 8.4")
    stage.series[1].editingFinished.emit()
    assert "±" in stage.found.text()
    lag = bench.studio.composer.setup.triggers.shutter_lag_s
    QTest.mouseClick(stage.use, PRESS)
    # Eight millimetres at 2.6 m/s are three milliseconds.
    assert bench.studio.composer.setup.triggers.shutter_lag_s == pytest.approx(lag + 3.1e-3, abs=0.5e-3)
    stage.series[0].setText("nine")
    stage.series[0].editingFinished.emit()
    assert "Write heights in mm" in stage.found.text()


def test_a_height_is_measured_by_pressing_on_the_picture(bench, qtbot):
    stage = opened(bench, "trigger")
    bench.window.side.tools.editor.edit("triggers.flash_fired_by", FlashFiredBy.CONTROLLER)
    QTest.mouseClick(stage.measure, PRESS)
    qtbot.waitUntil(lambda: stage.picker._image() is not None, timeout=10_000)
    image = stage.picker._image()
    room, camera = stage.picker.placed(image), bench.studio.composer.setup.camera
    at = QPointF(room.center().x(), room.bottom() - room.height() * (camera.water_line_share + 0.3))
    QTest.mouseClick(stage.picker, PRESS, pos=at.toPoint())
    assert float(stage.series[0].text()) == pytest.approx(0.3 * camera.frame_height_m * 1e3, abs=0.2)


def test_the_dial_card_and_the_shot_logged_by_hand(bench, qtbot):
    stage = opened(bench, "dials")
    QTest.mouseClick(stage.form.fields["box.in_use"], PRESS)
    typed(stage.form.fields["box.step_us"], "5")
    assert "355 ms" in stage.card.accessibleDescription() and "largest error" in stage.cost.text()
    typed(stage.form.fields["box.most_us"], "200")
    assert "counts from" in stage.card.accessibleDescription()
    assert bench.window.side.edge.marks["dials"].share < 0.5
    typed(stage.form.fields["box.most_us"], "999")
    qtbot.keyClick(bench.window, Qt.Key.Key_F9)
    assert bench.window.pages.currentWidget() is bench.window.side.card
    assert "Wait 2 75 ms" in bench.window.side.card.accessibleDescription()
    qtbot.keyClick(bench.window.side.card, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.window.in_view.shot.sequence.flash_us == 355_000 and bench.controller.fired == []
    assert bench.window.pages.currentWidget() is bench.window.side.card
    assert not any(bench.window.side.card._changed)


def test_the_first_shot_asks_for_a_look_around(bench, qtbot):
    window = bench.window
    bench.studio.sitting.preflight_done = False
    shots = bench.studio.writer.logbook.shots.count()
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert window.navigation.before.isVisible() and bench.studio.writer.logbook.shots.count() == shots
    QTest.mouseClick(window.side.preflight.ticks.buttons[0], PRESS)
    assert "skipping 5" in window.side.preflight.go.text()
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert not window.navigation.before.isVisible() and bench.studio.writer.logbook.shots.count() == shots + 1
    record = bench.studio.writer.logbook.sittings.all()[0]
    assert "Looked after: Focus locked" in record.preflight and "Skipped: Camera's power save off" in record.preflight
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == shots + 2


def test_set_ups_are_kept_compared_and_restored(bench, qtbot):
    stage = opened(bench, "keep")
    QTest.mouseClick(stage.keep, PRESS)
    bench.settle(qtbot)
    assert stage.kept.list.item(0).text() == "Tidal Mill" and bench.window.side.edge.marks["keep"].share == 1.0
    bench.window.side.tools.editor.edit("rig.nozzle_height_m", 0.22)
    stage.kept.list.setCurrentRow(0)
    table = stage.kept.table
    assert table.rowCount() == 1
    assert [table.item(0, c).text() for c in range(3)] == ["Nozzle over the water", "220 mm", "365 mm"]
    QTest.mouseClick(stage.kept.take, PRESS)
    assert bench.studio.composer.setup == TIDAL_MILL
    bench.window.side.tools.editor.edit("mix.temperature_c", 25.0)
    QTest.mouseClick(stage.kept.of_shot, PRESS)
    bench.settle(qtbot)
    assert "shot 2" in stage.kept.title.text() and table.rowCount() == 1
    QTest.mouseClick(stage.kept.take, PRESS)
    assert bench.studio.composer.setup.mix.temperature_c == 19.0
    typed(stage.words["place"], "Mill loft")
    assert bench.studio.sitting.facts.place == "Mill loft"


def test_a_file_that_is_no_set_up_is_refused_with_its_path(bench, tmp_path):
    opened(bench, "keep")
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "ondine-setup", "version": 1, "setup": {"rig": {"nozzle_height_m": 99}}}')
    bench.window.side.tools.library.read_file(bad)
    assert "setup.rig.nozzle_height_m" in bench.window.side.page.refusal.text()
    assert bench.studio.composer.setup == TIDAL_MILL
    good = tmp_path / "good.json"
    bench.window.side.tools.library.write_file(good)
    bench.window.side.tools.editor.edit("rig.nozzle_height_m", 0.3)
    bench.window.side.tools.library.read_file(good)
    assert bench.studio.composer.setup == TIDAL_MILL


def test_flashes_come_and_go(bench):
    stage = opened(bench, "rig")
    QTest.mouseClick(stage.add, PRESS)
    assert [f.name for f in bench.studio.composer.setup.light.units] == ["Unit A", "Unit B", "Unit C"]
    stage.which.setCurrentIndex(2)
    QTest.mouseClick(stage.remove, PRESS)
    assert len(bench.studio.composer.setup.light.units) == 2
    drag(bench.window.side.page.drawing, "flash 1", QPointF(20, -10))
    assert stage.which.currentText() == "Unit B"


@pytest.mark.parametrize("theme", [DAY, DARKROOM])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (1200, 720)])
def test_no_stage_clips_or_hides_anything(bench, qtbot, size, theme):
    window = bench.window
    window.set_theme(theme)
    window.resize(*size)
    for stage in STAGES:
        opened(bench, stage.key)
        panel = window.side.page.stages[stage.key].panel
        area = panel.parent().parent()
        assert isinstance(area, QScrollArea)
        assert panel.minimumSizeHint().width() <= area.viewport().width(), stage.key
        if size[1] >= 800:
            assert not area.verticalScrollBar().isVisible(), stage.key
        for label in window.side.page.findChildren(QLabel):
            if label.isVisible() and label.text():
                flags = int(Qt.TextFlag.TextWordWrap) if label.wordWrap() else 0
                room = QRect(0, 0, label.width() if label.wordWrap() else 4000, 4000)
                needed = label.fontMetrics().boundingRect(room, flags, label.text())
                assert needed.height() <= label.height() + 1, f"{stage.key}: {label.text()!r} is cut"
                assert needed.width() <= label.width() + 1, f"{stage.key}: {label.text()!r} is cut"
        for button in window.side.page.findChildren(QAbstractButton):
            if button.isVisible() and button.text():
                assert min(button.width(), button.height()) >= 24, button.text()
                assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width(), button.text()
                assert button.accessibleName() or button.text()


def test_a_change_of_the_bowl_is_drawn_and_a_portrait_frame_stays_in_its_place(bench):
    bench.studio.composer.use_setup(replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, portrait=True)))
    splash = bench.window.bench.splash
    room, _ = splash._frame()
    assert splash.rect().toRectF().contains(room) and room.height() > room.width()
