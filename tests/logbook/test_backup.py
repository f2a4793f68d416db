import shutil
import sqlite3
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.logbook.backup import NEWEST, back_up_now, backups, folder_of, restore, to_drop
from ondine.logbook.errors import LogbookError, LogbookInUseError
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def fire(book: Logbook, plan: Plan, note: str = "") -> int:
    shot = book.shots.plan(book.sittings.begin(SittingFacts("s"), NOON), plan, NOON)
    book.shots.annotate(shot, note)
    return shot


def notes(path: Path) -> list[str]:
    with sqlite3.connect(path) as raw:
        found = [note for (note,) in raw.execute("SELECT note FROM shot ORDER BY id")]
    raw.close()
    return found


@pytest.fixture
def plan(sequence, setup) -> Plan:
    return Plan(sequence, setup)


def test_a_logbook_in_use_is_copied_whole(logbook, plan):
    fire(logbook, plan, "first")
    copy = back_up_now(logbook.path, NOON)
    fire(logbook, plan, "second")
    assert copy.parent == folder_of(logbook.path) and notes(copy) == ["first"]
    assert not list(copy.parent.glob("*.part*")) and not list(copy.parent.glob("*-wal"))
    # It is a logbook like any other.
    again = Logbook.open(copy)
    assert [shot.note for shot in again.shots.newest(9)] == ["first"]
    again.close()


def test_a_logbook_is_copied_while_shots_are_written(logbook, plan):
    stop = threading.Event()

    def write() -> None:
        while not stop.is_set():
            fire(logbook, plan)

    thread = threading.Thread(target=write)
    thread.start()
    try:
        copies = [back_up_now(logbook.path, NOON + timedelta(minutes=n)) for n in range(7)]
    finally:
        stop.set()
        thread.join()
    counts = [len(notes(copy)) for copy in copies]
    assert counts == sorted(counts) and counts[-1] > counts[0]


def test_two_of_one_second_do_not_write_over_each_other(logbook, plan):
    first = back_up_now(logbook.path, NOON)
    fire(logbook, plan, "late")
    second = back_up_now(logbook.path, NOON)
    assert notes(first) == [] and notes(second) == ["late"] and len(backups(logbook.path)) == 2


def named(at: datetime) -> Path:
    return Path(f"log.{at.astimezone():%Y%m%d-%H%M%S}.ondine")


def test_few_copies_are_kept_and_they_reach_far_back():
    made = [named(NOON - timedelta(hours=7 * n)) for n in range(2000)]
    gone = set(to_drop(made, NOON))
    kept = [path for path in made if path not in gone]
    assert kept[:NEWEST] == made[:NEWEST] and len(kept) <= 8 + 14 + 12
    days = {path.name[4:12] for path in kept}
    assert {f"{NOON.astimezone() - timedelta(days=n):%Y%m%d}" for n in range(14)} <= days
    assert len({path.name[4:10] for path in kept}) == 12
    # Made day after day, it comes to the same.
    growing: list[Path] = []
    made = made[::3]
    for path in reversed(made):
        growing.insert(0, path)
        at = datetime.strptime(path.name[4:19], "%Y%m%d-%H%M%S").astimezone()
        dropped = set(to_drop(growing, at))
        growing = [p for p in growing if p not in dropped]
    assert len(growing) <= 8 + 14 + 12 and growing[:NEWEST] == made[:NEWEST]


def test_a_copy_from_a_time_to_come_is_not_dropped():
    future = [named(NOON + timedelta(days=400 + n)) for n in range(20, 0, -1)]
    assert to_drop([*future, *(named(NOON - timedelta(minutes=n)) for n in range(40))], NOON)
    assert not set(future) & set(to_drop([*future, named(NOON)], NOON))


def test_only_its_own_copies_are_dropped(logbook):
    folder = folder_of(logbook.path)
    folder.mkdir()
    others = [folder / "other.20200101-000000.ondine", folder / "log.ondine", folder / "log.20200101.txt"]
    for path in others:
        path.write_text("mine")
    for n in range(40):
        back_up_now(logbook.path, NOON + timedelta(minutes=n))
    assert all(path.read_text() == "mine" for path in others)
    assert len(backups(logbook.path)) < 20


def test_a_copy_is_put_back_and_what_was_there_is_kept(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    fire(book, plan, "spoilt")
    path = book.path
    book.close()
    kept = restore(copy, path, NOON + timedelta(hours=1))
    assert notes(path) == ["good"] and kept is not None and notes(kept) == ["good", "spoilt"]
    again = Logbook.open(path)
    assert again.shots.count() == 1
    again.close()


def test_what_a_crash_left_beside_the_logbook_is_not_read_into_the_copy(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    fire(book, plan, "in the wal")
    crashed = tmp_path / "crashed.ondine"
    for ending in ("", "-wal", "-shm"):
        shutil.copyfile(f"{book.path}{ending}", f"{crashed}{ending}")
    book.close()
    restore(copy, crashed, NOON)
    again = Logbook.open(crashed)
    assert [shot.note for shot in again.shots.newest(9)] == ["good"]
    again.close()


def test_an_open_logbook_is_not_replaced(logbook, plan):
    fire(logbook, plan, "here")
    copy = back_up_now(logbook.path, NOON)
    with pytest.raises(LogbookInUseError):
        restore(copy, logbook.path, NOON)
    assert notes(logbook.path) == ["here"]


@pytest.mark.parametrize("content", [b"", b"no logbook", bytes(9000)])
def test_what_is_no_backup_is_not_put_back(tmp_path, plan, content):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "here")
    book.close()
    wrong = tmp_path / "wrong.ondine"
    wrong.write_bytes(content)
    with pytest.raises(LogbookError):
        restore(wrong, tmp_path / "log.ondine", NOON)
    assert notes(tmp_path / "log.ondine") == ["here"]


def test_a_folder_that_cannot_be_written_is_said_and_nothing_is_dropped(logbook):
    folder = folder_of(logbook.path)
    folder.write_text("a file where a folder should be")
    with pytest.raises(LogbookError, match="could be written into"):
        back_up_now(logbook.path, NOON)
    assert folder.read_text() == "a file where a folder should be"


def test_a_damaged_logbook_gives_way_to_its_backup_and_is_kept_as_it_is(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    path = book.path
    book.close()
    content = bytearray(path.read_bytes())
    content[4096 : len(content) // 2] = bytes(len(content) // 2 - 4096)
    path.write_bytes(content)
    with pytest.raises(LogbookError, match="damaged"):
        Logbook.open(path)
    kept = restore(copy, path, NOON + timedelta(hours=1))
    assert kept is not None and kept.read_bytes() == content and notes(path) == ["good"]
    Logbook.open(path).close()


def test_a_file_of_another_kind_is_not_set_aside(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    book.close()
    (tmp_path / "letter.txt").write_text("Dear reader, " * 50)
    with pytest.raises(LogbookError, match="not an Ondine logbook"):
        restore(copy, tmp_path / "letter.txt", NOON)
    assert (tmp_path / "letter.txt").read_text().startswith("Dear reader")


def test_the_last_changes_of_a_logbook_that_was_moved_are_not_lost(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    book.close()
    left = tmp_path / "moved.ondine-wal"
    left.write_bytes(b"the last changes")
    with pytest.raises(LogbookError, match="Put that logbook back"):
        restore(copy, tmp_path / "moved.ondine", NOON)
    assert left.read_bytes() == b"the last changes" and not (tmp_path / "moved.ondine").exists()


def test_a_backup_is_put_where_no_logbook_is(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    book.close()
    assert restore(copy, tmp_path / "new.ondine", NOON) is None and notes(tmp_path / "new.ondine") == ["good"]
