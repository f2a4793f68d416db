"""Nothing that Ondine writes may replace what it did not mean, and nothing is ever half written."""

import errno
import os
import sqlite3
import stat
from pathlib import Path

import pytest

from ondine.logbook import writing
from ondine.logbook.store import Logbook
from ondine.logbook.writing import CSV, JSON, PDF, PNG, WriteError, check_target, write_text, write_whole


def names_in(folder: Path) -> list[str]:
    return [place.name for place in folder.iterdir()]


def full(*_: object) -> None:
    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


def test_a_logbook_is_never_a_target_whatever_its_name(tmp_path):
    Logbook.open(tmp_path / "log.csv").close()
    before = (tmp_path / "log.csv").read_bytes()
    with pytest.raises(WriteError, match="what lies there is no table"):
        write_text(tmp_path / "log.csv", "a", CSV)
    Logbook.open(tmp_path / "log.ondine").close()
    with pytest.raises(WriteError, match=r"must end in \.csv"):
        write_text(tmp_path / "log.ondine", "a", CSV)
    assert (tmp_path / "log.csv").read_bytes() == before


@pytest.mark.parametrize(("kind", "name"), [(CSV, "a.csv"), (JSON, "a.json"), (PNG, "a.png"), (PDF, "a.pdf")])
@pytest.mark.parametrize("content", [b"\xff\xd8\xff\xe0 a JPEG\0", b"SQLite format 3\0"])
def test_what_is_of_another_kind_stays(tmp_path, kind, name, content):
    (tmp_path / name).write_bytes(content)
    with pytest.raises(WriteError, match="left untouched"):
        write_whole(tmp_path / name, lambda file: file.write(b"x"), kind)
    assert (tmp_path / name).read_bytes() == content
    assert names_in(tmp_path) == [name]


def test_a_file_of_the_same_kind_is_replaced_and_keeps_its_mode(tmp_path):
    out = tmp_path / "a.json"
    out.write_text("{}")
    out.chmod(0o640)
    write_text(out, '{"a": 1}', JSON)
    assert out.read_text() == '{"a": 1}' and stat.S_IMODE(out.stat().st_mode) == 0o640
    assert names_in(tmp_path) == ["a.json"]


@pytest.mark.parametrize("fails", ["fsync", "write", "replace"])
def test_a_full_disk_leaves_the_old_file_whole(tmp_path, monkeypatch, fails):
    out = tmp_path / "a.json"
    out.write_text('{"old": true}')
    write = full if fails == "write" else lambda file: file.write(b"new")
    if fails == "fsync":
        monkeypatch.setattr(writing.os, "fsync", full)
    if fails == "replace":
        monkeypatch.setattr(Path, "replace", full)
    with pytest.raises(WriteError, match="No space left"):
        write_whole(out, write, JSON)
    assert out.read_text() == '{"old": true}' and names_in(tmp_path) == ["a.json"]


def test_a_link_is_written_through_and_devices_and_folders_are_refused(tmp_path):
    (tmp_path / "real.csv").write_text("old")
    (tmp_path / "link.csv").symlink_to(tmp_path / "real.csv")
    write_text(tmp_path / "link.csv", "new", CSV)
    assert (tmp_path / "link.csv").is_symlink() and (tmp_path / "real.csv").read_text() == "new"
    (tmp_path / "folder.csv").mkdir()
    os.mkfifo(tmp_path / "pipe.csv")
    for name in ("folder.csv", "pipe.csv"):
        with pytest.raises(WriteError, match="a folder or a device"):
            check_target(tmp_path / name, CSV)
    (tmp_path / "loop.csv").symlink_to(tmp_path / "loop.csv")
    with pytest.raises(WriteError, match="cannot be written"):
        check_target(tmp_path / "loop.csv", CSV)


def test_the_longest_name_that_a_file_may_have(tmp_path):
    out = tmp_path / ("x" * 251 + ".csv")
    write_text(out, "a", CSV)
    assert out.read_text() == "a"


def test_a_foreign_database_beside_a_strange_name_is_not_touched(tmp_path):
    # `?` once began the options of an address, and the tables landed in another file.
    for name, foreign in (("film?.ondine", "film"), ("a%20b.ondine", "a b.ondine"), ("c#d.ondine", "c")):
        with sqlite3.connect(tmp_path / foreign) as other:
            other.execute("CREATE TABLE mine (a)")
        other.close()
        before = (tmp_path / foreign).read_bytes()
        book = Logbook.open(tmp_path / name)
        book.state.put("theme", "day")
        book.close()
        assert (tmp_path / foreign).read_bytes() == before and (tmp_path / name).stat().st_size > 0


def test_a_write_protected_file_is_not_replaced(tmp_path):
    place = tmp_path / "log.csv"
    place.write_text("kept")
    place.chmod(0o444)
    with pytest.raises(WriteError, match="write-protected"):
        write_text(place, "new", CSV)
    assert place.read_text() == "kept" and {path.name for path in tmp_path.iterdir()} == {"log.csv"}
