"""Reads a logbook without opening it: beside an open window, on read-only media, of any older format.

What is read is a copy of the moment, in a folder that goes afterwards; the logbook and what lies beside it stay.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ondine.logbook.copying import read_only
from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import check_header, check_name, real_path
from ondine.logbook.parts import scratch_folder
from ondine.logbook.store import Logbook


@contextmanager
def reading(path: Path) -> Iterator[Logbook]:
    """Give a logbook to read. Raises LogbookError if there is none, or it is foreign, newer or damaged."""
    place = real_path(path)
    if not place.is_file():
        raise LogbookError(f"There is no logbook {path}. Check the name.")
    check_header(place)
    check_name(place)
    with scratch_folder() as folder:
        copy = folder / place.name
        try:
            with read_only(place) as source, closing(sqlite3.connect(copy)) as target:
                source.backup(target)
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
