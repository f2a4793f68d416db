from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtGui import QFontMetrics, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.records import ShotState
from ondine.ui.bench import chart_canvas
from ondine.ui.kit.tag_board import TWO_LINES
from ondine.ui.kit.theme import SMALL_PX, font
from ondine.ui.shell.main_window import LEAST_PX
from tests.ui.hands import PRESS, drag, place

FOUR = Sequence.with_one_flash(
    (Pulse(0, 22_000), Pulse(95_000, 22_000), Pulse(150_000, 18_000), Pulse(230_000, 20_000)), 400_000
)


def test_dragging_the_flash_line_changes_flash_splash_and_words(bench, qtbot):
    chart = bench.window.bench.chart
    before = bench.window.bench.shape_words.text()
    start = place(chart, bench.studio.composer.sequence.first_flash_us, 2)
    drag(chart, start, place(chart, 290_000, 2))
    assert abs(bench.studio.composer.sequence.first_flash_us - 290_000) < 1_500
    assert bench.window.bench.shape_words.text() != before
    assert bench.window.bench.numbers.flash.value() == pytest.approx(
        bench.studio.composer.sequence.first_flash_us / 1000
    )
    # A whole drag is one step back.
    bench.window.studio.composer.undo()
    assert bench.studio.composer.sequence.first_flash_us == 356_000


def test_a_press_on_open_air_brings_the_flash(bench, qtbot):
    chart = bench.window.bench.chart
    QTest.mouseClick(chart, PRESS, pos=QPoint(round(chart.time_scale.x((200_000) / 1e6)), 60))
    assert abs(bench.studio.composer.sequence.first_flash_us - 200_000) < 1_500


def test_dragging_a_pulse_its_end_and_its_curve(bench, qtbot):
    chart = bench.window.bench.chart
    drag(chart, place(chart, 104_000, 1), place(chart, 114_000, 1))
    assert bench.studio.composer.sequence.intervals_us[0] == pytest.approx(105_000, abs=1_500)
    end = bench.studio.composer.sequence.drops[1].end_us
    drag(chart, place(chart, end, 1), place(chart, end + 6_000, 1))
    assert bench.studio.composer.sequence.drops[1].open_us == pytest.approx(28_000, abs=1_500)
    curve = chart.prediction.course.falls[1]
    on_curve = QPointF(chart.sight.time.x(curve.time_s[12]), chart.sight.height.y(curve.height_m[12]))
    drag(chart, on_curve, on_curve - QPointF(20, 0))
    assert bench.studio.composer.sequence.intervals_us[0] < 104_000


def test_a_drop_cannot_be_dragged_over_the_one_before(bench, qtbot):
    chart = bench.window.bench.chart
    drag(chart, place(chart, 104_000, 1), place(chart, 5_000, 1))
    assert bench.studio.composer.sequence.drops[1].start_us == bench.studio.composer.sequence.drops[0].end_us + 1_000


def test_a_drop_that_lets_nothing_out_can_be_drawn(bench, qtbot):
    bench.studio.composer.use_sequence(Sequence.with_one_flash((Pulse(0, 1_000),), 300_000))
    qtbot.wait(20)
    assert bench.window.bench.shape_words.text() == "Nothing in frame"
    assert not bench.window.grab().isNull()


def test_four_drops_in_the_smallest_window_leave_room_for_the_times_and_words(bench, qtbot):
    window = bench.window
    bench.studio.composer.use_sequence(bench.studio.composer.sequence.with_drop_added().with_drop_added())
    window.resize(*LEAST_PX)
    qtbot.wait(50)
    chart = window.bench.chart
    # The times stand from 5 to 21 pixels under the lanes.
    assert chart.lanes().top + 3 * chart.lanes().px + 21 <= chart.height()
    for button in window.bench.board.buttons.values():
        lines = TWO_LINES.get(button.shape.name, button.shape.name.replace(" ", "\n")).split("\n")
        metrics = QFontMetrics(font(SMALL_PX))
        assert max(metrics.horizontalAdvance(line) for line in lines) <= button.width() - 50, button.shape.name
    untagged = replace(window.in_view.shot, shapes=(), state=ShotState.FIRED)
    assert untagged.picture and not untagged.outcome_known
    window.bench.show_shot(untagged)
    assert window.bench.shot.detail.needs().height() <= window.bench.shot.detail.height()


def test_what_stands_still_while_a_drop_is_dragged_is_drawn_but_a_few_times(bench, qtbot, monkeypatch):
    chart, drawn = bench.window.bench.chart, []
    bench.studio.composer.use_sequence(FOUR)
    qtbot.wait(20)
    true = chart_canvas._paint
    monkeypatch.setattr(chart_canvas, "_paint", lambda brush, names: (drawn.append(names), true(brush, names)))
    at = place(chart, FOUR.drops[2].start_us + 5_000, 1)
    QTest.mousePress(chart, PRESS, pos=at.toPoint())
    for step in range(1, 25):
        QTest.mouseMove(chart, (at + QPointF(step, 0)).toPoint())
        qtbot.wait(1)
    moving = bench.window.grab().toImage()
    assert 1 <= len(drawn) <= 6
    # What was kept is what would be drawn.
    chart._canvas._still._key = None
    assert bench.window.grab().toImage() == moving
    QTest.mouseRelease(chart, PRESS, pos=(at + QPointF(24, 0)).toPoint())


def test_a_craters_name_gives_way_when_another_crater_is_dragged_close(bench):
    """Its own curve stays as it was: what is kept of the frame before must still be drawn anew."""
    chart, composer = bench.window.bench.chart, bench.studio.composer
    late = Pulse(300_000, 20_000)
    named = []
    for start in (0, 100_000):
        composer.use_sequence(Sequence.with_one_flash((Pulse(start, 20_000), late), 2_000_000))
        QApplication.processEvents()
        image = QImage(chart.size(), QImage.Format.Format_RGB32)
        with QPainter(image) as p:
            parts = {part.name: part.facts for part in chart.brush(p, chart.prediction).parts()}
        named.append(parts["crater 1"])
    assert [facts[-1] for facts in named] == [True, False]
