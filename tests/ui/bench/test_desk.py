"""The sequence desk by mouse and by keys alone: several parts at once, locks, snapping, counting, the view."""

from dataclasses import replace
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.forecast.events import EventKind
from ondine.core.setup import Box, Counts, FlashFrom, Setup
from ondine.core.timing.conventions import Convention, LightFrom
from ondine.core.timing.items import FIRST_FLASH, SHUTTER, Item, Kind, drop, flash
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.timing.snapping import Snap
from ondine.demo.scenario import RACE, START
from ondine.ui.bench.selection import Selection
from ondine.ui.kit.theme import DAY
from ondine.ui.shell.desk_actions import usual_convention
from ondine.ui.shell.main_window import LEAST_PX
from tests.calibrated import RACE_IN_HAND
from tests.ui.hands import PRESS, drag, place, typed

K = Qt.KeyboardModifier
CONTROL, SHIFT, ALT = K.ControlModifier, K.ShiftModifier, K.AltModifier


@pytest.fixture
def desk(bench):
    return bench.window.bench.desk


@pytest.fixture
def race(bench, desk):
    """Four drops from two valves and two flashes in hand."""
    bench.studio.composer.use_plan(RACE_IN_HAND)
    QApplication.processEvents()
    return bench


def middle(chart, index: int) -> QPointF:
    pulse = chart.sequence.drops[index]
    return place(chart, (pulse.start_us + pulse.end_us) // 2, 1 + pulse.valve)


def wheel(chart, at: QPointF, notches: int, keys: Qt.KeyboardModifier = K.NoModifier) -> None:
    turned = QPoint(0, 120 * notches)
    event = QWheelEvent(
        at, chart.mapToGlobal(at), QPoint(), turned, Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False
    )
    QApplication.sendEvent(chart, event)


# Several at once


def test_a_frame_drawn_in_the_lanes_selects_what_it_touches_and_a_drag_moves_it_together(race, desk):
    chart, composer = desk.chart, race.studio.composer
    start = QPointF(chart.sight.time.left + 2, chart.sight.height.base_y + 4)
    end = QPointF(chart.time_scale.x(RACE.drops[1].end_us / 1e6) + 2, chart.lanes().valve_y(1) + chart.lanes().px - 2)
    drag(chart, start, end)
    assert chart.selection.items == {drop(0), drop(1)}
    drag(chart, middle(chart, 1), middle(chart, 1) + QPointF(12, 0))
    moved = composer.sequence.drops
    shift = moved[1].start_us - RACE.drops[1].start_us
    assert shift > 0 and moved[0].start_us - RACE.drops[0].start_us == shift and moved[2:] == RACE.drops[2:]
    assert composer.undoes == "move drops 1, 2"
    # A click on one of them alone lets the other go; a click on nothing keeps what is in hand.
    QTest.mouseClick(chart, PRESS, pos=middle(chart, 0).toPoint())
    assert chart.selection == Selection(drop(0))
    QTest.mouseClick(chart, PRESS, pos=QPoint(round(chart.sight.time.right - 3), round(end.y())))
    assert chart.selection == Selection(drop(0))


def test_parts_are_selected_together_with_ctrl_and_let_go_again(race, desk):
    chart = desk.chart
    QTest.mouseClick(chart, PRESS, pos=middle(chart, 0).toPoint())
    QTest.mouseClick(chart, PRESS, CONTROL, middle(chart, 2).toPoint())
    assert chart.selection.items == {drop(0), drop(2)} and chart.selection.held == drop(2)
    QTest.mouseClick(chart, PRESS, CONTROL, middle(chart, 0).toPoint())
    assert chart.selection == Selection(drop(2))


def test_a_frame_with_ctrl_selects_more(race, desk):
    chart = desk.chart
    QTest.mouseClick(chart, PRESS, pos=middle(chart, 0).toPoint())
    lane, pulse = chart.lanes().valve_y(1), RACE.drops[3]
    start = QPoint(round(chart.time_scale.x(pulse.end_us / 1e6)) + 25, round(lane) + 2)
    end = QPoint(round(chart.time_scale.x(pulse.start_us / 1e6)) + 3, round(lane) + 8)
    QTest.mousePress(chart, PRESS, CONTROL, start)
    QTest.mouseMove(chart, end)
    QTest.mouseRelease(chart, PRESS, CONTROL, end)
    assert chart.selection.items == {drop(0), drop(3)}


def test_keys_alone_select_move_lengthen_and_remove_several(race, desk, qtbot):
    window, chart, composer = race.window, desk.chart, race.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_1)
    qtbot.keyClick(window, Qt.Key.Key_4, ALT)
    qtbot.keyClick(window, Qt.Key.Key_0, ALT)
    assert chart.selection.items == {drop(0), drop(3), FIRST_FLASH}
    qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert composer.sequence.flashes[0].at_us == RACE.flashes[0].at_us + 1_000
    assert [composer.sequence.drops[n].start_us - RACE.drops[n].start_us for n in range(4)] == [1_000, 0, 0, 1_000]
    qtbot.keyClick(chart, Qt.Key.Key_Up, SHIFT)
    assert [composer.sequence.drops[n].open_us - RACE.drops[n].open_us for n in range(4)] == [5_000, 0, 0, 5_000]
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert composer.sequence.drops == RACE.drops[1:3] and len(composer.sequence.flashes) == 1
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL)
    assert composer.sequence == RACE
    qtbot.keyClick(window, Qt.Key.Key_A, CONTROL)
    assert len(chart.selection.items) == 6


def test_several_parts_are_copied_and_put_in_again_and_too_many_are_refused(race, desk, qtbot):
    window, chart, composer = race.window, desk.chart, race.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_1)
    qtbot.keyClick(window, Qt.Key.Key_2, ALT)
    qtbot.keyClick(window, Qt.Key.Key_C, CONTROL)
    assert QGuiApplication.clipboard().text() == "part, ms: A 0 open 22, B 30 open 22"
    qtbot.keyClick(window, Qt.Key.Key_V, CONTROL)
    put = composer.sequence.drops[4:]
    # Ten milliseconds after what was selected: the cursor is elsewhere.
    assert put == (Pulse(62_000, 22_000), Pulse(92_000, 22_000, 1))
    assert chart.selection.items == {drop(4), drop(5)} and composer.undoes == "add drops 5, 6"
    qtbot.keyClick(window, Qt.Key.Key_D, CONTROL)
    assert len(composer.sequence.drops) == 8
    before = composer.sequence
    qtbot.keyClick(window, Qt.Key.Key_D, CONTROL)
    assert composer.sequence == before and "at most 8" in window.messages.text()


def test_what_is_pasted_lands_under_the_cursor(race, desk, qtbot, monkeypatch):
    monkeypatch.setattr(desk.chart, "pointed_us", lambda: 200_000)
    QGuiApplication.clipboard().setText("part, ms: flash: 2 at 0")
    qtbot.keyClick(race.window, Qt.Key.Key_V, CONTROL)
    assert race.studio.composer.sequence.flashes[2].at_us == 200_000
    # A copy by its own key stands after what it is of, wherever the cursor is.
    qtbot.keyClick(race.window, Qt.Key.Key_D, CONTROL)
    assert race.studio.composer.sequence.flashes[3].at_us == 210_000


# Locks


def test_a_flash_stays_after_the_meeting_whatever_moves_it(race, desk, qtbot):
    window, composer = race.window, race.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_L, CONTROL)
    assert desk.line.lock.isChecked() and "the predicted meeting" in desk.line.words.text()

    def after_meeting() -> float:
        found = [e.time_s.mean for e in window.bench.prediction.course.events if e.kind is EventKind.MEETING]
        return composer.sequence.flashes[0].at_us / 1e3 - min(found) * 1e3

    before = after_meeting()
    for index in range(4):
        drag(desk.chart, middle(desk.chart, index), middle(desk.chart, index) + QPointF(4, 0))
    assert composer.sequence.flashes[0] != RACE.flashes[0] and after_meeting() == pytest.approx(before, abs=0.002)
    # Another nozzle height moves the meeting, and the flash with it.
    window.side.tools.editor.edit("valves.0.nozzle_height_m", 0.34)
    assert after_meeting() == pytest.approx(before, abs=0.002)
    # The lock is undone like anything else: after the nozzle and the four drags.
    for _ in range(6):
        assert composer.plan.locks
        qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL)
    assert composer.plan.locks == () and composer.sequence == RACE


def test_a_lock_goes_on_to_the_next_event_and_then_away(race, desk, qtbot):
    said = []
    for _ in range(3):
        qtbot.keyClick(race.window, Qt.Key.Key_L, CONTROL)
        said.append(desk.line.words.text())
    assert said == [
        "Flash 1 keeps its distance to the predicted meeting.",
        "Flash 1 keeps its distance to the predicted touchdown.",
        "Flash 1 is locked to nothing.",
    ]
    # The first drop has none before it.
    qtbot.keyClick(race.window, Qt.Key.Key_1)
    qtbot.keyClick(race.window, Qt.Key.Key_L, CONTROL)
    assert "Nothing that drop 1 could be locked to" in race.window.messages.text()


def test_a_gap_is_locked_by_the_button_and_let_go_by_it(race, desk, qtbot):
    window, composer = race.window, race.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_3)
    desk.line.lock.click()
    gap = RACE.drops[2].start_us - RACE.drops[1].end_us
    drag(desk.chart, middle(desk.chart, 1), middle(desk.chart, 1) + QPointF(25, 0))
    drops = composer.sequence.drops
    assert drops[1].start_us > RACE.drops[1].start_us and drops[2].start_us - drops[1].end_us == gap
    qtbot.keyClick(window, Qt.Key.Key_3)
    desk.line.lock.click()
    assert composer.plan.locks == () and not desk.line.lock.isChecked()


def test_the_shutter_is_moved_locked_and_given_back_to_the_table(bench, desk, qtbot):
    window, chart, composer = bench.window, desk.chart, bench.studio.composer
    opens_us = START.first_flash_us - 250_000
    drag(chart, place(chart, opens_us, 0), place(chart, opens_us + 40_000, 0))
    assert composer.sequence.camera.opens_us == pytest.approx(opens_us + 40_000, abs=1_500)
    qtbot.keyClick(window, Qt.Key.Key_L, CONTROL)
    qtbot.keyClick(window, Qt.Key.Key_0)
    before = composer.sequence.camera.opens_us
    qtbot.keyClick(chart, Qt.Key.Key_Right, SHIFT)
    assert composer.sequence.camera.opens_us == before + 5_000
    qtbot.keyClick(window, Qt.Key.Key_9)
    assert chart.selection == Selection(SHUTTER)
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert composer.sequence.camera.opens_us is None and composer.plan.locks == ()


# Snapping


def test_a_dragged_flash_snaps_to_events_and_to_round_times_and_ctrl_lets_it_go(bench, desk, qtbot):
    window, chart, composer = bench.window, desk.chart, bench.studio.composer
    touchdown = next(e for e in window.bench.prediction.course.events if e.kind is EventKind.TOUCHDOWN)
    wanted_us = round(touchdown.time_s.mean * 1e4) * 100
    near = place(chart, wanted_us, 2) + QPointF(5, 0)
    qtbot.keyClick(window, Qt.Key.Key_G, CONTROL)
    qtbot.keyClick(window, Qt.Key.Key_G, CONTROL)
    assert chart.snap is Snap.EVENTS and desk.line.snap.text() == "Snap: events"
    drag(chart, place(chart, START.first_flash_us, 2), near)
    assert composer.sequence.first_flash_us == wanted_us
    QTest.mousePress(chart, PRESS, pos=place(chart, wanted_us, 2).toPoint())
    QTest.mouseMove(chart, near.toPoint())
    qtbot.wait(80)
    assert "touchdown" in desk.line.words.text()
    QTest.mouseRelease(chart, PRESS, pos=near.toPoint())
    desk.line.snap.click()
    desk.line.snap.click()
    assert chart.snap is Snap.GRID
    drag(chart, place(chart, composer.sequence.first_flash_us, 2), place(chart, 331_400, 2))
    assert composer.sequence.first_flash_us == 330_000


def test_ctrl_arrows_walk_from_event_to_event(bench, desk, qtbot):
    chart, composer = desk.chart, bench.studio.composer
    seen = []
    for _ in range(3):
        qtbot.keyClick(chart, Qt.Key.Key_Left, CONTROL)
        QApplication.processEvents()
        seen.append(composer.sequence.first_flash_us)
        assert desk.line.words.text().startswith("On: ")
    times = {round(e.time_s.mean * 1e4) * 100 for e in bench.window.bench.prediction.course.events}
    assert len(set(seen)) == 3 and seen == sorted(seen, reverse=True) and set(seen) <= times
    qtbot.keyClick(chart, Qt.Key.Key_Right, CONTROL)
    assert composer.sequence.first_flash_us == seen[1]
    # Each is a step of its own.
    composer.undo()
    assert composer.sequence.first_flash_us == seen[2]
    # Beside an event it is on none.
    qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert not desk.line.words.text().startswith("On: ")


def test_the_shutter_is_heard_and_set_as_drops_and_flashes_are(bench, desk, qtbot):
    qtbot.waitUntil(lambda: "shutter 1" in desk.chart.ears._parts.by_key, timeout=2000)
    heard = desk.chart.ears._parts.by_key["shutter 1"]
    assert heard.accessibleName() == "Shutter" and heard.value() == START.first_flash_us / 1000 - 250
    heard.stepBy(2)
    assert bench.studio.composer.sequence.camera.opens_us == START.first_flash_us - 250_000 + 2_000


def test_another_button_does_not_end_a_drag(bench, desk, qtbot):
    chart = desk.chart
    at = place(chart, START.first_flash_us, 2)
    QTest.mousePress(chart, PRESS, pos=at.toPoint())
    QTest.mouseMove(chart, (at - QPointF(20, 0)).toPoint())
    QTest.mouseClick(chart, Qt.MouseButton.RightButton, pos=(at - QPointF(20, 0)).toPoint())
    assert chart.hand.drags
    QTest.mouseRelease(chart, PRESS, pos=(at - QPointF(20, 0)).toPoint())
    assert not chart.hand.drags and bench.studio.composer.sequence.first_flash_us < START.first_flash_us


# The view


def test_the_wheel_looks_closer_about_the_cursor_and_keys_find_the_way_back(bench, desk, qtbot):
    chart = desk.chart
    whole = chart.sight.time
    at = QPointF(400, 60)
    before = chart.sight.time.time_s(400)
    wheel(chart, at, 5)
    assert chart.sight.time.time_s(400) == pytest.approx(before, abs=1e-6)
    assert chart.sight.time.end_s - chart.sight.time.start_s < 0.5 * (whole.end_s - whole.start_s)
    assert desk.line.whole.isVisible()
    closer = chart.sight.time
    wheel(chart, at, -2, SHIFT)
    assert chart.sight.time.start_s > closer.start_s
    wheel(chart, at, 4, CONTROL)
    assert chart.sight.height.top_m < 0.2 and chart.sight.height.shows_water
    wheel(chart, at, 4, CONTROL | SHIFT)
    assert not chart.sight.height.shows_water
    bench.window.grab()
    for _ in range(3):
        qtbot.keyClick(chart, Qt.Key.Key_Backspace)
    assert chart.sight.time == closer
    qtbot.keyClick(chart, Qt.Key.Key_Home)
    assert chart.sight.time == whole and desk.line.whole.isHidden()


def test_keys_alone_look_closer_and_move_the_view_and_the_middle_button_draws_it(bench, desk, qtbot):
    chart = desk.chart
    whole = chart.sight.time
    for _ in range(3):
        qtbot.keyClick(chart, Qt.Key.Key_Right, ALT | SHIFT)
        qtbot.keyClick(chart, Qt.Key.Key_Up, ALT | SHIFT)
    closer = chart.sight.time
    # About what is in hand: it stays where it is.
    flash_s = START.first_flash_us / 1e6
    assert closer.x(flash_s) == pytest.approx(whole.x(flash_s), abs=1.0)
    qtbot.keyClick(chart, Qt.Key.Key_Left, ALT)
    assert chart.sight.time.start_s < closer.start_s
    QTest.mousePress(chart, Qt.MouseButton.MiddleButton, pos=QPoint(300, 100))
    QTest.mouseMove(chart, QPoint(250, 140))
    QTest.mouseRelease(chart, Qt.MouseButton.MiddleButton, pos=QPoint(250, 140))
    assert chart.sight.time.start_s > 0 and not chart.sight.height.shows_water
    # What is dragged in a part of the view goes where the hand is.
    chart.sight.show_whole()
    wheel(chart, place(chart, START.first_flash_us, 2), 6)
    drag(chart, place(chart, START.first_flash_us, 2), place(chart, START.first_flash_us + 3_000, 2))
    assert bench.studio.composer.sequence.first_flash_us == pytest.approx(START.first_flash_us + 3_000, abs=200)


def warm(picture, left: int, right: int) -> int:
    """How many points of the upper edge are of the colour of light."""
    light = DAY.colour("light").rgb()
    return sum(picture.pixelColor(x, y).rgb() == light for x in range(left, right) for y in range(4, 17))


def test_a_flash_out_of_view_is_pointed_to(bench, desk):
    chart = desk.chart
    left, right = round(chart.sight.time.left), round(chart.sight.time.right)
    wheel(chart, QPointF(left + 2, 60), 6)
    picture = chart.grab().toImage()
    assert warm(picture, right, right + 12) > 20 and warm(picture, left - 12, left) == 0
    chart.sight.show_whole()
    assert warm(chart.grab().toImage(), right + 1, right + 12) == 0


def test_the_waterline_strikes_out_no_number_of_the_table(race, desk):
    desk.toggle_times()
    QApplication.processEvents()
    page, times = race.window.bench, desk.times
    picture, y = page.grab().toImage(), round(page.water_line())
    line = DAY.colour("water_ink").rgb()
    assert picture.pixelColor(times.x() - 8, y).rgb() == line
    assert all(picture.pixelColor(x, y).rgb() != line for x in range(times.x() + 2, times.geometry().right() - 2))


# Counting


@pytest.mark.parametrize("counts", list(Counts))
@pytest.mark.parametrize("light_from", list(LightFrom))
def test_counting_otherwise_changes_words_and_nothing_that_fires(race, desk, counts, light_from):
    if desk.times.isHidden():
        desk.toggle_times()
    desk.counted.emit(Convention(counts, light_from))
    assert race.studio.composer.sequence == RACE and race.studio.composer.undoes is not None
    typed(desk.numbers.interval, desk.numbers.interval.text())
    typed(desk.numbers.flash, desk.numbers.flash.text())
    for row in desk.times.rows.values():
        typed(row.at, row.at.text())
    # A tenth of a millisecond is all that the fields show of a predicted instant.
    for one, other in zip(race.studio.composer.sequence.flashes, RACE.flashes, strict=True):
        assert abs(one.at_us - other.at_us) <= 50
    assert race.studio.composer.sequence.drops == RACE.drops


def test_keys_and_names_count_otherwise_and_it_is_remembered(race, desk, qtbot):
    qtbot.keyClick(race.window, Qt.Key.Key_K, CONTROL)
    assert desk.convention.counts is Counts.CLOSING_TO_OPENING
    assert desk.numbers.interval_block.title.text() == "Gap before drop 2"
    gap_us = RACE.drops[1].start_us - RACE.drops[0].end_us
    assert desk.numbers.interval.value() == gap_us / 1000
    desk.numbers.flash_block.title.click()
    assert desk.convention.light_from is LightFrom.FIRST_OPENING
    qtbot.keyClick(race.window, Qt.Key.Key_K, CONTROL | SHIFT)
    typed(desk.numbers.flash, "250")
    assert race.studio.composer.sequence.flashes[0].at_us == RACE.drops[3].start_us + 250_000
    qtbot.keyClick(race.window, Qt.Key.Key_C, CONTROL)
    line = QGuiApplication.clipboard().text()
    assert line.startswith("ms, closing to opening: ") and "; flash from the last opening: 2 at 246, 1 at 250" in line


def test_a_flash_can_stand_before_what_it_is_counted_from_but_not_before_the_trigger(race, desk):
    desk.counted.emit(Convention(light_from=LightFrom.MEETING))
    typed(desk.numbers.flash, "-3")
    found = [e.time_s.mean for e in desk.prediction.course.events if e.kind is EventKind.MEETING]
    assert race.studio.composer.sequence.flashes[0].at_us == round(min(found) * 1e6) - 3_000
    typed(desk.numbers.flash, "-400")
    assert "is outside what this can be" in race.window.messages.text() and desk.numbers.flash.value() == -3.0


def test_until_somebody_chooses_times_are_counted_as_the_box_counts_them():
    assert usual_convention(Setup()) == Convention(Counts.START_TO_START)
    box = Box(in_use=True, counts=Counts.CLOSING_TO_OPENING, flash_from=FlashFrom.LAST_CLOSING)
    assert usual_convention(Setup(box=box)) == Convention(Counts.CLOSING_TO_OPENING, LightFrom.LAST_CLOSING)


# The table of all times


def test_the_table_sets_every_time_by_keys_and_selects(race, desk, qtbot):
    window, composer = race.window, race.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_T, CONTROL)
    rows = desk.times.rows
    assert desk.times.isVisible() and [*rows] == [
        *map(drop, range(4)), *map(flash, range(2)), SHUTTER, Item(Kind.MIRROR), Item(Kind.HALF_PRESS)
    ]  # fmt: skip
    typed(rows[drop(3)].open, "19.5")
    typed(rows[flash(1)].at, "371,5")
    typed(rows[SHUTTER].at, "90")
    typed(rows[Item(Kind.HALF_PRESS)].at, "12")
    sequence = composer.sequence
    assert sequence.drops[3].open_us == 19_500 and sequence.flashes[1].at_us == 371_500
    assert (sequence.camera.opens_us, sequence.camera.half_press_us) == (90_000, 12_000)
    typed(rows[Item(Kind.HALF_PRESS)].at, "not asked")
    assert composer.sequence.camera.half_press_us is None
    typed(rows[flash(1)].at, "soon")
    assert composer.sequence == replace(sequence, camera=composer.sequence.camera)
    assert "Flash 2, time" in window.messages.text()
    rows[drop(2)].name.click()
    assert desk.chart.selection == Selection(drop(2)) and rows[drop(2)].name.isChecked()
    # A row goes with its drop.
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert drop(3) not in desk.times.rows
    qtbot.keyClick(window, Qt.Key.Key_T, CONTROL)
    assert not desk.times.isVisible()


# Words


def test_the_line_says_what_lies_under_the_cursor_and_what_was_undone(race, desk, qtbot):
    chart, window = desk.chart, race.window
    QTest.mouseMove(chart, middle(chart, 1).toPoint())
    assert desk.line.words.text().startswith("Drop 2, valve 2: opens at 30 ms for 22 ms, ")
    QTest.mouseMove(chart, place(chart, RACE.drops[1].end_us, 2).toPoint())
    assert "Drag: longer or shorter." in desk.line.words.text()
    # On open air it is what is in hand, and what a press does there.
    QTest.mouseMove(chart, QPoint(200, 60))
    words = desk.line.words.text()
    assert words.startswith("Flash 1, output 1: 356.0 ms, ") and "Press: the flash comes here." in words
    QTest.mouseMove(chart, place(chart, 230_000, 1).toPoint())
    assert "Drag: select several." in desk.line.words.text()
    qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert window.header.undo.toolTip() == "Undo: move flash 1  Ctrl Z"
    qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL)
    assert desk.line.words.text() == "Undone: move flash 1."
    qtbot.keyClick(window, Qt.Key.Key_Y, CONTROL)
    assert desk.line.words.text() == "Done again: move flash 1."


def test_a_sequence_of_another_shot_takes_no_locks_over(race, desk, qtbot):
    qtbot.keyClick(race.window, Qt.Key.Key_L, CONTROL)
    assert race.studio.composer.plan.locks
    QGuiApplication.clipboard().setText(
        "ms, start to start: A 0 open 22, A 90 open 22; flash from the trigger: 1 at 340"
    )
    qtbot.keyClick(race.window, Qt.Key.Key_V, CONTROL)
    assert race.studio.composer.plan.locks == () and race.studio.composer.sequence == Sequence.with_one_flash(
        (Pulse(0, 22_000), Pulse(90_000, 22_000)), 340_000
    )


def test_a_slave_and_a_unit_that_has_not_recycled_are_said_at_their_flash(race, desk, qtbot):
    units = RACE_IN_HAND.setup.light.units
    slave = replace(units[1], name="Unit C", slave=True, recycle_full_s=30.0)
    light = replace(RACE_IN_HAND.setup.light, units=(*units, slave))
    race.studio.composer.use_setup(replace(RACE_IN_HAND.setup, light=light))
    qtbot.keyClick(race.window, Qt.Key.Key_0)
    assert "Unit C has not recycled." in desk.line.words.text()
    qtbot.keyClick(race.window, Qt.Key.Key_0)
    assert "Unit C fires along." in desk.line.words.text()


def test_the_large_number_is_large_again_where_it_has_room_again(race, desk, qtbot):
    field = desk.numbers.flash
    large = field.lineEdit().font().pixelSize()
    field.resize(90, 40)
    assert field.lineEdit().font().pixelSize() < large
    field.resize(184, 40)
    assert field.lineEdit().font().pixelSize() == field.font().pixelSize() == large


@pytest.mark.parametrize("size", [LEAST_PX, (1200, 680), (1280, 800), (1920, 1080)])
def test_chart_line_and_numbers_lie_under_one_another_in_every_window(race, desk, qtbot, size):
    window = race.window
    if desk.times.isHidden():
        desk.toggle_times()
    window.resize(*size)
    qtbot.wait(50)
    order = [desk.chart, desk.line, desk.numbers, *([window.bench.strip] if window.bench.strip.isVisible() else [])]
    for upper, lower in pairwise([*order, window.bench.board]):
        assert upper.geometry().bottom() < lower.geometry().top(), (size, upper, lower)
    assert desk.chart.geometry().right() < desk.times.geometry().left()
