import pytest
from PySide6.QtTest import QTest

from ondine.core.setup import FlashFiredBy
from tests.ui.hands import PRESS, opened


def test_schools_and_lag_by_two_series(bench, qtbot):
    stage = opened(bench, "trigger")
    QTest.mouseClick(stage.fire[0], PRESS)
    assert (
        bench.studio.composer.setup.triggers.flash_fired_by is FlashFiredBy.CONTROLLER
        and len(bench.studio.composer.sequence.drops) == 1
    )
    stage.series[0].setText("18.0 18.4 17.7 18.1")
    QTest.mouseClick(stage.fire[1], PRESS)
    assert bench.studio.composer.setup.triggers.flash_fired_by is FlashFiredBy.CAMERA
    stage.series[1].setText("9.0, 12.1")
    stage.series[1].editingFinished.emit()
    assert "3 pictures or more" in stage.found.text() and not stage.use.isEnabled()
    stage.series[1].setText("9.0 12.1 10.2 8.4")
    stage.series[1].editingFinished.emit()
    assert "±" in stage.found.text()
    lag = bench.studio.composer.setup.triggers.shutter_lag_s
    QTest.mouseClick(stage.use, PRESS)
    # Eight millimetres at 2.6 m/s are three milliseconds.
    assert bench.studio.composer.setup.triggers.shutter_lag_s == pytest.approx(lag + 3.1e-3, abs=0.5e-3)
    stage.series[0].setText("nine")
    stage.series[0].editingFinished.emit()
    assert "Heights in mm stand with blanks" in stage.found.text()


def test_the_chain_says_what_is_wrong_in_either_school(bench):
    stage = opened(bench, "trigger")
    tools = bench.window.side.tools
    assert stage.chain.accessibleDescription() == "The light falls while the shutter is open."
    tools.editor.edit("camera.exposure_s", 0.1)
    assert "shut again" in stage.chain.accessibleDescription()
    tools.editor.edit("triggers.flash_fired_by", FlashFiredBy.CAMERA)
    assert stage.chain.accessibleDescription() == "The light falls while the shutter is open."
    tools.editor.edit("camera.exposure_s", 1 / 1000)
    assert "sync speed" in stage.chain.accessibleDescription()
    assert bench.window.side.edge.marks["trigger"].share == 0.3
    shown = [p for p, f in stage.times.fields.items() if f.isVisible()]
    assert "triggers.sync_speed_s" in shown and "triggers.shutter_lead_s" not in shown
