"""The stages of the light, by mouse and by keyboard, on the real widgets."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from ondine.core.setup import FlashKind, Measure, Tone
from ondine.demo.scenario import TIDAL_MILL
from ondine.ui.shell import app as ui_app
from tests.ui.test_table import opened, typed

PRESS = Qt.MouseButton.LeftButton
SEASON = Path(ui_app.__file__).parents[2] / "demo" / "season"


def camera_jpeg(path: Path, level: int, exposure_s: float = 0.5) -> Path:
    """A grey frame as a camera writes it."""
    from ondine.bench.simulated.jpeg import write_jpeg
    from tests.conftest import TestClock

    camera = replace(TIDAL_MILL.camera, exposure_s=exposure_s)
    write_jpeg(path, np.full((200, 300, 3), level, np.uint8), camera, TestClock()(), 95)
    return path


def read(bench, qtbot, path: Path):
    bench.studio.light_table.read(path)
    bench.studio.light_table._thread.submit(int).result()
    qtbot.waitUntil(
        lambda: bench.window.side.tools.light.trial is not None and bench.window.side.tools.light.trial.path == path,
        timeout=5000,
    )
    return bench.window.side.page.stages["expose"]


def test_a_unit_is_described_by_its_manual(bench):
    stage = opened(bench, "flash")
    before = stage.chart.accessibleDescription()
    power, speed = stage.manual.cells[5]
    typed(power, "32")
    typed(speed, "18000")
    assert len(bench.studio.composer.setup.light.key.durations) == 6
    typed(stage.manual.cells[3][1], "5000")
    assert "fall with the power" in bench.window.side.page.refusal.text()
    assert stage.manual.cells[3][1].value() != 5000
    stage.measure.edited.emit(Measure.TENTH)
    assert {p.measure for p in bench.studio.composer.setup.light.key.durations} == {Measure.TENTH}
    stage.measure.edited.emit(Measure.HALF)
    bench.window.side.tools.editor.edit("light.units.0.power", 1 / 16)
    assert stage.chart.accessibleDescription() != before
    stage.forms.currentWidget().fields["light.units.0.kind"].edited.emit(FlashKind.VOLTAGE)
    assert "studio flash" in stage.cautions.text()


def test_powers_outside_the_unit_and_a_dial_that_counts_speed(bench):
    from ondine.core.setup import DialKind

    stage = opened(bench, "flash")
    field = stage.forms.currentWidget().fields["light.units.0.power"]
    assert field.itemText(field.count() - 1) == "1/128"
    assert not bench.window.side.tools.editor.edit("light.units.0.power", 1 / 512)
    assert "goes down to 1/128" in bench.window.side.page.refusal.text()
    bench.window.side.tools.editor.edit("light.units.0.dial", DialKind.SPEED)
    assert field.currentText() == "1/27800 s"


def test_dragging_the_power_and_both_schools(bench, qtbot):
    stage = opened(bench, "freeze")
    bench.studio.composer.use_sequence(bench.studio.composer.sequence.with_flash(345_000))
    assert stage.rows and stage.rows[0].worst_px < stage.rows[-1].worst_px
    room = stage.chart._room()
    start = QPointF(stage.chart._x(1 / 64), room.center().y())
    QTest.mousePress(stage.chart, PRESS, pos=start.toPoint())
    QTest.mouseMove(stage.chart, QPointF(stage.chart._x(1 / 16), room.center().y()).toPoint())
    QTest.mouseRelease(stage.chart, PRESS)
    assert bench.studio.composer.setup.light.power == pytest.approx(1 / 16)
    stage.chart.setFocus()
    qtbot.keyClick(stage.chart, Qt.Key.Key_Left)
    assert bench.studio.composer.setup.light.power == pytest.approx(1 / 16 / 2 ** (1 / 3))
    QTest.mouseClick(stage.sharp, PRESS)
    sharp = bench.studio.composer.setup.light.power
    typed(stage.form.fields["light.blur_target_px"], "40")
    QTest.mouseClick(stage.clean, PRESS)
    assert bench.studio.composer.setup.light.power > sharp
    QTest.mouseClick(stage.iso, PRESS)
    assert bench.studio.composer.setup.camera.iso == stage._iso
    QTest.mouseClick(stage.for_print, PRESS)
    assert bench.studio.composer.setup.light.blur_target_px == pytest.approx(2.3)
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup.light.blur_target_px == 40


def test_waiting_is_offered_where_it_buys_more_than_a_stop(bench):
    stage = opened(bench, "freeze")
    found = None
    for flash_us in range(351_000, 357_000, 250):
        bench.studio.composer.use_sequence(bench.studio.composer.sequence.with_flash(flash_us))
        if stage.waiting is not None:
            found = flash_us
            break
    assert found is not None and "ms" in stage.wait_words.text()
    wait = stage.waiting.wait_us
    QTest.mouseClick(stage.wait, PRESS)
    assert bench.studio.composer.sequence.flash_us == found + wait


def test_from_a_dark_frame_to_a_right_one(bench, qtbot, tmp_path):
    opened(bench, "expose")
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "one.jpg", 60))
    assert stage.rating.text().startswith("−")
    QTest.mouseClick(stage.subject, PRESS)
    # sRGB 60 is 4.5 % against 25 %: two and a half stops under.
    assert stage.change == pytest.approx(2.33, abs=0.35)
    iso = bench.studio.composer.setup.camera.iso
    QTest.mouseClick(stage.take_iso, PRESS)
    assert bench.studio.composer.setup.camera.iso == pytest.approx(iso * 2**stage.change, rel=0.3) or (
        bench.studio.composer.setup.camera.iso > 4 * iso
    )
    assert stage.table.rowCount() > 3
    line = 0
    way = stage.ways[line]
    stage.table.itemActivated.emit(stage.table.item(line, 0))
    assert bench.studio.composer.setup.light.power == pytest.approx(way.power.value)
    again = read(bench, qtbot, camera_jpeg(tmp_path / "two.jpg", 0))
    assert again.rating.text() == "black"
    QTest.mouseClick(again.subject, PRESS)
    bench.window.side.tools.light.forget_frames()
    assert bench.window.side.tools.light.session.anchor is None and stage.table.rowCount() == 0


def test_a_region_is_dragged_and_the_background_is_rated_by_its_tone(bench, qtbot, tmp_path):
    opened(bench, "expose")
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "one.jpg", 118))
    room = stage.view.placed()
    start, end = room.topLeft() + QPointF(10, 10), room.topLeft() + QPointF(80, 60)
    QTest.mousePress(stage.view, PRESS, pos=start.toPoint())
    QTest.mouseMove(stage.view, end.toPoint())
    QTest.mouseRelease(stage.view, PRESS, pos=end.toPoint())
    assert stage.region[0] == pytest.approx(10 / room.width(), abs=0.02)
    bench.window.side.tools.editor.edit("light.background_tone", Tone.GREY)
    QTest.mouseClick(stage.background, PRESS)
    assert "Background: right" in stage.advice.text()
    bench.window.side.tools.editor.edit("light.background_tone", Tone.WHITE)
    QTest.mouseClick(stage.background, PRESS)
    assert bench.window.side.tools.light.session.background[-1].rating.low < -1.5


def test_the_room_is_judged_from_a_frame_without_flash(bench, qtbot, tmp_path):
    opened(bench, "expose")
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "room.jpg", 70))
    QTest.mouseClick(stage.room, PRESS)
    assert "will ghost" in stage.ambient.text()
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "dark.jpg", 3))
    QTest.mouseClick(stage.room, PRESS)
    assert "Dark enough" in stage.ambient.text()
    assert bench.window.side.edge.marks["expose"].share == 0.5
    QTest.mouseClick(stage.dark, PRESS)
    bench.settle(qtbot)
    assert bench.controller.commands.dark


def test_bad_test_frames_and_ratings_are_named(bench, qtbot, tmp_path):
    stage = opened(bench, "expose")
    exported = tmp_path / "exported.png"
    Image.new("RGB", (60, 40), "grey").save(exported)
    bench.studio.light_table.read(exported)
    bench.studio.light_table._thread.submit(int).result()
    qtbot.wait(20)
    assert "A raw file, or a JPEG as the camera wrote it" in bench.window.messages.text()
    stage.rating.setText("lovely")
    stage._rate("subject")
    assert "is no rating" in bench.window.side.page.refusal.text()
    assert bench.window.side.tools.light.session.subject == ()
    stage.rating.setText("blown")
    stage._rate("subject")
    assert "four stops less" in stage.advice.text() and stage.table.rowCount() == 0


def test_the_session_of_the_light_survives_a_restart(bench, qtbot, tmp_path):
    from ondine.core.light.session import LightSession

    opened(bench, "expose")
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "one.jpg", 0))
    QTest.mouseClick(stage.subject, PRESS)
    bench.settle(qtbot)
    kept = LightSession.from_json(bench.studio.writer.logbook.state.get("light"))
    assert kept == bench.window.side.tools.light.session and not kept.subject[0].rating.exact


def test_a_series_keeps_the_flash_waiting(bench, qtbot):
    stage = opened(bench, "flash")
    typed(stage.series, "3")
    typed(stage.interval, "0")
    waited = []
    bench.studio.bench._sleep = waited.append
    QTest.mouseClick(stage.fire, PRESS)
    bench.settle(qtbot)
    assert len(bench.controller.fired) == 3
    # Each shot after the first waits for the capacitor, on a clock that hardly moves.
    assert sum(w > 0.1 for w in waited) >= 2
    typed(stage.series, "1")
    QTest.mouseClick(stage.fire, PRESS)
    assert "2 to 200 frames" in bench.window.side.page.refusal.text()


def test_white_balance_tints_and_a_sheet(bench, qtbot, tmp_path):
    stage = opened(bench, "colour")
    typed(stage.form.fields["light.white_balance_k"], "3500")
    assert "−104" in stage.says.text().replace("-", "−") and "blue" in stage.says.text()
    bench.window.side.tools.editor.edit("light.background_tint", TIDAL_MILL.bowl.tint)
    assert "bowl and background" in stage.says.text()
    QTest.mouseClick(stage.turned, PRESS)
    assert not stage.sheet.upside_down
    out = tmp_path / "sheet.pdf"
    from ondine.core.light.colour import sheet_size_m

    bench.studio.light_table.write(stage.sheet, sheet_size_m(bench.studio.composer.setup), out)
    bench.studio.light_table._thread.submit(int).result()
    qtbot.wait(20)
    assert out.read_bytes().startswith(b"%PDF") and "true size" in bench.window.messages.text()
