"""Saves what can still be read of a damaged logbook into a new one; the damaged one is only read."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy.exc import DBAPIError

from ondine.core.numbers import counted
from ondine.logbook.copying import put_in_place
from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import (
    APPLICATION_ID,
    COLUMNS,
    HEADER_BYTES,
    MAGIC,
    SCHEMA_VERSION,
    copied_aside,
    readable,
    real_path,
)
from ondine.logbook.migrate import upgrade_to
from ondine.logbook.parts import part_beside
from ondine.logbook.store import Logbook

PARENTS = {
    "kept_setup": {"setup_id": "setup_revision", "belief_id": "belief_revision"},
    "shot": {"sitting_id": "sitting", "setup_id": "setup_revision", "belief_id": "belief_revision"},
    "tag": {"shot_id": "shot"},
    "label": {"shot_id": "shot"},
    "picture": {"shot_id": "shot"},
}
STAND_INS: dict[str, dict[str, Any]] = {
    "sitting": {"started_at": "1970-01-01 00:00:00.000000", "name": "Lost sitting", "place": "", "note": "",
                "preflight": ""},
    "setup_revision": {"name": "Lost set-up", "content": "", "words": ""},
    "belief_revision": {"content": "{}"},
}  # fmt: skip
"""What stands for a row that others hang on and that is lost. A shot that is lost has none: nobody knows it fired."""

TABLES = (
    "setup_revision", "belief_revision", "kept_setup", "sitting", "shot", "tag", "label", "picture", "own_shape",
    "saved_search", "desk", "state", "removed",
)  # fmt: skip
"""What is saved, in this order. Figures and words of the shots are told anew."""

MOST_GAP = 1 << 12
"""So many row numbers in a row are tried that cannot be read, before what lies behind them is given up."""


MOST_ROWID = (1 << 63) - 2
"""There is none behind it."""

MOST_VALUE_BYTES = 50_000_000
"""No value of a logbook is longer; a damaged length is not believed."""


@dataclass
class Saved:
    """How many rows of each table were saved, how many could not be, and for how many a stand-in was made."""

    rows: dict[str, int] = field(default_factory=dict)
    lost: dict[str, int] = field(default_factory=dict)
    stand_ins: int = 0

    @property
    def words(self) -> str:
        """Say it in a sentence or two."""
        tables = ("shot", "picture", "tag", "sitting")
        saved = ", ".join(counted(self.rows.get(table, 0), table) for table in tables)
        lost = [counted(self.lost[table], table) for table in tables if self.lost.get(table)]
        words = f"Saved: {saved}. "
        words += f"Not to be read: {', '.join(lost)}." if lost else "Every row that was found could be read."
        if self.stand_ins:
            words += f" {self.stand_ins} lost sittings or set-ups have a stand-in, so that their shots are kept."
        return words


def rescue(path: Path, to: Path) -> Saved:
    """Save what can be read of the logbook at `path` into a new one at `to`. Raises LogbookError."""
    path, to = real_path(path), real_path(to)
    if not path.is_file():
        raise LogbookError(f"There is no logbook {path}. Check the name.")
    if to.exists():
        raise LogbookError(f"{to} exists already, and nothing is written over it. Give the name of a new logbook.")
    if not to.parent.is_dir():
        raise LogbookError(f"There is no folder {to.parent}. Give a place that is there.")
    part = part_beside(to)
    try:
        with copied_aside(path) as copy:
            _mend_header(copy)
            saved = _save(copy, path, part)
        upgrade_to(part, SCHEMA_VERSION)
        # Once opened it is known to be whole.
        Logbook.open(part).close()
        if not put_in_place(part, to):
            raise LogbookError(f"{to} was made by somebody else meanwhile, and is left as it is. Give another name.")
    except (OSError, sqlite3.Error, DBAPIError) as error:
        raise LogbookError(_cannot(path, to, error)) from error
    finally:
        for ending in ("", "-journal", "-wal", "-shm"):
            part.with_name(part.name + ending).unlink(missing_ok=True)
    return saved


def _cannot(path: Path, to: Path, error: OSError | sqlite3.Error | DBAPIError) -> str:
    inner = getattr(error, "orig", None) or error
    # Whatever the damaged logbook does is met row by row: what fails here is the new one.
    why = sqlite_words(to, inner) if isinstance(inner, sqlite3.Error) else f"{getattr(inner, 'strerror', inner)}."
    return f"{path} was not rescued: {why} It is as it was, and nothing was written to {to.name}."


def _mend_header(copy: Path) -> None:
    """Put right the few bytes by which SQLite and Ondine know a logbook; all else is read through them."""
    with open(copy, "r+b") as file:
        header = bytearray(file.read(HEADER_BYTES))
        if len(header) < HEADER_BYTES:
            return
        header[:16] = MAGIC
        header[68:72] = APPLICATION_ID.to_bytes(4, "big")
        file.seek(0)
        file.write(header)


def _save(copy: Path, path: Path, to: Path) -> Saved:
    saved = Saved()
    with closing(sqlite3.connect(copy)) as source:
        source.text_factory = readable
        source.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, MOST_VALUE_BYTES)
        version = _version(source)
        if version == 0:
            raise LogbookError(f"Nothing can be read of {path}: not even the names of its tables. Restore a copy.")
        upgrade_to(to, version)
        with closing(sqlite3.connect(to, isolation_level=None)) as target:
            target.execute("BEGIN IMMEDIATE")
            for table in TABLES:
                _copy_table(source, target, table, saved)
            target.execute("COMMIT")
    return saved


def _version(source: sqlite3.Connection) -> int:
    """Tell the format by the tables: the number in the header may be the very bit that flipped. 0 if there are none."""
    found = {table: set(_columns(source, table)) for table in (*COLUMNS, "desk")}
    if found["removed"]:
        return 8
    if "keeper" in found["shot"]:
        return 7
    if "flash_reports_us" in found["shot"]:
        return 6
    if "bench" in found["shot"]:
        return 5
    if "sure" in found["picture"]:
        return 4
    if found["belief_revision"] or found["state"]:
        return 3
    if found["kept_setup"] or "place" in found["sitting"]:
        return 2
    return 1 if any(found.values()) else 0


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    try:
        return [row[1] for row in connection.execute(f'PRAGMA table_info("{table}")')]
    except sqlite3.Error:
        return []


def _copy_table(source: sqlite3.Connection, target: sqlite3.Connection, table: str, saved: Saved) -> None:
    wanted = _columns(target, table)
    columns = [name for name in _columns(source, table) if name in wanted]
    if not columns:
        return
    named = ", ".join(f'"{name}"' for name in columns)
    slots = ", ".join("?" for _ in columns)
    for row in _rows(source, table, named):
        if row is None:
            saved.lost[table] = saved.lost.get(table, 0) + 1
            continue
        try:
            saved.stand_ins += _stand_ins(target, table, dict(zip(columns, row, strict=True)))
            target.execute(f'INSERT INTO "{table}" ({named}) VALUES ({slots})', row)
            saved.rows[table] = saved.rows.get(table, 0) + 1
        except (sqlite3.IntegrityError, sqlite3.InterfaceError, sqlite3.ProgrammingError):
            # A row that the tables' own rules refuse: a key that is twice there, a number that is none. (A full disk
            # is no fault of the row.)
            saved.lost[table] = saved.lost.get(table, 0) + 1


def _rows(source: sqlite3.Connection, table: str, named: str) -> Iterator[tuple[Any, ...] | None]:
    """Yield the rows of a table in their order; None for each that cannot be read, as far as anybody can count them.

    A damaged tree may answer with rows that were there before: only row numbers that rise are taken, so it ends.
    """
    query = f'SELECT rowid, {named} FROM "{table}" WHERE rowid > ? ORDER BY rowid LIMIT 1'
    last, failed = 0, 0
    while failed < MOST_GAP and last < MOST_ROWID:
        try:
            found = source.execute(query, (last,)).fetchone()
        except sqlite3.Error:
            found = (last,)
        if found is None:
            break
        if found[0] <= last:
            last, failed = last + 1, failed + 1
            continue
        yield from [None] * failed
        last, failed = found[0], 0
        yield tuple(found[1:])
    if failed:
        # Nobody knows how many stood behind the last one.
        yield None


def _stand_ins(target: sqlite3.Connection, table: str, row: dict[str, Any]) -> int:
    """Make stand-ins for what a row hangs on and that is lost; a picture of a lost shot is kept without one."""
    made = 0
    for column, parent in PARENTS.get(table, {}).items():
        key = row.get(column)
        if key is None or target.execute(f'SELECT 1 FROM "{parent}" WHERE id = ?', (key,)).fetchone():
            continue
        if parent not in STAND_INS:
            raise sqlite3.IntegrityError("it hangs on a shot that is lost")
        values = {"id": key, **STAND_INS[parent]}
        values = {name: value for name, value in values.items() if name in _columns(target, parent)}
        names, slots = ", ".join(values), ", ".join("?" for _ in values)
        target.execute(f"INSERT INTO {parent} ({names}) VALUES ({slots})", tuple(values.values()))
        made += 1
    return made
