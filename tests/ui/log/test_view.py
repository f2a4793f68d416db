import shutil
import sqlite3
from dataclasses import replace
from datetime import timedelta

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QToolButton

from ondine.core.timing.sequence import FlashPulse
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.shell import app as ui_app
from tests.calibrated import IN_HAND
from tests.conftest import TestClock
from tests.ui.conftest import SEASON, Bench, shown
from tests.ui.hands import PRESS

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture(scope="module")
def long_evening(tmp_path_factory):
    """A logbook with 300 shots of one flash delay each, every third a crown."""
    path, now = tmp_path_factory.mktemp("evening") / "log.ondine", TestClock()()
    book = Logbook.open(path)
    past = []
    for number in range(300):
        sequence = replace(IN_HAND.sequence, flashes=(FlashPulse(300_000 + 100 * number),))
        at = now - timedelta(days=1) + timedelta(minutes=number)
        shapes = ("crown",) if number % 3 == 0 else ()
        past.append(PastShot("Long evening", at, replace(IN_HAND, sequence=sequence), shapes, number % 6))
    book.shots.add_history(past)
    book.close()
    return path


@pytest.fixture
def long_log(long_evening, tmp_path, clock, qtbot):
    """A window on the long evening."""
    shutil.copy(long_evening, tmp_path / "log.ondine")
    ui_app.application()
    for made in shown(Bench(tmp_path, clock), qtbot):
        qtbot.keyClick(made.window, Qt.Key.Key_F3)
        made.settle(qtbot)
        yield made


def ask(bench, qtbot, line: str) -> None:
    bench.window.log.text.setText(line)
    bench.window.log.text.ask()
    bench.settle(qtbot)


def records(bench):
    return {shot.id: shot for shot in bench.studio.writer.logbook.shots.newest(1000)}


def test_the_log_finds_and_gives_a_shot_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    log = window.log
    assert log.isVisible() and log.tally.text() == "2 shots" and log.sheet.hasFocus()
    ask(bench, qtbot, "ghosted")
    assert log.tally.text() == "0 shots" and log.empty.isVisible() and not log.views.isVisible()
    ask(bench, qtbot, "")
    bench.settle(qtbot)
    log.sheet.setFocus()
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    qtbot.keyClick(log.sheet, Qt.Key.Key_Right)
    qtbot.keyClick(log.sheet, Qt.Key.Key_Return)
    assert window.bench.isVisible() and window.in_view.shot.id == 1
    # Space does not fire from inside the log.
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    qtbot.keyClick(log.sheet, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == 2
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.bench.isVisible()


def test_an_empty_logbook_says_what_will_be_there(bench, qtbot):
    bench.window.in_view.show(None)
    assert "Space" in bench.window.bench.shot.picture.accessibleDescription()
    assert not bench.window.bench.board.buttons["crown"].isEnabled()


def test_only_what_is_in_view_is_read(long_log, qtbot):
    log = long_log.window.log
    assert log.tally.text() == "300 shots"
    log.sheet.grab()
    long_log.settle(qtbot)
    assert 0 < len(log.model._records) <= 120
    qtbot.keyClick(log.sheet, Qt.Key.Key_End)
    log.sheet.grab()
    long_log.settle(qtbot)
    qtbot.waitUntil(lambda: log.current() is not None, timeout=3000)
    assert log.current().id == 1 and log.current_number() == 1


def test_keys_walk_the_sheet_in_reading_order(long_log, qtbot):
    sheet = long_log.window.log.sheet
    qtbot.keyClick(sheet, Qt.Key.Key_Home)
    for key, row in ((Qt.Key.Key_Right, 1), (Qt.Key.Key_Down, 1 + sheet.columns), (Qt.Key.Key_Left, sheet.columns),
                     (Qt.Key.Key_Up, 0), (Qt.Key.Key_Up, 0), (Qt.Key.Key_End, 299), (Qt.Key.Key_Right, 299)):  # fmt: skip
        qtbot.keyClick(sheet, key)
        assert sheet.currentIndex().row() == row
    page = sheet.viewport().height() // sheet.cell.height() * sheet.columns
    qtbot.keyClick(sheet, Qt.Key.Key_PageUp)
    assert sheet.currentIndex().row() == 299 - page
    # Wherever the cursor is, it is in sight.
    assert sheet.viewport().rect().intersects(sheet.visualRect(sheet.currentIndex()))


def test_shift_selects_a_run_and_control_one_more(long_log, qtbot):
    log = long_log.window.log
    sheet = log.sheet

    def click(row: int, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
        place = sheet.visualRect(log.model.index(row, 0)).center()
        qtbot.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton, modifiers, place)

    click(1)
    click(6, SHIFT)
    assert log.selected_numbers() == [299, 298, 297, 296, 295, 294]
    click(9, CONTROL)
    click(2, CONTROL)
    assert log.selected_numbers() == [299, 297, 296, 295, 294, 291]
    click(3)
    qtbot.keyClick(sheet, Qt.Key.Key_Right, SHIFT)
    qtbot.keyClick(sheet, Qt.Key.Key_Down, SHIFT)
    assert log.selected_numbers() == [300 - row for row in range(3, 5 + sheet.columns)]
    qtbot.keyClick(sheet, Qt.Key.Key_Left, SHIFT)
    assert len(log.selected_numbers()) == sheet.columns + 1
    long_log.settle(qtbot)
    assert "more selected" in log.card.head.text()


def test_letters_tag_rate_and_keep_all_that_is_selected(long_log, qtbot):
    log = long_log.window.log
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    for _ in range(3):
        qtbot.keyClick(log.sheet, Qt.Key.Key_Right, SHIFT)
    qtbot.keyClick(log.sheet, Qt.Key.Key_F)
    qtbot.keyClick(long_log.window, Qt.Key.Key_4, CONTROL)
    qtbot.keyClick(long_log.window, Qt.Key.Key_B, CONTROL)
    long_log.settle(qtbot)
    found = records(long_log)
    for number in (300, 299, 298, 297):
        assert "full-umbrella" in found[number].shapes and found[number].rating == 4 and found[number].keeper
    assert "full-umbrella" not in found[296].shapes and not found[296].keeper
    # The same letter takes it off again, from all of them.
    qtbot.keyClick(log.sheet, Qt.Key.Key_F)
    long_log.settle(qtbot)
    assert not any("full-umbrella" in shot.shapes for shot in records(long_log).values())
    assert long_log.studio.writer.logbook.shots.count() == 300


def test_a_label_is_put_on_all_that_is_selected_and_is_found(long_log, qtbot):
    log = long_log.window.log
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    qtbot.keyClick(log.sheet, Qt.Key.Key_Right, SHIFT)
    long_log.settle(qtbot)
    qtbot.keyClick(long_log.window, Qt.Key.Key_J, CONTROL)
    assert log.card.label.hasFocus()
    qtbot.keyClicks(log.card.label, "for the foyer")
    qtbot.keyClick(log.card.label, Qt.Key.Key_Return)
    long_log.settle(qtbot)
    assert log.sheet.hasFocus()
    ask(long_log, qtbot, 'label "for the foyer"')
    assert log.model.ids.tolist() == [300, 299]
    log.card.label.setText("-for the foyer")
    qtbot.keyClick(log.card.label, Qt.Key.Key_Return)
    long_log.settle(qtbot)
    assert not any(shot.labels for shot in records(long_log).values())


def test_the_next_untagged_shot_is_gone_to(long_log, qtbot):
    log = long_log.window.log
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    log.sheet.grab()
    long_log.settle(qtbot)
    # Number 298 is a crown: 297 from the first.
    seen = []
    for _ in range(4):
        qtbot.keyClick(long_log.window, Qt.Key.Key_U, CONTROL)
        seen.append(log.current_number())
    assert seen == [299, 297, 296, 294]


def test_del_puts_shots_into_the_bin_and_takes_them_out_again(long_log, qtbot):
    log = long_log.window.log
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    qtbot.keyClick(long_log.window, Qt.Key.Key_Delete)
    long_log.settle(qtbot)
    log.ask()
    long_log.settle(qtbot)
    assert log.tally.text() == "299 shots" and "in the bin" in long_log.window.messages.text()
    assert len(long_log.studio.composer.plan.sequence.drops) == len(IN_HAND.sequence.drops)
    ask(long_log, qtbot, "in the bin")
    long_log.settle(qtbot)
    assert log.model.ids.tolist() == [300]
    log.sheet.setFocus()
    qtbot.keyClick(log.sheet, Qt.Key.Key_Home)
    qtbot.keyClick(long_log.window, Qt.Key.Key_Delete)
    long_log.settle(qtbot)
    ask(long_log, qtbot, "")
    assert log.tally.text() == "300 shots"


def test_the_cursor_stays_at_its_shot_when_others_come_and_go(long_log, qtbot):
    log = long_log.window.log
    log.step_to(40)
    long_log.settle(qtbot)
    ask(long_log, qtbot, "crown")
    assert log.tally.text() == "100 shots"
    log.step_to(5)
    number = log.current_number()
    ask(long_log, qtbot, "")
    assert log.current_number() == number and log.sheet.currentIndex().row() == 300 - number
    long_log.studio.bench.fire(long_log.studio.composer.plan)
    long_log.settle(qtbot)
    qtbot.waitUntil(lambda: log.tally.text() == "301 shots", timeout=3000)
    assert log.current_number() == number


def test_sheet_and_table_share_cursor_and_selection(long_log, qtbot):
    log = long_log.window.log
    log.step_to(7)
    qtbot.keyClick(log.sheet, Qt.Key.Key_Right, SHIFT)
    chosen = log.selected_numbers()
    qtbot.keyClick(long_log.window, Qt.Key.Key_H, CONTROL)
    assert log.table.isVisible() and log.table.hasFocus() and log.selected_numbers() == chosen
    long_log.settle(qtbot)
    assert log.model.data(log.model.index(7, 7)) == "329.2"
    qtbot.keyClick(log.table, Qt.Key.Key_Down)
    assert log.selected_numbers() == [chosen[-1] - 1]
    # Letters tag here too.
    qtbot.keyClick(log.table, Qt.Key.Key_F)
    long_log.settle(qtbot)
    assert "full-umbrella" in records(long_log)[chosen[-1] - 1].shapes
    qtbot.mouseClick(log.kinds["Sheet"], Qt.MouseButton.LeftButton)
    assert log.sheet.isVisible() and log.current_number() == chosen[-1] - 1


def test_a_search_that_cannot_be_understood_is_said_and_leaves_what_was_found(long_log, qtbot):
    log = long_log.window.log
    ask(long_log, qtbot, "flash>=late")
    assert "flash" in log.understood.text() and log.tally.text() == "300 shots"
    ask(long_log, qtbot, "flash>=329 crown")
    assert log.understood.text() == "flash at least 329 ms · crown" and log.tally.text() == "3 shots"


def test_a_search_is_saved_used_and_forgotten(long_log, qtbot):
    log = long_log.window.log

    def choose(text: str) -> None:
        place = log.searches.findText(text)
        assert place > 0
        log.searches.setCurrentIndex(place)
        log.searches.activated.emit(place)
        long_log.settle(qtbot)

    assert log.searches.findText("Save this search") < 0
    ask(long_log, qtbot, "crown rating>=4")
    choose("Save this search")
    ask(long_log, qtbot, "")
    choose("crown rating>=4")
    assert log.text.text() == "crown rating>=4" and log.understood.text() == "crown · rating at least 4"
    choose("Forget this search")
    assert log.searches.findText("crown rating>=4") < 0


def test_words_are_completed_at_the_cursor(long_log, qtbot):
    field = long_log.window.log.text
    field.setFocus()
    qtbot.keyClicks(field, "full u")
    assert field._offers.stringList() == ["full umbrella"]
    field._completer.activated.emit("full umbrella")
    assert field.text() == "full umbrella "
    qtbot.keyClicks(field, "gap")
    assert "gap 60-80" not in field._offers.stringList()
    qtbot.keyClicks(field, " 60-80")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "full umbrella gap 60-80" and long_log.window.log.sheet.hasFocus()


def test_a_shot_that_cannot_be_read_has_its_place_and_says_so(long_log, qtbot):
    log = long_log.window.log
    with sqlite3.connect(long_log.path) as raw:
        raw.execute("UPDATE shot SET sequence = 'nonsense' WHERE id = 299")
    raw.close()
    long_log.settle(qtbot)
    log.model.forget()
    for _ in range(2):
        log.sheet.grab()
        long_log.settle(qtbot)
    assert log.model.data(log.model.index(1, 0)) == "299: cannot be read"
    assert log.model.record(0).id == 300 and log.tally.text() == "300 shots"


def test_the_sheet_fills_its_width_at_any_size(long_log, qtbot):
    log, window = long_log.window.log, long_log.window
    for width in (1180, 1280, 1500, 1920):
        window.resize(width, 800)
        qtbot.wait(20)
        sheet = log.sheet
        left = sheet.viewport().width() - sheet.columns * sheet.cell.width()
        assert 0 <= left < sheet.columns and sheet.cell.width() >= 180
        assert sheet.indexAt(QPoint(2, 2)).row() >= 0
    log.step_to(150)
    window.resize(1180, 700)
    qtbot.wait(20)
    rows = [log.sheet.indexAt(QPoint(4, y)).row() for y in range(0, log.sheet.viewport().height(), 60)]
    assert min(rows) <= 150 <= max(rows) + log.sheet.columns


def test_a_note_written_in_the_log_is_kept_for_the_shot_it_was_written_on(long_log, qtbot):
    log = long_log.window.log
    log.step_to(3)
    long_log.settle(qtbot)
    qtbot.keyClick(long_log.window, Qt.Key.Key_F8)
    assert log.card.note.hasFocus()
    qtbot.keyClicks(log.card.note, "for print 3")
    log.step_to(4)
    long_log.settle(qtbot)
    assert records(long_log)[297].note == "for print 3" and records(long_log)[296].note == ""


def test_pictures_of_the_season_are_shown(bench, qtbot):
    bench.window.navigation.toggle_log()
    bench.settle(qtbot)
    bench.window.log.sheet.grab()
    bench.window.loader.wait()
    qtbot.wait(20)
    assert SEASON.exists() and bench.window.log.current().picture is not None


def test_only_what_is_selected_has_a_frame(long_log, qtbot):
    log = long_log.window.log
    sheet = log.sheet
    qtbot.keyClick(sheet, Qt.Key.Key_Home)
    long_log.settle(qtbot)
    ink = log.delegate.theme.colour("ink").rgb()

    def framed() -> list[int]:
        image = sheet.viewport().grab().toImage()
        found = []
        for row in range(2 * sheet.columns):
            area = sheet.visualRect(log.model.index(row, 0))
            edge = [image.pixelColor(area.left() + 4, y).rgb() for y in range(area.top() + 20, area.top() + 80, 10)]
            if edge.count(ink) > 3:
                found.append(row)
        return found

    assert framed() == [0]
    qtbot.keyClick(sheet, Qt.Key.Key_Right)
    assert framed() == [1]
    qtbot.keyClick(sheet, Qt.Key.Key_Right, SHIFT)
    assert framed() == [1, 2]


def test_the_shots_most_like_one_come_first(long_log, qtbot):
    log = long_log.window.log
    log.step_to(149)
    number = log.current_number()
    qtbot.keyClick(long_log.window, Qt.Key.Key_F, CONTROL | SHIFT)
    long_log.settle(qtbot)
    first = log.model.ids[:5].tolist()
    # Neighbours in flash delay are the likest; the shot itself comes first of all.
    assert first[0] == number and set(first) == set(range(number - 2, number + 3))
    assert log.current_number() == number and log.sheet.currentIndex().row() == 0
    # Another shot, by the same key.
    log.step_to(4)
    other = log.current_number()
    qtbot.keyClick(long_log.window, Qt.Key.Key_F, CONTROL | SHIFT)
    long_log.settle(qtbot)
    assert log.model.ids[0] == other
    log.order.setCurrentIndex(0)
    long_log.settle(qtbot)
    assert log.model.ids[0] == 300


def test_where_nothing_fits_the_keys_stay_in_the_search(long_log, qtbot):
    log = long_log.window.log
    log.text.setFocus()
    log.text.setText("ghosted")
    qtbot.keyClick(log.text, Qt.Key.Key_Return)
    long_log.settle(qtbot)
    assert log.empty.isVisible() and log.text.hasFocus()
    ask(long_log, qtbot, "crown")
    qtbot.keyClick(log.text, Qt.Key.Key_Return)
    long_log.settle(qtbot)
    assert log.sheet.hasFocus()
    # The last shot that fits goes while the keys are with it.
    ask(long_log, qtbot, "crown rating 5")
    log.sheet.setFocus()
    log.sheet.selectAll()
    qtbot.keyClick(long_log.window, Qt.Key.Key_Delete)
    long_log.settle(qtbot)
    log.ask()
    long_log.settle(qtbot)
    assert log.empty.isVisible() and log.text.hasFocus()


def test_what_completes_a_word_is_drawn_on_a_ground(long_log, qtbot):
    field = long_log.window.log.text
    field.setFocus()
    qtbot.keyClicks(field, "cra")
    popup = field._popup()
    image = popup.grab().toImage()
    ground = image.pixelColor(image.width() - 12, image.height() - 6)
    assert popup.isVisible() and ground.alpha() == 255 and ground.lightness() > 200
    assert image.pixelColor(image.width() // 2, 0) == DAY.colour("line")
    popup.hide()
    long_log.window.toggle_theme()
    field._offer()
    image = popup.grab().toImage()
    edge, ground = (image.pixelColor(*at) for at in ((image.width() // 2, 0), (image.width() - 12, image.height() - 6)))
    assert popup.isVisible() and (edge, ground) == (DARKROOM.colour("line"), DARKROOM.colour("air"))


def test_the_line_is_emptied_by_a_button_that_does_not_shine_in_the_dark(long_log, qtbot):
    window, field = long_log.window, long_log.window.log.text
    ask(long_log, qtbot, "crown")
    assert window.log.tally.text() == "100 shots"
    window.toggle_theme()
    shown = field.grab().toImage()
    ratio, button = field.devicePixelRatioF(), field.findChild(QToolButton)
    around = [QPoint(x, y) for x in range(button.width()) for y in range(button.height())]
    colours = [shown.pixelColor((button.pos() + at) * ratio) for at in around]
    assert max(c.green() + c.blue() for c in colours) < 10 and max(c.red() for c in colours) > 100
    qtbot.mouseClick(button, PRESS)
    long_log.settle(qtbot)
    assert field.text() == "" and window.log.tally.text() == "300 shots" and not button.isVisible()
