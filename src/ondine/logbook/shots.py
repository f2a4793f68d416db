"""The shots of a logbook: written before they fire, completed afterwards, tagged, found."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Select, func, select, update
from sqlalchemy.orm import selectinload

from ondine.core.forecast.plan import Plan
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from ondine.logbook.database import Database
from ondine.logbook.model import Shot, Sitting, Tag
from ondine.logbook.pictures import picture_row
from ondine.logbook.records import PastShot, ShotQuery, ShotRecord, ShotState
from ondine.logbook.setups import belief_revision, setup_revision


class Shots:
    """Reads and changes shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def recover(self) -> None:
        """Mark the shots that a crash left planned: fired, outcome unknown."""
        with self._database.session() as session:
            left = update(Shot).where(Shot.state == ShotState.PLANNED)
            session.execute(left.values(state=ShotState.UNKNOWN, fired_at=Shot.planned_at))

    def plan(self, sitting_id: int, plan: Plan, at: datetime, head_m: float | None = None) -> int:
        """Write a shot before it fires, with the revisions of its set-up and of the belief; return its number.

        head_m : the reservoir's level, as reckoned [m].
        """
        with self._database.session() as session:
            shot = Shot(
                sitting_id=sitting_id,
                setup_id=setup_revision(session, plan.setup),
                belief_id=belief_revision(session, plan.belief),
                planned_at=at,
                state=ShotState.PLANNED,
                sequence=sequence_to_json(plan.sequence),
                head_m=head_m,
            )
            session.add(shot)
            session.flush()
            return shot.id

    def complete(self, shot_id: int, fired_at: datetime, flash_report_us: int | None = None, note: str = "") -> None:
        """Say that a planned shot has fired, and what the bench reported of it.

        flash_report_us : the flash's true delay from the trigger [µs].
        """
        with self._database.session() as session:
            shot = session.get_one(Shot, shot_id)
            shot.state, shot.fired_at = ShotState.FIRED, fired_at
            shot.flash_report_us, shot.report = flash_report_us, note

    def fail(self, shot_id: int, why: str) -> None:
        """Say that a planned shot did not fire."""
        with self._database.session() as session:
            shot = session.get_one(Shot, shot_id)
            shot.state, shot.report = ShotState.FAILED, why

    def add_history(self, past: Iterable[PastShot]) -> None:
        """Log shots of the past, oldest first, all or none; consecutive ones of one name share a sitting."""
        with self._database.session() as session:
            sitting: Sitting | None = None
            for entry in past:
                if sitting is None or sitting.name != entry.sitting:
                    sitting = Sitting(
                        name=entry.sitting,
                        started_at=entry.at,
                        place=entry.place,
                        temperature_c=entry.temperature_c,
                    )
                    session.add(sitting)
                shot = Shot(
                    sitting=sitting,
                    setup_id=setup_revision(session, entry.plan.setup),
                    belief_id=belief_revision(session, entry.plan.belief),
                    planned_at=entry.at,
                    fired_at=entry.at,
                    state=ShotState.FIRED,
                    sequence=sequence_to_json(entry.plan.sequence),
                    rating=entry.rating,
                    note=entry.note,
                    tags=[Tag(shape=shape) for shape in entry.shapes],
                )
                if entry.picture is not None:
                    shot.pictures.append(picture_row(entry.picture, entry.at))
                session.add(shot)

    def toggle_tag(self, shot_id: int, shape: str) -> bool:
        """Tag a shot with a shape, or take the tag off; return whether it has it now."""
        with self._database.session() as session:
            tag = session.get(Tag, (shot_id, shape))
            if tag is None:
                session.add(Tag(shot_id=shot_id, shape=shape))
            else:
                session.delete(tag)
            return tag is None

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        with self._database.session() as session:
            session.get_one(Shot, shot_id).rating = max(0, min(5, rating))

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace the note of a shot."""
        with self._database.session() as session:
            session.get_one(Shot, shot_id).note = note

    # Questions

    def count(self) -> int:
        """How many shots are logged."""
        with self._database.session() as session:
            return session.scalar(select(func.count(Shot.id))) or 0

    def get(self, shot_id: int) -> ShotRecord:
        """Return one shot. Raises LookupError if there is none of this number."""
        found = self._records(select(Shot).where(Shot.id == shot_id))
        if not found:
            raise LookupError(f"There is no shot {shot_id} in {self._database.path}.")
        return found[0]

    def find(self, query: ShotQuery) -> list[ShotRecord]:
        """Return all shots that fit, newest first."""
        wanted = select(Shot).join(Sitting).order_by(Shot.id.desc())
        if query.shape is not None:
            wanted = wanted.where(Shot.tags.any(Tag.shape == query.shape))
        if query.min_rating:
            wanted = wanted.where(Shot.rating >= query.min_rating)
        if query.text:
            wanted = wanted.where(
                Shot.note.icontains(query.text, autoescape=True) | Sitting.name.icontains(query.text, autoescape=True)
            )
        return self._records(wanted)

    def _records(self, query: Select[Any]) -> list[ShotRecord]:
        with self._database.session() as session:
            options = (selectinload(Shot.tags), selectinload(Shot.pictures), selectinload(Shot.sitting))
            return [_record(shot) for shot in session.scalars(query.options(*options))]


def _record(shot: Shot) -> ShotRecord:
    return ShotRecord(
        id=shot.id,
        sitting=shot.sitting.name,
        setup_id=shot.setup_id,
        belief_id=shot.belief_id,
        at=shot.fired_at or shot.planned_at,
        state=ShotState(shot.state),
        sequence=sequence_from_json(shot.sequence),
        report=shot.report,
        flash_report_us=shot.flash_report_us,
        head_m=shot.head_m,
        rating=shot.rating,
        note=shot.note,
        shapes=tuple(sorted(tag.shape for tag in shot.tags)),
        picture=Path(shot.pictures[0].path) if shot.pictures else None,
    )
