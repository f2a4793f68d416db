"""What a killed process leaves unfinished goes with the next run: only ours, and only once nobody makes it."""

import os
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from ondine.logbook import parts
from ondine.logbook.backup import back_up_now, backups
from ondine.logbook.parts import part_beside, scratch_folder, sweep
from ondine.logbook.store import Logbook
from ondine.logbook.writing import CSV, write_text

VICTIM = """
import os, signal, sys
from pathlib import Path
from ondine.logbook.parts import part_beside, scratch_folder
place = Path(sys.argv[1])
part = part_beside(place)
part.write_bytes(b"half")
part.with_name(part.name + "-journal").write_bytes(b"half")
with scratch_folder() as folder:
    (folder / "log.ondine").write_bytes(b"half")
    print(part.name, folder, flush=True)
    sys.stdin.read(1)
    os.kill(os.getpid(), signal.SIGKILL)
"""


@pytest.fixture(autouse=True)
def another_run(monkeypatch):
    """Forget which folders this process has swept."""
    monkeypatch.setattr(parts, "_swept", set())


@pytest.fixture
def victim(tmp_path):
    process = subprocess.Popen(
        [sys.executable, "-c", VICTIM, str(tmp_path / "log.ondine")],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env={**os.environ, "TMPDIR": str(tmp_path)},
    )  # fmt: skip
    process.name, _, folder = process.stdout.readline().strip().partition(" ")
    process.folder = Path(folder)
    yield process
    process.kill()
    process.communicate()


def names(folder: Path) -> set[str]:
    return {path.name for path in folder.iterdir()}


def killed(process: subprocess.Popen) -> None:
    process.communicate("x")
    assert process.returncode == -signal.SIGKILL


def test_what_a_living_process_makes_is_left_alone_and_what_it_leaves_is_removed(victim, tmp_path):
    before = names(tmp_path)
    assert {victim.name, f"{victim.name}-journal", victim.folder.name} <= before
    sweep(tmp_path)
    assert names(tmp_path) == before
    killed(victim)
    # Once a run is enough: long folders are not read at each write.
    sweep(tmp_path)
    assert names(tmp_path) == before
    parts._swept.clear()
    sweep(tmp_path)
    assert names(tmp_path) == set()


def test_the_next_writing_into_the_folder_sweeps_it(victim, tmp_path):
    killed(victim)
    write_text(tmp_path / "log.csv", "a", CSV)
    assert names(tmp_path) == {"log.csv"}


def test_opening_a_logbook_sweeps_its_folder(victim, tmp_path):
    killed(victim)
    Logbook.open(tmp_path / "log.ondine").close()
    assert names(tmp_path) == {"log.ondine"}


def test_only_parts_of_dead_processes_of_this_machine_are_removed(tmp_path):
    own = part_beside(tmp_path / "x").name
    machine, boot, pid, started = own.removeprefix(".ondine-").split("-")[:4]
    mine = [
        ".ondine-mine.part",
        ".ondine-diary.part",
        f".ondine-{'0' * 8}-{boot}-{pid}-1-ab.part",
        f".ondine-{machine}-{boot}-{pid}-{started}-ab.part",
        f".ondine-{machine}-{boot}-{pid}-1-ab.jpg",
        f"x.ondine-{machine}-{boot}-{pid}-1-ab.part",
    ]
    dead = [
        f".ondine-{machine}-{boot}-{pid}-1-ab.part",
        f".ondine-{machine}-{boot}-999999999-{started}-ab.part-wal",
        f".ondine-{machine}-{'0' * 8}-{pid}-{started}-ab.part",
    ]
    for name in (*mine, *dead):
        (tmp_path / name).write_bytes(b"x")
    parts._swept.clear()
    sweep(tmp_path)
    assert names(tmp_path) == set(mine)


def test_parts_of_earlier_versions_go_after_a_day_if_nobody_has_them_open(tmp_path):
    old, held, young = (tmp_path / f".ondine-{letter * 12}.part" for letter in "abc")
    for part in (old, held, young):
        part.write_bytes(b"x")
        if part != young:
            os.utime(part, (1, 1))
    with held.open("rb"):
        sweep(tmp_path)
    assert names(tmp_path) == {held.name, young.name}


def test_a_folder_that_cannot_be_read_stops_nobody(tmp_path):
    sweep(tmp_path / "nowhere")
    (tmp_path / "file").write_bytes(b"")
    sweep(tmp_path / "file")


def test_a_scratch_folder_goes_with_its_use():
    with scratch_folder() as folder:
        (folder / "x").write_bytes(b"x")
    assert not folder.exists()


def test_what_a_killed_backup_leaves_goes_with_the_next_one(logbook, monkeypatch):
    part = part_beside(logbook.path.with_name("log-backups") / "x")
    dead = part.name.replace(f"-{os.getpid()}-", "-999999999-")
    part.parent.mkdir()
    shutil.copyfile(logbook.path, part.with_name(dead))
    parts._swept.clear()
    from datetime import UTC, datetime

    back_up_now(logbook.path, datetime.now(UTC))
    assert names(part.parent) == {backups(logbook.path)[0].path.name}
