"""Start-up snapshot: what the first frame of the window needs of a logbook, read in milliseconds.

SQLAlchemy takes half a second to load; the window is drawn from this meanwhile (docs/decisions/007).
"""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from ondine.core.timing.wire import sequence_from_json
from ondine.logbook.file import SCHEMA_VERSION, ClaimedFile
from ondine.logbook.records import ShotRecord, ShotState

_NEWEST = """
    SELECT shot.id, sitting.name AS sitting, setup_id, belief_id, COALESCE(fired_at, planned_at) AS at, state,
           sequence, report,
           flash_report_us, head_m, rating, shot.note AS note,
           (SELECT group_concat(shape) FROM (SELECT shape FROM tag WHERE shot_id = shot.id ORDER BY shape)) AS shapes,
           (SELECT path FROM picture WHERE shot_id = shot.id ORDER BY id LIMIT 1) AS picture
    FROM shot JOIN sitting ON sitting.id = sitting_id ORDER BY shot.id DESC LIMIT ?
"""


@dataclass(frozen=True)
class Snapshot:
    """The newest shots, newest first, and the state that was kept."""

    shots: list[ShotRecord] = field(default_factory=list)
    state: dict[str, str] = field(default_factory=dict)


def take_snapshot(claimed: ClaimedFile, count: int) -> Snapshot:
    """Read the newest `count` shots and the state; a new logbook has none, an older one must be migrated before."""
    if claimed.version != SCHEMA_VERSION:
        return Snapshot()
    with closing(sqlite3.connect(claimed.path, timeout=3)) as connection:
        connection.row_factory = sqlite3.Row
        shots = [_record(row) for row in connection.execute(_NEWEST, (count,))]
        state = dict(connection.execute("SELECT key, value FROM state").fetchall())
    return Snapshot(shots, state)


def _record(row: sqlite3.Row) -> ShotRecord:
    state = ShotState(row["state"])
    return ShotRecord(
        id=row["id"],
        sitting=row["sitting"],
        setup_id=row["setup_id"],
        belief_id=row["belief_id"],
        at=datetime.fromisoformat(row["at"]).replace(tzinfo=UTC),
        # Nothing can be firing while a logbook is being opened: a crash left this one.
        state=ShotState.UNKNOWN if state is ShotState.PLANNED else state,
        sequence=sequence_from_json(row["sequence"]),
        report=row["report"],
        flash_report_us=row["flash_report_us"],
        head_m=row["head_m"],
        rating=row["rating"],
        note=row["note"],
        shapes=tuple(row["shapes"].split(",")) if row["shapes"] else (),
        picture=Path(row["picture"]) if row["picture"] else None,
    )
