"""Copies of a logbook for the day when it is lost: made while it is in use, verified, and few enough to keep."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterable
from contextlib import suppress
from datetime import datetime, timedelta
from pathlib import Path

from ondine.logbook.errors import LogbookError, LogbookInUseError, sqlite_words
from ondine.logbook.file import check_header, claim, real_path
from ondine.logbook.migrate import back_up
from ondine.logbook.writing import part_beside, sync_folder

NEWEST, DAYS, MONTHS = 8, 14, 12
"""The newest copies are kept, the last one of each of so many days, and the last one of so many months."""

_STAMP = "%Y%m%d-%H%M%S"
_NAMED = re.compile(r"\.(\d{8}-\d{6})(?:-\d+)?\.ondine$")


def folder_of(logbook: Path) -> Path:
    """Return where the copies of a logbook are kept: in a folder beside it."""
    return logbook.with_name(f"{logbook.stem}-backups")


def back_up_now(logbook: Path, now: datetime, folder: Path | None = None) -> Path:
    """Copy a logbook, whoever has it open, verify the copy, drop what need not be kept; return its place.

    Raises LogbookError; then no copy was dropped.
    """
    logbook = real_path(logbook)
    folder = folder or folder_of(logbook)
    place = _free(folder / f"{logbook.stem}.{now.astimezone().strftime(_STAMP)}.ondine")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        part = part_beside(place)
        try:
            back_up(logbook, part)
            part.replace(place)
            sync_folder(folder)
        finally:
            part.unlink(missing_ok=True)
    except OSError as error:
        raise LogbookError(
            f"No backup of {logbook} could be written into {folder} ({error.strerror or error}). Make room, or choose "
            "another folder."
        ) from error
    except sqlite3.Error as error:
        raise LogbookError(f"No backup was made. {sqlite_words(logbook, error)}") from error
    for old in to_drop(backups(logbook, folder), now):
        with suppress(OSError):
            old.unlink()
    return place


def _free(place: Path) -> Path:
    number = 1
    while place.exists():
        number += 1
        place = place.with_name(re.sub(r"(\d{8}-\d{6})(-\d+)?\.ondine$", rf"\g<1>-{number}.ondine", place.name))
    return place


def backups(logbook: Path, folder: Path | None = None) -> list[Path]:
    """Return the copies of a logbook, newest first."""
    folder = folder or folder_of(logbook)
    try:
        found = [p for p in folder.iterdir() if p.name.startswith(f"{logbook.stem}.") and _NAMED.search(p.name)]
    except OSError:
        return []
    return sorted(found, key=lambda path: (_made(path), path.name), reverse=True)


def _made(path: Path) -> str:
    found = _NAMED.search(path.name)
    assert found is not None
    return found[1]


def age_of(copy: Path, now: datetime) -> timedelta:
    """Return how old a copy is by its name; less than nothing where it is from a time to come."""
    return now.astimezone().replace(tzinfo=None) - datetime.strptime(_made(copy), _STAMP)


def to_drop(copies: Iterable[Path], now: datetime) -> list[Path]:
    """Return the copies that need not be kept; copies : newest first."""
    listed = list(copies)
    kept = set(listed[:NEWEST])
    for length, most in ((8, DAYS), (6, MONTHS)):
        seen: dict[str, Path] = {}
        for path in listed:
            seen.setdefault(_made(path)[:length], path)
        kept.update(list(seen.values())[:most])
    # What carries a time to come was made by a clock that stood wrong: nobody knows how old it is.
    today = now.astimezone().strftime(_STAMP)
    return [path for path in listed if path not in kept and _made(path) <= today]


def restore(copy: Path, logbook: Path, now: datetime) -> Path | None:
    """Put a copy in the place of a logbook that nobody has open; return where the one that was there is kept.

    One that is damaged is kept as it is, under another name. Raises LogbookError; then everything is as it was.
    """
    copy, logbook = real_path(copy), real_path(logbook)
    if not copy.is_file():
        raise LogbookError(f"There is no backup {copy}. Check the name.")
    part = part_beside(logbook)
    try:
        check_header(copy)
        back_up(copy, part)
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
    """Keep what lies where a copy is to be put; None where nothing does. Raises LogbookError for what is no logbook."""
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
        return back_up_now(logbook, now) if claimed.version else None
    finally:
        claimed.release()


def _set_aside(logbook: Path, now: datetime) -> Path:
    """Give a damaged logbook another name, with all that SQLite keeps beside it."""
    aside = _free(logbook.with_name(f"{logbook.stem}.{now.astimezone().strftime(_STAMP)}.ondine"))
    for ending in ("", "-wal", "-shm", "-journal"):
        with suppress(FileNotFoundError):
            logbook.with_name(logbook.name + ending).rename(aside.with_name(aside.name + ending))
    return aside
