"""Every logbook that cannot be opened says what, where and what to do, and stays as it was."""

import os
import sqlite3
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import APPLICATION_ID, SCHEMA_VERSION, WORDS
from ondine.logbook.migrations.versions import v0008_removed
from ondine.logbook.model import Base
from ondine.logbook.records import ShotState, SittingFacts
from ondine.logbook.store import Logbook

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def refused(path: Path) -> str:
    before = path.read_bytes() if path.is_file() else None
    with pytest.raises(LogbookError) as caught:
        Logbook.open(path)
    assert path.name in str(caught.value) or str(path.parent) in str(caught.value)
    if before is not None:
        assert path.read_bytes() == before
    return str(caught.value)


def made(path: Path) -> Path:
    Logbook.open(path).close()
    return path


def test_a_missing_logbook_is_begun_with_its_folder(tmp_path):
    book = Logbook.open(tmp_path / "new" / "log.ondine")
    assert book.shots.count() == 0
    book.close()


def test_an_empty_file_becomes_a_logbook(tmp_path):
    path = tmp_path / "log.ondine"
    path.touch()
    made(path)
    assert sqlite3.connect(path).execute("PRAGMA application_id").fetchone()[0] == APPLICATION_ID


def test_a_text_file_is_no_logbook(tmp_path):
    path = tmp_path / "notes.txt"
    path.write_text("95 ms, 356 ms")
    assert "not an Ondine logbook" in refused(path)


def test_the_database_of_another_program(tmp_path):
    path = tmp_path / "other.db"
    with sqlite3.connect(path) as other:
        other.execute("CREATE TABLE mine (a)")
    assert "another program" in refused(path)


def test_a_newer_logbook(tmp_path):
    path = made(tmp_path / "log.ondine")
    with sqlite3.connect(path) as book:
        book.execute(f"PRAGMA user_version = {SCHEMA_VERSION + 1}")
    book.close()
    assert "newer Ondine" in refused(path)


def test_a_damaged_logbook(tmp_path):
    path = made(tmp_path / "log.ondine")
    content = bytearray(path.read_bytes())
    content[4096 : 4096 * 6] = os.urandom(4096 * 5)
    path.write_bytes(content)
    assert "damaged" in refused(path)


def test_a_truncated_logbook(tmp_path):
    path = made(tmp_path / "log.ondine")
    path.write_bytes(path.read_bytes()[:5000])
    assert "damaged" in refused(path)


def test_a_folder_is_no_logbook(tmp_path):
    assert "is a folder" in refused(tmp_path)


def test_a_logbook_locked_by_another_program(tmp_path):
    path = made(tmp_path / "log.ondine")
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("PRAGMA locking_mode = EXCLUSIVE")
    other.execute("BEGIN IMMEDIATE")
    try:
        assert "locked by another program" in refused(path)
    finally:
        other.close()


def test_a_logbook_open_in_another_ondine(tmp_path):
    book = Logbook.open(tmp_path / "log.ondine")
    try:
        assert f"process {os.getpid()}" in refused(tmp_path / "log.ondine")
    finally:
        book.close()


@pytest.fixture
def unwritable(monkeypatch):
    """Root may write anything: take the permission away in the question instead."""

    def forbid(path: Path) -> None:
        path.chmod(0o444)
        if os.access(path, os.W_OK):
            real = os.access
            monkeypatch.setattr(os, "access", lambda p, mode: Path(p) != path and real(p, mode))

    return forbid


def test_a_read_only_logbook(tmp_path, unwritable):
    path = made(tmp_path / "log.ondine")
    unwritable(path)
    assert "read-only" in refused(path)


def test_a_folder_that_cannot_be_made(tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(LogbookError, match="cannot be made"):
        Logbook.open(tmp_path / "file" / "log.ondine")


def test_a_full_disk_loses_nothing_that_was_logged(tmp_path, sequence, setup):
    # SQLite's own limit on pages gives its real "database or disk is full".
    book = Logbook.open(tmp_path / "log.ondine")
    shot = book.shots.plan(book.sittings.begin(SittingFacts("s"), NOON), Plan(sequence, setup), NOON)
    with book._database._engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(LogbookError, match="full"):
        for number in range(200):
            book.shots.annotate(shot, "x" * 4000 * (number + 1))
    book.close()
    again = Logbook.open(tmp_path / "log.ondine")
    assert again.shots.get(shot).state is ShotState.UNKNOWN
    again.close()


CRASH = """
import os, signal, sys
from datetime import UTC, datetime
from pathlib import Path
from ondine.core.forecast.plan import Plan
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.setup import Setup
from ondine.logbook.outcomes import Outcome
from ondine.logbook.records import ShotState, SittingFacts
from ondine.logbook.store import Logbook
at = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
book = Logbook.open(Path(sys.argv[1]))
shot = book.shots.plan(book.sittings.begin(SittingFacts("s"), at), Plan(Sequence.with_one_flash((Pulse(0, 20000),), 300000), Setup()), at)
if sys.argv[2] == "after the report":
    book.shots.finish(Outcome(shot, at, ShotState.FIRED, at))
os.kill(os.getpid(), signal.SIGKILL)
"""


@pytest.mark.parametrize("moment", ["before the report", "after the report"])
def test_kill_9_leaves_a_logbook_that_opens_with_that_shot_unknown(tmp_path, moment):
    path = tmp_path / "log.ondine"
    subprocess.run([sys.executable, "-c", CRASH, str(path), moment], check=False)
    book = Logbook.open(path)
    (shot,) = book.shots.newest(1000)
    assert shot.state in (ShotState.UNKNOWN, ShotState.FIRED)
    assert not shot.outcome_known
    book.close()


def test_migrations_make_the_tables_of_the_models(tmp_path):
    path = made(tmp_path / "log.ondine")
    with sqlite3.connect(path) as book:
        found = {
            name: {row[1] for row in book.execute(f"PRAGMA table_xinfo({name})") if row[6] != 1}
            for (name,) in book.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            # The full-text indices keep tables of their own.
            if name != "alembic_version" and not name.startswith(tuple(f"{index}_" for index in WORDS))
        }
        assert book.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert book.execute("SELECT version_num FROM alembic_version").fetchone()[0] == v0008_removed.revision
    book.close()
    assert found == WORDS | {name: set(table.columns.keys()) for name, table in Base.metadata.tables.items()}
    assert int(v0008_removed.revision) == SCHEMA_VERSION


def test_a_setup_is_kept_word_for_word(logbook, sequence):
    shot = logbook.shots.plan(
        logbook.sittings.begin(SittingFacts("s"), NOON), Plan(sequence, Setup(name="Ünïcode")), NOON
    )
    assert logbook.setups.of_shot(shot)[0].name == "Ünïcode"
