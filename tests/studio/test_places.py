"""Logbooks that nobody named, and the one that was open last."""

import os

from ondine.logbook.store import Logbook
from ondine.studio.places import Places


def logbook_of(path, kind: str | None) -> None:
    book = Logbook.open(path)
    if kind is not None:
        book.state.put("bench", kind)
    book.close()


def test_a_practice_logbook_never_takes_the_name_of_a_tables(tmp_path):
    places = Places(tmp_path, tmp_path / "state", tmp_path / "cache")
    assert (places.table_logbook().name, places.practice_logbook().name) == ("log.ondine", "practice.ondine")
    # Before this version one's own logbook was fired by the simulated bench.
    logbook_of(tmp_path / "log.ondine", "simulated")
    logbook_of(tmp_path / "practice.ondine", "by hand")
    assert (places.table_logbook().name, places.practice_logbook().name) == ("table.ondine", "practice-1.ondine")
    logbook_of(tmp_path / "table.ondine", None)
    assert places.table_logbook().name == "table.ondine"


def test_the_last_logbook_is_remembered_by_whatever_name(tmp_path):
    places = Places(tmp_path, tmp_path / "state", tmp_path / "cache")
    assert places.last_logbook() is None
    for name in ("log.ondine", "für ?%.ondine", os.fsdecode(b"\xff.ondine")):
        places.remember_logbook(tmp_path / name)
        assert places.last_logbook() == tmp_path / name
    (tmp_path / "state" / "last-logbook").write_bytes(b"\0")
    assert places.last_logbook() is None


def test_a_state_folder_that_cannot_be_made_harms_nothing(tmp_path):
    (tmp_path / "state").write_text("a file where a folder should be")
    places = Places(tmp_path, tmp_path / "state", tmp_path / "cache")
    places.remember_logbook(tmp_path / "log.ondine")
    assert places.last_logbook() is None
