"""What a logbook's errors mean, in words that help."""

from __future__ import annotations

import sqlite3
from pathlib import Path

DAMAGED = frozenset({sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB})
"""Only what SQLite itself calls damaged is called so: a full disk or a closed folder harms no logbook."""

_PRIMARY = 0xFF
"""The low byte of an extended result code is its family."""


RESCUE = "'ondine rescue LOGBOOK --to NEW' saves what can be saved."


class LogbookError(Exception):
    """The logbook cannot be opened, read or written; the text says what, where, and what to do."""


class LogbookInUseError(LogbookError):
    """Another Ondine, of process `holder`, has the logbook open; `name` is another name of the file, if it used one."""

    def __init__(self, path: Path, holder: str, name: Path | None = None) -> None:
        by_name = "" if name is None or name == path else f" by another of its names, {name}"
        super().__init__(
            f"The logbook {path} is open in another Ondine (process {holder}){by_name}. "
            "Close that one, or choose another logbook."
        )
        self.path, self.holder = path, holder


def damaged(path: Path, why: str) -> str:
    """Say that a logbook is damaged, and how to save what can be saved."""
    return (
        f"The logbook {path} is damaged ({why}). It was left untouched: restore it from a copy, or save what can still "
        f"be read with 'ondine rescue {path.name} --to NEW'."
    )


def under_another_name(path: Path, name: Path) -> str:
    """Say that a logbook has to be opened by another of its names."""
    return (
        f"{path} and {name} are one file with two names, and its last changes lie beside {name.name}. "
        f"Give the name {name} instead; {path} was left untouched."
    )


def sqlite_words(path: Path, error: BaseException) -> str:
    """Say what an error of SQLite means for the logbook at `path`."""
    code = getattr(error, "sqlite_errorcode", None)
    family = None if code is None else code & _PRIMARY
    if family in DAMAGED:
        return damaged(path, str(error))
    if family == sqlite3.SQLITE_FULL:
        return (
            f"The disk that holds the logbook {path} is full, so this was not written. "
            "Make room there; what was logged before is safe."
        )
    if family in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return f"The logbook {path} is locked by another program. Close that program, then try again."
    if family == sqlite3.SQLITE_READONLY:
        return f"The logbook {path} has become read-only. Give yourself write permission, then try again."
    if family == sqlite3.SQLITE_CANTOPEN:
        return (
            f"The logbook {path} cannot be opened ({error}). See whether its folder is there and may be written, "
            "then try again."
        )
    if family == sqlite3.SQLITE_IOERR:
        return (
            f"The disk that holds the logbook {path} does not answer as it should ({error}). It may be full, or "
            "unplugged: see to it, then try again. What was logged before is safe."
        )
    return f"The logbook {path} could not be read or written ({error}). Keep a copy of it, then restart."
