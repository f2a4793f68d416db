"""Shots side by side and as a film, in the window."""

from dataclasses import replace
from datetime import timedelta

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from ondine.core.timing.sequence import FlashPulse, Pulse
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.ui.kit.pictures import WHOLE
from ondine.ui.log.kinds import COMPARE, FILM, SHEET
from ondine.ui.shell import app as ui_app
from tests.calibrated import IN_HAND
from tests.ui.conftest import SEASON, Bench, shown
from tests.ui.hands import drag

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
SERIES = 9


@pytest.fixture
def series(tmp_path, clock, qtbot):
    """A window on the log of one series, its flash going up in steps of 2 ms, fired out of order, and one shot more."""
    book = Logbook.open(tmp_path / "log.ondine")
    past = []
    for number in range(SERIES):
        step = number * 4 % SERIES
        sequence = replace(IN_HAND.sequence, flashes=(FlashPulse(350_000 + 2000 * step),))
        at = clock() - timedelta(days=1) + timedelta(minutes=number)
        picture = read_picture(SEASON / f"{60 + number:03d}.jpg")
        past.append(PastShot("Series", at, replace(IN_HAND, sequence=sequence), picture=picture))
    other = replace(IN_HAND.sequence, drops=(Pulse(0, 31_000),))
    past.append(PastShot("Series", clock(), replace(IN_HAND, sequence=other)))
    book.shots.add_history(past)
    book.close()
    ui_app.application()
    for made in shown(Bench(tmp_path, clock), qtbot):
        qtbot.keyClick(made.window, Qt.Key.Key_F3)
        made.settle(qtbot)
        yield made


def select(bench, qtbot, count: int) -> None:
    """Select the newest shots of the series, by keys."""
    sheet = bench.window.log.sheet
    qtbot.keyClick(sheet, Qt.Key.Key_Home)
    qtbot.keyClick(sheet, Qt.Key.Key_Right)
    for _ in range(count - 1):
        qtbot.keyClick(sheet, Qt.Key.Key_Right, SHIFT)


def press(bench, qtbot, key, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    qtbot.keyClick(QApplication.focusWidget() or bench.window, key, modifiers)
    bench.settle(qtbot)


def record(bench, number: int):
    return bench.studio.writer.logbook.shots.get(number)


def notch(view, at: QPointF, steps: int) -> None:
    QApplication.sendEvent(
        view,
        QWheelEvent(at, view.mapToGlobal(at), QPoint(), QPoint(0, 120 * steps), Qt.MouseButton.NoButton,
                    Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False),
    )  # fmt: skip


def test_selected_shots_stand_side_by_side_with_what_differs(series, qtbot):
    log = series.window.log
    select(series, qtbot, 3)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)
    assert log.kind == COMPARE and log.compare.hasFocus() and not log.card.isVisible()
    assert log.compare.best_of.in_view == (9, 8, 7)
    flashes = [record(series, number).sequence.first_flash_us / 1000 for number in (9, 8, 7)]
    rows = {row.name: row.values for row in log.compare._rows}
    assert rows["flash"] == tuple(f"{flash:g} ms" for flash in flashes)
    assert set(rows) == {"flash", "after touchdown", "after meeting"}
    assert "flash" in log.compare.accessibleDescription() and "1 of 3" in log.compare.accessibleDescription()


def test_one_selected_shot_is_compared_with_those_after_it(series, qtbot):
    select(series, qtbot, 1)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)
    assert series.window.log.compare.best_of.in_view == (9, 8, 7, 6, 5, 4)


def test_the_best_is_found_by_keys_alone(series, qtbot):
    window, compare = series.window, series.window.log.compare
    select(series, qtbot, 8)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)
    assert compare.best_of.in_view == (9, 8, 7, 6, 5, 4) and compare.current == 9
    press(series, qtbot, Qt.Key.Key_Right)
    press(series, qtbot, Qt.Key.Key_Delete)
    assert compare.best_of.in_view == (9, 3, 7, 6, 5, 4) and compare.current == 3
    press(series, qtbot, Qt.Key.Key_Z, CONTROL)
    assert compare.best_of.in_view == (9, 8, 7, 6, 5, 4)
    for _ in range(7):
        press(series, qtbot, Qt.Key.Key_Delete)
    assert len(compare.best_of.in_view) == 1 and "the best of 8" in window.messages.words.text()
    best = compare.current
    press(series, qtbot, Qt.Key.Key_Delete)
    assert compare.current == best
    press(series, qtbot, Qt.Key.Key_B, CONTROL)
    assert record(series, best).keeper and window.log.compare.record.keeper
    # Striking out is no binning, and only the best is kept.
    kept = [shot for shot in series.studio.writer.logbook.shots.newest(99) if shot.keeper or shot.binned]
    assert [shot.id for shot in kept] == [best]


def test_keys_are_about_the_shot_under_the_cursor_alone(series, qtbot):
    log = series.window.log
    select(series, qtbot, 3)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)
    press(series, qtbot, Qt.Key.Key_Right)
    press(series, qtbot, Qt.Key.Key_4, CONTROL)
    assert [record(series, number).rating for number in (9, 8, 7)] == [0, 4, 0]
    press(series, qtbot, Qt.Key.Key_F8)
    assert log.card.isVisible() and log.card.note.hasFocus()
    log.card.note.setText("torn on the left")
    log.card.note.setModified(True)
    log.card.keep_note()
    series.settle(qtbot)
    assert record(series, 8).note == "torn on the left"
    log.compare.setFocus()
    press(series, qtbot, Qt.Key.Key_Return)
    assert series.window.bench.isVisible() and series.window.in_view.shot.id == 8


def test_all_are_looked_at_through_one_lens(series, qtbot):
    compare = series.window.log.compare
    select(series, qtbot, 2)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)
    compare.grab()
    series.window.loader.wait()
    at = compare.panes.frame(compare.panes.all()[1]).center() + QPointF(40, 20)
    before = compare._on_picture(at)
    notch(compare, at, 6)
    assert compare.lens.closeness > 2.5
    assert (compare._on_picture(at) - before).manhattanLength() < 0.01
    held = compare.lens
    drag(compare, at, at + QPointF(-60, 0))
    assert compare.lens.x > held.x and compare.lens.closeness == held.closeness
    press(series, qtbot, Qt.Key.Key_Left, SHIFT)
    assert compare.lens.x < 1 and compare.place == 1
    press(series, qtbot, Qt.Key.Key_Home)
    assert compare.lens.closeness == 1
    press(series, qtbot, Qt.Key.Key_Plus)
    assert compare.lens.closeness == 1.5


def test_a_closer_look_shows_finer_pixels_once_the_hand_rests(series, qtbot):
    compare, loader = series.window.log.compare, series.window.loader
    select(series, qtbot, 2)
    press(series, qtbot, Qt.Key.Key_R, CONTROL)

    def parts() -> list[object]:
        return [wish for wish, image in loader._cache.items() if wish.part != WHOLE and not image.isNull()]

    for _ in range(8):
        notch(compare, compare.panes.frame(compare.panes.all()[0]).center(), 1)
        compare.grab()
    coarse = compare.grab().toImage()
    loader.wait()
    assert parts() == []
    qtbot.wait(200)
    compare.grab()
    loader.wait()
    qtbot.wait(50)
    # What the hand went through is not read, only where it rests: once for each picture.
    assert len(parts()) == 2 and compare.grab().toImage() != coarse


def test_a_film_has_all_of_the_series_in_the_order_of_the_flash(series, qtbot):
    log = series.window.log
    select(series, qtbot, 1)
    press(series, qtbot, Qt.Key.Key_R, CONTROL | SHIFT)
    assert log.kind == FILM and len(log.film.shots) == SERIES
    flashes = [shot.sequence.first_flash_us for shot in log.film.shots]
    assert flashes == sorted(flashes) and log.film.current == 9
    place = log.film.place
    notch(log.film, QPointF(100, 100), -1)
    assert log.film.place == min(place + 1, SERIES - 1)
    press(series, qtbot, Qt.Key.Key_Home)
    assert log.film.place == 0
    for _ in range(SERIES + 3):
        press(series, qtbot, Qt.Key.Key_Right)
    assert log.film.place == SERIES - 1 and f"{SERIES} of {SERIES}" in log.film.accessibleDescription()
    # Tags are about the frame.
    press(series, qtbot, Qt.Key.Key_3, CONTROL)
    assert record(series, log.film.current).rating == 3 and log.film.record.rating == 3
    small = log.film._strip()[2]
    qtbot.mouseClick(log.film, Qt.MouseButton.LeftButton, pos=small[1].center().toPoint())
    assert log.film.place == small[0]


def test_selected_shots_make_a_film_of_their_own(series, qtbot):
    log = series.window.log
    select(series, qtbot, 4)
    press(series, qtbot, Qt.Key.Key_R, CONTROL | SHIFT)
    assert {shot.id for shot in log.film.shots} == {9, 8, 7, 6}


def test_without_shots_both_say_what_will_be_there(series, qtbot):
    log = series.window.log
    log.text.setText("ghosted")
    log.text.ask()
    series.settle(qtbot)
    for kind in (COMPARE, FILM):
        log.show_as(kind)
        series.settle(qtbot)
        assert log.empty.isVisible() and log.current() is None
        press(series, qtbot, Qt.Key.Key_Delete)
        press(series, qtbot, Qt.Key.Key_4, CONTROL)
    log.show_as(SHEET)
    log.text.setText("")
    log.text.ask()
    series.settle(qtbot)
    assert log.sheet.isVisible() and not any(shot.binned for shot in series.studio.writer.logbook.shots.newest(99))


def test_a_film_without_shots_says_what_it_is_made_of(series, qtbot):
    film = series.window.log.film
    film.show_shots((), None)
    assert "same drops" in film.accessibleDescription()
    film.grab()
    film.turn(1)
    assert film.current is None
