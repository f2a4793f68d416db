"""The pictures of a logbook: kept by reference, each with the shot it belongs to."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from ondine.logbook.database import Database
from ondine.logbook.intake import PictureFacts
from ondine.logbook.model import Picture, Shot
from ondine.logbook.pairing import Candidate, Pairing
from ondine.logbook.raw import is_raw
from ondine.logbook.records import ShotState, stored_time, time_of

SAME_MOMENT = timedelta(seconds=2)
"""A raw file and its JPEG were taken within this, by the times that they carry."""

MOST_WAITING = 500
"""So many of the newest shots may still get a picture by themselves."""


class Pictures:
    """Adds pictures and finds their shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, facts: PictureFacts, pairing: Pairing, arrived_at: datetime) -> tuple[bool, int | None]:
        """Remember a picture by reference; return whether it was new, and the shot that it belongs to.

        A picture that is known already, by its content, only learns where it lies now, and its shot if it had none.
        A raw file and the JPEG of the same name and time are one picture.
        """
        with self._database.session() as session:
            known, new = self._known(session, facts), False
            if known is None:
                known, new = picture_row(facts, arrived_at), True
                known.shot_id, known.sure = pairing.shot_id, pairing.sure or pairing.shot_id is None
                session.add(known)
            elif known.shot_id is None and pairing.shot_id is not None:
                known.shot_id, known.sure = pairing.shot_id, pairing.sure
            shot_id = known.shot_id
        self._database.touched.note([] if shot_id is None else [shot_id])
        return new, shot_id

    def _known(self, session: Session, facts: PictureFacts) -> Picture | None:
        """Return the row of a picture that is in the log already, or whose other file is; it knows of this one now."""
        same = (Picture.sha256 == facts.sha256) | (Picture.beside_sha256 == facts.sha256)
        known = session.scalar(select(Picture).where(same))
        if known is not None:
            if known.sha256 == facts.sha256:
                known.path = str(facts.path)
            else:
                known.beside_path = str(facts.path)
            return known
        twin = self._twin(session, facts)
        if twin is None:
            return None
        if is_raw(facts.path):
            twin.beside_path, twin.beside_sha256 = str(facts.path), facts.sha256
        else:
            # What was shown for want of a better one steps aside.
            twin.beside_path, twin.beside_sha256 = twin.path, twin.sha256
            for name, value in of_file(facts).items():
                setattr(twin, name, value)
        return twin

    def _twin(self, session: Session, facts: PictureFacts) -> Picture | None:
        """Return the picture that a file is the raw of, or that is the raw of it."""
        stem = str(facts.path.with_suffix(""))
        near = select(Picture).where(
            Picture.path.startswith(f"{stem}.", autoescape=True), Picture.beside_path.is_(None)
        )
        for other in session.scalars(near):
            path = Path(other.path)
            if str(path.with_suffix("")) != stem or is_raw(path) == is_raw(facts.path):
                continue
            one, two = other.taken_at, facts.taken_at
            if one is None or two is None or abs(one - two) <= SAME_MOMENT:
                return other
        return None

    def give(self, facts: PictureFacts, shot_id: int, sure: bool, arrived_at: datetime) -> bool:
        """Log a picture as a shot's own, whatever shot it was taken for before; return whether it was new.

        A picture that somebody said to be another shot's stays there.
        """
        before, had = self.add(facts, Pairing(shot_id, sure), arrived_at)
        if had is not None and had != shot_id:
            with self._database.changing([had, shot_id]) as session:
                known = self._known(session, facts)
                if known is not None and not known.sure:
                    known.shot_id, known.sure = shot_id, sure
        return before

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

    def files_of(self, shot_id: int) -> list[Path]:
        """Return the files of the pictures that are surely a shot's, raw ones after what was developed of them."""
        with self._database.session() as session:
            wanted = select(Picture).where(Picture.shot_id == shot_id, Picture.sure).order_by(Picture.id)
            found = session.scalars(wanted).all()
            return [Path(path) for row in found for path in (row.path, row.beside_path) if path]

    def contents(self) -> dict[str, Path]:
        """Return where all files of pictures lie, raw ones too, by the SHA-256 of their content."""
        with self._database.session() as session:
            rows = session.execute(
                select(Picture.sha256, Picture.path, Picture.beside_sha256, Picture.beside_path)
            ).all()
        found = {sha256: Path(path) for sha256, path, _, _ in rows}
        return found | {sha256: Path(path) for _, _, sha256, path in rows if sha256 and path}

    def moved(self, found: Mapping[str, Path]) -> None:
        """Say where files of pictures lie now, by the SHA-256 of their content."""
        with self._database.changing(None) as session:
            for sha256, path in found.items():
                session.execute(update(Picture).where(Picture.sha256 == sha256).values(path=str(path)))
                beside = update(Picture).where(Picture.beside_sha256 == sha256)
                session.execute(beside.values(beside_path=str(path)))

    def paths(self) -> set[str]:
        """Return where all pictures lie."""
        with self._database.session() as session:
            pairs = session.execute(select(Picture.path, Picture.beside_path)).all()
        return {path for both in pairs for path in both if path is not None}

    def for_card(self, since: datetime, until: datetime) -> tuple[list[Candidate], list[tuple[str, datetime, int]]]:
        """Return what a card is matched to: the shots fired in a span of time, and the pictures that they have.

        The latter as (name of the file, when its camera says that it was taken, number of the shot), those that are
        sure alone.
        """
        span = "state != ? AND binned_at IS NULL AND at >= ? AND at < ?"
        values = (ShotState.FAILED.value, stored_time(since), stored_time(until))
        shots = f"SELECT id, at, EXISTS (SELECT 1 FROM picture WHERE shot_id = shot.id AND sure) FROM shot WHERE {span}"
        pictures = (
            "SELECT picture.path, picture.taken_at, shot.id FROM shot JOIN picture ON picture.shot_id = shot.id "
            f"WHERE {span} AND picture.sure"
        )
        with self._database.session() as session:
            ask = session.connection().exec_driver_sql
            fired = [Candidate(i, at, bool(has)) for i, text, has in ask(shots, values) if (at := time_of(text))]
            known = [
                (Path(str(path)).name, at, shot_id)
                for path, text, shot_id in ask(pictures, values)
                if text is not None and (at := time_of(text))
            ]
        return fired, known

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
    return Picture(arrived_at=arrived_at, **of_file(facts))


def of_file(facts: PictureFacts) -> dict[str, Any]:
    """Return what a picture's row holds of its file."""
    return {
        "path": str(facts.path),
        "sha256": facts.sha256,
        "width_px": facts.width_px,
        "height_px": facts.height_px,
        "taken_at": facts.taken_at,
        "exposure_s": facts.exposure_s,
        "f_number": facts.f_number,
        "iso": facts.iso,
        "focal_length_m": facts.focal_length_m,
    }
