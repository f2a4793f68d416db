from PySide6.QtCore import Qt


def test_trouble_is_said_in_the_window_and_dismissed(bench, qtbot):
    bench.controller.refusal = "The valve does not answer. Check its cable."
    bench.window.bench_actions.fire()
    bench.settle(qtbot)
    assert bench.window.messages.isVisible() and "Check its cable" in bench.window.messages.text()
    assert bench.window.bench.fire.isEnabled()
    qtbot.keyClick(bench.window, Qt.Key.Key_Escape)
    assert not bench.window.messages.isVisible()
