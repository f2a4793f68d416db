import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened, typed


def test_focus_is_ticked_and_asked_for_again_when_the_nozzle_moves(bench):
    stage = opened(bench, "frame")
    for pressed in stage.focus.buttons:
        QTest.mouseClick(pressed, PRESS)
    assert bench.window.side.edge.marks["frame"].share == 1.0 and stage.moved.text() == ""
    bench.window.side.tools.editor.edit("valves.0.nozzle_height_m", 0.40)
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
