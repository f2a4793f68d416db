"""What tells one logbook from others, and what a copy knows of its making.

A logbook has an identity of its own, which its copies carry. A copy also carries a record: of which logbook at which
place it is, the how-manieth, and when it was made. Only by this record does Ondine take a file for a copy that it may
remove; neither names nor clocks prove it.
"""

from __future__ import annotations

import platform
import sqlite3
import uuid
from contextlib import closing
from dataclasses import astuple, dataclass
from datetime import datetime
from pathlib import Path

from ondine.logbook.locking import unfinished_beside

KEY = "identity"
"""Under this the state of a logbook holds its identity."""

TABLE = "copy_of"
"""Only copies have it. A copy that is opened to be written becomes a logbook of its own and loses it."""


@dataclass(frozen=True)
class CopyRecord:
    """Of which logbook a copy is, and which one: `sequence` counts the copies of a logbook in one folder from 1.

    `origin`: machine and place of the logbook, so that two logbooks that were one once do not share copies; `made_at`
    has its zone.
    """

    identity: str
    origin: str
    sequence: int
    made_at: datetime


def origin_of(logbook: Path) -> str:
    """Return what a record calls the place of a logbook; logbook : its real path."""
    return f"{platform.node()}:{logbook}".encode("utf-8", "backslashreplace").decode("utf-8")


def settle_identity(logbook: Path) -> None:
    """Give a logbook that is opened to be written an identity, and a new one to what was a copy until now.

    Raises sqlite3.Error.
    """
    with closing(sqlite3.connect(logbook, timeout=3, isolation_level=None)) as connection:
        was_copy = _has_record(connection)
        if not was_copy and identity_in(connection) is not None:
            return
        connection.execute("BEGIN IMMEDIATE")
        connection.execute(f"DROP TABLE IF EXISTS {TABLE}")
        connection.execute("INSERT OR REPLACE INTO state VALUES (?, ?)", (KEY, uuid.uuid4().hex))
        connection.execute("COMMIT")


def identity_in(connection: sqlite3.Connection) -> str | None:
    """Return a logbook's identity; None in formats before 8, and where it was never opened since."""
    try:
        found = connection.execute("SELECT value FROM state WHERE key = ?", (KEY,)).fetchone()
    except sqlite3.OperationalError:
        # The first two formats have no such table.
        return None
    return None if found is None else str(found[0])


def identity_of(logbook: Path) -> str | None:
    """Return the identity of a logbook, whoever has it open; None where it has none, or is none."""
    try:
        with closing(sqlite3.connect(f"{logbook.absolute().as_uri()}?mode=ro", uri=True, timeout=0.5)) as connection:
            return identity_in(connection)
    except (sqlite3.Error, ValueError):
        return None


def write_record(copy: Path, record: CopyRecord) -> None:
    """Write the record into a finished copy, over that of an older one. Raises sqlite3.Error."""
    with closing(sqlite3.connect(copy)) as connection, connection:
        connection.execute(f"DROP TABLE IF EXISTS {TABLE}")
        connection.execute(f"CREATE TABLE {TABLE} (identity TEXT, origin TEXT, sequence INTEGER, made_at TEXT)")
        values = (*astuple(record)[:3], record.made_at.isoformat())
        connection.execute(f"INSERT INTO {TABLE} VALUES (?, ?, ?, ?)", values)


def forget_record(copy: Path) -> None:
    """Take the record out of a copy that becomes the logbook again. Raises sqlite3.Error."""
    with closing(sqlite3.connect(copy)) as connection, connection:
        connection.execute(f"DROP TABLE IF EXISTS {TABLE}")


def read_record(copy: Path) -> CopyRecord | None:
    """Return what a file records as a copy; None for all other files, and for a copy that somebody works with."""
    try:
        if unfinished_beside(copy) or not copy.is_file():
            return None
        with closing(sqlite3.connect(f"{copy.as_uri()}?mode=ro", uri=True, timeout=0)) as connection:
            identity, origin, sequence, made_at = connection.execute(
                f"SELECT identity, origin, sequence, made_at FROM {TABLE}"
            ).fetchone()
        made = datetime.fromisoformat(made_at)
        if made.tzinfo is None or not isinstance(sequence, int):
            return None
        return CopyRecord(str(identity), str(origin), sequence, made)
    except (sqlite3.Error, OSError, ValueError, TypeError):
        return None


def _has_record(connection: sqlite3.Connection) -> bool:
    query = "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?"
    return connection.execute(query, (TABLE,)).fetchone() is not None
