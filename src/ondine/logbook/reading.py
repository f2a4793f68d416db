"""Reads a logbook without opening it: beside an open window, on read-only media, of any older format.

What is read is a copy of the moment, in a folder that goes afterwards; the logbook and what lies beside it stay.
"""

from __future__ import annotations

import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import check_header, copied_aside, real_path, unfinished_beside
from ondine.logbook.store import Logbook


@contextmanager
def reading(path: Path) -> Iterator[Logbook]:
    """Give a logbook to read. Raises LogbookError if there is none, or it is foreign, newer or damaged."""
    place = real_path(path)
    if not place.is_file():
        raise LogbookError(f"There is no logbook {path}. Check the name.")
    check_header(place)
    with tempfile.TemporaryDirectory(prefix="ondine-") as folder:
        copy = Path(folder) / place.name
        try:
            _copy(place, copy)
        except OSError as error:
            raise LogbookError(
                f"The logbook {path} cannot be copied to be read ({error.strerror}). Make room in {folder}."
            ) from error
        except sqlite3.Error as error:
            raise LogbookError(sqlite_words(place, error)) from error
        try:
            logbook = Logbook.open(copy)
        except LogbookError as error:
            # It is about the logbook that was given, not about the copy that nobody knows of.
            raise LogbookError(str(error).replace(str(copy), str(place))) from error
        try:
            yield logbook
        finally:
            logbook.close()


def _copy(place: Path, copy: Path) -> None:
    if not unfinished_beside(place):
        _back_up(f"{place.as_uri()}?immutable=1", copy)
    elif not place.with_name(place.name + "-shm").exists() or not _backed_up_beside_others(place, copy):
        # Nobody has it open: a crash left it so, perhaps on media that cannot be written.
        with copied_aside(place) as aside:
            _back_up(aside.as_uri(), copy)


def _backed_up_beside_others(place: Path, copy: Path) -> bool:
    """Copy while a window may write: SQLite sorts out who reads what. Return whether it could."""
    try:
        _back_up(f"{place.as_uri()}?mode=ro", copy)
    except sqlite3.OperationalError:
        return False
    return True


def _back_up(source_uri: str, copy: Path) -> None:
    with closing(sqlite3.connect(source_uri, uri=True, timeout=3)) as source, closing(sqlite3.connect(copy)) as target:
        source.backup(target)
