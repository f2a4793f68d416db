"""Makes logbooks, and brings older ones up to date: whole or not at all, with a verified copy kept of what was."""

from __future__ import annotations

import filecmp
import itertools
import sqlite3
import threading
from dataclasses import replace
from pathlib import Path
from typing import Any

from ondine.logbook.copying import copy_verified, put_in_place
from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import APPLICATION_ID, SCHEMA_VERSION, ClaimedFile
from ondine.logbook.parts import part_beside
from ondine.logbook.writing import sync_folder

_ONE_AT_A_TIME = threading.Lock()
"""Alembic keeps the connection of a migration in a global: two windows that begin two logbooks would share one."""


def migrated(claimed: ClaimedFile) -> ClaimedFile:
    """Bring an older logbook up to date before anything of it is read; a new one is made later, beside the window.

    Raises LogbookError; then the logbook is as it was.
    """
    if claimed.version in (0, SCHEMA_VERSION):
        return claimed
    path = claimed.path
    kept = keep_copy(path, claimed.version)
    try:
        upgrade_to(path, SCHEMA_VERSION)
    except Exception as error:
        # Whatever a migration meets in an old file, it is rolled back and said.
        raise LogbookError(
            f"The logbook {path} is of an older Ondine and could not be brought up to date: {_words(path, error)} "
            f"It is as it was, and a copy of it is {kept}."
        ) from error
    return replace(claimed, version=SCHEMA_VERSION)


def create(path: Path) -> None:
    """Make a new logbook: beside its place first, so that there is a whole one or none. Raises LogbookError."""
    from sqlalchemy.exc import DBAPIError

    part = part_beside(path)
    try:
        try:
            upgrade_to(part, SCHEMA_VERSION)
            part.replace(path)
            sync_folder(path.parent)
        finally:
            for left in (part, part.with_name(part.name + "-journal")):
                left.unlink(missing_ok=True)
    except OSError as error:
        raise LogbookError(
            f"The logbook {path} cannot be begun ({error.strerror}). Choose another place for it."
        ) from error
    except DBAPIError as error:
        raise LogbookError(sqlite_words(path, error.orig or error)) from error


def keep_copy(path: Path, version: int) -> Path:
    """Copy a logbook beside itself, verify the copy, and return its place. Raises LogbookError."""
    part = part_beside(path)
    try:
        try:
            copy_verified(path, part)
            return _placed(part, path, version)
        finally:
            part.unlink(missing_ok=True)
    except (OSError, sqlite3.Error) as error:
        why = sqlite_words(path, error) if isinstance(error, sqlite3.Error) else f"{error.strerror}."
        raise LogbookError(
            f"The logbook {path} is of an older Ondine. It is only brought up to date once a copy of it is kept, and "
            f"that could not be written: {why} It is as it was."
        ) from error


def _placed(part: Path, path: Path, version: int) -> Path:
    for number in itertools.count(1):
        more = "" if number == 1 else f"-{number}"
        place = path.with_name(f"{path.stem}.format-{version}{more}{path.suffix}")
        if place.exists() and filecmp.cmp(part, place, shallow=False):
            # A migration that was cut short kept it already.
            break
        if put_in_place(part, place):
            break
    return place


def upgrade_to(path: Path, version: int) -> None:
    """Make or migrate a file up to a version, in one transaction. Raises SQLAlchemy's DBAPIError."""
    from alembic import command
    from alembic.config import Config
    from sqlalchemy import create_engine, event
    from sqlalchemy.pool import NullPool

    from ondine.logbook.database import url_of

    engine = create_engine(url_of(path), poolclass=NullPool)

    # The driver begins no transaction for a change of tables by itself: half a migration would stay after a kill.
    @event.listens_for(engine, "connect")
    def leave_transactions_to_us(connection: Any, _: object) -> None:
        connection.isolation_level = None

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    config.set_main_option("path_separator", "os")
    try:
        with _ONE_AT_A_TIME, engine.begin() as connection:
            connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
            config.attributes["connection"] = connection
            command.upgrade(config, f"{version:04d}")
            connection.exec_driver_sql(f"PRAGMA user_version = {version}")
    finally:
        engine.dispose()


def _words(path: Path, error: Exception) -> str:
    inner = getattr(error, "orig", None)
    return sqlite_words(path, inner) if isinstance(inner, sqlite3.Error) else f"{error}."
