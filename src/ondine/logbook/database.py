"""One session on the logbook's file for all its parts."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import URL, Engine, create_engine, event
from sqlalchemy.exc import DBAPIError, NoResultFound
from sqlalchemy.orm import Session

from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import readable
from ondine.logbook.shelf import Touched


class Database:
    """Gives sessions; each is one transaction, whole or not at all. `touched`: the shots that were changed."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.touched = Touched()
        self._engine = _engine(path)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Begin a transaction and commit it at the end. Raises LogbookError."""
        try:
            with Session(self._engine) as session, session.begin():
                yield session
        except DBAPIError as error:
            raise plain_error(self.path, error) from error
        except NoResultFound as error:
            raise LogbookError(
                f"What should be changed is no longer in the logbook {self.path}. Open it anew, then look again."
            ) from error

    @contextmanager
    def changing(self, shot_ids: Iterable[int] | None) -> Iterator[Session]:
        """Begin a transaction that changes some shots (None: nobody knows which); who searches hears of it."""
        with self.session() as session:
            yield session
        self.touched.note(shot_ids)

    def close(self) -> None:
        """Let the file go."""
        self._engine.dispose()


def url_of(path: Path) -> URL:
    """Return a file's URL, whatever characters its name holds: `?` and `%` mean nothing in it."""
    return URL.create("sqlite", database=str(path))


def _engine(path: Path) -> Engine:
    engine = create_engine(url_of(path), connect_args={"timeout": 3})

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _: object) -> None:
        connection.text_factory = readable
        cursor = connection.cursor()
        for pragma in ("journal_mode = WAL", "foreign_keys = ON", "synchronous = FULL"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    return engine


def plain_error(path: Path, error: DBAPIError) -> LogbookError:
    """Say a database error in words that help."""
    return LogbookError(sqlite_words(path, error.orig or error))
