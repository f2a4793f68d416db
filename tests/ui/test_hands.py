"""The main job, by mouse and by keyboard, on the real widgets."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.records import ShotQuery, ShotState
from ondine.logbook.store import Logbook
from ondine.ui.bench.tag_board import SHAPE_KEYS

PRESS = Qt.MouseButton.LeftButton


def drag(chart, start: QPointF, end: QPointF) -> None:
    QTest.mousePress(chart, PRESS, pos=start.toPoint())
    for share in (0.25, 0.5, 0.75, 1.0):
        between = start + (end - start) * share
        QTest.mouseMove(chart, between.toPoint())
    QTest.mouseRelease(chart, PRESS, pos=end.toPoint())


def place(chart, time_us: int, lane: int) -> QPointF:
    return QPointF(chart.time_scale.x((time_us) / 1e6), chart.lanes_top() + chart.lane_px() * (lane + 0.5))


def test_dragging_the_flash_line_changes_flash_splash_and_words(bench, qtbot):
    chart = bench.window.bench.chart
    before = bench.window.bench.shape_words.text()
    start = place(chart, bench.studio.composer.sequence.flash_us, 2)
    drag(chart, start, place(chart, 290_000, 2))
    assert abs(bench.studio.composer.sequence.flash_us - 290_000) < 1_500
    assert bench.window.bench.shape_words.text() != before
    assert bench.window.bench.flash.value() == pytest.approx(bench.studio.composer.sequence.flash_us / 1000)
    # A whole drag is one step back.
    bench.window.studio.composer.undo()
    assert bench.studio.composer.sequence.flash_us == 356_000


def test_a_press_on_open_air_brings_the_flash(bench, qtbot):
    chart = bench.window.bench.chart
    QTest.mouseClick(chart, PRESS, pos=QPoint(round(chart.time_scale.x((200_000) / 1e6)), 60))
    assert abs(bench.studio.composer.sequence.flash_us - 200_000) < 1_500


def test_dragging_a_pulse_its_end_and_its_curve(bench, qtbot):
    chart = bench.window.bench.chart
    drag(chart, place(chart, 104_000, 1), place(chart, 114_000, 1))
    assert bench.studio.composer.sequence.intervals_us[0] == pytest.approx(105_000, abs=1_500)
    end = bench.studio.composer.sequence.drops[1].end_us
    drag(chart, place(chart, end, 1), place(chart, end + 6_000, 1))
    assert bench.studio.composer.sequence.drops[1].open_us == pytest.approx(28_000, abs=1_500)
    curve = chart._prediction.course.falls[1]
    on_curve = QPointF(chart._time.x(curve.time_s[12]), chart._height.y(curve.height_m[12]))
    drag(chart, on_curve, on_curve - QPointF(20, 0))
    assert bench.studio.composer.sequence.intervals_us[0] < 104_000


def test_a_drop_cannot_be_dragged_over_the_one_before(bench, qtbot):
    chart = bench.window.bench.chart
    drag(chart, place(chart, 104_000, 1), place(chart, 5_000, 1))
    assert bench.studio.composer.sequence.drops[1].start_us == bench.studio.composer.sequence.drops[0].end_us + 1_000


def test_the_main_job_by_keyboard_alone(bench, qtbot):
    window = bench.window
    shots = bench.studio.writer.logbook.shots.count()
    qtbot.keyClick(window, Qt.Key.Key_0)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Right)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.sequence.flash_us == 362_000
    qtbot.keyClick(window, Qt.Key.Key_2)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Left)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Up)
    assert bench.studio.composer.sequence.drops[1] == Pulse(94_000, 23_000)
    qtbot.keyClick(window, Qt.Key.Key_Period)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Left)
    assert bench.studio.composer.sequence.drops[1].start_us == 93_900
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == shots + 1
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_F)
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    bench.settle(qtbot)
    shot = bench.studio.writer.logbook.shots.find(ShotQuery())[0]
    assert (shot.shapes, shot.rating, shot.state) == (("full-umbrella",), 4, ShotState.FIRED)
    assert window.bench.board.buttons["full-umbrella"].isChecked()
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.bench.note.hasFocus()
    qtbot.keyClicks(window.bench.note, "for print 3")
    qtbot.keyClick(window.bench.note, Qt.Key.Key_Return)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.find(ShotQuery())[0].note == "for print 3"


def test_letters_and_space_are_text_while_one_types(bench, qtbot):
    window = bench.window
    shots = bench.studio.writer.logbook.shots.count()
    window.shots.edit_note()
    qtbot.keyClicks(window.bench.note, "a frog")
    bench.settle(qtbot)
    assert window.bench.note.text().endswith("a frog")
    assert bench.studio.writer.logbook.shots.count() == shots
    assert bench.window.in_view.shot.shapes == ("crown",)


def test_space_fires_even_from_a_button(bench, qtbot):
    window = bench.window
    shots = bench.studio.writer.logbook.shots.count()
    window.bench.add_drop.setFocus()
    qtbot.keyClick(window.bench.add_drop, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == shots + 1
    assert len(bench.studio.composer.sequence.drops) == 2


def test_fire_by_mouse_tag_by_mouse_and_take_the_tag_off(bench, qtbot):
    window = bench.window
    qtbot.mouseClick(window.bench.fire, PRESS)
    bench.settle(qtbot)
    shot = window.in_view.shot.id
    button = window.bench.board.buttons["contact"]
    qtbot.mouseClick(button, PRESS)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.get(shot).shapes == ("contact",)
    qtbot.mouseClick(button, PRESS)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.get(shot).shapes == ()


def test_typed_numbers_are_taken_and_held_to_what_can_be(bench, qtbot):
    field = bench.window.bench.interval
    field.selectAll()
    qtbot.keyClicks(field, "101.5")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.intervals_us == (101_500,)
    field.selectAll()
    qtbot.keyClicks(field, "3")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.intervals_us == (23_000,)
    assert field.value() == 23.0
    opening = bench.window.bench.opens[0]
    opening.selectAll()
    qtbot.keyClicks(opening, "999")
    qtbot.keyClick(opening, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence.drops[0].open_us <= 200_000


def test_wheel_and_page_keys_nudge_a_number(bench, qtbot):
    field = bench.window.bench.flash
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Up)
    qtbot.keyClick(field, Qt.Key.Key_PageUp)
    qtbot.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.sequence.flash_us == 357_000


def test_drops_are_added_and_removed(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_Insert)
    assert len(bench.studio.composer.sequence.drops) == 3
    assert window.bench.more[0].isVisible() and window.bench.opens[2].isVisible()
    qtbot.keyClick(window, Qt.Key.Key_Insert)
    qtbot.keyClick(window, Qt.Key.Key_Insert)
    assert len(bench.studio.composer.sequence.drops) == 4
    assert not window.bench.add_drop.isEnabled()
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_1)
        qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert len(bench.studio.composer.sequence.drops) == 1
    assert not window.bench.interval.isEnabled()
    for _ in range(4):
        qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(bench.studio.composer.sequence.drops) == 3


def test_the_shot_is_found_in_the_log_after_a_restart(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_J)
    bench.settle(qtbot)
    window.close()
    book = Logbook.open(bench.path)
    (again,) = book.shots.find(ShotQuery())[:1]
    assert again.shapes == ("crater-hit",)
    book.close()


def test_looking_back_and_taking_an_old_sequence(bench, qtbot):
    window = bench.window
    window.bench.composed.emit(lambda _: Sequence((Pulse(0, 30_000),), 200_000), "test")
    newest = window.in_view.shot.id
    qtbot.keyClick(window, Qt.Key.Key_BracketLeft)
    assert window.in_view.shot.id == newest - 1
    qtbot.keyClick(window, Qt.Key.Key_Equal)
    assert bench.studio.composer.sequence == window.in_view.shot.sequence
    qtbot.keyClick(window, Qt.Key.Key_BracketRight)
    qtbot.keyClick(window, Qt.Key.Key_BracketRight)
    assert window.in_view.shot.id == newest


def test_every_letter_tags_its_shape(bench, qtbot):
    chart = bench.window.bench.chart
    for letter in SHAPE_KEYS:
        qtbot.keyClicks(chart, letter.lower())
    bench.settle(qtbot)
    wanted = {s.key for s in SHAPE_KEYS.values()} - {"crown"}
    assert set(bench.studio.writer.logbook.shots.find(ShotQuery())[0].shapes) == wanted


def test_the_log_filters_and_gives_a_shot_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    assert window.log.isVisible() and window.log.tally.text() == "2 shots"
    window.log.shape.setCurrentIndex(window.log.shape.findData("ghosted"))
    bench.settle(qtbot)
    assert window.log.tally.text() == "0 shots" and window.log.empty.isVisible()
    window.log.shape.setCurrentIndex(0)
    bench.settle(qtbot)
    older = window.log.list.shots.index(1)
    window.log.list.setCurrentIndex(older)
    qtbot.keyClick(window.log.list, Qt.Key.Key_Return)
    assert window.bench.isVisible() and window.in_view.shot.id == 1
    # Letters and space do not act on the bench from inside the log.
    qtbot.keyClick(window, Qt.Key.Key_F3)
    qtbot.keyClick(window.log.list, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == 2
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.bench.isVisible()


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


def test_the_dark_room_goes_black_while_it_fires(bench, qtbot):
    window = bench.window
    window.toggle_theme()
    seen: list[bool] = []
    bench.controller.before = lambda: seen.append(window.navigation.blank.isVisible())
    window.bench_actions.fire()
    bench.settle(qtbot)
    assert seen == [True]
    assert not window.navigation.blank.isVisible()


def test_trouble_is_said_in_the_window_and_dismissed(bench, qtbot):
    bench.controller.refusal = "The valve does not answer. Check its cable."
    bench.window.bench_actions.fire()
    bench.settle(qtbot)
    assert bench.window.messages.isVisible() and "Check its cable" in bench.window.messages.text()
    assert bench.window.bench.fire.isEnabled()
    qtbot.keyClick(bench.window, Qt.Key.Key_Escape)
    assert not bench.window.messages.isVisible()
