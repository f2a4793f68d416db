from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest


def test_trouble_is_said_in_the_window_and_dismissed(bench, qtbot):
    bench.controller.refusal = "The valve does not answer. Check its cable."
    bench.window.bench_actions.fire()
    bench.settle(qtbot)
    assert bench.window.messages.isVisible() and "Check its cable" in bench.window.messages.text()
    assert bench.window.bench.fire.isEnabled()
    qtbot.keyClick(bench.window, Qt.Key.Key_Escape)
    assert not bench.window.messages.isVisible()


def test_what_nobody_expected_is_said_and_its_details_can_be_copied(bench, qtbot):
    bench.controller.before = lambda: 1 / 0
    bench.window.bench_actions.fire()
    bench.settle(qtbot)
    messages = bench.window.messages
    assert "did not expect" in messages.text() and messages.copy.isVisible()
    QTest.mouseClick(messages.copy, Qt.MouseButton.LeftButton)
    copied = QGuiApplication.clipboard().text()
    assert "ZeroDivisionError" in copied and "at the bench" in copied


def test_no_message_takes_the_place_of_one_that_was_not_read(bench, qtbot):
    messages = bench.window.messages
    messages.trouble("First.")
    messages.trouble("Second.", "details")
    messages.notice("By the way.")
    assert messages.text() == "By the way." and not messages.copy.isVisible()
    for shown in ("Second.   (Esc, 1 more)", "First.   (Esc)"):
        messages.dismiss()
        assert messages.text() == shown and messages.isVisible()
    messages.dismiss()
    assert not messages.isVisible()
