"""The set-ups and beliefs of a logbook, by revision; and the set-ups that were kept under a name."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ondine.core.belief.priors import Belief, belief_from_json
from ondine.core.log.facts import setup_words
from ondine.core.setup import Setup
from ondine.core.setup.wire import setup_from_json
from ondine.logbook.database import Database
from ondine.logbook.errors import LogbookError
from ondine.logbook.model import BeliefRevision, KeptSetup, SetupRevision, Shot
from ondine.logbook.records import KeptSetupRecord


class Setups:
    """Reads revisions; keeps and forgets names."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of_shot(self, shot_id: int) -> tuple[Setup, Belief]:
        """Return the set-up that a shot was fired with, and what was believed then. Raises LogbookError."""
        with self._database.session() as session:
            shot = session.get_one(Shot, shot_id)
            try:
                return _read(shot.setup, shot.belief)
            except ValueError as error:
                raise LogbookError(
                    f"The set-up of shot {shot_id} cannot be read any more ({error}). The shot itself is unharmed."
                ) from error

    def by_revision(self, revisions: set[str]) -> dict[str, Setup]:
        """Return set-ups by their addresses; those that cannot be read are left out."""
        found = {}
        with self._database.session() as session:
            for row in session.scalars(select(SetupRevision)):
                if row.id in revisions:
                    with suppress(ValueError):
                        found[row.id] = setup_from_json(str(row.content))
        return found

    def beliefs(self, revisions: set[str]) -> dict[str, Belief]:
        """Return beliefs by their addresses; those that cannot be read are left out."""
        found = {}
        with self._database.session() as session:
            for row in session.scalars(select(BeliefRevision)):
                if row.id in revisions:
                    with suppress(ValueError):
                        found[row.id] = belief_from_json(str(row.content))
        return found

    def keep(self, name: str, setup: Setup, belief: Belief, at: datetime) -> None:
        """Keep a set-up under a name; one of the same name is replaced, its revision stays with its shots."""
        with self._database.session() as session:
            kept = KeptSetup(
                name=name,
                setup_id=setup_revision(session, setup),
                belief_id=belief_revision(session, belief),
                kept_at=at,
            )
            session.merge(kept)

    def forget(self, name: str) -> None:
        """Forget a name; revisions stay."""
        with self._database.session() as session:
            kept = session.get(KeptSetup, name)
            if kept is not None:
                session.delete(kept)

    def kept(self) -> list[KeptSetupRecord]:
        """Return the named set-ups, newest first; those that cannot be read are left out."""
        options = (selectinload(KeptSetup.setup), selectinload(KeptSetup.belief))
        wanted = select(KeptSetup).options(*options).order_by(KeptSetup.kept_at.desc())
        with self._database.session() as session:
            return [record for k in session.scalars(wanted) if (record := _kept_record(k)) is not None]


def _kept_record(kept: KeptSetup) -> KeptSetupRecord | None:
    kept_at: datetime | None = kept.kept_at
    try:
        setup, belief = _read(kept.setup, kept.belief)
    except ValueError:
        return None
    return None if kept_at is None else KeptSetupRecord(str(kept.name), str(kept.setup_id), kept_at, setup, belief)


def _read(setup: SetupRevision | None, belief: BeliefRevision | None) -> tuple[Setup, Belief]:
    """Read two revisions. Raises ValueError if one is lost or makes no sense."""
    if setup is None or belief is None:
        raise ValueError("it is lost")
    return setup_from_json(str(setup.content)), belief_from_json(str(belief.content))


def setup_revision(session: Session, setup: Setup) -> str:
    """Make sure that a set-up's revision is in the file; return its address."""
    revision = setup.revision
    if session.get(SetupRevision, revision) is None:
        session.add(SetupRevision(id=revision, name=setup.name, content=setup.to_json(), words=setup_words(setup)))
        session.flush()
    return revision


def belief_revision(session: Session, belief: Belief) -> str:
    """Make sure that a belief's revision is in the file; return its address."""
    revision = belief.revision
    if session.get(BeliefRevision, revision) is None:
        session.add(BeliefRevision(id=revision, content=belief.to_json()))
        session.flush()
    return revision
