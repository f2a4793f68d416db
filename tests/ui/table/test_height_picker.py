import pytest
from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest

from ondine.core.setup import FlashFiredBy
from tests.ui.hands import PRESS, opened


def test_a_height_is_measured_by_pressing_on_the_picture(bench, qtbot):
    stage = opened(bench, "trigger")
    bench.window.side.tools.editor.edit("triggers.flash_fired_by", FlashFiredBy.CONTROLLER)
    QTest.mouseClick(stage.measure, PRESS)
    qtbot.waitUntil(lambda: stage.picker._image() is not None and stage.picker._setup is not None, timeout=10_000)
    image = stage.picker._image()
    room, camera = stage.picker.placed(image), bench.studio.composer.setup.camera
    at = QPointF(room.center().x(), room.bottom() - room.height() * (camera.water_line_share + 0.3))
    QTest.mouseClick(stage.picker, PRESS, pos=at.toPoint())
    assert float(stage.series[0].text()) == pytest.approx(0.3 * camera.frame_height_m * 1e3, abs=0.2)


def test_an_older_picture_is_measured_by_the_camera_of_its_own_shot(bench, qtbot):
    """Of before: by that of the set-up in hand."""
    stage = opened(bench, "trigger")
    editor, before = bench.window.side.tools.editor, bench.studio.composer.setup.camera
    editor.edit("triggers.flash_fired_by", FlashFiredBy.CONTROLLER)
    editor.edit("camera.magnification", before.magnification * 2)
    editor.edit("camera.water_line_share", 0.5)
    assert bench.studio.composer.setup.camera.frame_height_m == pytest.approx(before.frame_height_m / 2)
    QTest.mouseClick(stage.measure, PRESS)
    qtbot.waitUntil(lambda: stage.picker._image() is not None and stage.picker._setup is not None, timeout=10_000)
    room = stage.picker.placed(stage.picker._image())
    at = QPointF(room.center().x(), room.bottom() - room.height() * (before.water_line_share + 0.3))
    QTest.mouseClick(stage.picker, PRESS, pos=at.toPoint())
    assert float(stage.series[0].text()) == pytest.approx(0.3 * before.frame_height_m * 1e3, abs=0.2)
