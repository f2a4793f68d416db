"""Start-up snapshot: what the first frame of the window needs of a logbook, read in milliseconds.

SQLAlchemy takes half a second to load; the window is drawn from this meanwhile (docs/decisions/007).
"""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass, field, replace

from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import SCHEMA_VERSION, ClaimedFile, readable
from ondine.logbook.records import ShotRecord, ShotState
from ondine.logbook.shot_rows import NEWEST, record_of


@dataclass(frozen=True)
class Snapshot:
    """The newest shots, newest first, the state that was kept, and how many of those shots cannot be read."""

    shots: list[ShotRecord] = field(default_factory=list)
    state: dict[str, str] = field(default_factory=dict)
    unreadable: int = 0


def take_snapshot(claimed: ClaimedFile, count: int) -> Snapshot:
    """Read the newest `count` shots and the state; a new logbook has none, an older one must be migrated before.

    Raises LogbookError.
    """
    if claimed.version != SCHEMA_VERSION:
        return Snapshot()
    try:
        with closing(sqlite3.connect(claimed.path, timeout=3)) as connection:
            connection.row_factory = sqlite3.Row
            connection.text_factory = readable
            rows = connection.execute(NEWEST, (count,)).fetchall()
            state = {str(key): str(value) for key, value in connection.execute("SELECT key, value FROM state")}
    except sqlite3.Error as error:
        raise LogbookError(sqlite_words(claimed.path, error)) from error
    shots = [shot for row in rows if (shot := _record(row)) is not None]
    return Snapshot(shots, state, len(rows) - len(shots))


def _record(row: sqlite3.Row) -> ShotRecord | None:
    shot = record_of(dict(row))
    # Nothing can be firing while a logbook is being opened: a crash left this one.
    return replace(shot, state=ShotState.UNKNOWN) if shot is not None and shot.state is ShotState.PLANNED else shot
