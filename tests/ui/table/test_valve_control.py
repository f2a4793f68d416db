import pytest
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened, typed


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
    assert bench.studio.composer.setup.valves[0].flow_m3_s == pytest.approx(stage.flow.flow_m3_s)
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
    bench.settle(qtbot)
    assert bench.controller.fillings == 1 and bench.studio.bench.ledger.open_s(0) == 0
