"""Space fires where nothing that it could press has the focus; Return presses what has it."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.ui.hands import PRESS

KEYS = [Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter]


def shots(bench) -> int:
    return bench.studio.writer.logbook.shots.count()


def test_space_fires_from_the_chart_and_return_does_not(bench, qtbot):
    before = shots(bench)
    qtbot.keyClick(bench.window.bench.chart, Qt.Key.Key_Return)
    qtbot.keyClick(bench.window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert shots(bench) == before + 1


@pytest.mark.parametrize("key", KEYS)
def test_a_key_presses_the_button_that_has_the_focus_and_does_not_fire(bench, qtbot, key):
    window, before = bench.window, shots(bench)
    window.bench.numbers.add_drop.setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.keyClick(window.bench.numbers.add_drop, key)
    qtbot.waitUntil(lambda: len(bench.studio.composer.sequence.drops) == 3)
    bench.settle(qtbot)
    assert shots(bench) == before


@pytest.mark.parametrize("key", KEYS)
def test_a_key_on_a_tag_tags_and_does_not_fire(bench, qtbot, key):
    window, before = bench.window, shots(bench)
    button = window.bench.board.buttons["jet-top"]
    button.setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.keyClick(button, key)
    qtbot.waitUntil(lambda: "jet-top" in window.in_view.shot.shapes)
    assert shots(bench) == before


def test_space_on_the_strip_or_in_a_field_does_not_fire(bench, qtbot):
    window, before = bench.window, shots(bench)
    for where in (window.bench.strip, window.bench.numbers.flash, window.bench.shot.note):
        where.setFocus(Qt.FocusReason.TabFocusReason)
        qtbot.keyClick(where, Qt.Key.Key_Space)
        bench.settle(qtbot)
    assert shots(bench) == before


def test_after_a_press_of_the_mouse_space_still_fires(bench, qtbot):
    """Wet hands press a tag, then Space: that must not take the tag off again."""
    window, before = bench.window, shots(bench)
    pressed = [window.bench.board.buttons["jet-top"], window.bench.numbers.step, window.header.undo, window.bench.fire]
    for button in pressed:
        QTest.mouseClick(button, PRESS)
        bench.settle(qtbot)
        assert window.focusWidget() is window.bench.chart, button.text()
    QTest.mouseClick(window.bench.strip.viewport(), PRESS)
    assert window.focusWidget() is window.bench.chart
    qtbot.keyClick(window.focusWidget(), Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert shots(bench) == before + 2


def test_the_keys_of_any_desktop_do_what_people_expect(bench, qtbot):
    window = bench.window
    window.bench.chart.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    assert window.pages.currentWidget() is window.log and window.focusWidget() is window.log.text
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    qtbot.keyClick(window, Qt.Key.Key_F11)
    assert window.isFullScreen()
    qtbot.keyClick(window, Qt.Key.Key_F11)
    assert not window.isFullScreen()
    bench.studio.sitting.preflight_done = True
    qtbot.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert not bench.studio.sitting.preflight_done and "new sitting" in window.messages.text()


@pytest.mark.parametrize("key", [Qt.Key.Key_W, Qt.Key.Key_Q])
def test_ctrl_w_and_ctrl_q_close_the_window(bench, qtbot, key):
    qtbot.keyClick(bench.window, key, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: not bench.window.isVisible())


def test_return_keeps_a_note_and_gives_the_keys_back(bench, qtbot):
    window, before = bench.window, shots(bench)
    taken = []
    window.bench.coach.use.clicked.connect(lambda: taken.append(1))
    sequence = bench.studio.composer.sequence
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.bench.coach.use.isEnabled(), timeout=30_000)
    window.bench.shot.note.setFocus()
    qtbot.keyClicks(window.bench.shot.note, "width 40 mm")
    qtbot.keyClick(window.bench.shot.note, Qt.Key.Key_Return)
    qtbot.waitUntil(window.bench.chart.hasFocus)
    bench.settle(qtbot)
    # The Return of the note takes no proposal.
    assert bench.studio.composer.sequence == sequence and not taken and shots(bench) == before
    assert window.in_view.shot.note.endswith("width 40 mm")
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_F)
    qtbot.waitUntil(lambda: "full-umbrella" in window.in_view.shot.shapes)
