"""What happened is written in the end, however often it fails before."""

import threading

from ondine.logbook.errors import LogbookError
from ondine.logbook.outcomes import OutcomeFile
from ondine.logbook.records import ShotState
from ondine.studio.events import Notice, ShotChanged, Trouble


def broken(*_: object) -> bool:
    raise LogbookError("The disk is full. Make room.")


def test_what_could_not_be_written_is_taken_in_at_the_next_start_and_told(table, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setattr(table.studio.writer.logbook.shots, "finish", broken)
    table.fire()
    table.settle()
    assert len(OutcomeFile(table.path).read()) == 1
    assert "kept in" in table.studio.settle()
    table.studio.close()
    table.events.clear()
    table.studio = table.open()
    table.settle()
    assert table.heard(ShotChanged)[0].shot.state is ShotState.FIRED
    assert "in the logbook now: shot 1" in table.heard(Notice)[0].message
    assert OutcomeFile(table.path).read() == []


def test_the_file_of_outcomes_goes_as_soon_as_they_are_written(table, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    with monkeypatch.context() as patched:
        patched.setattr(table.studio.writer.logbook.shots, "finish", broken)
        table.fire()
        table.settle()
        table.fire()
        table.settle()
    # The second was refused, since the first could not be written either.
    assert len(OutcomeFile(table.path).read()) == 1 and len(table.controller.fired) == 1
    table.studio.log.rate(1, 3)
    table.settle()
    assert OutcomeFile(table.path).read() == [] and table.newest().state is ShotState.FIRED
    assert table.studio.settle() == ""


def test_a_change_that_nobody_expected_to_fail_is_told_and_the_next_one_is_written(table):
    table.fire()
    table.settle()
    table.studio.writer.write(lambda: 1 / 0)
    table.studio.log.rate(1, 4)
    table.settle()
    (trouble,) = table.heard(Trouble)
    assert "writing the logbook" in trouble.message and "ZeroDivisionError" in trouble.details
    assert table.newest().rating == 4


def test_firing_does_not_wait_for_a_search(table):
    gate = threading.Event()
    table.studio.log.read(lambda logbook: gate.wait(10) and None)
    table.fire()
    table.studio.bench.wait()
    assert len(table.controller.fired) == 1 and not gate.is_set()
    gate.set()
