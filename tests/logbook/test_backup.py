import random
import shutil
import sqlite3
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.logbook import backup
from ondine.logbook.backup import NEWEST, Backup, back_up_now, backups, folder_of, restore, to_remove
from ondine.logbook.errors import LogbookError, LogbookInUseError
from ondine.logbook.identity import CopyRecord, identity_of, read_record
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook

DATA = Path(__file__).parents[1] / "data"
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


def made(moments: list[datetime]) -> list[Backup]:
    """Copies made at these moments one after another, the one made last first."""
    local = [moment.astimezone() for moment in moments]
    copies = [Backup(Path(f"log.{n}.ondine"), CopyRecord("i", "o", n, at)) for n, at in enumerate(local, start=1)]
    return copies[::-1]


def day(copy: Backup) -> str:
    return f"{copy.record.made_at:%Y%m%d}"


def test_few_copies_are_kept_and_they_reach_far_back():
    copies = made([NOON - timedelta(hours=7 * n) for n in range(1999, -1, -1)])
    gone = set(to_remove(copies, NOON))
    kept = [copy for copy in copies if copy not in gone]
    assert kept[:NEWEST] == copies[:NEWEST] and len(kept) <= 8 + 14 + 12
    days = {day(copy) for copy in kept}
    assert {f"{NOON.astimezone() - timedelta(days=n):%Y%m%d}" for n in range(14)} <= days
    assert len({name[:6] for name in days}) == 12
    # Made day after day, it comes to the same.
    growing: list[Backup] = []
    copies = copies[::3]
    for copy in reversed(copies):
        growing.insert(0, copy)
        dropped = set(to_remove(growing, copy.record.made_at))
        growing = [c for c in growing if c not in dropped]
    assert len(growing) <= 8 + 14 + 12 and growing[:NEWEST] == copies[:NEWEST]


def test_a_copy_from_a_time_to_come_is_not_dropped():
    future = [NOON + timedelta(days=400 + n) for n in range(20)]
    copies = made([*future, *(NOON - timedelta(minutes=n) for n in range(40, 0, -1))])
    gone = to_remove(copies, NOON)
    assert gone and all(copy.record.made_at <= NOON for copy in gone)


@pytest.mark.parametrize(
    ("before", "back"),
    [(timedelta(days=450), timedelta(days=335)), (timedelta(hours=1), timedelta(minutes=33))],
)
def test_with_the_clock_set_back_the_copy_just_made_stays(logbook, plan, before, back):
    step = before / 12
    for n in range(12):
        back_up_now(logbook.path, NOON - before + n * step)
    fire(logbook, plan, "since then")
    copy = back_up_now(logbook.path, NOON - back)
    assert copy.exists() and notes(copy) == ["since then"]
    assert backups(logbook.path)[0].path == copy
    oldest = backups(logbook.path)[-1].path
    # Nor is the logbook lost when an old copy is put in its place.
    logbook.close()
    kept = restore(oldest, logbook.path, NOON - back)
    assert kept is not None and notes(kept) == ["since then"] and oldest.exists()


def test_any_clock_leaves_the_newest_copies_and_some_of_before(logbook):
    dice = random.Random(3)
    places = []
    for _ in range(60):
        places.append(back_up_now(logbook.path, NOON + timedelta(days=dice.uniform(-400, 400))))
        assert places[-1].exists()
    standing = [copy.path for copy in backups(logbook.path)]
    assert standing[:NEWEST] == places[: -NEWEST - 1 : -1] and len(standing) >= 14


def test_only_its_own_copies_are_dropped(logbook):
    folder = folder_of(logbook.path)
    folder.mkdir()
    others = [
        folder / name
        for name in ("other.20200101-000000.ondine", "log.ondine", "log.20200101.txt", "log.old.20200101-000000.ondine")
    ]
    for path in others:
        path.write_text("mine")
    first = back_up_now(logbook.path, NOON - timedelta(days=1))
    # Copied, renamed or write-protected by its owner, a copy is no longer Ondine's to remove.
    copied = folder / "log.20250101-000000.ondine"
    shutil.copyfile(first, copied)
    renamed = back_up_now(logbook.path, NOON - timedelta(hours=20)).rename(folder / "log.before-the-fair.ondine")
    protected = back_up_now(logbook.path, NOON - timedelta(hours=19))
    protected.chmod(0o444)
    for n in range(40):
        back_up_now(logbook.path, NOON + timedelta(minutes=n))
    assert all(path.read_text() == "mine" for path in others)
    assert copied.exists() and renamed.exists() and protected.exists()
    assert len(backups(logbook.path)) < 20


def test_two_logbooks_of_one_name_share_a_folder(tmp_path, plan):
    paths = [tmp_path / place / "log.ondine" for place in ("studio", "laptop")]
    shared = tmp_path / "shared"
    for path in paths:
        Logbook.open(path).close()
    studio = [back_up_now(paths[0], NOON + timedelta(days=n), shared) for n in range(5)]
    laptop = [back_up_now(paths[1], NOON + timedelta(days=n, hours=1), shared) for n in range(40)]
    assert [copy.path for copy in backups(paths[0], shared)] == studio[::-1]
    assert backups(paths[1], shared)[0].path == laptop[-1] and len(backups(paths[1], shared)) < 30


def test_two_logbooks_that_were_one_do_not_share_copies(tmp_path):
    first, second = tmp_path / "studio" / "log.ondine", tmp_path / "laptop" / "log.ondine"
    Logbook.open(first).close()
    shared = tmp_path / "shared"
    made_by_first = [back_up_now(first, NOON + timedelta(minutes=n), shared) for n in range(5)]
    second.parent.mkdir()
    shutil.copyfile(first, second)
    for n in range(30):
        back_up_now(second, NOON + timedelta(hours=1, minutes=n), shared)
    assert [copy.path for copy in backups(first, shared)] == made_by_first[::-1]


def test_a_name_that_begins_another_name_is_no_part_of_it(tmp_path):
    short, long = tmp_path / "log.ondine", tmp_path / "log.b.ondine"
    shared = tmp_path / "shared"
    for path in (short, long):
        Logbook.open(path).close()
    kept = [back_up_now(long, NOON + timedelta(minutes=n), shared) for n in range(8)]
    for n in range(12):
        back_up_now(short, NOON + timedelta(hours=1, minutes=n), shared)
    assert all(copy.exists() for copy in kept)


def test_a_copy_that_is_worked_with_is_a_logbook_of_its_own(logbook, plan):
    copy = back_up_now(logbook.path, NOON)
    assert read_record(copy) is not None
    opened = Logbook.open(copy)
    fire(opened, plan, "in the copy")
    opened.close()
    for n in range(1, 40):
        back_up_now(logbook.path, NOON + timedelta(minutes=n))
    assert notes(copy) == ["in the copy"]
    assert identity_of(copy) not in (None, identity_of(logbook.path))


def test_a_logbook_of_an_older_format_is_copied_and_its_copies_stay(tmp_path):
    old = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v7.ondine", old)
    copies = [back_up_now(old, NOON + timedelta(minutes=n)) for n in range(12)]
    assert all(copy.exists() for copy in copies) and backups(old) == []


def test_a_restored_logbook_is_the_same_logbook(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    path, identity = book.path, identity_of(book.path)
    copy = back_up_now(path, NOON)
    book.close()
    restore(copy, path, NOON + timedelta(hours=1))
    Logbook.open(path).close()
    assert identity_of(path) == identity and read_record(path) is None
    # It goes on counting where it was.
    back_up_now(path, NOON + timedelta(hours=2))
    assert [copy.record.sequence for copy in backups(path)] == [2, 1]


def test_nothing_is_replaced_before_what_is_kept_is_known_to_open(tmp_path, plan, monkeypatch):
    book = Logbook.open(tmp_path / "log.ondine")
    copy = back_up_now(book.path, NOON)
    fire(book, plan, "here")
    book.close()
    really = backup.put_in_place

    def spoilt(part: Path, place: Path) -> bool:
        is_put = really(part, place)
        place.write_bytes(place.read_bytes()[:20_000])
        return is_put

    monkeypatch.setattr(backup, "put_in_place", spoilt)
    with pytest.raises(LogbookError):
        restore(copy, book.path, NOON)
    assert notes(book.path) == ["here"]


def test_a_logbook_that_somebody_reads_is_not_replaced(tmp_path, plan):
    book = Logbook.open(tmp_path / "log.ondine")
    copy = back_up_now(book.path, NOON)
    fire(book, plan, "here")
    reader = sqlite3.connect(book.path, isolation_level=None)
    reader.execute("BEGIN")
    reader.execute("SELECT count(*) FROM shot").fetchone()
    book.close()
    with pytest.raises(LogbookError, match="another program is reading it"):
        restore(copy, book.path, NOON)
    reader.close()
    assert notes(book.path) == ["here"]


def put_back(folder: Path, plan: Plan) -> tuple[Path, Path]:
    """Copy a logbook after its first shot, fire another, and restore the copy; return the logbook and what is kept."""
    book = Logbook.open(folder / "log.ondine")
    fire(book, plan, "good")
    copy = back_up_now(book.path, NOON)
    fire(book, plan, "since then")
    book.close()
    kept = restore(copy, book.path, NOON + timedelta(hours=1))
    assert kept is not None
    return book.path, kept


def test_a_copy_is_put_back_and_what_was_there_is_kept(tmp_path, plan):
    path, kept = put_back(tmp_path, plan)
    assert notes(path) == ["good"] and notes(kept) == ["good", "since then"]
    again = Logbook.open(path)
    assert again.shots.count() == 1
    again.close()


def test_what_a_restored_copy_replaced_stays_whatever_comes_after(tmp_path, plan):
    """Of before: eight copies later it was gone, and with it all that only it held."""
    path, kept = put_back(tmp_path, plan)
    for n in range(3 * NEWEST):
        back_up_now(path, NOON + timedelta(hours=2, minutes=n))
    assert notes(kept) == ["good", "since then"]
    assert len(backups(path)) <= NEWEST + 1
    # It can be put back itself.
    assert restore(kept, path, NOON + timedelta(hours=3)) is not None and notes(path) == ["good", "since then"]
    assert kept.exists()


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


def test_the_locks_of_copies_that_a_killed_run_was_removing_go(tmp_path):
    path = tmp_path / "log.ondine"
    Logbook.open(path).close()
    first = back_up_now(path, datetime(2026, 5, 9, tzinfo=UTC))
    opened = Logbook.open(back_up_now(path, datetime(2026, 5, 9, 1, tzinfo=UTC)))
    folder = folder_of(path)
    other = folder / "mine.ondine.lock"
    for lock in (folder / "log.20260509-120000-2.ondine.lock", folder / f"{first.name}.lock", other):
        lock.write_text("4711")
    copy = back_up_now(path, datetime(2026, 5, 10, tzinfo=UTC))
    names = {p.name for p in folder.iterdir() if not p.name.endswith(("-wal", "-shm"))}
    assert names == {copy.name, first.name, opened.path.name, f"{opened.path.name}.lock", other.name}
    opened.close()
