"""The shots of a logbook: written before they fire, completed afterwards, tagged, found."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable, Iterator, Sequence
from datetime import datetime

from sqlalchemy import Table, delete, func, insert, select, update

from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.core.timing.wire import sequence_to_json
from ondine.logbook.database import Database
from ondine.logbook.errors import LogbookError
from ondine.logbook.facts_table import write_facts
from ondine.logbook.model import Base, Label, Shot, Sitting, Tag
from ondine.logbook.outcomes import Outcome
from ondine.logbook.pictures import picture_row
from ondine.logbook.records import PastShot, ShotRecord, ShotState
from ondine.logbook.setups import belief_revision, setup_revision
from ondine.logbook.shot_rows import NEWEST, SELECT, TIME, record_of

UNFINISHED = (ShotState.PLANNED, ShotState.UNKNOWN)

LABELS, TAGS = Base.metadata.tables["label"], Base.metadata.tables["tag"]

PAGE = 500
"""So many shots are read at once."""


class Shots:
    """Reads and changes shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def recover(self) -> None:
        """Mark the shots that a crash left planned: fired, outcome unknown."""
        with self._database.changing(None) as session:
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
            write_facts(session, shot.id, plan, head_m)
            number = shot.id
        self._database.touched.note([number])
        return number

    def finish(self, outcome: Outcome) -> bool:
        """Write what a planned shot came to; return whether it was one that waited for it."""
        with self._database.changing([outcome.shot_id]) as session:
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
        with self._database.changing(None) as session:
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
                    keeper=entry.keeper,
                    labels=[Label(word=word) for word in entry.labels],
                )
                if entry.picture is not None:
                    shot.pictures.append(picture_row(entry.picture, entry.at))
                session.add(shot)
                session.flush()
                write_facts(session, shot.id, entry.plan, None)

    def toggle_tag(self, shot_id: int, shape: str) -> bool:
        """Tag a shot with a shape, or take the tag off; return whether it has it now."""
        with self._database.changing([shot_id]) as session:
            tag = session.get(Tag, (shot_id, shape))
            if tag is None:
                session.add(Tag(shot_id=shot_id, shape=shape))
            else:
                session.delete(tag)
            return tag is None

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        with self._database.changing([shot_id]) as session:
            session.get_one(Shot, shot_id).rating = max(0, min(5, rating))

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace the note of a shot."""
        with self._database.changing([shot_id]) as session:
            session.get_one(Shot, shot_id).note = note

    def rate_all(self, shot_ids: Collection[int], rating: int) -> None:
        """Rate shots 0 to 5."""
        self._set(shot_ids, rating=max(0, min(5, rating)))

    def keep(self, shot_ids: Collection[int], keeper: bool) -> None:
        """Say whether shots are ones to keep."""
        self._set(shot_ids, keeper=keeper)

    def bin(self, shot_ids: Collection[int], at: datetime | None) -> None:
        """Put shots into the bin at a moment, or take them out again (None)."""
        self._set(shot_ids, binned_at=at)

    def _set(self, shot_ids: Collection[int], **values: object) -> None:
        with self._database.changing(shot_ids) as session:
            for part in batched(shot_ids, PAGE):
                session.execute(update(Shot).where(Shot.id.in_(part)).values(**values))

    def label(self, shot_ids: Collection[int], word: str, on: bool = True) -> None:
        """Put a word of the photographer's own on shots, or take it off."""
        self._put_on(LABELS, "word", shot_ids, word, on)

    def tag(self, shot_ids: Collection[int], shape: str, on: bool = True) -> None:
        """Tag shots with a shape, or take the tag off all of them."""
        self._put_on(TAGS, "shape", shot_ids, shape, on)

    def _put_on(self, table: Table, column: str, shot_ids: Collection[int], text: str, on: bool) -> None:
        with self._database.changing(shot_ids) as session:
            for part in batched(shot_ids, PAGE):
                of_these = table.c.shot_id.in_(part), table.c[column] == text
                if on:
                    has = set(session.scalars(select(table.c.shot_id).where(*of_these)))
                    new = [{"shot_id": number, column: text} for number in part if number not in has]
                    if new:
                        session.execute(insert(table), new)
                else:
                    session.execute(delete(table).where(*of_these))

    # Questions

    def count(self) -> int:
        """How many shots are logged."""
        with self._database.session() as session:
            return session.scalar(select(func.count(Shot.id))) or 0

    def benches(self) -> set[BenchKind]:
        """Return which kinds of bench the shots are of."""
        with self._database.session() as session:
            found = set(session.scalars(select(Shot.bench).distinct()))
        return {kind for kind in BenchKind if kind.value in found}

    def get(self, shot_id: int) -> ShotRecord:
        """Return one shot. Raises LogbookError if there is none of this number, or it cannot be read."""
        found = self.page([shot_id]).get(shot_id)
        if found is None:
            raise LogbookError(f"There is no shot {shot_id} in {self._database.path} that can be read.")
        return found

    def newest(self, most: int) -> list[ShotRecord]:
        """Return the shots that were fired last, at most so many, newest first; those not to be read are left out."""
        return self._records(NEWEST, (most,))

    def page(self, shot_ids: Sequence[int]) -> dict[int, ShotRecord]:
        """Return some shots by their numbers; those that cannot be read, or are not there, are left out."""
        slots = ", ".join("?" for _ in shot_ids)
        found = self._records(f"{SELECT} WHERE shot.id IN ({slots})", tuple(int(number) for number in shot_ids))
        return {shot.id: shot for shot in found}

    def each(self, shot_ids: Sequence[int]) -> Iterator[ShotRecord]:
        """Go through shots in the order of their numbers given, page by page; those not to be read are left out."""
        for part in batched(shot_ids, PAGE):
            found = self.page(part)
            yield from (found[number] for number in part if number in found)

    def tagged(self, bench: BenchKind, most: int) -> list[ShotRecord]:
        """Return the newest tagged shots of one kind of bench, at most so many, in the order in which they fired."""
        newest = (
            f"{SELECT} WHERE shot.bench = ? AND shot.binned_at IS NULL "
            "AND EXISTS (SELECT 1 FROM tag WHERE tag.shot_id = shot.id) "
            f"ORDER BY {TIME} DESC, shot.id DESC LIMIT ?"
        )
        return self._records(newest, (bench.value, most))[::-1]

    def _records(self, query: str, values: tuple[object, ...]) -> list[ShotRecord]:
        with self._database.session() as session:
            rows = [dict(row) for row in session.connection().exec_driver_sql(query, values).mappings()]
        return [shot for row in rows if (shot := record_of(row)) is not None]


def batched(shot_ids: Iterable[int], most: int) -> Iterator[list[int]]:
    """Part numbers into lists of at most so many: a statement takes no more values than SQLite allows."""
    listed = [int(number) for number in shot_ids]
    for start in range(0, len(listed), most):
        yield listed[start : start + most]
