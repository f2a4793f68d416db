"""Verified copies of a logbook as it is at one moment, and the placing of new files over nothing."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ondine.logbook.file import check_name, copied_aside
from ondine.logbook.locking import is_held_here, unfinished_beside
from ondine.logbook.writing import sync_folder


def copy_verified(path: Path, copy: Path) -> None:
    """Copy a logbook with SQLite's own backup, whatever else is done with it meanwhile, and verify the copy.

    The logbook may be on read-only media. Raises LogbookError, sqlite3.Error, OSError.
    """
    check_name(path)
    with _source(path) as source, closing(sqlite3.connect(copy)) as target:
        # One moment of it: who writes meanwhile must not make the copy look wrong.
        source.execute("BEGIN")
        counts = _counts(source)
        source.backup(target)
        source.execute("COMMIT")
        if target.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok" or _counts(target) != counts:
            raise OSError(0, "the copy is not the same")
        # One file, whole in itself: nothing of it may wait in a file beside it.
        target.execute("PRAGMA journal_mode = DELETE")


@contextmanager
def _source(path: Path) -> Iterator[sqlite3.Connection]:
    if is_held_here(path) or (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
        with closing(sqlite3.connect(path, timeout=3, isolation_level=None)) as source:
            yield source
    else:
        with read_only(path) as source:
            yield source


@contextmanager
def read_only(path: Path) -> Iterator[sqlite3.Connection]:
    """Give a connection that reads a logbook as it is now, and leaves it and what lies beside it untouched.

    Raises sqlite3.Error, OSError.
    """
    if not unfinished_beside(path):
        with _connected(f"{path.as_uri()}?immutable=1") as source:
            yield source
        return
    # Beside a window that writes, SQLite sorts out who reads what.
    beside = _reading_beside_others(path)
    if beside is not None:
        with closing(beside):
            yield beside
        return
    # Nobody has it open: a crash left it so, perhaps on media that cannot be written.
    with copied_aside(path) as aside, _connected(aside.as_uri()) as source:
        yield source


def _reading_beside_others(path: Path) -> sqlite3.Connection | None:
    if not path.with_name(path.name + "-shm").exists():
        return None
    source = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True, timeout=3, isolation_level=None)
    try:
        source.execute("SELECT count(*) FROM sqlite_master").fetchone()
    except sqlite3.OperationalError:
        source.close()
        # Copied past SQLite, a file that this process has open would lose its locks (see `locking`).
        if is_held_here(path):
            raise
        return None
    return source


@contextmanager
def _connected(uri: str) -> Iterator[sqlite3.Connection]:
    with closing(sqlite3.connect(uri, uri=True, timeout=3, isolation_level=None)) as connection:
        yield connection


def _counts(connection: sqlite3.Connection) -> dict[str, int]:
    names = [name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    return {name: connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0] for name in sorted(names)}


def put_in_place(part: Path, place: Path) -> bool:
    """Rename a finished part to a place where nothing lies; return whether it could. Raises OSError."""
    try:
        os.link(part, place)
    except FileExistsError:
        return False
    except OSError:
        # A file system without hard links: the name is taken first, so that nobody else gets it.
        try:
            open(place, "xb").close()
        except FileExistsError:
            return False
        part.replace(place)
    else:
        part.unlink()
    sync_folder(place.parent)
    return True
