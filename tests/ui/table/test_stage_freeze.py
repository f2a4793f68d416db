import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from ondine.core.timing.arrange import removed
from ondine.core.timing.items import flash
from tests.calibrated import RACE_IN_HAND
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


def test_each_unit_is_frozen_at_the_flash_that_it_lights_at(bench):
    stage, composer = opened(bench, "freeze"), bench.studio.composer
    composer.use_plan(RACE_IN_HAND)
    names = [stage.which.itemText(n) for n in range(stage.which.count())]
    assert len(names) == 2 and names[0].startswith("Unit A, 1/64, flash 1: ")
    first = [(row.power, row.worst_px) for row in stage.rows]
    stage.which.setCurrentIndex(1)
    stage.which.activated.emit(1)
    QTest.qWait(20)
    assert stage.at == (1, 1) and [(row.power, row.worst_px) for row in stage.rows] != first
    before = composer.setup.light.units
    stage.chart.setFocus()
    QTest.keyClick(stage.chart, Qt.Key.Key_Left)
    after = composer.setup.light.units
    assert after[0] == before[0] and after[1].power < before[1].power
    # Less of one unit's light asks for less more ISO than it would alone.
    now = min(stage.rows, key=lambda row: abs(row.power - after[1].power))
    at_half = min(stage.rows, key=lambda row: abs(row.power - after[1].power / 2))
    assert now.iso < at_half.iso < 1.9 * now.iso
    # A unit that no flash fires has nothing to freeze, and says so.
    composer.compose(removed(composer.sequence, frozenset({flash(1)}))[0])
    QTest.qWait(20)
    assert stage.which.itemText(1) == "Unit B: lights at no flash"


def test_waiting_moves_the_flash_that_is_in_view(bench):
    stage, composer = opened(bench, "freeze"), bench.studio.composer
    composer.use_plan(RACE_IN_HAND)
    stage.which.setCurrentIndex(1)
    for flash_us in range(362_000, 372_000, 250):
        composer.compose(composer.sequence.with_flash(1, flash_us))
        QTest.qWait(1)
        if stage.waiting is not None:
            break
    assert stage.waiting is not None
    first, second = composer.sequence.flashes
    wait_us = stage.waiting.wait_us
    QTest.mouseClick(stage.wait, PRESS)
    assert composer.sequence.flashes[0] == first and composer.sequence.flashes[1].at_us == second.at_us + wait_us
