"""In and out of the log, and the course of a sitting, in the window."""

import json
import shutil

import pandas as pd
import pypdf
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog

from ondine.core.setup import BenchKind
from ondine.logbook.backup import backups
from ondine.logbook.store import Logbook
from ondine.ui.log.exchange_page import Deed
from tests.ui.hands import PRESS

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def page(bench, qtbot):
    qtbot.keyClick(bench.window, Qt.Key.Key_E, SHIFT | CONTROL)
    bench.settle(qtbot)
    return bench.window.log.exchange


def choose(bench, qtbot, path) -> None:
    """Choose a file in the dialog that is open."""
    dialog = next(d for d in bench.window.findChildren(QFileDialog) if d.isVisible())
    dialog.fileSelected.emit(str(path))
    dialog.close()
    bench.settle(qtbot)


def press(bench, qtbot, deed: Deed, path=None) -> None:
    qtbot.mouseClick(bench.window.log.exchange.buttons[deed], PRESS)
    if path is None:
        bench.settle(qtbot)
    else:
        choose(bench, qtbot, path)


def test_what_was_found_is_written_in_every_form(bench, page, qtbot, tmp_path):
    assert bench.window.navigation.in_log and page.found.text() == "Write out 2 shots"
    press(bench, qtbot, Deed.CSV, tmp_path / "a.csv")
    assert pd.read_csv(tmp_path / "a.csv")["shot"].tolist() == [1, 2]
    assert "2 shots written" in bench.window.messages.text() and not page.progress.isVisible()
    press(bench, qtbot, Deed.JSON, tmp_path / "a.json")
    assert len(json.loads((tmp_path / "a.json").read_text())["shots"]) == 2
    press(bench, qtbot, Deed.SQLITE, tmp_path / "a.sqlite")
    press(bench, qtbot, Deed.LOGBOOK, tmp_path / "part.ondine")
    book = Logbook.open(tmp_path / "part.ondine")
    assert book.shots.count() == 2
    book.close()
    press(bench, qtbot, Deed.CHART, tmp_path / "chart.svg")
    assert (tmp_path / "chart.svg").read_text().startswith("<?xml")
    press(bench, qtbot, Deed.CSV, tmp_path / "none" / "a.csv")
    assert "cannot be written" in bench.window.messages.text()


def test_a_search_narrows_what_is_written(bench, page, qtbot, tmp_path):
    log = bench.window.log
    log.text.setText("ghosted")
    log.text.ask()
    bench.settle(qtbot)
    assert page.found.text() == "Write out 0 shots" and not page.buttons[Deed.CSV].isEnabled()
    assert page.buttons[Deed.TABLE].isEnabled()


def test_a_table_of_others_is_mapped_by_hand_and_taken_in(bench, page, qtbot, tmp_path):
    path = tmp_path / "notes from 2019.csv"
    path.write_text("Day;Drop (ms);Lamp;Remark\n05/04/2019;22;356;one\n05/04/2019;23;x;two\n")
    press(bench, qtbot, Deed.TABLE, path)
    table = bench.window.log.table_map
    assert table.isVisible() and not page.isVisible()
    assert "semicolons" in table.head.text() and list(table.fields) == ["Day", "Drop (ms)", "Lamp", "Remark"]
    assert [box.currentData() for box in table.fields.values()] == ["date", "", "", "note"]
    assert "valve was open" in table.said.text() and not table.take.isEnabled()
    for column, field in (("Drop (ms)", "open"), ("Lamp", "flash1")):
        box = table.fields[column]
        box.setCurrentIndex(box.findData(field))
        bench.settle(qtbot)
    # 5 April or 4 May: nobody guesses.
    assert "day or with the month" in table.said.text()
    table.dates.setCurrentIndex(1)
    bench.settle(qtbot)
    assert table.said.text() == "1 shot to take in, 1 row cannot be." and "Line 3" in table.left_out.text()
    assert table.take.text() == "Take in 1 shot"
    qtbot.mouseClick(table.take, PRESS)
    bench.settle(qtbot)
    book = bench.studio.writer.logbook
    assert book.shots.count() == 3 and len(backups(bench.path)) == 1 and not table.isVisible()
    shot = book.shots.get(3)
    assert shot.note == "one" and (shot.at.astimezone().day, shot.at.astimezone().month) == (5, 4)
    assert shot.sitting == "notes from 2019" and 3 in bench.window.log.model.ids.tolist()


def test_a_column_that_is_there_twice_is_asked_for(bench, page, qtbot, tmp_path):
    path = tmp_path / "twice.csv"
    path.write_text("date;open;interval;open;flash\n2019-04-05;22;95;24;356\n")
    press(bench, qtbot, Deed.TABLE, path)
    table = bench.window.log.table_map
    assert [box.currentText() for box in table.fields.values()][1::2] == ["say what it means"] * 2
    assert "“open [column 2]” and “open [column 4]” may mean the same" in table.said.text()
    assert not table.take.isEnabled()
    for number, field in ((2, "drop1_open"), (4, "drop2_open")):
        box = table.fields[f"open [column {number}]"]
        box.setCurrentIndex(box.findData(field))
        bench.settle(qtbot)
    assert table.take.text() == "Take in 1 shot" and table.take.isEnabled()


def test_another_logbook_comes_in_and_its_shots_are_in_view(bench, page, qtbot, tmp_path):
    bench.studio.log.keep("bench", BenchKind.CABLE)
    press(bench, qtbot, Deed.LOGBOOK, tmp_path / "part.ondine")
    bench.studio.log.bin_shots([1, 2], binned=True)
    press(bench, qtbot, Deed.MERGE, tmp_path / "part.ondine")
    assert "were there already" in bench.window.messages.text()


def test_copies_are_kept_and_offered(bench, page, qtbot):
    press(bench, qtbot, Deed.BACK_UP)
    qtbot.waitUntil(lambda: len(backups(bench.path)) == 1, timeout=3000)
    qtbot.mouseClick(page.buttons[Deed.COPY], PRESS)
    dialog = next(d for d in bench.window.findChildren(QFileDialog) if d.isVisible())
    assert dialog.directory().path() == str(backups(bench.path)[0].path.parent)
    dialog.close()


def test_the_course_of_a_sitting_and_its_report(bench, qtbot, tmp_path):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    qtbot.keyClick(window, Qt.Key.Key_G, SHIFT | CONTROL)
    bench.settle(qtbot)
    sitting = window.log.sitting
    assert (
        sitting.isVisible()
        and sitting.head.text().startswith("Before, ")
        and "2 shots, 2 tagged" in sitting.head.text()
    )
    assert "Hits: crown: 2 of 2 tagged shots" in sitting.view.accessibleDescription()
    sitting.view.grab()
    out = tmp_path / "report.pdf"
    qtbot.mouseClick(sitting.write, PRESS)
    choose(bench, qtbot, out)
    qtbot.waitUntil(lambda: "report is written" in window.messages.text(), timeout=10_000)
    assert len(pypdf.PdfReader(out).pages) >= 1
    qtbot.mouseClick(sitting.write, PRESS)
    choose(bench, qtbot, tmp_path / "none" / "report.pdf")
    qtbot.waitUntil(lambda: "cannot be written" in window.messages.text(), timeout=10_000)
    qtbot.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Escape)


def test_a_window_that_closes_stops_a_report(bench, qtbot, tmp_path):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    window.log_door.room.sitting.toggle()
    bench.settle(qtbot)
    report = window.log.sitting.report
    window.log_door.room.sitting.draw(report, tmp_path / "a.pdf")
    window.log_door.room.sitting.draw(report, tmp_path / "b.pdf")
    window.close()
    assert window.log_door.room.sitting._stop.is_set() and not list(tmp_path.glob("*.part"))


def test_moved_pictures_are_found_and_shown_again(bench, page, qtbot, tmp_path):
    book, home = bench.studio.writer.logbook, tmp_path / "elsewhere"
    home.mkdir()
    content, place = next(iter(book.pictures.contents().items()))
    shutil.copy(place, home / "renamed.jpg")
    book.pictures.moved({content: tmp_path / "gone.jpg"})
    press(bench, qtbot, Deed.MOVED, home)
    assert "1 moved picture found" in bench.window.messages.text()
    assert home / "renamed.jpg" in [shot.picture for shot in book.shots.newest(9)]
    press(bench, qtbot, Deed.MOVED, home)
    assert "All pictures are where they were" in bench.window.messages.text()
    press(bench, qtbot, Deed.MOVED, tmp_path / "none")
