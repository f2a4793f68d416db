"""One session on the logbook's file for all its parts, and what its errors mean."""

from __future__ import annotations

import errno
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from ondine.logbook.file import LogbookError


class Database:
    """Gives sessions; each is one transaction, whole or not at all."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._engine = _engine(path)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Begin a transaction and commit it at the end. Raises LogbookError."""
        try:
            with Session(self._engine) as session, session.begin():
                yield session
        except DBAPIError as error:
            raise plain_error(self.path, error) from error

    def close(self) -> None:
        """Let the file go."""
        self._engine.dispose()


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 3})

    @event.listens_for(engine, "connect")
    def prepare(connection: object, _: object) -> None:
        cursor = connection.cursor()  # type: ignore[attr-defined]
        for pragma in ("journal_mode = WAL", "foreign_keys = ON", "synchronous = FULL"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    return engine


def plain_error(path: Path, error: DBAPIError) -> LogbookError:
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
