"""The shots of a logbook: written before they fire, completed afterwards, tagged, found."""

from __future__ import annotations

import json
from collections.abc import Iterable
from datetime import datetime
from typing import Any

from sqlalchemy import Select, func, select, update
from sqlalchemy.orm import selectinload

from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.core.timing.wire import sequence_to_json
from ondine.logbook.database import Database
from ondine.logbook.errors import LogbookError
from ondine.logbook.model import Shot, Sitting, Tag
from ondine.logbook.outcomes import Outcome
from ondine.logbook.pictures import picture_row
from ondine.logbook.records import PastShot, ShotQuery, ShotRecord, ShotState, shot_record
from ondine.logbook.setups import belief_revision, setup_revision

UNFINISHED = (ShotState.PLANNED, ShotState.UNKNOWN)


class Shots:
    """Reads and changes shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def recover(self) -> None:
        """Mark the shots that a crash left planned: fired, outcome unknown."""
        with self._database.session() as session:
            left = update(Shot).where(Shot.state == ShotState.PLANNED)
            session.execute(left.values(state=ShotState.UNKNOWN, fired_at=Shot.planned_at))

    def plan(
        self,
        sitting_id: int,
        plan: Plan,
        at: datetime,
        head_m: float | None = None,
        bench: BenchKind = BenchKind.UNKNOWN,
    ) -> int:
        """Write a shot before it fires, with the revisions of its set-up and of the belief; return its number.

        head_m : the reservoir's level, as reckoned [m]; bench : the kind that fires it.
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
                bench=bench.value,
            )
            session.add(shot)
            session.flush()
            return shot.id

    def finish(self, outcome: Outcome) -> bool:
        """Write what a planned shot came to; return whether it was one that waited for it."""
        with self._database.session() as session:
            shot = session.get(Shot, outcome.shot_id)
            if shot is None or shot.planned_at != outcome.planned_at or shot.state not in UNFINISHED:
                return False
            shot.state, shot.fired_at = outcome.state, outcome.fired_at
            flashes = outcome.flash_reports_us
            shot.flash_reports_us = None if flashes is None else json.dumps(flashes)
            shot.report = outcome.report
            return True

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
                    bench=entry.bench.value,
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
        """Return one shot. Raises LogbookError if there is none of this number, or it cannot be read."""
        found, _ = self._records(select(Shot).where(Shot.id == shot_id))
        if not found:
            raise LogbookError(f"There is no shot {shot_id} in {self._database.path} that can be read.")
        return found[0]

    def find(self, query: ShotQuery) -> list[ShotRecord]:
        """Return all shots that fit, newest first; those that cannot be read are left out."""
        return self.search(query)[0]

    def search(self, query: ShotQuery) -> tuple[list[ShotRecord], int]:
        """Return all shots that fit, newest first, and how many of them cannot be read."""
        wanted = select(Shot).outerjoin(Sitting).order_by(Shot.id.desc())
        if query.shape is not None:
            wanted = wanted.where(Shot.tags.any(Tag.shape == query.shape))
        if query.min_rating:
            wanted = wanted.where(Shot.rating >= query.min_rating)
        if query.text:
            wanted = wanted.where(
                Shot.note.icontains(query.text, autoescape=True) | Sitting.name.icontains(query.text, autoescape=True)
            )
        return self._records(wanted)

    def tagged(self, bench: BenchKind, most: int) -> list[ShotRecord]:
        """Return the newest tagged shots of one kind of bench, at most so many, in the order in which they fired."""
        newest = select(Shot).where(Shot.bench == bench.value, Shot.tags.any())
        found, _ = self._records(newest.order_by(Shot.fired_at.desc(), Shot.id.desc()).limit(most))
        return found[::-1]

    def _records(self, query: Select[Any]) -> tuple[list[ShotRecord], int]:
        found, unreadable = [], 0
        with self._database.session() as session:
            options = (selectinload(Shot.tags), selectinload(Shot.pictures), selectinload(Shot.sitting))
            for shot in session.scalars(query.options(*options)):
                try:
                    found.append(_record(shot))
                except ValueError:
                    unreadable += 1
        return found, unreadable


def _record(shot: Shot) -> ShotRecord:
    # A logbook that lost a sitting still has its shots.
    sitting: Sitting | None = shot.sitting
    return shot_record(
        vars(shot),
        None if sitting is None else sitting.name,
        (tag.shape for tag in shot.tags),
        shot.pictures[0].path if shot.pictures else None,
        bool(shot.pictures[0].sure) if shot.pictures else True,
    )
