"""One Ondine at a time has a logbook open, by whatever of its names; and what it writes is not lost by reading it."""

import os
import shutil
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

import pytest
from benchmarks.faults.rights import PLAIN_RIGHTS

from ondine.core.forecast.plan import Plan
from ondine.logbook.backup import back_up_now
from ondine.logbook.door import DoorError, read_bytes
from ondine.logbook.errors import LogbookError, LogbookInUseError
from ondine.logbook.file import check_header, claim
from ondine.logbook.file_kind import FileKind, kind_of_file
from ondine.logbook.locking import _lock_of, is_held_here
from ondine.logbook.reading import reading
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook
from ondine.logbook.writing import CSV, WriteError, write_text

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)

ANOTHER = """
import sqlite3, sys
book = sqlite3.connect(sys.argv[1])
print(book.execute("SELECT count(*) FROM shot").fetchone()[0])
book.close()
"""

CRASH = """
import os, signal, sys
from pathlib import Path
from ondine.logbook.store import Logbook
from ondine.logbook.records import SittingFacts
from datetime import UTC, datetime
book = Logbook.open(Path(sys.argv[1]))
book.sittings.begin(SittingFacts("before the crash"), datetime(2026, 5, 9, tzinfo=UTC))
os.kill(os.getpid(), signal.SIGKILL)
"""


def fire(book: Logbook, plan: Plan) -> None:
    book.shots.plan(book.sittings.begin(SittingFacts("s"), NOON), plan, NOON)


def seen_by_another(path: Path) -> int:
    """Read with another program, which closes the file properly; return how many shots it sees."""
    done = subprocess.run([sys.executable, "-c", ANOTHER, str(path)], capture_output=True, text=True, check=True)
    return int(done.stdout)


@pytest.fixture(autouse=True)
def state_of_its_own(tmp_path_factory, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path_factory.mktemp("state")))


@pytest.fixture
def plan(sequence, setup) -> Plan:
    return Plan(sequence, setup)


@pytest.fixture
def linked(tmp_path) -> tuple[Path, Path]:
    path, other = tmp_path / "a.ondine", tmp_path / "b.ondine"
    Logbook.open(path).close()
    os.link(path, other)
    return path, other


def test_an_open_logbook_that_is_read_here_loses_no_shot_to_the_next_program(logbook, plan, tmp_path):
    fire(logbook, plan)
    # All that this program does with the file past the open logbook: closing any handle of it drops all locks.
    with reading(logbook.path):
        pass
    check_header(logbook.path)
    assert kind_of_file(logbook.path) is FileKind.LOGBOOK
    with pytest.raises(DoorError):
        read_bytes(logbook.path, 1 << 40)
    (tmp_path / "table.csv").symlink_to(logbook.path)
    with pytest.raises(WriteError, match="is the logbook that is open"):
        write_text(tmp_path / "table.csv", "x", CSV)
    back_up_now(logbook.path, NOON)
    assert seen_by_another(logbook.path) == 1
    fire(logbook, plan)
    assert seen_by_another(logbook.path) == 2


def test_a_hard_link_is_the_same_logbook(linked):
    path, other = linked
    book = Logbook.open(path)
    with pytest.raises(LogbookInUseError, match=r"another of its names, .*a\.ondine"):
        Logbook.open(other)
    assert is_held_here(other)
    book.close()
    assert not is_held_here(other)
    Logbook.open(other).close()


def test_a_hard_link_in_another_folder_is_the_same_logbook_too(logbook, tmp_path):
    snapshot = tmp_path / "snapshot" / "log.ondine"
    snapshot.parent.mkdir()
    os.link(logbook.path, snapshot)
    with pytest.raises(LogbookInUseError):
        claim(snapshot)
    assert not list(snapshot.parent.glob("*.lock"))


@pytest.mark.parametrize("folder", [".", "snapshot"])
def test_last_changes_beside_another_name_are_told(tmp_path, folder):
    path = tmp_path / "a.ondine"
    other = tmp_path / folder / "b.ondine"
    other.parent.mkdir(exist_ok=True)
    Logbook.open(path).close()
    os.link(path, other)
    subprocess.run([sys.executable, "-c", CRASH, str(path)], check=False)
    for use in (Logbook.open, lambda p: reading(p).__enter__(), lambda p: back_up_now(p, NOON)):
        with pytest.raises(LogbookError, match="one file with two names") as told:
            use(other)
        assert str(path) in str(told.value)
    book = Logbook.open(path)
    assert [sitting.name for sitting in book.sittings.all()] == ["before the crash"]
    book.close()
    Logbook.open(other).close()


def test_nothing_stays_of_a_lock_and_a_dead_one_is_swept(tmp_path):
    path = tmp_path / "log.ondine"
    subprocess.run([sys.executable, "-c", CRASH, str(path)], check=False)
    found = path.stat()
    dead = _lock_of((found.st_dev, found.st_ino))
    assert dead.exists()
    book = Logbook.open(path)
    book.close()
    assert not dead.exists()
    shutil.copyfile(path, tmp_path / "other.ondine")
    dead.write_bytes(b"999999999\n" + os.fsencode(tmp_path / "gone.ondine"))
    book = Logbook.open(tmp_path / "other.ondine")
    assert not dead.exists()
    book.close()
    assert not list(dead.parent.iterdir())


def test_without_a_place_for_state_the_lock_beside_the_file_does(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    book = Logbook.open(tmp_path / "log.ondine")
    with pytest.raises(LogbookInUseError):
        Logbook.open(tmp_path / "log.ondine")
    book.close()


def test_a_logbook_on_read_only_media_is_copied(tmp_path, plan):
    book = Logbook.open(tmp_path / "card" / "log.ondine")
    fire(book, plan)
    book.close()
    path, to = book.path, tmp_path / "to"
    path.chmod(0o444)
    path.parent.chmod(0o555)
    script = (
        "import sys\nfrom datetime import UTC, datetime\nfrom pathlib import Path\n"
        "from ondine.logbook.backup import back_up_now\n"
        "print(back_up_now(Path(sys.argv[1]), datetime.now(UTC), Path(sys.argv[2])))\n"
    )
    done = subprocess.run(
        [*PLAIN_RIGHTS, sys.executable, "-c", script, str(path), str(to)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    path.parent.chmod(0o755)
    assert done.returncode == 0, done.stderr
    (copy,) = to.iterdir()
    assert done.stdout.strip() == str(copy) and seen_by_another(copy) == 1
    assert {p.name for p in path.parent.iterdir()} == {"log.ondine"}
