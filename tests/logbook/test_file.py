"""What is refused stays as it was, with nothing beside it; and only what SQLite calls damaged is called so."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from ondine.logbook import file
from ondine.logbook.errors import LogbookError, LogbookInUseError, sqlite_words
from ondine.logbook.file import COLUMNS, claim
from ondine.logbook.model import Base
from ondine.logbook.store import Logbook

pytestmark = pytest.mark.migrations

FOREIGN = """
import os, signal, sqlite3, sys
other = sqlite3.connect(sys.argv[1], isolation_level=None)
other.execute("PRAGMA journal_mode = WAL")
other.execute("CREATE TABLE mine (a)")
other.execute("PRAGMA wal_checkpoint(TRUNCATE)")
other.execute("INSERT INTO mine VALUES (1)")
os.kill(os.getpid(), signal.SIGKILL)
"""


def folder_of(path: Path) -> dict[str, bytes]:
    return {place.name: place.read_bytes() for place in path.parent.iterdir() if place.is_file()}


def refused(path: Path) -> str:
    before = folder_of(path)
    with pytest.raises(LogbookError) as caught:
        claim(path)
    assert folder_of(path) == before
    return str(caught.value)


@pytest.fixture
def sound(tmp_path: Path) -> Path:
    path = tmp_path / "log.ondine"
    Logbook.open(path).close()
    return path


def crashed(path: Path, statement: str) -> None:
    """Leave a change in the files beside the logbook, as a pulled plug does."""
    script = (
        "import os, signal, sqlite3, sys\n"
        "book = sqlite3.connect(sys.argv[1], isolation_level=None)\n"
        "book.execute('PRAGMA journal_mode = WAL')\n"
        "book.execute(sys.argv[2])\n"
        "os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    subprocess.run([sys.executable, "-c", script, str(path), statement], check=False)


def test_the_columns_that_are_asked_for_are_the_models():
    assert {name: set(table.columns.keys()) for name, table in Base.metadata.tables.items()} == COLUMNS


def test_a_foreign_database_that_crashed_is_left_with_its_unfinished_changes(tmp_path):
    path = tmp_path / "other.db"
    subprocess.run([sys.executable, "-c", FOREIGN, str(path)], check=False)
    assert (tmp_path / "other.db-wal").stat().st_size
    assert "database of another program" in refused(path)


def test_a_text_file_is_refused_and_nothing_stays_beside_it(tmp_path):
    (tmp_path / "notes.txt").write_text("95 ms")
    assert "no SQLite file" in refused(tmp_path / "notes.txt")


def test_nothing_stays_beside_a_logbook_that_was_closed(sound):
    assert [place.name for place in sound.parent.iterdir()] == ["log.ondine"]


@pytest.mark.parametrize("table", sorted(COLUMNS))
def test_a_missing_table_is_named_and_rescue_is_offered(sound, table):
    with sqlite3.connect(sound) as raw:
        raw.execute(f"DROP TABLE {table}")
    raw.close()
    said = refused(sound)
    assert f"its table '{table}' is missing" in said and "ondine rescue log.ondine --to NEW" in said


def test_a_crashed_logbook_that_is_damaged_too_is_left_as_it_was(sound):
    crashed(sound, "INSERT INTO state VALUES ('theme', 'day')")
    content = bytearray(sound.read_bytes())
    content[4096 * 2 : 4096 * 5] = os.urandom(4096 * 3)
    sound.write_bytes(content)
    assert "damaged" in refused(sound)


def test_a_crashed_logbook_that_is_sound_opens_with_its_last_change(sound):
    crashed(sound, "INSERT INTO state VALUES ('theme', 'day')")
    book = Logbook.open(sound)
    assert book.state.get("theme") == "day"
    book.close()


def test_a_logbook_of_a_newer_format_in_its_unfinished_changes_is_left_alone(sound):
    crashed(sound, "PRAGMA user_version = 99")
    assert "newer Ondine" in refused(sound)


def test_what_is_left_of_a_deleted_logbook_is_not_played_into_a_new_one(sound):
    crashed(sound, "INSERT INTO state VALUES ('theme', 'day')")
    sound.unlink()
    said = refused(sound)
    assert "log.ondine-wal" in said and "Put that logbook back" in said


def test_a_logbook_is_one_by_whatever_name(sound, tmp_path):
    link = tmp_path / "link.ondine"
    link.symlink_to(sound)
    book = Logbook.open(sound)
    with pytest.raises(LogbookInUseError, match=f"process {os.getpid()}"):
        claim(link)
    book.close()
    book = Logbook.open(link)
    with pytest.raises(LogbookInUseError):
        claim(sound)
    book.close()
    (tmp_path / "loop").symlink_to(tmp_path / "loop")
    with pytest.raises(LogbookError, match="leads nowhere"):
        claim(tmp_path / "loop")


def test_devices_are_no_logbooks(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", Path("/dev/zero")):
        with pytest.raises(LogbookError, match="is a device"):
            claim(path)


def test_a_lock_whose_holder_was_killed_is_no_lock(sound):
    script = "import sys, os, signal\nfrom pathlib import Path\nfrom ondine.logbook.file import claim\nclaim(Path(sys.argv[1]))\nos.kill(os.getpid(), signal.SIGKILL)"
    subprocess.run([sys.executable, "-c", script, str(sound)], check=False)
    assert sound.with_name("log.ondine.lock").exists()
    claim(sound).release()
    assert not sound.with_name("log.ondine.lock").exists()


@pytest.mark.parametrize(
    ("code", "says"),
    [
        (sqlite3.SQLITE_FULL, "is full"),
        (sqlite3.SQLITE_READONLY_DIRECTORY, "read-only"),
        (sqlite3.SQLITE_CANTOPEN, "cannot be opened"),
        (sqlite3.SQLITE_IOERR_WRITE, "does not answer as it should"),
        (sqlite3.SQLITE_BUSY_SNAPSHOT, "locked by another program"),
    ],
)
def test_only_what_sqlite_calls_damaged_is_called_so(code, says):
    error = sqlite3.OperationalError("x")
    error.sqlite_errorcode = code
    said = sqlite_words(Path("/a/log.ondine"), error)
    assert says in said and "damaged" not in said
    for bad in (sqlite3.SQLITE_CORRUPT_INDEX, sqlite3.SQLITE_NOTADB):
        error.sqlite_errorcode = bad
        assert "damaged" in sqlite_words(Path("/a/log.ondine"), error)


def test_a_full_disk_does_not_make_a_sound_logbook_damaged(sound, monkeypatch):
    # SQLite's own limit on the size of a file gives its real answer: 0 bytes are left for the files beside it.
    real = sqlite3.connect

    class Full:
        def __init__(self, *how: object, **more: object) -> None:
            self._real = real(*how, **more)

        def execute(self, statement: str) -> object:
            if statement.startswith("BEGIN"):
                error = sqlite3.OperationalError("database or disk is full")
                error.sqlite_errorcode = sqlite3.SQLITE_FULL
                raise error
            return self._real.execute(statement)

        def close(self) -> None:
            self._real.close()

    monkeypatch.setattr(file.sqlite3, "connect", Full)
    said = refused(sound)
    assert "is full" in said and "damaged" not in said


def test_kill_while_a_new_logbook_is_made_leaves_no_half_one(tmp_path):
    script = (
        "import os, signal, sys\nfrom pathlib import Path\nfrom ondine.logbook import migrate\n"
        "migrate.sync_folder = lambda _: None\n"
        "real = Path.replace\n"
        "Path.replace = lambda *_: os.kill(os.getpid(), signal.SIGKILL)\n"
        "from ondine.logbook.store import Logbook\nLogbook.open(Path(sys.argv[1]))\n"
    )
    done = subprocess.run([sys.executable, "-c", script, str(tmp_path / "log.ondine")], check=False)
    assert done.returncode == -signal.SIGKILL and not (tmp_path / "log.ondine").exists()
    Logbook.open(tmp_path / "log.ondine").close()


def test_a_logbook_moved_with_its_unfinished_changes_is_whole(sound, tmp_path):
    crashed(sound, "INSERT INTO state VALUES ('theme', 'day')")
    (tmp_path / "new").mkdir()
    for left in list(tmp_path.glob("log.ondine*")):
        shutil.move(left, tmp_path / "new" / left.name)
    book = Logbook.open(tmp_path / "new" / "log.ondine")
    assert book.state.get("theme") == "day"
    book.close()
