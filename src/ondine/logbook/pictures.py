"""The pictures of a logbook: kept by reference, each with the shot it belongs to."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import func, select

from ondine.logbook.database import Database
from ondine.logbook.intake import PictureFacts
from ondine.logbook.model import Picture, Shot
from ondine.logbook.pairing import Candidate
from ondine.logbook.records import ShotState


class Pictures:
    """Adds pictures and finds their shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, facts: PictureFacts, shot_id: int | None, arrived_at: datetime) -> bool:
        """Remember a picture by reference; return whether it was new.

        A picture that is known already, by its content, only learns where it lies now.
        """
        with self._database.session() as session:
            known = session.scalar(select(Picture).where(Picture.sha256 == facts.sha256))
            if known is not None:
                known.path = str(facts.path)
                if known.shot_id is None:
                    known.shot_id = shot_id
                return False
            picture = picture_row(facts, arrived_at)
            picture.shot_id = shot_id
            session.add(picture)
            return True

    def candidates(self, around: datetime, within: timedelta) -> list[Candidate]:
        """Return the shots fired within a span of a moment, as owners for a picture."""
        moment = func.coalesce(Shot.fired_at, Shot.planned_at)
        wanted = (
            select(Shot.id, Shot.planned_at, Shot.fired_at, func.count(Picture.id))
            .outerjoin(Picture)
            .where(Shot.state != ShotState.FAILED)
            .where(Shot.planned_at.between(around - within, around + within))
            .group_by(Shot.id)
            .order_by(moment)
        )
        with self._database.session() as session:
            return [Candidate(i, fired or planned, bool(n)) for i, planned, fired, n in session.execute(wanted)]


def picture_row(facts: PictureFacts, arrived_at: datetime) -> Picture:
    """Return a picture's row, not yet in any session."""
    return Picture(
        path=str(facts.path),
        sha256=facts.sha256,
        width_px=facts.width_px,
        height_px=facts.height_px,
        taken_at=facts.taken_at,
        arrived_at=arrived_at,
        exposure_s=facts.exposure_s,
        f_number=facts.f_number,
        iso=facts.iso,
        focal_length_m=facts.focal_length_m,
    )
