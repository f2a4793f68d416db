from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened


def test_the_bowl_remembers_its_drops_until_it_is_changed(bench, qtbot):
    stage = opened(bench, "liquid")
    qtbot.keyClick(bench.window, Qt.Key.Key_F2)
    qtbot.keyClick(bench.window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    opened(bench, "liquid")
    assert stage.glass._bowl[1].startswith("2 drops have gone in")
    QTest.mouseClick(stage.changed, PRESS)
    bench.settle(qtbot)
    assert stage.glass._bowl[1].startswith("0 drops have gone in")
