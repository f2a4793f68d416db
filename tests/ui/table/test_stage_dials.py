from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS, opened, typed


def test_the_dial_card_and_the_shot_logged_by_hand(by_hand, qtbot):
    bench = by_hand
    stage = opened(bench, "dials")
    QTest.mouseClick(stage.form.fields["box.in_use"], PRESS)
    typed(stage.form.fields["box.step_us"], "5")
    assert "355 ms" in stage.card.accessibleDescription() and "largest error" in stage.cost.text()
    typed(stage.form.fields["box.most_us"], "200")
    assert "counts from" in stage.card.accessibleDescription()
    assert bench.window.side.edge.marks["dials"].share < 0.5
    typed(stage.form.fields["box.most_us"], "999")
    qtbot.keyClick(bench.window, Qt.Key.Key_F9)
    assert bench.window.pages.currentWidget() is bench.window.side.card
    assert "Wait 2 75 ms" in bench.window.side.card.accessibleDescription()
    qtbot.keyClick(bench.window.side.card, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.window.in_view.shot.sequence.first_flash_us == 355_000 and bench.controller.fired == []
    assert bench.window.pages.currentWidget() is bench.window.side.card
    assert not any(bench.window.side.card._changed)
