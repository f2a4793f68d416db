from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication


def test_close_up_theme_blank_and_keys(bench, qtbot):
    window = bench.window
    span = window.bench.chart._time
    qtbot.keyClick(window, Qt.Key.Key_F4)
    assert window.bench.chart._time.start_s > span.start_s
    qtbot.keyClick(window, Qt.Key.Key_F5)
    assert window.theme.dark
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.state.get("theme") == "dark-room"
    qtbot.keyClick(window, Qt.Key.Key_F6)
    assert window.navigation.blank.isVisible()
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_A)
    assert not window.navigation.blank.isVisible()
    qtbot.keyClick(window, Qt.Key.Key_F1)
    assert window.navigation.keys.isVisible()
    qtbot.keyClick(window, Qt.Key.Key_F1)
    assert not window.navigation.keys.isVisible() and QApplication.focusWidget() is window.bench.chart
