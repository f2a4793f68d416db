"""The sittings of a logbook."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import func, select

from ondine.logbook.database import Database
from ondine.logbook.model import Shot, Sitting
from ondine.logbook.records import SittingFacts, SittingRecord


class Sittings:
    """Reads and changes sittings."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def begin(self, facts: SittingFacts, at: datetime) -> int:
        """Start a sitting and return its number."""
        with self._database.session() as session:
            sitting = Sitting(started_at=at, **vars(facts))
            session.add(sitting)
            session.flush()
            return sitting.id

    def describe(self, sitting_id: int, facts: SittingFacts) -> None:
        """Replace what is written down about a sitting."""
        with self._database.session() as session:
            sitting = session.get_one(Sitting, sitting_id)
            for name, value in vars(facts).items():
                setattr(sitting, name, value)

    def all(self) -> list[SittingRecord]:
        """Return all sittings, newest first."""
        counted = select(Shot.sitting_id, func.count().label("shots")).group_by(Shot.sitting_id).subquery()
        wanted = (
            select(Sitting, func.coalesce(counted.c.shots, 0))
            .outerjoin(counted, counted.c.sitting_id == Sitting.id)
            .order_by(Sitting.id.desc())
        )
        with self._database.session() as session:
            return [_record(sitting, shots) for sitting, shots in session.execute(wanted)]


def _record(s: Sitting, shots: int) -> SittingRecord:
    # A damaged file may hold anything; a sitting without a sound time still has its name.
    started_at: datetime | None = s.started_at
    temperature_c = s.temperature_c if isinstance(s.temperature_c, int | float) else None
    texts = (str(s.place), temperature_c, str(s.note), str(s.preflight))
    return SittingRecord(s.id, str(s.name), started_at or datetime(1970, 1, 1, tzinfo=UTC), *texts, shots)
