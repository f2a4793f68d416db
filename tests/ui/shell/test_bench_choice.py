"""The first question, and where its answers lead."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from ondine.bench.by_hand import HandController
from ondine.core.setup import BenchKind
from ondine.logbook.errors import LogbookError
from ondine.logbook.store import Logbook
from ondine.logbook.trial_frame import read_trial_frame
from ondine.studio.places import Places
from ondine.ui.shell.ending import EndSignals
from ondine.ui.shell.opening import Opening, fresh
from ondine.ui.shell.windows import Windows, open_window
from tests.ui.conftest import SEASON
from tests.ui.hands import PRESS, opened
from tests.ui.seen import recorded


@pytest.fixture
def places(tmp_path) -> Places:
    (tmp_path / "data").mkdir()
    return Places(tmp_path / "data", tmp_path / "state", tmp_path / "cache")


@pytest.fixture
def windows(qapp, places, monkeypatch):
    monkeypatch.setattr(EndSignals, "__init__", lambda self, end, parent: None)
    signals = EndSignals(lambda: None, qapp)
    signals.came = False
    made = Windows(places, None, signals)
    yield made
    for window in list(made._open):
        window.close()


def state_of(path) -> dict[str, str | None]:
    book = Logbook.open(path)
    try:
        return {key: book.state.get(key) for key in ("bench", "rig")}
    finally:
        book.close()


def test_a_new_logbook_asks_and_drives_nothing_meanwhile(opened_window, tmp_path):
    window = opened_window(fresh(tmp_path / "log.ondine", None))
    assert window.pages.currentWidget() is window.choice.page
    words = " ".join(label.text() for label in window.choice.page.findChildren(QLabel))
    assert "What opens your valve?" in words and str(tmp_path / "log.ondine") in words
    assert window.studio.bench.kind is BenchKind.BY_HAND
    assert isinstance(window.studio.bench._controller, HandController)
    window.close()
    # Whoever closed without an answer is asked again.
    assert state_of(tmp_path / "log.ondine") == {"bench": None, "rig": None}


@pytest.mark.parametrize(("button", "stage", "in_use"), [("box", "dials", True), ("bare", "safe", False)])
def test_by_hand_leads_to_the_table_and_is_remembered(opened_window, tmp_path, button, stage, in_use):
    path = tmp_path / "log.ondine"
    window = opened_window(fresh(path, None))
    window.show()
    QTest.mouseClick(getattr(window.choice.page, button), PRESS)
    assert window.side.page.open_key == stage and window.studio.composer.setup.box.in_use is in_use
    assert "By hand" in window.header.bench.text()
    window.close()
    again = opened_window(fresh(path, None))
    assert again.pages.currentWidget() is again.bench
    assert again.bench.fire.text() == "Log shot"
    again.close()


def test_practising_opens_a_logbook_of_its_own_and_the_way_back_leads_to_the_table(windows, places, qtbot):
    table = windows.show(fresh(places.table_logbook(), None))
    with qtbot.waitSignal(table.ended):
        QTest.mouseClick(table.choice.page.practice, PRESS)
    (practice,) = windows._open
    assert practice.logbook == places.data / "practice.ondine" and not practice.studio.bench.kind.is_real
    assert "Simulated bench" in practice.header.bench.text() and "practice" in practice.windowTitle()
    assert practice.pages.currentWidget() is practice.bench
    with qtbot.waitSignal(practice.ended):
        QTest.mouseClick(practice.choice.page.bare, PRESS)
    (back,) = windows._open
    assert back.logbook == places.data / "log.ondine" and back.studio.bench.kind is BenchKind.BY_HAND
    back.close()
    assert state_of(places.data / "practice.ondine") == {"bench": "simulated", "rig": "1"}


def test_the_pictures_of_practice_do_not_land_in_the_tables_folder(windows, places):
    table, practice = windows.show(fresh(places.table_logbook(), None)), windows.show(windows.practice())
    for window in (table, practice):
        window.studio.intake.wait()
    assert practice.studio.intake._watch.folder != table.studio.intake._watch.folder


def test_a_tables_logbook_is_never_opened_for_the_simulated_bench(qapp, tmp_path):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.state.put("bench", "by hand")
    book.close()
    for opening in (Opening(path, bench=BenchKind.SIMULATED), Opening(path, bench=BenchKind.SIMULATED, rig=20)):
        with pytest.raises(LogbookError, match="do not mix"):
            open_window(opening)
    # Nor one that nobody was asked about.
    other = tmp_path / "other.ondine"
    Logbook.open(other).close()
    with pytest.raises(LogbookError, match="logbook of a real table"):
        open_window(Opening(other, bench=BenchKind.SIMULATED))


def test_a_logbook_that_cannot_be_opened_leaves_the_window_that_is_there(windows, places, qtbot, tmp_path):
    table = windows.show(fresh(places.table_logbook(), None))
    bad = tmp_path / "bad.ondine"
    bad.write_text("no logbook")
    windows.switch(table, Opening(bad))
    assert "not an Ondine logbook" in table.messages.text() and windows._open == [table]
    windows.switch(table, Opening(table.logbook))
    assert "is the one that is open" in table.messages.text()


def test_the_header_and_a_key_lead_to_the_question_and_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F10)
    assert window.pages.currentWidget() is window.choice.page
    qtbot.keyClick(window, Qt.Key.Key_F10)
    assert window.pages.currentWidget() is window.bench
    QTest.mouseClick(window.header.bench, PRESS)
    assert window.pages.currentWidget() is window.choice.page
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.bench


def test_simulated_shots_are_marked_wherever_they_are_shown(practice, qtbot):
    window = practice.window
    window.bench_actions.fire()
    practice.settle(qtbot)
    window.bench_actions.fire()
    practice.settle(qtbot)
    assert window.in_view.shot.is_simulated
    assert window.bench.shot.picture.accessibleDescription().startswith("simulated")
    stage = opened(practice, "trigger")
    QTest.mouseClick(stage.measure, PRESS)
    assert stage.picker.accessibleDescription().startswith("simulated")
    opened(practice, "expose").view.show_frame(read_trial_frame(SEASON / "060.jpg"), (0.2, 0.2, 0.8, 0.8), None)
    with recorded() as painted:
        window.side.page.stages["expose"].view.grab()
    assert "simulated" in [text.text for text in painted]
    listed = window.bench.strip.shots
    assert "simulated" in listed.data(listed.index(0)) and "simulated" not in listed.data(listed.index(2))


def test_by_hand_nobody_is_offered_to_let_the_bench_pour(by_hand, qtbot):
    stage = opened(by_hand, "valve")
    assert not stage.prime.isVisible() and not stage.test.isVisible()
    assert stage.rows.dispense[0].text() == "I did" and "I did" in stage.found.text()
    QTest.mouseClick(stage.rows.dispense[0], PRESS)
    by_hand.settle(qtbot)
    assert by_hand.controller.poured == [] and by_hand.studio.bench.ledger.open_s(0) > 0


@pytest.mark.parametrize("rig", ["9" * 5000, "٣", "-1", "", "9" * 4000])
def test_a_rig_that_is_no_number_of_one_blocks_no_window(opened_window, tmp_path, rig):
    path = tmp_path / "practice.ondine"
    book = Logbook.open(path)
    book.state.put("bench", "simulated")
    book.state.put("rig", rig)
    book.close()
    window = opened_window(Opening(path, bench=BenchKind.SIMULATED))
    assert not window.studio.bench.kind.is_real
    window.close()
