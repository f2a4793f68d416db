"""The file of what went wrong: small, in the folder for state, and never a reason to stop."""

import logging
from pathlib import Path

import pytest

from ondine.studio import log_file
from ondine.studio.events import Trouble
from ondine.studio.worker import LOG, Guard


@pytest.fixture(autouse=True)
def without_handlers(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    before, propagates, raises = list(LOG.handlers), LOG.propagate, logging.raiseExceptions
    yield
    for handler in [h for h in LOG.handlers if h not in before]:
        LOG.removeHandler(handler)
        handler.close()
    LOG.propagate, logging.raiseExceptions = propagates, raises


def test_what_nobody_expected_lands_there_without_the_home_folders_name(tmp_path):
    place = log_file.keep_log()
    assert place == tmp_path / "state" / "ondine" / "ondine.log"
    told: list[Trouble] = []
    Guard(told.append)("at the bench", lambda: (Path.home() / "secret").read_text())
    text = place.read_text()
    assert "at the bench" in text and "FileNotFoundError" in text
    assert str(Path.home()) not in text and str(Path.home()) not in told[0].details


def test_it_stays_small(monkeypatch):
    monkeypatch.setattr(log_file, "MOST_BYTES", 2000)
    place = log_file.keep_log()
    assert place is not None
    for _ in range(200):
        LOG.error("x" * 100)
    kept = sorted(place.parent.iterdir())
    assert len(kept) == 1 + log_file.KEPT and all(file.stat().st_size <= 2000 for file in kept)


def test_where_it_cannot_be_kept_ondine_starts_all_the_same(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    assert log_file.keep_log() is None


def test_a_listener_that_is_gone_is_no_second_fault():
    def gone(_: object) -> None:
        raise RuntimeError("Internal C++ object already deleted.")

    Guard(gone)("at the bench", lambda: 1 / 0)
