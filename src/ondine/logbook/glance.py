"""What the first frame of the window needs of a logbook, read in milliseconds.

SQLAlchemy takes half a second to load; the window is drawn from this meanwhile (docs/decisions/007).
"""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from ondine.core.wire import sequence_from_json
from ondine.logbook.file import SCHEMA_VERSION, Door
from ondine.logbook.records import ShotRecord, ShotState

_NEWEST = """
    SELECT shot.id, sitting.name AS sitting, setup_id, COALESCE(fired_at, planned_at) AS at, state, sequence, report,
           rating, shot.note AS note,
           (SELECT group_concat(shape) FROM (SELECT shape FROM tag WHERE shot_id = shot.id ORDER BY shape)) AS shapes,
           (SELECT path FROM picture WHERE shot_id = shot.id ORDER BY id LIMIT 1) AS picture
    FROM shot JOIN sitting ON sitting.id = sitting_id ORDER BY shot.id DESC LIMIT ?
"""


@dataclass(frozen=True)
class Glance:
    """The newest shots, newest first, and what lies on the desk."""

    shots: list[ShotRecord] = field(default_factory=list)
    desk: dict[str, str] = field(default_factory=dict)


def glance(door: Door, count: int) -> Glance:
    """Read the newest `count` shots and the desk; a new or older logbook gives nothing until it is migrated."""
    if door.version != SCHEMA_VERSION:
        return Glance()
    with closing(sqlite3.connect(door.path, timeout=3)) as connection:
        connection.row_factory = sqlite3.Row
        shots = [_record(row) for row in connection.execute(_NEWEST, (count,))]
        desk = dict(connection.execute("SELECT key, value FROM desk").fetchall())
    return Glance(shots, desk)


def _record(row: sqlite3.Row) -> ShotRecord:
    state = ShotState(row["state"])
    return ShotRecord(
        id=row["id"],
        sitting=row["sitting"],
        setup_id=row["setup_id"],
        at=datetime.fromisoformat(row["at"]).replace(tzinfo=UTC),
        # Nothing can be firing while a logbook is being opened: a crash left this one.
        state=ShotState.UNKNOWN if state is ShotState.PLANNED else state,
        sequence=sequence_from_json(row["sequence"]),
        report=row["report"],
        rating=row["rating"],
        note=row["note"],
        shapes=tuple(row["shapes"].split(",")) if row["shapes"] else (),
        picture=Path(row["picture"]) if row["picture"] else None,
    )
