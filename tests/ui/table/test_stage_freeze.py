import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened, typed


def test_dragging_the_power_and_both_schools(bench, qtbot):
    stage = opened(bench, "freeze")
    bench.studio.composer.use_sequence(bench.studio.composer.sequence.with_flash(0, 345_000))
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
        bench.studio.composer.use_sequence(bench.studio.composer.sequence.with_flash(0, flash_us))
        if stage.waiting is not None:
            found = flash_us
            break
    assert found is not None and "ms" in stage.wait_words.text()
    wait = stage.waiting.wait_us
    QTest.mouseClick(stage.wait, PRESS)
    assert bench.studio.composer.sequence.first_flash_us == found + wait
