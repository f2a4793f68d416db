"""What the page says while a hand drags, and when it rests."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.ui.bench.page import WORDS_MS

PRESS = Qt.MouseButton.LeftButton


def told(page) -> tuple[str, str, str]:
    return page.shape_words.text(), page.other_words.text(), page.splash.accessibleDescription()


def test_words_follow_a_drag_a_little_later_and_a_release_at_once(bench, qtbot):
    page = bench.window.bench
    chart, before = page.chart, told(page)
    flash = QPoint(round(chart.time_scale.x(0.356)), round(chart.lanes_top() + chart.lane_px() * 2.5))
    QTest.mousePress(chart, PRESS, pos=flash)
    QTest.mouseMove(chart, flash - QPoint(90, 0))
    QApplication.processEvents()
    moved = page.prediction
    # The picture and the number are there, the words on their way.
    assert page.flash.value() == moved.sequence.flash_us / 1000 < 340
    assert chart._prediction is page.splash._prediction is moved
    assert told(page) == before
    qtbot.wait(2 * WORDS_MS)
    during = told(page)
    assert during[0].lower() in during[2] and during != before
    assert page.board.buttons[next(iter(moved.shapes))].chance == next(iter(moved.shapes.values()))
    QTest.mouseMove(chart, flash - QPoint(150, 0))
    QApplication.processEvents()
    QTest.mouseRelease(chart, PRESS, pos=flash - QPoint(150, 0))
    assert told(page)[2] == page.prediction.in_words != during[2]
