"""The logbook as a file: whose it is, how old, whether it is sound, and who has it open.

What is refused is left as it was, with nothing beside it: the header is read before anything may write, a file that a
crash left half written is looked at in a copy, and the lock goes with its holder.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from ondine.core.log.facts import NAMES
from ondine.logbook.errors import LogbookError, damaged, sqlite_words, under_another_name
from ondine.logbook.locking import LogbookLock, is_held_here, other_name, unfinished_beside
from ondine.logbook.parts import scratch_folder

APPLICATION_ID = 0x4F6E6431
"""'Ond1' in the SQLite header, so that the file is known for what it is."""

SCHEMA_VERSION = 8
"""PRAGMA user_version: counts the Alembic revisions, so that an up-to-date file opens without Alembic."""

MAGIC = b"SQLite format 3\0"
HEADER_BYTES = 100
"""Of a SQLite file (its published format): the version of ours stands at byte 60, the application's number at 68."""

COLUMNS = {
    "setup_revision": {"id", "name", "content", "words"},
    "belief_revision": {"id", "content"},
    "kept_setup": {"name", "setup_id", "belief_id", "kept_at"},
    "sitting": {"id", "started_at", "name", "place", "temperature_c", "note", "preflight"},
    "shot": {
        "id", "sitting_id", "setup_id", "belief_id", "planned_at", "fired_at", "state", "sequence", "head_m",
        "flash_reports_us", "report", "bench", "rating", "note", "keeper", "binned_at", "at",
    },
    "tag": {"shot_id", "shape"},
    "label": {"shot_id", "word"},
    "own_shape": {"key", "name", "letter", "glyph"},
    "saved_search": {"name", "line", "saved_at"},
    "picture": {
        "id", "shot_id", "path", "sha256", "width_px", "height_px", "taken_at", "arrived_at", "exposure_s", "f_number",
        "iso", "focal_length_m", "sure", "beside_path", "beside_sha256",
    },
    "shot_facts": {"shot_id", "version", "timing", *NAMES},

    "state": {"key", "value"},
    "removed": {"kind", "shot_id", "word"},
}  # fmt: skip
"""What a sound logbook holds, so that a missing table is found without loading the models."""

WORDS = {
    "shot_words": {"note", "label"},
    "sitting_words": {"name", "place", "note"},
    "setup_words": {"words"},
}
"""Its full-text indices, which no model stands for."""


@dataclass(frozen=True)
class ClaimedFile:
    """A logbook file that is ours to open: locked, inspected, of a schema `version` (0 for a new file)."""

    path: Path
    lock: LogbookLock
    version: int

    def release(self) -> None:
        """Give the claim up; nothing of it stays beside the file."""
        self.lock.release()


def claim(path: Path) -> ClaimedFile:
    """Lock and inspect a logbook file, without loading what writes it.

    Raises LogbookError, having changed nothing, if the file is not ours to write; LogbookInUseError if another Ondine
    has it.
    """
    path = real_path(path)
    is_new = _is_new(path)
    if not is_new:
        check_header(path)
        if not os.access(path, os.W_OK | os.R_OK):
            raise LogbookError(
                f"The logbook {path} is read-only, so no shot could be logged. "
                "Give yourself write permission on it, or choose another logbook."
            )
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise LogbookError(
            f"The folder {path.parent} cannot be made ({error.strerror}). Choose another place for the logbook."
        ) from error
    claimed = ClaimedFile(path, LogbookLock.take(path), 0)
    try:
        # Once more, now that nobody else can begin it.
        if _is_new(path):
            return claimed
        return ClaimedFile(path, claimed.lock, _inspect(path))
    except BaseException:
        claimed.release()
        raise


def real_path(path: Path) -> Path:
    """Return the place of a logbook, links resolved: by whatever name, it is one logbook. Raises LogbookError."""
    try:
        return path.resolve()
    except (OSError, RuntimeError, ValueError) as error:
        raise LogbookError(f"{path} leads nowhere ({error}). Give the name of a logbook file.") from error


def _is_new(path: Path) -> bool:
    """Whether nothing lies there yet. Raises LogbookError for what is no file, and for the remains of another one."""
    try:
        if path.is_dir():
            raise LogbookError(
                f"{path} is a folder. Give the name of a logbook file, for example {path / 'log.ondine'}."
            )
        if path.exists() and not path.is_file():
            raise LogbookError(f"{path} is a device, not a file. Give the name of a logbook file.")
        if path.exists() and path.stat().st_size:
            return False
        for left in unfinished_beside(path):
            raise LogbookError(
                f"There is no logbook {path}, but {left.name} lies there, with the last changes of one that was moved "
                "or deleted. Put that logbook back, or move this file away, then open it again."
            )
    except OSError as error:
        raise LogbookError(f"The logbook {path} cannot be read: {error.strerror}. Choose another one.") from error
    return True


def check_name(path: Path) -> None:
    """Raise LogbookError if a logbook's last changes lie beside another of its names, where SQLite does not look."""
    name = other_name(path)
    if name is not None:
        raise LogbookError(under_another_name(path, name))


def check_header(path: Path) -> None:
    """Look at a file's first bytes alone. Raises LogbookError for a file that is foreign or newer."""
    if is_held_here(path):
        # It was looked at when it was opened, and must not be opened past SQLite (see `locking`).
        return
    if path.exists() and not path.is_file():
        raise LogbookError(f"{path} is a folder or a device, not a file. Give the name of a logbook file.")
    try:
        with open(path, "rb") as file:
            header = file.read(HEADER_BYTES)
    except OSError as error:
        raise LogbookError(f"The logbook {path} cannot be read: {error.strerror}. Choose another one.") from error
    if len(header) < HEADER_BYTES or not header.startswith(MAGIC):
        raise LogbookError(
            f"{path} is not an Ondine logbook (it is no SQLite file at all). It was left untouched: "
            f"choose another file or a new name. {_if_it_was(path)}"
        )
    version, application = (int.from_bytes(header[at : at + 4], "big") for at in (60, 68))
    _check_owner(path, application, version)


def _check_owner(path: Path, application: int, version: int) -> None:
    if application != APPLICATION_ID:
        raise LogbookError(
            f"{path} is a database of another program, not an Ondine logbook. It was left untouched: "
            f"choose another file or a new name. {_if_it_was(path)}"
        )
    if version > SCHEMA_VERSION:
        raise LogbookError(
            f"The logbook {path} was written by a newer Ondine (its format is {version}, this one reads "
            f"{SCHEMA_VERSION}). It was left untouched: update Ondine, or choose another logbook."
        )
    if version < 1:
        raise LogbookError(damaged(path, f"its format cannot be {version}"))


def _if_it_was(path: Path) -> str:
    return f"If it was a logbook once, 'ondine rescue {path.name} --to NEW' saves what can be read."


def _inspect(path: Path) -> int:
    """Return the schema version of a file whose header is ours.

    Raises LogbookError for one that is newer, damaged or locked. It is not touched: what a crash left beside it is
    first read into a copy, and into the file itself only if it is sound.
    """
    if unfinished_beside(path):
        # Where there is no room for a copy: SQLite's own recovery is safe, only the promise is smaller.
        with suppress(OSError), copied_aside(path) as copy:
            _inspect_sqlite(copy, path)
    return _inspect_sqlite(path, path)


@contextmanager
def copied_aside(path: Path) -> Iterator[Path]:
    """Give a copy of a logbook's file, and of what a crash left beside it, in a folder that goes afterwards."""
    with scratch_folder() as folder:
        copy = folder / "log.ondine"
        shutil.copyfile(path, copy)
        for left in unfinished_beside(path):
            shutil.copyfile(left, copy.with_name(copy.name + left.name.removeprefix(path.name)))
        yield copy


def check_sound(place: Path, path: Path) -> None:
    """Raise LogbookError unless a logbook at `place`, which is `path` in messages, would open."""
    check_header(place)
    _inspect_sqlite(place, path)


def _inspect_sqlite(place: Path, path: Path) -> int:
    """Inspect the file at `place`, which is `path` in messages."""
    try:
        with closing(sqlite3.connect(place, timeout=0.5)) as connection:
            application = int(connection.execute("PRAGMA application_id").fetchone()[0])
            version = int(connection.execute("PRAGMA user_version").fetchone()[0])
            _check_owner(path, application, version)
            connection.execute("BEGIN IMMEDIATE")
            sound = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
            missing = _missing(connection) if version == SCHEMA_VERSION else ""
            connection.rollback()
    except sqlite3.Error as error:
        raise LogbookError(sqlite_words(path, error)) from error
    if sound != "ok":
        raise LogbookError(damaged(path, sound))
    if missing:
        raise LogbookError(damaged(path, missing))
    return version


def readable(raw: bytes) -> str:
    """Read a text of the file: one flipped bit in a note must not hide the shot."""
    return raw.decode("utf-8", "replace")


def _missing(connection: sqlite3.Connection) -> str:
    found: dict[str, set[str]] = {}
    listed = "SELECT m.name, c.name FROM sqlite_master AS m JOIN pragma_table_xinfo(m.name) AS c WHERE m.type = 'table'"
    for table, column in connection.execute(listed):
        found.setdefault(table, set()).add(column)
    for table, columns in (COLUMNS | WORDS).items():
        if table not in found:
            return f"its table '{table}' is missing"
        for column in sorted(columns - found[table]):
            return f"'{column}' is missing in its table '{table}'"
    return ""
