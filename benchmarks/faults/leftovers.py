"""Folders full of unfinished files: Ondine's own go once nobody makes them, everything else stays."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from benchmarks.faults import Tally
from ondine.logbook import parts
from ondine.logbook.backup import back_up_now
from ondine.logbook.store import Logbook

A_DAY_S = 24 * 3600
ENDINGS = ("", "-wal", "-journal", "-shm")
MINE = ("notes.part", ".ondine-notes.part", "ondine-plan.txt", ".part", "a.part", "ondine-1-2-3.part", ".ondine-.part",
        "ondine-0123456789ab.part", ".ondine-0123456789ab.parts", ".ondine-XYZ456789abc.part")  # fmt: skip


def run(count: int, seed: int) -> Tally:
    """Fill folders, copy a logbook into each, and see what is left."""
    tally, dice = Tally("folders with unfinished files"), random.Random(seed)
    dead = _process_that_is_gone()
    with tempfile.TemporaryDirectory() as home:
        logbook = Path(home) / "log.ondine"
        Logbook.open(logbook).close()
        for number in range(count):
            folder = Path(home) / f"folder-{number}"
            folder.mkdir()
            tally.tried += 1
            stays, goes = _filled(folder, dice, dead)
            parts._swept.clear()
            copy = back_up_now(logbook, datetime.now(UTC), folder)
            left = {entry.name for entry in folder.iterdir()} - {copy.name}
            if left != stays:
                tally.faults.append(f"left over {sorted(left - stays)}, gone {sorted(stays - left)}")
            tally.notes["removed"] = tally.notes.get("removed", 0) + len(goes)
            tally.notes["stayed"] = tally.notes.get("stayed", 0) + len(stays)
    return tally


def _process_that_is_gone() -> str:
    """The name that a process gives to what it makes, once it runs no longer."""
    told = "from ondine.logbook import parts; print(parts._owner())"
    return subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True).stdout.strip()


def _filled(folder: Path, dice: random.Random, dead: str) -> tuple[set[str], set[str]]:
    """Put files of all kinds into a folder; return the names of those that stay, and of those that go."""
    alive = parts._owner()
    kinds = {
        "dead": (f".{dead}-", True), "alive": (f".{alive}-", False),
        "elsewhere": (f".ondine-{'0' * 8}{dead[15:]}-", False),
        "another start": (f".{dead[:16]}{'f' * 8}{dead[24:]}-", True),
    }  # fmt: skip
    stays: set[str] = set()
    goes: set[str] = set()
    for number in range(dice.randrange(12)):
        prefix, is_ours = kinds[dice.choice(list(kinds))]
        name = f"{prefix}{number:08x}.part{dice.choice(ENDINGS)}"
        (folder / name).write_bytes(b"half")
        (goes if is_ours else stays).add(name)
    for number in range(dice.randrange(4)):
        is_old, name = dice.random() < 0.5, f".ondine-{number:012x}.part"
        (folder / name).write_bytes(b"half")
        if is_old:
            then = time.time() - 2 * A_DAY_S
            os.utime(folder / name, (then, then))
        (goes if is_old else stays).add(name)
    for name in dice.sample(MINE, dice.randrange(len(MINE))):
        (folder / name).write_bytes(b"mine")
        stays.add(name)
    return stays, goes
