"""What a logbook has names for: searches that were saved, and the words that a search can be completed with."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select

from ondine.logbook.completion import LogWords
from ondine.logbook.database import Database
from ondine.logbook.errors import LogbookError
from ondine.logbook.model import Label, OwnShape, SavedSearch, SetupRevision, Sitting

MOST_NAMES = 400
"""So many of the newest names of a kind are offered."""


class Names:
    """Reads names, saves searches."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def words(self) -> LogWords:
        """Return what a search can be completed with."""
        with self._database.session() as session:
            own = session.scalars(select(OwnShape.name).order_by(OwnShape.name)).all()
            labels = session.scalars(select(Label.word).distinct().order_by(Label.word).limit(MOST_NAMES)).all()
            sittings = session.scalars(select(Sitting.name).order_by(Sitting.id.desc()).limit(MOST_NAMES)).all()
            setups = session.scalars(select(SetupRevision.name).distinct().limit(MOST_NAMES)).all()
        return LogWords(
            (*LogWords().shapes, *(str(name) for name in own)),
            *(tuple(dict.fromkeys(str(name) for name in names)) for names in (labels, sittings, setups)),
        )

    def searches(self) -> dict[str, str]:
        """Return the saved searches, name to line, by name."""
        with self._database.session() as session:
            return {str(s.name): str(s.line) for s in session.scalars(select(SavedSearch).order_by(SavedSearch.name))}

    def save_search(self, name: str, line: str, at: datetime) -> None:
        """Save a search; one of the same name is replaced. Raises LogbookError if name or line says nothing."""
        if not name.strip() or not line.strip():
            raise LogbookError("A saved search needs a name, and words to look for.")
        with self._database.session() as session:
            session.merge(SavedSearch(name=name.strip(), line=line.strip(), saved_at=at))

    def forget_search(self, name: str) -> None:
        """Forget a saved search."""
        with self._database.session() as session:
            found = session.get(SavedSearch, name)
            if found is not None:
                session.delete(found)
