import math
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest

from ondine.core.setup import Tone
from tests.calibrated import RACE_IN_HAND
from tests.frames import camera_jpeg
from tests.ui.hands import PRESS, opened


def read(bench, qtbot, path: Path):
    bench.studio.light_table.read(path)
    bench.studio.light_table.wait()
    qtbot.waitUntil(
        lambda: bench.window.side.tools.light.trial is not None and bench.window.side.tools.light.trial.path == path,
        timeout=5000,
    )
    return bench.window.side.page.stages["expose"]


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
    bench.studio.light_table.wait()
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


def test_another_way_to_the_exposure_changes_all_units_alike_and_their_shares_are_told(bench, qtbot, tmp_path):
    composer = bench.studio.composer
    composer.use_plan(RACE_IN_HAND)
    opened(bench, "expose")
    stage = read(bench, qtbot, camera_jpeg(tmp_path / "right.jpg", 118))
    assert "Of the light on the splash: Unit A gives" in stage.advice.text() and "at flash 2" in stage.advice.text()
    QTest.mouseClick(stage.subject, PRESS)
    before = composer.setup.light.units
    line = next(n for n, way in enumerate(stage.ways) if way.power.value == 1 / 32)
    stage._take_row(line)
    after = composer.setup.light.units
    assert after[0].power == 1 / 32 and after[1].power / before[1].power == after[0].power / before[0].power
    session = bench.window.side.tools.light.session
    # As right as dials go: a sixth of a stop.
    assert abs(math.log2(session.right_iso(composer.setup, (1, 1)) / composer.setup.camera.iso)) <= 1 / 6 + 0.01
