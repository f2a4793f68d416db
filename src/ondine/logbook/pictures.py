"""The pictures of a logbook: kept by reference, each with the shot it belongs to."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import func, select

from ondine.logbook.database import Database
from ondine.logbook.intake import PictureFacts
from ondine.logbook.model import Picture, Shot
from ondine.logbook.pairing import Candidate, Pairing
from ondine.logbook.records import ShotState

MOST_WAITING = 500
"""So many of the newest shots may still get a picture by themselves."""


class Pictures:
    """Adds pictures and finds their shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, facts: PictureFacts, pairing: Pairing, arrived_at: datetime) -> tuple[bool, int | None]:
        """Remember a picture by reference; return whether it was new, and the shot that it belongs to.

        A picture that is known already, by its content, only learns where it lies now, and its shot if it had none.
        """
        with self._database.changing([] if pairing.shot_id is None else [pairing.shot_id]) as session:
            known = session.scalar(select(Picture).where(Picture.sha256 == facts.sha256))
            if known is not None:
                known.path = str(facts.path)
                if known.shot_id is None:
                    known.shot_id, known.sure = pairing.shot_id, pairing.sure
                return False, known.shot_id
            picture = picture_row(facts, arrived_at)
            picture.shot_id, picture.sure = pairing.shot_id, pairing.sure or pairing.shot_id is None
            session.add(picture)
            return True, pairing.shot_id

    def answer(self, shot_id: int, belongs: bool) -> None:
        """Say whether a shot's picture is its own; one that is not is kept without a shot."""
        with self._database.changing([shot_id]) as session:
            for picture in session.scalars(select(Picture).where(Picture.shot_id == shot_id, ~Picture.sure)):
                picture.sure = True
                if not belongs:
                    picture.shot_id = None

    def shots_without(self) -> list[Candidate]:
        """Return the newest shots that fired and have no picture, the oldest first."""
        wanted = (
            select(Shot.id, Shot.planned_at, Shot.fired_at)
            .outerjoin(Picture)
            .where(Shot.state != ShotState.FAILED, Shot.binned_at.is_(None), Picture.id.is_(None))
            .order_by(Shot.id.desc())
            .limit(MOST_WAITING)
        )
        with self._database.session() as session:
            rows = session.execute(wanted).all()
        return [Candidate(i, fired or planned, False) for i, planned, fired in rows[::-1] if fired or planned]

    def paths(self) -> set[str]:
        """Return where all pictures lie."""
        with self._database.session() as session:
            return set(session.scalars(select(Picture.path)))

    def candidates(self, around: datetime, within: timedelta) -> list[Candidate]:
        """Return the shots fired within a span of a moment, as owners for a picture."""
        moment = func.coalesce(Shot.fired_at, Shot.planned_at)
        wanted = (
            select(Shot.id, Shot.planned_at, Shot.fired_at, func.count(Picture.id))
            .outerjoin(Picture)
            .where(Shot.state != ShotState.FAILED, Shot.binned_at.is_(None))
            .where(Shot.planned_at.between(around - within, around + within))
            .group_by(Shot.id)
            .order_by(moment)
        )
        with self._database.session() as session:
            rows = session.execute(wanted).all()
        return [Candidate(i, fired or planned, bool(n)) for i, planned, fired, n in rows if fired or planned]


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
