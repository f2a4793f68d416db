from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ondine.core.setup import Counts
from tests.calibrated import RACE_IN_HAND
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


def test_every_flash_is_told_and_warm_on_the_card(by_hand):
    stage, composer = opened(by_hand, "dials"), by_hand.studio.composer
    composer.use_plan(RACE_IN_HAND)
    for path, value in (("box.max_drops", 4), ("box.max_valves", 2), ("box.max_flashes", 2), ("box.step_us", 5_000)):
        by_hand.window.side.tools.editor.edit(path, value)
    by_hand.window.side.tools.editor.edit("box.counts", Counts.ABSOLUTE)
    QTest.qWait(20)
    assert [dial.name for dial in stage.card._dials if dial.lights] == ["Flash 1", "Flash 2"]
    assert "flash 1 " in stage.cost.text() and "flash 2 " in stage.cost.text()
