from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel

from ondine.studio.events import Notice


def test_close_up_theme_blank_and_keys(bench, qtbot):
    window = bench.window
    span = window.bench.chart.sight.time
    qtbot.keyClick(window, Qt.Key.Key_F4)
    assert window.bench.chart.sight.time.start_s > span.start_s
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


def test_the_smallest_window_cuts_no_line_of_the_keys_and_arrows_scroll_them(bench, qtbot):
    window = bench.window
    window.resize(window.minimumSize())
    qtbot.keyClick(window, Qt.Key.Key_F1)
    qtbot.wait(20)
    page = window.navigation._keys_page
    for label in page.findChildren(QLabel):
        assert label.height() >= label.heightForWidth(label.width())
    before = page.verticalScrollBar().value()
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Down)
    assert page.verticalScrollBar().value() > before


def test_an_open_drawer_leaves_a_message_and_the_controls_in_sight(bench, qtbot):
    navigation, window = bench.window.navigation, bench.window
    window.resize(1280, 800)
    qtbot.wait(20)
    navigation.toggle_keys()
    assert navigation.keys.geometry() == navigation._drawer_area()
    bench.bridge.send(Notice("The camera is ready."))
    qtbot.waitUntil(lambda: window.messages.isVisible())
    qtbot.waitUntil(lambda: navigation.keys.geometry() == navigation._drawer_area())
    keys = navigation.keys.geometry()
    assert keys.top() >= window.messages.mapTo(window, window.messages.rect().bottomLeft()).y()
    fire = window.bench.fire
    assert keys.left() >= fire.mapTo(window, fire.rect().topRight()).x()


def test_a_message_is_seen_whole_beside_a_drawer_in_the_log_too(bench, qtbot):
    navigation, window = bench.window.navigation, bench.window
    window.resize(1280, 800)
    navigation.toggle_log()
    bench.settle(qtbot)
    navigation.toggle_keys()
    before = navigation.keys.geometry()
    bench.bridge.send(Notice("One shot came, and what the logbook was before is kept as a copy."))
    qtbot.waitUntil(lambda: navigation.keys.geometry() != before)
    keys = navigation.keys.geometry()
    assert keys.top() >= window.messages.mapTo(window, window.messages.rect().bottomLeft()).y()
    window.messages.dismiss()
    qtbot.waitUntil(lambda: navigation.keys.geometry() == before)
