"""Unfinished files and folders: named after the process that makes them, removed once that process is gone.

A file is written under such a name beside its place and renamed when it is whole. A process that is killed in between
leaves its part behind, as large as a logbook; whoever next writes into the same folder removes it.
"""

from __future__ import annotations

import functools
import hashlib
import os
import platform
import re
import secrets
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

_NAMED = re.compile(
    r"\.?ondine-(?P<machine>[0-9a-f]{8})-(?P<boot>[0-9a-f]{8})-(?P<pid>\d+)-(?P<started>\d+)-[^.]*"
    r"(\.part(-journal|-wal|-shm)?)?"
)
_OLD_NAME = re.compile(r"\.ondine-[0-9a-f]{12}\.part(-journal|-wal|-shm)?")
"""Until format 7 of the logbook a part's name told nothing of its process."""

_OLD_PART_S = 24 * 3600
"""A part with a name of the old kind is removed once nothing was written to it for so long."""

_swept: set[Path] = set()


def part_beside(place: Path) -> Path:
    """Return a name beside a place for what becomes it; parts that dead processes left there are removed first."""
    sweep(place.parent)
    return place.with_name(f".{_owner()}-{secrets.token_hex(4)}.part")


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """Give a folder for temporary files that goes afterwards; those of dead processes are removed first."""
    sweep(Path(tempfile.gettempdir()))
    with tempfile.TemporaryDirectory(prefix=f"{_owner()}-") as folder:
        yield Path(folder)


def sweep(folder: Path) -> None:
    """Remove what dead Ondine processes of this machine left unfinished in a folder; once per folder and process.

    What cannot be removed stays: it is in nobody's way.
    """
    folder = folder.absolute()
    if folder in _swept:
        return
    _swept.add(folder)
    with suppress(OSError), os.scandir(folder) as entries:
        for entry in entries:
            if is_abandoned(entry.name, folder):
                with suppress(OSError):
                    if entry.is_dir(follow_symlinks=False):
                        shutil.rmtree(entry.path)
                    else:
                        Path(entry.path).unlink()


def is_abandoned(name: str, folder: Path) -> bool:
    """Whether a name in a folder is that of an Ondine process of this machine that runs no longer."""
    named = _NAMED.fullmatch(name)
    if named is not None:
        return named["machine"] == _machine() and not (
            named["boot"] == _boot() and _started(int(named["pid"])) == int(named["started"])
        )
    if _OLD_NAME.fullmatch(name) is None:
        return False
    place = folder / name
    try:
        untouched_s = time.time() - place.stat().st_mtime
    except OSError:
        return False
    return untouched_s > _OLD_PART_S and not _is_open(place)


def _owner() -> str:
    pid = os.getpid()
    return f"ondine-{_machine()}-{_boot()}-{pid}-{_started(pid) or 0}"


@functools.cache
def _machine() -> str:
    """Tell this machine from others that see the same folder; a container with process numbers of its own is one."""
    known = platform.node()
    with suppress(OSError):
        known += Path("/etc/machine-id").read_text(encoding="ascii", errors="replace")
    with suppress(OSError):
        known += str(Path("/proc/self/ns/pid").readlink())
    return hashlib.sha256(known.encode("utf-8", "replace")).hexdigest()[:8]


@functools.cache
def _boot() -> str:
    """Tell this run of the machine from earlier ones, whose processes are all gone."""
    try:
        return Path("/proc/sys/kernel/random/boot_id").read_text(encoding="ascii")[:8]
    except OSError:
        return "0" * 8


def _started(pid: int) -> int | None:
    """Return when a process began, in clock ticks since the machine did; None where there is no such process."""
    try:
        # The second field is the program's name in parentheses, which may hold any character.
        after_name = Path(f"/proc/{pid}/stat").read_text(encoding="utf-8", errors="replace").rpartition(")")[2]
        return int(after_name.split()[19])
    except (OSError, ValueError, IndexError):
        return None


def _is_open(place: Path) -> bool:
    """Whether a process of this machine, as far as it can be seen, has a file open."""
    for handle in Path("/proc").glob("[0-9]*/fd/*"):
        with suppress(OSError):
            if handle.readlink() == place:
                return True
    return False
