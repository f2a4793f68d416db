"""What was in hand and chosen, kept so that a restart goes on where one was."""

from __future__ import annotations

from ondine.logbook.database import Database
from ondine.logbook.model import StateEntry


class State:
    """Texts by key."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def put(self, key: str, value: str) -> None:
        """Keep a text under a key."""
        with self._database.session() as session:
            session.merge(StateEntry(key=key, value=value))

    def get(self, key: str) -> str | None:
        """Return the text under a key."""
        with self._database.session() as session:
            found = session.get(StateEntry, key)
            return None if found is None else found.value
