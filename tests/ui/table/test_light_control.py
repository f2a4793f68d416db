from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened, typed


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
