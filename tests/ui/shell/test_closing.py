"""Closing at the worst moment: over what cannot be written, in the middle of a shot, with a note half typed."""

import gc
import json
import time
import weakref

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from ondine.logbook import outcomes
from ondine.logbook.errors import LogbookError
from ondine.logbook.outcomes import OutcomeFile
from ondine.logbook.records import ShotState
from ondine.logbook.store import Logbook
from ondine.logbook.writing import WriteError
from ondine.ui.shell import app as ui_app
from tests.ui.conftest import Bench


@pytest.fixture(autouse=True)
def own_state(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


def full(*_: object) -> bool:
    raise LogbookError("The disk is full. Make room.")


def fire_onto_a_full_disk(bench, qtbot, monkeypatch) -> None:
    book = bench.studio.writer.logbook
    monkeypatch.setattr(book.shots, "finish", full)
    bench.window.bench_actions.fire()
    bench.settle(qtbot)


def test_an_outcome_that_cannot_be_written_keeps_the_window_open_once_and_comes_back(bench, qtbot, monkeypatch):
    fire_onto_a_full_disk(bench, qtbot, monkeypatch)
    kept = bench.path.with_name("log.ondine.unwritten.json")
    assert json.loads(kept.read_text())[0]["state"] == "fired"
    assert not bench.window.close()
    assert bench.window.isVisible()
    said = bench.window.messages.text()
    assert "Make room" in said and str(kept) in said and "close again" in said
    # Nothing was ended: a shot can still be tagged, and the second time it closes.
    assert bench.window.close()
    book = Logbook.open(bench.path)
    shot = book.shots.newest(1000)[0]
    assert book.made_up_for == [shot.id]
    assert shot.state is ShotState.FIRED and shot.flash_reports_us == (shot.sequence.first_flash_us,)
    assert not kept.exists()
    book.close()


def test_an_outcome_that_is_kept_nowhere_keeps_the_window_open_until_it_is(bench, qtbot, monkeypatch):
    def nowhere(*_: object) -> None:
        raise WriteError("full")

    monkeypatch.setattr(outcomes, "write_text", nowhere)
    fire_onto_a_full_disk(bench, qtbot, monkeypatch)
    for _ in range(3):
        assert not bench.window.close()
        assert "leave Ondine open" in bench.window.messages.text()
    monkeypatch.undo()
    assert bench.window.close()
    book = Logbook.open(bench.path)
    assert book.shots.newest(1000)[0].state is ShotState.FIRED
    book.close()


def test_where_not_even_a_file_beside_it_can_be_written_programs_state_is_kept(tmp_path, monkeypatch, bench, qtbot):
    real = outcomes.write_text

    def only_elsewhere(path, *rest) -> None:
        if path.parent == bench.path.parent:
            raise WriteError("full")
        real(path, *rest)

    monkeypatch.setattr(outcomes, "write_text", only_elsewhere)
    fire_onto_a_full_disk(bench, qtbot, monkeypatch)
    assert len(OutcomeFile(bench.path).read()) == 1
    assert list((tmp_path / "state" / "ondine" / "unwritten").iterdir())


def test_outcomes_of_another_logbook_change_nothing(bench, qtbot, monkeypatch, clock):
    fire_onto_a_full_disk(bench, qtbot, monkeypatch)
    kept = bench.path.with_name("log.ondine.unwritten.json")
    bench.window.close()
    bench.window.close()
    data = json.loads(kept.read_text())
    kept.write_text(json.dumps([entry | {"planned_at": "2020-01-01T00:00:00+00:00"} for entry in data]))
    book = Logbook.open(bench.path)
    assert book.made_up_for == [] and book.shots.newest(1000)[0].state is ShotState.UNKNOWN
    book.close()


@pytest.mark.parametrize("text", ["", "[", "{}", '[{"shot_id": "x"}]', "[" * 5000, '[{"shot_id": 1e999}]', "null"])
def test_a_torn_file_of_outcomes_stops_nobody(tmp_path, text):
    Logbook.open(tmp_path / "log.ondine").close()
    (tmp_path / "log.ondine.unwritten.json").write_text(text)
    Logbook.open(tmp_path / "log.ondine").close()


def test_closing_in_the_middle_of_a_shot_closes_after_it(bench, qtbot):
    bench.controller.before = lambda: time.sleep(0.4)
    bench.window.bench_actions.fire()
    qtbot.wait(50)
    began = time.monotonic()
    assert not bench.window.close()
    # The window does not stand still meanwhile.
    assert time.monotonic() - began < 0.3 and "closes as soon as" in bench.window.messages.text()
    qtbot.waitUntil(lambda: not bench.window.isVisible(), timeout=5000)
    book = Logbook.open(bench.path)
    assert book.shots.newest(1000)[0].state is ShotState.FIRED
    book.close()


def test_a_window_that_is_gone_lets_its_studio_and_all_its_parts_go(qtbot, tmp_path, clock):
    """What keeps one alive keeps all: some twelve megabytes for each logbook that was opened."""

    def opened_and_gone() -> list[weakref.ref]:
        made = Bench(tmp_path, clock)
        made.window.show()
        qtbot.waitUntil(lambda: made.window._seen, timeout=3000)
        log = made.window.log
        qtbot.wait(100)
        made.window.close()
        made.window.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        return [weakref.ref(part) for part in (made.window, made.studio, log, made.window.side)]

    ui_app.application()
    parts = opened_and_gone()
    # Qt may hold on to the last one until another comes.
    opened_and_gone()
    gc.collect()
    assert [number for number, part in enumerate(parts) if part() is not None] == []
