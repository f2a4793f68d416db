"""The logbook as a file: whose it is, how old, whether it is sound, and who has it open."""

from __future__ import annotations

import os
import sqlite3
from dataclasses import dataclass, replace
from pathlib import Path

from filelock import BaseFileLock, FileLock, Timeout

APPLICATION_ID = 0x4F6E6431
"""'Ond1' in the SQLite header, so that the file is known for what it is."""

SCHEMA_VERSION = 3
"""PRAGMA user_version: counts the Alembic revisions, so that an up-to-date file opens without Alembic."""


class LogbookError(Exception):
    """The logbook cannot be opened or written; the text says what, where, and what to do."""


@dataclass(frozen=True)
class ClaimedFile:
    """A logbook file that is ours to open: locked, inspected, of a schema `version` (0 for a new file)."""

    path: Path
    lock: BaseFileLock
    version: int

    def release(self) -> None:
        """Give the claim up."""
        self.lock.release()


def claim(path: Path) -> ClaimedFile:
    """Lock and inspect a logbook file, without loading what writes it.

    Raises LogbookError, having changed nothing, if the file is not ours to write.
    """
    path = path.absolute()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise LogbookError(
            f"The folder {path.parent} cannot be made ({error.strerror}). Choose another place for the logbook."
        ) from error
    lock = _locked(path)
    try:
        return ClaimedFile(path, lock, inspect(path))
    except BaseException:
        lock.release()
        raise


def migrated(claimed: ClaimedFile) -> ClaimedFile:
    """Bring an older logbook up to date before anything of it is read; a new one is made later, beside the window.

    Raises LogbookError.
    """
    if claimed.version in (0, SCHEMA_VERSION):
        return claimed
    from sqlalchemy.exc import DBAPIError

    from ondine.logbook.database import plain_error

    try:
        upgrade(claimed.path)
    except DBAPIError as error:
        raise plain_error(claimed.path, error) from error
    return replace(claimed, version=SCHEMA_VERSION)


def _locked(path: Path) -> BaseFileLock:
    """Make this process the one that has the logbook open.

    Raises LogbookError when another Ondine has it, or its folder cannot be written.
    """
    # Taken in one thread and released in another, at closing.
    beside = path.with_name(path.name + ".lock")
    lock = FileLock(beside, timeout=0, thread_local=False)
    try:
        lock.acquire()
        beside.write_text(str(os.getpid()), encoding="ascii")
    except Timeout as error:
        holder = beside.read_text(encoding="ascii", errors="replace").strip() or "unknown"
        raise LogbookError(
            f"The logbook {path} is open in another Ondine (process {holder}). "
            "Close that one, or choose another logbook."
        ) from error
    except OSError as error:
        raise LogbookError(
            f"The folder {path.parent} cannot be written ({error.strerror}), so no shot could be logged there. "
            "Give yourself write permission, or choose another place for the logbook."
        ) from error
    return lock


def inspect(path: Path) -> int:
    """Return the schema version of the file, 0 for a new or empty one.

    Raises LogbookError for a file that is foreign, newer, damaged, locked or not writable; it is not touched.
    """
    if path.is_dir():
        raise LogbookError(f"{path} is a folder. Give the name of a logbook file, for example {path / 'log.ondine'}.")
    if not path.exists() or path.stat().st_size == 0:
        return 0
    if not os.access(path, os.W_OK | os.R_OK):
        raise LogbookError(
            f"The logbook {path} is read-only, so no shot could be logged. "
            "Give yourself write permission on it, or choose another logbook."
        )
    try:
        with open(path, "rb") as file:
            header = file.read(16)
        if header != b"SQLite format 3\0":
            raise LogbookError(
                f"{path} is not an Ondine logbook (it is no SQLite file at all). It was left untouched: "
                "choose another file or a new name."
            )
        return _inspect_sqlite(path)
    except OSError as error:
        raise LogbookError(f"The logbook {path} cannot be read: {error.strerror}. Choose another one.") from error


def _inspect_sqlite(path: Path) -> int:
    connection = sqlite3.connect(path, timeout=0.5)
    try:
        application = connection.execute("PRAGMA application_id").fetchone()[0]
        version = int(connection.execute("PRAGMA user_version").fetchone()[0])
        if application != APPLICATION_ID:
            raise LogbookError(
                f"{path} is a database of another program, not an Ondine logbook. It was left untouched: "
                "choose another file or a new name."
            )
        if version > SCHEMA_VERSION:
            raise LogbookError(
                f"The logbook {path} was written by a newer Ondine (its format is {version}, this one reads "
                f"{SCHEMA_VERSION}). It was left untouched: update Ondine, or choose another logbook."
            )
        connection.execute("BEGIN IMMEDIATE")
        sound = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        connection.rollback()
        if sound != "ok":
            raise LogbookError(_damaged(path, sound))
        return version
    except sqlite3.OperationalError as error:
        if "locked" in str(error) or "busy" in str(error):
            raise LogbookError(
                f"The logbook {path} is locked by another program. Close that program, then open the logbook again."
            ) from error
        raise LogbookError(_damaged(path, str(error))) from error
    except sqlite3.DatabaseError as error:
        raise LogbookError(_damaged(path, str(error))) from error
    finally:
        connection.close()


def _damaged(path: Path, why: str) -> str:
    return (
        f"The logbook {path} is damaged ({why}). It was left untouched: restore it from a copy, or recover it with "
        f"'sqlite3 {path.name} .recover', and start a new logbook meanwhile."
    )


def upgrade(path: Path) -> None:
    """Create or migrate the file with Alembic, imported only here because it is rarely needed."""
    from alembic import command
    from alembic.config import Config
    from sqlalchemy import create_engine

    engine = create_engine(f"sqlite:///{path}")
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    try:
        with engine.begin() as connection:
            connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.exec_driver_sql(f"PRAGMA user_version = {SCHEMA_VERSION}")
    finally:
        engine.dispose()
