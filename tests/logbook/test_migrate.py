"""A logbook is brought up to date whole or not at all, and a copy of what was is kept."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from ondine.logbook import migrate
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import SCHEMA_VERSION, claim
from ondine.logbook.migrate import migrated
from ondine.logbook.store import Logbook

pytestmark = pytest.mark.migrations

DATA = Path(__file__).parents[1] / "data"

KILL = """
import os, signal, sqlite3, sys
from pathlib import Path
from sqlalchemy import event
from sqlalchemy.engine import Engine
from ondine.logbook.store import Logbook

at, seen = int(sys.argv[2]), 0

@event.listens_for(Engine, "before_cursor_execute")
def count(connection, cursor, statement, *rest):
    global seen
    if statement.split()[0] in ("CREATE", "INSERT", "UPDATE", "DROP", "ALTER", "DELETE"):
        seen += 1
        if seen == at:
            os.kill(os.getpid(), signal.SIGKILL)

Logbook.open(Path(sys.argv[1])).close()
print(seen)
"""


@pytest.fixture
def old(tmp_path: Path) -> Path:
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v2.ondine", path)
    return path


def rows(path: Path) -> list[tuple[object, ...]]:
    with sqlite3.connect(path) as raw:
        found = raw.execute("SELECT id, sequence, note FROM shot ORDER BY id").fetchall()
    raw.close()
    return found


def run(path: Path, at: int) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-c", KILL, str(path), str(at)], capture_output=True, text=True, check=False)


def test_a_kill_at_any_statement_leaves_a_logbook_that_opens(old):
    before = rows(old)
    statements = int(run(old, 10**6).stdout)
    assert statements > 20
    # Each of the first ones, where tables are made, then every so often to the end.
    for at in (1, 2, 3, 5, 9, 14, statements // 2, statements - 1):
        shutil.copyfile(DATA / "logbook-v2.ondine", old)
        for beside in old.parent.glob("log.ondine-*"):
            beside.unlink()
        assert run(old, at).returncode == -signal.SIGKILL
        book = Logbook.open(old)
        assert book.shots.count() == 7
        book.close()
        assert rows(old) == before
    # However often it was tried, one copy was kept of what was.
    assert [p.name for p in old.parent.glob("log.format-*")] == ["log.format-2.ondine"]


def test_the_copy_is_the_logbook_as_it_was(old):
    Logbook.open(old).close()
    kept = old.with_name("log.format-2.ondine")
    assert rows(kept) == rows(DATA / "logbook-v2.ondine")
    assert sqlite3.connect(kept).execute("PRAGMA user_version").fetchone()[0] == 2


def test_another_copy_is_not_written_over(old):
    old.with_name("log.format-2.ondine").write_text("mine")
    Logbook.open(old).close()
    assert old.with_name("log.format-2.ondine").read_text() == "mine"
    assert rows(old.with_name("log.format-2-2.ondine")) == rows(old)


def test_a_migration_that_fails_names_the_copy_and_changes_nothing(old):
    # What the last step of the migration wants is not there.
    with sqlite3.connect(old) as raw:
        raw.execute("DROP TABLE desk")
    raw.close()
    before = rows(old)
    with pytest.raises(LogbookError, match=r"log\.format-2\.ondine") as caught:
        Logbook.open(old)
    assert "no such table: desk" in str(caught.value) and "It is as it was" in str(caught.value)
    assert rows(old) == before
    with sqlite3.connect(old) as raw:
        assert raw.execute("PRAGMA user_version").fetchone()[0] == 2
        assert raw.execute("SELECT name FROM sqlite_master WHERE name = 'belief_revision'").fetchall() == []
    raw.close()


def test_without_room_for_the_copy_nothing_is_migrated(old, monkeypatch):
    def full(*_: object) -> None:
        raise OSError(28, os.strerror(28))

    monkeypatch.setattr(migrate, "copy_verified", full)
    before = old.read_bytes()
    with pytest.raises(LogbookError, match="only brought up to date once a copy"):
        Logbook.open(old)
    assert old.read_bytes() == before
    assert [p.name for p in old.parent.iterdir()] == ["log.ondine"]


def test_a_set_up_that_cannot_be_read_does_not_stop_the_others(old):
    with sqlite3.connect(old) as raw:
        raw.execute("UPDATE setup_revision SET content = 'torn' WHERE id = (SELECT setup_id FROM shot WHERE id = 5)")
    raw.close()
    book = Logbook.open(old)
    assert book.shots.count() == 7 and book.setups.of_shot(1)[0].name
    with pytest.raises(LogbookError, match="set-up of shot 5 cannot be read"):
        book.setups.of_shot(5)
    book.close()
    with sqlite3.connect(old) as raw:
        assert ("torn",) in raw.execute("SELECT content FROM setup_revision").fetchall()
    raw.close()


def test_a_logbook_that_cannot_be_begun_leaves_nothing(tmp_path, monkeypatch):
    def full(*_: object) -> None:
        raise OSError(28, os.strerror(28))

    monkeypatch.setattr(migrate, "upgrade_to", full)
    with pytest.raises(LogbookError, match="cannot be begun"):
        Logbook.open(tmp_path / "log.ondine")
    assert list(tmp_path.iterdir()) == []


def test_a_new_logbook_is_of_the_present_format(tmp_path):
    claimed = claim(tmp_path / "log.ondine")
    assert claimed.version == 0 and migrated(claimed) is claimed
    claimed.release()
    Logbook.open(tmp_path / "log.ondine").close()
    again = claim(tmp_path / "log.ondine")
    assert again.version == SCHEMA_VERSION
    again.release()


def test_two_logbooks_are_begun_at_once(tmp_path):
    """A window begins its logbook in a thread of its own, and a second window may open meanwhile."""
    with ThreadPoolExecutor(4) as pool:
        books = list(pool.map(lambda n: Logbook.open(tmp_path / f"{n}.ondine"), range(12)))
    for book in books:
        assert book.shots.count() == 0
        book.close()
