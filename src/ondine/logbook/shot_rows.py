"""How a shot's row is read, with its sitting, tags, labels and first picture; shared by all who read shots.

Plain SQL: the start-up snapshot reads it without SQLAlchemy, and a page of the log in milliseconds.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ondine.logbook.records import ShotRecord, shot_record

PARTS_SIGN = "\x1f"
"""Parts shapes and labels: no one types it."""

TIME = "shot.at"
"""When a shot was fired, or was to be; SQLite itself keeps the column (see migration 0007)."""

SELECT = f"""
    SELECT shot.*, sitting.name AS sitting,
           (SELECT group_concat(shape, '{PARTS_SIGN}') FROM tag WHERE shot_id = shot.id) AS shapes,
           (SELECT group_concat(word, '{PARTS_SIGN}') FROM label WHERE shot_id = shot.id) AS labels,
           picture.path AS picture, picture.sure AS sure, picture.sha256 AS picture_sha256
    FROM shot LEFT JOIN sitting ON sitting.id = shot.sitting_id
    LEFT JOIN picture ON picture.id = (SELECT min(id) FROM picture WHERE shot_id = shot.id)
"""

NEWEST = f"{SELECT} WHERE shot.binned_at IS NULL ORDER BY {TIME} DESC, shot.id DESC LIMIT ?"


def record_of(row: Mapping[str, Any]) -> ShotRecord | None:
    """Return the shot that a row of `SELECT` holds, None for one that cannot be read."""
    try:
        return shot_record(
            row, row["sitting"], _parts(row["shapes"]), row["picture"], bool(row["sure"]), _parts(row["labels"])
        )
    except ValueError:
        return None


def _parts(joined: object) -> list[str]:
    return [part for part in str(joined or "").split(PARTS_SIGN) if part]
