"""Who has a logbook open: one Ondine at a time, by whatever name the file is opened.

Two locks are held. The one beside the file is seen by other machines that share the folder. The other one, where
programs keep their state, goes by device and inode: a hard link is another name of the same file, and SQLite would
keep its last changes beside each name apart, so that one writer overwrites the other.

While a file is held, this process must not open and close it past SQLite: closing any handle of a file drops all POSIX
locks that the process has on it (https://www.sqlite.org/howtocorrupt.html, section 2.2), and the next program that
closes the logbook then deletes the file in which our last changes wait.
"""

from __future__ import annotations

import os
import platform
from contextlib import suppress
from pathlib import Path

from filelock import BaseFileLock, FileLock, Timeout

from ondine.logbook.errors import LogbookError, LogbookInUseError, under_another_name

_held: set[tuple[int, int]] = set()
"""Files that this process holds, by device and inode."""


class LogbookLock:
    """The claim of this process on one logbook file. `take` makes one; nothing of it stays after `release`."""

    def __init__(self, path: Path, by_name: BaseFileLock) -> None:
        self.path = path
        self._by_name = by_name
        self._by_file: BaseFileLock | None = None
        self._inode: tuple[int, int] | None = None

    @classmethod
    def take(cls, path: Path) -> LogbookLock:
        """Make this process the one that has the logbook open.

        Raises LogbookInUseError when another Ondine has it, LogbookError when its folder cannot be written or its last
        changes lie beside another name of the file.
        """
        beside = path.with_name(path.name + ".lock")
        # Taken in one thread and released in another, at closing.
        lock = FileLock(beside, timeout=0, thread_local=False)
        try:
            lock.acquire()
        except Timeout as error:
            raise LogbookInUseError(path, _holder(beside)[0]) from error
        except OSError as error:
            raise LogbookError(
                f"The folder {path.parent} cannot be written ({error.strerror}), so no shot could be logged there. "
                "Give yourself write permission, or choose another place for the logbook."
            ) from error
        # On a full disk the lock holds without its holder's number; what cannot be written is told with the first shot.
        with suppress(OSError):
            beside.write_text(str(os.getpid()), encoding="ascii")
        taken = cls(path, lock)
        try:
            taken.hold_file()
        except BaseException:
            taken.release()
            raise
        return taken

    def hold_file(self) -> None:
        """Hold the file itself, once it is there, against its other names.

        Raises LogbookInUseError, and LogbookError if its last changes lie beside another name.
        """
        try:
            inode = _inode_of(self.path)
        except OSError:
            return
        if inode == self._inode:
            return
        self._let_file_go()
        place = _lock_of(inode)
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            lock = FileLock(place, timeout=0, thread_local=False)
            lock.acquire()
        except Timeout as error:
            holder, name = _holder(place)
            raise LogbookInUseError(self.path, holder, Path(name) if name else None) from error
        except OSError:
            # Where no state can be kept, the lock beside the file has to do.
            lock = None
        name_of_changes = other_name(self.path)
        if name_of_changes is not None:
            if lock is not None:
                # Its file stays: it tells where those changes lie.
                lock.release()
            raise LogbookError(under_another_name(self.path, name_of_changes))
        if lock is not None:
            _forget_dead(place)
            with suppress(OSError):
                place.write_bytes(b"%d\n%s" % (os.getpid(), os.fsencode(self.path)))
        self._by_file, self._inode = lock, inode
        _held.add(inode)

    @property
    def is_held(self) -> bool:
        """Whether it was not released yet."""
        return self._by_name.is_locked

    def release(self) -> None:
        """Give the logbook up."""
        self._let_file_go()
        _let_go(self._by_name)

    def _let_file_go(self) -> None:
        if self._inode is not None:
            _held.discard(self._inode)
            self._inode = None
        if self._by_file is not None:
            _let_go(self._by_file)


def _let_go(lock: BaseFileLock) -> None:
    if lock.is_locked:
        # While it is held: whoever opened it meanwhile sees that it is gone, and asks anew.
        Path(lock.lock_file).unlink(missing_ok=True)
        lock.release()


def _forget_dead(own: Path) -> None:
    """Remove the locks of files that killed processes had open, unless they tell where last changes lie."""
    for place in own.parent.glob(f"{platform.node()}-*.lock".replace("/", "-")):
        if place == own:
            continue
        lock = FileLock(place, timeout=0)
        try:
            lock.acquire()
        except (Timeout, OSError):
            continue
        name = _holder(place)[1]
        with suppress(OSError):
            if not name or not unfinished_beside(Path(name)):
                place.unlink(missing_ok=True)
        lock.release()


def is_held_here(path: Path) -> bool:
    """Whether this process has a file open as a logbook, by any of its names."""
    try:
        return _inode_of(path) in _held
    except (OSError, ValueError):
        return False


def other_name(path: Path) -> Path | None:
    """Return another name of a file, if the last changes made to it lie beside that name; None if they do not.

    Found are names in the same folder, and the one by which it was opened when a crash left it.
    """
    try:
        found = path.stat()
        if found.st_nlink < 2:
            return None
        inode = found.st_dev, found.st_ino
        names = [Path(entry.path) for entry in os.scandir(path.parent) if entry.inode() == found.st_ino]
    except OSError:
        return None
    opened_as = _holder(_lock_of(inode))[1]
    for name in (*([Path(opened_as)] if opened_as else []), *names):
        with suppress(OSError):
            if name != path and _inode_of(name) == inode and unfinished_beside(name):
                return name
    return None


def unfinished_beside(path: Path) -> list[Path]:
    """Return the files in which SQLite keeps changes that are not in the logbook's own file yet."""
    beside = [path.with_name(path.name + ending) for ending in ("-wal", "-journal")]
    return [file for file in beside if file.exists() and file.stat().st_size]


def _inode_of(path: Path) -> tuple[int, int]:
    found = path.stat()
    return found.st_dev, found.st_ino


def _lock_of(inode: tuple[int, int]) -> Path:
    from platformdirs import user_state_path

    # A home folder may be shared by machines, each with devices of its own.
    name = f"{platform.node()}-{inode[0]:x}-{inode[1]:x}.lock".replace("/", "-")
    return user_state_path("ondine", appauthor=False) / "open" / name


def _holder(lock: Path) -> tuple[str, str]:
    """Return the number of the process that holds a lock, and the name by which it opened the logbook."""
    try:
        pid, _, name = lock.read_bytes().partition(b"\n")
    except OSError:
        return "unknown", ""
    return pid.decode("ascii", "replace").strip() or "unknown", os.fsdecode(name)
