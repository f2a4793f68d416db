"""What the page says while a hand drags, and when it rests."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.forecast.lit import lit
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.setup.fields import put
from ondine.core.table.firing import problems
from ondine.core.timing.sequence import FlashPulse, Pulse
from ondine.demo.scenario import MILL_RACE
from tests.calibrated import RACE_IN_HAND
from tests.ui.hands import PRESS, drag, place, typed


def told(page) -> tuple[str, str, str]:
    return page.shape_words.text(), page.other_words.text(), page.splash.accessibleDescription()


def test_the_later_intervals_follow_a_drag_and_hold_at_what_is_possible(bench, qtbot):
    page, composer = bench.window.bench, bench.studio.composer
    four = composer.sequence.with_drop_added().with_drop_added()
    composer.use_sequence(four)
    QApplication.processEvents()
    assert [field.value() for field in page.numbers.waits[2:]] == [us / 1000 for us in four.intervals_us[1:]]
    chart = page.chart
    at = place(chart, (four.drops[2].start_us + four.drops[2].end_us) // 2, 1)
    drag(chart, at, at + QPointF(25, 0))
    assert composer.sequence.intervals_us[1] > four.intervals_us[1]
    assert [field.value() for field in page.numbers.waits[2:]] == [
        us / 1000 for us in composer.sequence.intervals_us[1:]
    ]
    # Shorter than the drop before it is open: held at what is possible, also when it stands there already.
    for _ in range(2):
        page.numbers.waits[2].setValue(1.0)
        least = composer.sequence.intervals_us[1] / 1000
        assert page.numbers.waits[2].value() == least > 1.0


def test_words_follow_a_drag_a_little_later_and_a_release_at_once(bench, qtbot):
    page = bench.window.bench
    chart, before = page.chart, told(page)
    flash = QPoint(round(chart.time_scale.x(0.356)), round(chart.lanes().top + chart.lanes().px * 2.5))
    QTest.mousePress(chart, PRESS, pos=flash)
    QTest.mouseMove(chart, flash - QPoint(90, 0))
    QApplication.processEvents()
    moved = page.prediction
    # The picture and the number are there, the words on their way.
    assert page.numbers.flash.value() == moved.sequence.first_flash_us / 1000 < 340
    assert chart.prediction is page.splash._prediction is moved
    assert told(page) == before
    qtbot.waitUntil(lambda: not page._telling.isActive())
    during = told(page)
    assert during[0].lower() in during[2] and during != before
    assert page.board.buttons[next(iter(moved.first.shapes))].chance == next(iter(moved.first.shapes.values()))
    QTest.mouseMove(chart, flash - QPoint(150, 0))
    QApplication.processEvents()
    QTest.mouseRelease(chart, PRESS, pos=flash - QPoint(150, 0))
    assert told(page)[2] == page.prediction.in_words() != during[2]


def test_a_hand_that_goes_on_while_words_are_said_is_told_the_newest_in_the_end(bench, qtbot):
    page = bench.window.bench
    chart = page.chart
    flash = QPoint(round(chart.time_scale.x(0.356)), round(chart.lanes().top + chart.lanes().px * 2.5))
    QTest.mousePress(chart, PRESS, pos=flash)
    QTest.mouseMove(chart, flash - QPoint(90, 0))
    QApplication.processEvents()
    # Some steps on, and the hand moves again: the round under way ends, another one says what is true now.
    page._tell_next()
    page._tell_next()
    QTest.mouseMove(chart, flash - QPoint(40, 0))
    QApplication.processEvents()
    moved = page.prediction
    qtbot.waitUntil(lambda: not page._telling.isActive())
    assert told(page)[2] == moved.in_words()
    assert told(page)[0].lower() == BY_KEY[next(iter(moved.first.shapes))].name
    assert page.facts.text().startswith("Blur at") and moved.first.blurs[0][0] in page.facts.text()
    QTest.mouseRelease(chart, PRESS, pos=flash - QPoint(40, 0))


def test_typed_numbers_are_taken_and_held_to_what_can_be(bench, qtbot):
    field = bench.window.bench.numbers.interval
    field.selectAll()
    qtbot.keyClicks(field, "101.5")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.intervals_us == (101_500,)
    field.selectAll()
    qtbot.keyClicks(field, "3")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.intervals_us == (23_000,)
    assert field.value() == 23.0
    opening = bench.window.bench.numbers.opens[0]
    opening.selectAll()
    qtbot.keyClicks(opening, "999")
    qtbot.keyClick(opening, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.drops[0].open_us <= 200_000


def test_wheel_and_page_keys_nudge_a_number(bench, qtbot):
    field = bench.window.bench.numbers.flash
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Up)
    qtbot.keyClick(field, Qt.Key.Key_PageUp)
    qtbot.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.sequence.first_flash_us == 357_000


def test_drops_are_added_and_removed(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_Insert)
    assert len(bench.studio.composer.sequence.drops) == 3
    numbers = window.bench.numbers
    assert numbers.waits[2].isVisible() and numbers.opens[2].isVisible() and not numbers.waits[1].isVisible()
    for _ in range(6):
        qtbot.keyClick(window, Qt.Key.Key_Insert)
    assert len(bench.studio.composer.sequence.drops) == 8
    # The row shows the drop in hand and its neighbours, and changes that one.
    assert [title.text() for title in numbers.titles] == ["5 open", "6 open", "7 open", "8 open"]
    typed(numbers.opens[1], "12.5")
    typed(numbers.waits[3], "91")
    made = bench.studio.composer.sequence
    assert made.drops[5].open_us == 12_500 and made.intervals_us[6] == 91_000
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    qtbot.keyClick(window, Qt.Key.Key_2)
    assert [title.text() for title in numbers.titles] == ["2 open", "3 open", "4 open", "5 open"]
    for _ in range(2):
        qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert not window.bench.numbers.add_drop.isEnabled()
    for _ in range(7):
        qtbot.keyClick(window, Qt.Key.Key_1)
        qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert len(bench.studio.composer.sequence.drops) == 1
    assert not window.bench.numbers.interval.isEnabled()
    for _ in range(4):
        qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(bench.studio.composer.sequence.drops) == 5


def test_flashes_are_added_taken_hold_of_moved_and_removed(bench, qtbot):
    window, composer = bench.window, bench.studio.composer
    numbers = window.bench.numbers
    assert not numbers.remove.isEnabled() and numbers.flash_block.title.text() == "Flash from trigger"
    qtbot.keyClick(window, Qt.Key.Key_Insert, Qt.KeyboardModifier.ShiftModifier)
    assert composer.sequence.flashes == (FlashPulse(356_000), FlashPulse(361_000, 1))
    assert window.bench.flash_in_hand == 1 and numbers.flash_block.title.text() == "Flash 2 of 2 from trigger"
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Right)
    typed(numbers.flash, "365")
    assert composer.sequence.flashes == (FlashPulse(356_000), FlashPulse(365_000, 1))
    # The words and the picture follow the flash in hand; nothing hangs on the second output of this table.
    assert "no unit hangs on it" in window.bench.facts.text()
    assert "Flash 2 at 365.0 ms" in window.bench.splash.accessibleDescription()
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    qtbot.keyClick(window, Qt.Key.Key_0)
    assert window.bench.flash_in_hand == 0 and numbers.flash.value() == 356.0
    qtbot.keyClick(window, Qt.Key.Key_0)
    assert window.bench.flash_in_hand == 1
    QTest.mouseClick(numbers.remove, PRESS)
    assert composer.sequence.flashes == (FlashPulse(356_000),) and window.bench.flash_in_hand == 0


def test_the_splash_and_the_chart_speak(bench):
    words = bench.window.bench.chart.accessibleDescription()
    assert "Flash at 356.0 ms" in words and "Drop 2 meets the jet" in words
    assert bench.window.bench.splash.accessibleDescription() == words


def test_what_cannot_be_fired_is_changed_by_one_press_and_said(bench, qtbot):
    window, composer = bench.window, bench.studio.composer
    page = window.bench
    assert not page.mend.isVisible()
    wrong = replace(composer.sequence, drops=(Pulse(0, 30_000), Pulse(20_000, 22_000), Pulse(200_000, 9_000, 3)))
    composer.use_sequence(wrong)
    assert page.mend.isVisible() and "start it at" in page.facts.text()
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert bench.controller.fired == []
    QTest.mouseClick(page.mend, PRESS)
    assert problems(composer.sequence, composer.setup) == () and not page.mend.isVisible()
    assert "Changed: drop 3 from valve 1; drop 2 at" in window.messages.text()
    composer.undo()
    assert composer.sequence == wrong
    qtbot.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert problems(composer.sequence, composer.setup) == ()
    composer.use_setup(put(composer.setup, "camera.exposure_s", 0.01))
    qtbot.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert "change the table" in window.messages.text() and page.mend.isVisible()


def test_what_is_typed_for_a_drop_or_flash_that_goes_away_changes_nothing_else(bench, qtbot):
    window, composer = bench.window, bench.studio.composer
    numbers, start = window.bench.numbers, composer.sequence
    for field, text in ((numbers.waits[2], "5"), (numbers.opens[2], "9")):
        numbers.add_drop.click()
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, text)
        # A press leaves the focus, and with it what is typed, where it was.
        QTest.mouseClick(numbers.remove, PRESS)
        assert composer.sequence == start and not field.isVisible()
        # However late the field gives its number up, there is no such drop.
        field.edited.emit(9_000)
        assert composer.sequence == start
    numbers._flash = 1
    numbers.flash.edited.emit(9_000)
    assert composer.sequence == start


def test_each_flash_says_how_much_of_the_light_it_gives(bench, qtbot):
    window, composer = bench.window, bench.studio.composer
    window.resize(1600, 900)
    assert "of the light" not in window.bench.facts.text()
    composer.use_plan(RACE_IN_HAND)
    shares = [light.share for light in lit(MILL_RACE, RACE_IN_HAND.sequence)]
    assert sum(shares) == pytest.approx(1.0) and 0.2 < shares[0] < 0.4
    window.bench.chart.setFocus()
    said = []
    for _ in range(2):
        qtbot.keyClick(window.bench.chart, Qt.Key.Key_0)
        said.append((window.bench.flash_in_hand, window.bench.facts.text()))
    assert {index for index, _ in said} == {0, 1}
    for index, words in said:
        assert f"Flash {index + 1} gives {shares[index]:.0%} of the light." in words
