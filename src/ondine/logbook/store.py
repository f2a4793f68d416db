"""The logbook: every question and every change that the rest of Ondine has for it."""

from __future__ import annotations

import errno
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from pathlib import Path

from sqlalchemy import Engine, create_engine, event, func, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, selectinload

from ondine.core.sequence import Sequence
from ondine.core.setup import Setup
from ondine.core.wire import sequence_from_json, sequence_to_json, setup_from_json
from ondine.logbook import file
from ondine.logbook.file import Door, LogbookError
from ondine.logbook.intake import PictureFacts
from ondine.logbook.model import Desk, KeptSetup, Picture, SetupRevision, Shot, Sitting, Tag
from ondine.logbook.pairing import Candidate
from ondine.logbook.records import (
    KeptSetupRecord,
    PastShot,
    ShotQuery,
    ShotRecord,
    ShotState,
    SittingFacts,
    SittingRecord,
)


class Logbook:
    """One open logbook file. Safe to use from several threads: each call is a transaction of its own."""

    def __init__(self, door: Door) -> None:
        """Take over a file that was entered; migrate it if it is older, and mark shots that a crash left half done."""
        self.path = door.path
        self._lock = door.lock
        try:
            if door.version < file.SCHEMA_VERSION:
                file.upgrade(self.path)
            self._engine = _engine(self.path)
            self._recover()
        except DBAPIError as error:
            door.leave()
            raise _plain(self.path, error) from error
        except BaseException:
            door.leave()
            raise

    @classmethod
    def open(cls, path: Path) -> Logbook:
        """Open or create a logbook. Raises LogbookError, having changed nothing, if the file is not ours to write."""
        return cls(file.enter(path))

    def close(self) -> None:
        """Let the file go."""
        self._engine.dispose()
        self._lock.close()

    @contextmanager
    def _session(self) -> Iterator[Session]:
        try:
            with Session(self._engine) as session, session.begin():
                yield session
        except DBAPIError as error:
            raise _plain(self.path, error) from error

    def _recover(self) -> None:
        with self._session() as session:
            left = update(Shot).where(Shot.state == ShotState.PLANNED)
            session.execute(left.values(state=ShotState.UNKNOWN, fired_at=Shot.planned_at))

    # Shots

    def begin_sitting(self, facts: SittingFacts, at: datetime) -> int:
        """Start a sitting and return its number."""
        with self._session() as session:
            sitting = Sitting(started_at=at, **vars(facts))
            session.add(sitting)
            session.flush()
            return sitting.id

    def describe_sitting(self, sitting_id: int, facts: SittingFacts) -> None:
        """Replace what is written down about a sitting."""
        with self._session() as session:
            sitting = session.get_one(Sitting, sitting_id)
            for name, value in vars(facts).items():
                setattr(sitting, name, value)

    def sittings(self) -> list[SittingRecord]:
        """Return all sittings, newest first."""
        counted = select(Shot.sitting_id, func.count().label("shots")).group_by(Shot.sitting_id).subquery()
        wanted = (
            select(Sitting, func.coalesce(counted.c.shots, 0))
            .outerjoin(counted, counted.c.sitting_id == Sitting.id)
            .order_by(Sitting.id.desc())
        )
        with self._session() as session:
            return [
                SittingRecord(s.id, s.name, s.started_at, s.place, s.temperature_c, s.note, s.preflight, shots)
                for s, shots in session.execute(wanted)
            ]

    def plan_shot(self, sitting_id: int, sequence: Sequence, setup: Setup, at: datetime) -> int:
        """Write a shot before it fires, with the revision of the set-up; return its number."""
        with self._session() as session:
            revision = _revision(session, setup)
            shot = Shot(
                sitting_id=sitting_id,
                setup_id=revision,
                planned_at=at,
                state=ShotState.PLANNED,
                sequence=sequence_to_json(sequence),
                flash_us=sequence.flash_us,
            )
            session.add(shot)
            session.flush()
            return shot.id

    def complete_shot(self, shot_id: int, fired_at: datetime, report: str = "") -> None:
        """Say that a planned shot has fired."""
        with self._session() as session:
            shot = session.get_one(Shot, shot_id)
            shot.state, shot.fired_at, shot.report = ShotState.FIRED, fired_at, report

    def fail_shot(self, shot_id: int, why: str) -> None:
        """Say that a planned shot did not fire."""
        with self._session() as session:
            shot = session.get_one(Shot, shot_id)
            shot.state, shot.report = ShotState.FAILED, why

    def add_history(self, past: Iterable[PastShot]) -> None:
        """Log shots of the past, oldest first, all or none; consecutive ones of one name share a sitting."""
        with self._session() as session:
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
                    setup_id=_revision(session, entry.setup),
                    planned_at=entry.at,
                    fired_at=entry.at,
                    state=ShotState.FIRED,
                    sequence=sequence_to_json(entry.sequence),
                    flash_us=entry.sequence.flash_us,
                    rating=entry.rating,
                    note=entry.note,
                    tags=[Tag(shape=shape) for shape in entry.shapes],
                )
                if entry.picture is not None:
                    shot.pictures.append(_picture(entry.picture, entry.at))
                session.add(shot)

    def toggle_tag(self, shot_id: int, shape: str) -> bool:
        """Tag a shot with a shape, or take the tag off; return whether it has it now."""
        with self._session() as session:
            tag = session.get(Tag, (shot_id, shape))
            if tag is None:
                session.add(Tag(shot_id=shot_id, shape=shape))
            else:
                session.delete(tag)
            return tag is None

    def rate(self, shot_id: int, rating: int) -> None:
        """Rate a shot 0 to 5."""
        with self._session() as session:
            session.get_one(Shot, shot_id).rating = max(0, min(5, rating))

    def annotate(self, shot_id: int, note: str) -> None:
        """Replace the note of a shot."""
        with self._session() as session:
            session.get_one(Shot, shot_id).note = note

    # Questions

    def count(self) -> int:
        """How many shots are logged."""
        with self._session() as session:
            return session.scalar(select(func.count(Shot.id))) or 0

    def shot(self, shot_id: int) -> ShotRecord:
        """Return one shot. Raises LookupError if there is none of this number."""
        found = self._records(select(Shot).where(Shot.id == shot_id))
        if not found:
            raise LookupError(f"There is no shot {shot_id} in {self.path}.")
        return found[0]

    def recent(self, limit: int) -> list[ShotRecord]:
        """Return the newest shots, newest first."""
        return self._records(select(Shot).order_by(Shot.id.desc()).limit(limit))

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

    def setup(self, revision: str) -> Setup:
        """Return the set-up of a revision."""
        with self._session() as session:
            return setup_from_json(session.get_one(SetupRevision, revision).content)

    def keep_setup(self, name: str, setup: Setup, at: datetime) -> None:
        """Keep a set-up under a name; one of the same name is replaced, its revision stays with its shots."""
        with self._session() as session:
            session.merge(KeptSetup(name=name, setup_id=_revision(session, setup), kept_at=at))

    def forget_setup(self, name: str) -> None:
        """Take a name off the shelf; revisions stay."""
        with self._session() as session:
            kept = session.get(KeptSetup, name)
            if kept is not None:
                session.delete(kept)

    def kept_setups(self) -> list[KeptSetupRecord]:
        """Return the named set-ups, newest first."""
        wanted = select(KeptSetup).options(selectinload(KeptSetup.setup)).order_by(KeptSetup.kept_at.desc())
        with self._session() as session:
            return [
                KeptSetupRecord(k.name, k.setup_id, k.kept_at, setup_from_json(k.setup.content))
                for k in session.scalars(wanted)
            ]

    def _records(self, query: object) -> list[ShotRecord]:
        with self._session() as session:
            options = (selectinload(Shot.tags), selectinload(Shot.pictures), selectinload(Shot.sitting))
            shots = session.scalars(query.options(*options))  # type: ignore[attr-defined]
            return [_record(shot) for shot in shots]

    # Pictures

    def add_picture(self, facts: PictureFacts, shot_id: int | None, arrived_at: datetime) -> bool:
        """Remember a picture by reference; return whether it was new.

        A picture that is known already, by its content, only learns where it lies now.
        """
        with self._session() as session:
            known = session.scalar(select(Picture).where(Picture.sha256 == facts.sha256))
            if known is not None:
                known.path = str(facts.path)
                if known.shot_id is None:
                    known.shot_id = shot_id
                return False
            picture = _picture(facts, arrived_at)
            picture.shot_id = shot_id
            session.add(picture)
            return True

    def picture_candidates(self, around: datetime, within: timedelta) -> list[Candidate]:
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
        with self._session() as session:
            return [Candidate(i, fired or planned, bool(n)) for i, planned, fired, n in session.execute(wanted)]

    # The desk

    def put(self, key: str, value: str) -> None:
        """Keep one thing on the desk."""
        with self._session() as session:
            session.merge(Desk(key=key, value=value))

    def get(self, key: str) -> str | None:
        """Return what lies on the desk under a key."""
        with self._session() as session:
            found = session.get(Desk, key)
            return None if found is None else found.value


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 3})

    @event.listens_for(engine, "connect")
    def prepare(connection: object, _: object) -> None:
        cursor = connection.cursor()  # type: ignore[attr-defined]
        for pragma in ("journal_mode = WAL", "foreign_keys = ON", "synchronous = FULL"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    return engine


def _revision(session: Session, setup: Setup) -> str:
    """Make sure that a set-up's revision is in the file; return its address."""
    revision = setup.revision
    if session.get(SetupRevision, revision) is None:
        session.add(SetupRevision(id=revision, name=setup.name, content=setup.to_json()))
        session.flush()
    return revision


def _picture(facts: PictureFacts, arrived_at: datetime) -> Picture:
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


def _record(shot: Shot) -> ShotRecord:
    return ShotRecord(
        id=shot.id,
        sitting=shot.sitting.name,
        setup_id=shot.setup_id,
        at=shot.fired_at or shot.planned_at,
        state=ShotState(shot.state),
        sequence=sequence_from_json(shot.sequence),
        report=shot.report,
        rating=shot.rating,
        note=shot.note,
        shapes=tuple(sorted(tag.shape for tag in shot.tags)),
        picture=Path(shot.pictures[0].path) if shot.pictures else None,
    )


def _plain(path: Path, error: DBAPIError) -> LogbookError:
    """Say a database error in words that help."""
    text = str(error.orig)
    if "full" in text or getattr(error.orig, "errno", None) == errno.ENOSPC:
        return LogbookError(
            f"The disk that holds the logbook {path} is full, so this was not written. "
            "Make room there; what was logged before is safe."
        )
    if "locked" in text or "busy" in text:
        return LogbookError(f"The logbook {path} is locked by another program. Close that program, then try again.")
    if "readonly" in text:
        return LogbookError(f"The logbook {path} has become read-only. Give yourself write permission, then try again.")
    return LogbookError(f"The logbook {path} could not be read or written ({text}). Keep a copy of it, then restart.")
