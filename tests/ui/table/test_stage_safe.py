from PySide6.QtTest import QTest

from ondine.core.setup import Method
from tests.ui.hands import PRESS, opened


def test_the_method_changes_checklist_and_cautions(bench):
    stage = opened(bench, "safe")
    stage.form.fields["method"].edited.emit(Method.SOUND)
    words = [b.accessibleName() for b in stage.ticks.buttons if b.isVisible()]
    assert "Eye protection on" in words and "Backstop stands, nobody in line" in words
    QTest.mouseClick(stage.ticks.buttons[0], PRESS)
    assert 0 < bench.window.side.edge.marks["safe"].share < 1
    for pressed in stage.ticks.buttons[1 : len(words)]:
        QTest.mouseClick(pressed, PRESS)
    assert bench.window.side.edge.marks["safe"].share == 1.0
