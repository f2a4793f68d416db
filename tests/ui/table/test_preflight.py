from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS


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
