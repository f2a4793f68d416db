"""Shots by equal timing, in the window."""

from dataclasses import replace
from datetime import timedelta

import pytest
from PySide6.QtCore import Qt

from ondine.core.timing.sequence import FlashPulse
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.ui.log.groups_page import rate_words
from ondine.ui.log.kinds import GROUPS, SHEET
from ondine.ui.shell import app as ui_app
from tests.calibrated import IN_HAND
from tests.ui.conftest import Bench, shown

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def timings(tmp_path, clock, qtbot):
    """A window on a log of three timings: 351 ms three times with two umbrellas, 352 twice untagged, 353 once kept."""
    book = Logbook.open(tmp_path / "log.ondine")
    past = []
    for flash, shapes, keeper in (
        (351, "full-umbrella", False), (352, "", False), (351, "crown", False), (353, "crown", True),
        (351, "full-umbrella", False), (352, "", False),
    ):  # fmt: skip
        sequence = replace(IN_HAND.sequence, flashes=(FlashPulse(flash * 1000),))
        at = clock() - timedelta(days=1) + timedelta(minutes=len(past))
        tags = (shapes,) if shapes else ()
        past.append(PastShot("Evening", at, replace(IN_HAND, sequence=sequence), tags, keeper=keeper))
    book.shots.add_history(past)
    book.close()
    ui_app.application()
    for made in shown(Bench(tmp_path, clock), qtbot):
        qtbot.keyClick(made.window, Qt.Key.Key_F3)
        made.settle(qtbot)
        qtbot.keyClick(made.window, Qt.Key.Key_H, SHIFT | CONTROL)
        made.settle(qtbot)
        yield made


def rows(bench) -> list[list[str]]:
    model = bench.window.log.groups.model
    return [[model.data(model.index(row, column)) for column in range(6)] for row in range(model.rowCount())]


def test_timings_are_counted_the_most_hits_first(timings):
    log = timings.window.log
    assert log.kind == GROUPS and log.groups.table.hasFocus() and log.groups.shape == "full-umbrella"
    assert [[row[0], *row[2:]] for row in rows(timings)] == [
        ["95 · flash 351 ms", "3", "3", "2", rate_words(2, 3)],
        ["95 · flash 352 ms", "2", "0", "0", "not tagged"],
        ["95 · flash 353 ms", "1", "1", "0", rate_words(0, 1)],
    ]
    # Wilson's interval of 2 of 3 at 95 %: 20.8 to 93.9 %.
    assert rows(timings)[0][5] == "67%  (21%–94%)"


def test_no_figure_is_cut_off(timings):
    """The widest that a column of figures can say has room in it, and a tenth more: a screen's hinting may widen it."""
    table = timings.window.log.groups.table
    timings.window.log.groups.model._cells = lambda _: ("", "", "9999", "9999", "9999", rate_words(9999, 9999))
    for column in range(2, 6):
        assert 1.1 * table.sizeHintForColumn(column) <= table.columnWidth(column)


def test_what_counts_as_a_hit_is_chosen(timings, qtbot):
    page = timings.window.log.groups
    page.hit.setCurrentIndex(page.hit.findData("keeper"))
    timings.settle(qtbot)
    assert [rows(timings)[0][0], *rows(timings)[0][2:5]] == ["95 · flash 353 ms", "1", "1", "1"]
    assert [row[3] for row in rows(timings)] == ["1", "3", "2"]
    page.hit.setCurrentIndex(page.hit.findData("crown"))
    timings.settle(qtbot)
    assert {row[0]: row[4] for row in rows(timings)} == {
        "95 · flash 351 ms": "1", "95 · flash 352 ms": "0", "95 · flash 353 ms": "1",
    }  # fmt: skip


def test_the_shots_of_a_timing_are_shown_by_return(timings, qtbot):
    log = timings.window.log
    assert log.current_number() == 5 and log.card.head.text() == "Shot 5"
    qtbot.keyClick(log.groups.table, Qt.Key.Key_Return)
    timings.settle(qtbot)
    assert log.kind == SHEET and log.model.ids.tolist() == [5, 3, 1] and log.tally.text() == "3 shots of one timing"


def test_a_search_narrows_the_timings_and_tags_count_at_once(timings, qtbot):
    log = timings.window.log
    log.text.setText("flash<=351")
    log.text.ask()
    timings.settle(qtbot)
    assert len(rows(timings)) == 1
    log.groups.table.setFocus()
    qtbot.keyClicks(log.groups.table, "f")
    timings.settle(qtbot)
    qtbot.wait(500)
    timings.settle(qtbot)
    assert rows(timings)[0][4] == "1"
    log.text.setText("gap>=nonsense")
    log.text.ask()
    timings.settle(qtbot)
    assert len(rows(timings)) == 1 and "stands no number" in log.understood.text()
