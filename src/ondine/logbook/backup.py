"""Copies of a logbook for the day when it is lost: made while it is in use, verified, and few enough to keep.

Only copies whose own record says that they are of this logbook, at this place, are ever removed (`identity`); never
the one just made.
"""

from __future__ import annotations

import os
import re
import sqlite3
from collections.abc import Iterable
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from ondine.logbook.copying import copy_verified, put_in_place
from ondine.logbook.errors import LogbookError, LogbookInUseError, sqlite_words
from ondine.logbook.file import check_header, check_sound, claim, real_path
from ondine.logbook.identity import (
    CopyRecord,
    forget_record,
    identity_in,
    identity_of,
    origin_of,
    read_record,
    write_record,
)
from ondine.logbook.locking import LogbookLock, unfinished_beside
from ondine.logbook.parts import part_beside, sweep
from ondine.logbook.writing import sync_folder

NEWEST, DAYS, MONTHS = 8, 14, 12
"""The newest copies are kept, the last one of each of so many days, and the last one of so many months."""

_STAMP = "%Y%m%d-%H%M%S"


@dataclass(frozen=True)
class Backup:
    """A copy that Ondine made of a logbook, with what it records of its making."""

    path: Path
    record: CopyRecord

    def age(self, now: datetime) -> timedelta:
        """Return how old it is by the clock; less than nothing where it is from a time to come."""
        return now - self.record.made_at


def folder_of(logbook: Path) -> Path:
    """Return where the copies of a logbook are kept: in a folder beside it."""
    return logbook.with_name(f"{logbook.stem}-backups")


def back_up_now(logbook: Path, now: datetime, folder: Path | None = None) -> Path:
    """Copy a logbook, whoever has it open, verify the copy, remove copies that need not be kept; return its place.

    Raises LogbookError; then no copy was removed.
    """
    logbook, now = real_path(logbook), now.astimezone()
    folder = folder or folder_of(logbook)
    place, record = _copied(logbook, now, folder, is_recorded=True)
    if record is not None:
        for old in to_remove(_copies_of(record.identity, logbook, folder), now):
            # The sequence keeps the one just made; this does too where many copy in the same moment, and count alike.
            if old.path != place:
                _remove(old)
        _forget_dead_locks(logbook, folder)
    return place


def _copied(logbook: Path, now: datetime, folder: Path, is_recorded: bool) -> tuple[Path, CopyRecord | None]:
    """Copy a logbook and verify the copy; return its place and its record. One without a record is never removed."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        part = part_beside(folder / logbook.name)
        try:
            copy_verified(logbook, part)
            record = _next_record(part, logbook, folder, now) if is_recorded else None
            if record is None:
                forget_record(part)
            place = _placed(part, folder / f"{logbook.stem}.{_stamp(now)}.ondine")
        finally:
            part.unlink(missing_ok=True)
    except OSError as error:
        raise LogbookError(
            f"No backup of {logbook} could be written into {folder} ({error.strerror or error}). Make room, or choose "
            "another folder."
        ) from error
    except sqlite3.Error as error:
        raise LogbookError(f"No backup was made. {sqlite_words(logbook, error)}") from error
    return place, record


def _next_record(part: Path, logbook: Path, folder: Path, now: datetime) -> CopyRecord | None:
    """Write into a copy the how-manieth it is, and return it; None for that of a logbook without an identity."""
    with closing(sqlite3.connect(part)) as connection:
        identity = identity_in(connection)
    if identity is None:
        return None
    last = max((copy.record.sequence for copy in _copies_of(identity, logbook, folder)), default=0)
    record = CopyRecord(identity, origin_of(logbook), last + 1, now)
    write_record(part, record)
    return record


def _placed(part: Path, wanted: Path) -> Path:
    place, number = wanted, 1
    while not put_in_place(part, place):
        number += 1
        place = wanted.with_name(f"{wanted.stem}-{number}.ondine")
    return place


def backups(logbook: Path, folder: Path | None = None) -> list[Backup]:
    """Return the copies that Ondine made of a logbook at its place, the one made last first."""
    identity = identity_of(logbook)
    return [] if identity is None else _copies_of(identity, logbook, folder or folder_of(logbook))


def _named_after(logbook: Path) -> re.Pattern[str]:
    return re.compile(re.escape(logbook.stem) + r"\.(\d{8}-\d{6})(-\d+)?\.ondine")


def _copies_of(identity: str, logbook: Path, folder: Path) -> list[Backup]:
    found = []
    named = _named_after(logbook)
    with suppress(OSError):
        for path in folder.iterdir():
            name = named.fullmatch(path.name)
            record = read_record(path) if name is not None else None
            if name is None or record is None:
                continue
            # One that was given another name, or copied under it, is its owner's.
            is_own = (record.identity, record.origin) == (identity, origin_of(logbook))
            if is_own and name[1] == _stamp(record.made_at):
                found.append(Backup(path, record))
    return sorted(found, key=lambda copy: (copy.record.sequence, copy.record.made_at), reverse=True)


def _stamp(moment: datetime) -> str:
    """Return a moment as names of copies tell it, by the clock of its own zone."""
    return moment.strftime(_STAMP)


def to_remove(copies: Iterable[Backup], now: datetime) -> list[Backup]:
    """Return the copies that need not be kept; copies : the one made last first.

    Which is newer is told by the sequence alone. Days and months are those of the clock at the time: if it stood wrong,
    other days are kept, never fewer.
    """
    listed = list(copies)
    kept = {copy.path for copy in listed[:NEWEST]}
    for length, most in ((8, DAYS), (6, MONTHS)):
        last_of: dict[str, Path] = {}
        for copy in listed:
            last_of.setdefault(_stamp(copy.record.made_at)[:length], copy.path)
        kept.update(list(last_of.values())[:most])
    # What carries a time to come was made by a clock that stood wrong, then or now: nobody knows how old it is.
    return [copy for copy in listed if copy.path not in kept and copy.record.made_at <= now]


def _remove(copy: Backup) -> None:
    """Remove a copy that nobody has open and that its owner did not write-protect."""
    try:
        held = LogbookLock.take(copy.path)
    except LogbookError:
        return
    try:
        with suppress(OSError):
            if copy.path.stat().st_mode & 0o200 and read_record(copy.path) == copy.record:
                copy.path.unlink()
    finally:
        held.release()


def _forget_dead_locks(logbook: Path, folder: Path) -> None:
    """Remove the locks of copies that a process was about to remove, or had just removed, when it was killed."""
    named = _named_after(logbook)
    for lock in folder.glob("*.ondine.lock"):
        copy = lock.with_suffix("")
        if named.fullmatch(copy.name):
            # One that somebody holds is refused.
            with suppress(LogbookError):
                LogbookLock.take(copy).release()


def restore(copy: Path, logbook: Path, now: datetime) -> Path | None:
    """Put a copy in the place of a logbook that nobody has open; return where the one that was there is kept.

    One that is damaged is kept as it is, under another name. Nothing is replaced before what was kept is known to open.
    Raises LogbookError; then everything is as it was.
    """
    copy, logbook, now = real_path(copy), real_path(logbook), now.astimezone()
    if not copy.is_file():
        raise LogbookError(f"There is no backup {copy}. Check the name.")
    if logbook.exists() and copy.samefile(logbook):
        raise LogbookError(f"{copy} is the logbook itself. Give the name of one of its backups.")
    sweep(folder_of(logbook))
    part = part_beside(logbook)
    try:
        check_header(copy)
        copy_verified(copy, part)
        forget_record(part)
        check_sound(part, copy)
        kept = _keep(logbook, now)
        part.replace(logbook)
        sync_folder(logbook.parent)
    except OSError as error:
        raise LogbookError(f"{logbook} could not be restored ({error.strerror}). It is as it was.") from error
    except sqlite3.Error as error:
        raise LogbookError(f"{copy} could not be restored. {sqlite_words(copy, error)}") from error
    finally:
        part.unlink(missing_ok=True)
    return kept


def _keep(logbook: Path, now: datetime) -> Path | None:
    """Keep what lies where a copy is to be put; None where nothing does. Raises LogbookError for what is no logbook.

    It is a copy without a record: later ones go on from what was restored, and do not hold what it holds.
    """
    if logbook.exists():
        check_header(logbook)
    try:
        claimed = claim(logbook)
    except LogbookInUseError:
        raise
    except LogbookError:
        if not logbook.exists():
            # Nothing but the last changes of a logbook that was moved: they are somebody's.
            raise
        return _set_aside(logbook, now)
    try:
        if not claimed.version:
            return None
        kept, _ = _copied(logbook, now, folder_of(logbook), is_recorded=False)
        check_sound(kept, kept)
        _fold_in(logbook)
        return kept
    finally:
        claimed.release()


def _fold_in(logbook: Path) -> None:
    """Leave nothing beside a logbook that is to be replaced: SQLite would play it into the one that comes."""
    with (
        suppress(sqlite3.OperationalError),
        closing(sqlite3.connect(logbook, timeout=3, isolation_level=None)) as connection,
    ):
        connection.execute("PRAGMA journal_mode = DELETE")
    if unfinished_beside(logbook):
        raise LogbookError(
            f"{logbook} could not be restored: another program is reading it. Close that program, then try again. "
            "It is as it was."
        )


def _set_aside(logbook: Path, now: datetime) -> Path:
    """Give a damaged logbook another name, with all that SQLite keeps beside it.

    Its own name stays too until the copy takes it, where the file system can: it is never away.
    """
    wanted = aside = logbook.with_name(f"{logbook.stem}.{_stamp(now)}.ondine")
    number = 1
    while aside.exists():
        number += 1
        aside = wanted.with_name(f"{wanted.stem}-{number}.ondine")
    try:
        os.link(logbook, aside)
    except OSError:
        logbook.rename(aside)
    for ending in ("-wal", "-shm", "-journal"):
        with suppress(FileNotFoundError):
            logbook.with_name(logbook.name + ending).rename(aside.with_name(aside.name + ending))
    return aside
