"""Brings shots of one logbook into another: those of the laptop into the studio's, or a part into a new one.

A shot is known by when it was planned, its sequence and its set-up; a sitting by when it began; a picture, a set-up and
a belief by their content. What both have stays as it is here, and gains what only the other one says of it, except for
what was removed here: the table `removed` keeps a mark of that, and the marks come along too.
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ondine.core.numbers import counted
from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.file import COLUMNS, readable

SHOT_COLUMNS = sorted(COLUMNS["shot"] - {"id", "sitting_id", "at"})
SITTING_COLUMNS = sorted(COLUMNS["sitting"] - {"id"})
PICTURE_COLUMNS = sorted(COLUMNS["picture"] - {"id", "shot_id"})
BY_KEY = {
    "setup_revision": "id", "belief_revision": "id", "kept_setup": "name", "own_shape": "key", "saved_search": "name"
}  # fmt: skip
"""Tables whose rows are known by their own key: what is there already stays."""

PER_SHOT = {"tag": "shape", "label": "word"}
"""Tables with several rows a shot, and what tells the rows apart."""

MISSING = {"note": "note = ''", "rating": "rating = 0", "keeper": "NOT keeper"}
"""Columns of a shot, and when nothing is said there."""


@dataclass(frozen=True)
class Merged:
    """How many shots and pictures came, and how many shots were there already."""

    shots: int
    same: int
    pictures: int

    @property
    def words(self) -> str:
        """Say it in a sentence."""
        came = f"{counted(self.shots, 'shot')} came, with {counted(self.pictures, 'picture')}"
        return f"{came}; {self.same} {'was' if self.same == 1 else 'were'} there already."


def merge(target: Path, source: Path, shot_ids: Iterable[int] | None = None) -> Merged:
    """Bring shots of `source` into `target`, all or some; whole or not at all.

    Both are logbooks of today's format, the source one that nobody changes meanwhile (see `reading`). shot_ids :
    numbers in the source. Raises LogbookError.
    """
    try:
        with closing(sqlite3.connect(target, isolation_level=None, timeout=3)) as book:
            book.text_factory = readable
            book.execute("PRAGMA foreign_keys = ON")
            # A name may hold bytes that are no text.
            book.execute("ATTACH ? AS other", (os.fsencode(source),))
            book.execute("BEGIN IMMEDIATE")
            try:
                merged = _merge(book, shot_ids)
                book.execute("COMMIT")
            except BaseException:
                book.execute("ROLLBACK")
                raise
            return merged
    except sqlite3.Error as error:
        raise LogbookError(sqlite_words(target, error)) from error


def _merge(book: sqlite3.Connection, shot_ids: Iterable[int] | None) -> Merged:
    book.execute("CREATE TEMP TABLE wanted (id INTEGER PRIMARY KEY)")
    if shot_ids is None:
        book.execute("INSERT INTO wanted SELECT id FROM other.shot")
    else:
        book.executemany("INSERT OR IGNORE INTO wanted VALUES (?)", ((int(number),) for number in shot_ids))
    for table, key in BY_KEY.items():
        columns = ", ".join(sorted(COLUMNS[table]))
        book.execute(
            f"INSERT OR IGNORE INTO main.{table} ({columns}) SELECT {columns} FROM other.{table} "
            f"WHERE NOT {_is_removed(table, '0', f'other.{table}.{key}')}"
        )
    _sittings(book)
    same, new = _shots(book)
    for table, column in PER_SHOT.items():
        book.execute(
            f"INSERT OR IGNORE INTO main.{table} (shot_id, {column}) SELECT pairs.here, {column} "
            f"FROM other.{table} JOIN pairs ON pairs.there = shot_id "
            f"WHERE NOT {_is_removed(table, 'pairs.here', column)}"
        )
    _what_only_the_other_says(book)
    _what_was_removed(book)
    return Merged(new, same, _pictures(book))


def _is_removed(kind: str, shot: str, word: str) -> str:
    """Return the condition that something was removed here; shot, word : SQL."""
    return (
        f"EXISTS (SELECT 1 FROM main.removed AS gone WHERE gone.kind = '{kind}' AND gone.shot_id = {shot} "
        f"AND gone.word = {word})"
    )


def _what_was_removed(book: sqlite3.Connection) -> None:
    """Bring the marks of what was removed there and is not here either."""
    marks = (
        "INSERT OR IGNORE INTO main.removed (kind, shot_id, word) SELECT kind, {shot}, word FROM other.removed AS mark "
        "{of} WHERE kind = '{kind}' AND NOT EXISTS (SELECT 1 FROM main.{table} WHERE {has})"
    )
    paired = "JOIN pairs ON pairs.there = mark.shot_id"
    for table, column in PER_SHOT.items():
        has = f"shot_id = pairs.here AND {column} = mark.word"
        book.execute(marks.format(shot="pairs.here", of=paired, kind=table, table=table, has=has))
    for column, missing in MISSING.items():
        has = f"id = pairs.here AND NOT ({missing})"
        book.execute(marks.format(shot="pairs.here", of=paired, kind=column, table="shot", has=has))
    for table, key in BY_KEY.items():
        book.execute(marks.format(shot="0", of="", kind=table, table=table, has=f"{key} = mark.word"))


def _sittings(book: sqlite3.Connection) -> None:
    """Make the sittings that are wanted and not here yet."""
    columns = ", ".join(SITTING_COLUMNS)
    wanted = "SELECT sitting_id FROM other.shot JOIN wanted ON wanted.id = other.shot.id"
    book.execute(
        f"INSERT INTO main.sitting ({columns}) SELECT {columns} FROM other.sitting WHERE id IN ({wanted}) "
        "AND started_at NOT IN (SELECT started_at FROM main.sitting) ORDER BY id"
    )
    book.execute(
        "CREATE TEMP TABLE sittings AS SELECT other.sitting.id AS there, min(main.sitting.id) AS here "
        "FROM other.sitting JOIN main.sitting USING (started_at) GROUP BY other.sitting.id"
    )


def _shots(book: sqlite3.Connection) -> tuple[int, int]:
    """Bring the shots, in the order of their time; return how many were here already, and how many came."""
    book.execute("CREATE TEMP TABLE pairs (there INTEGER PRIMARY KEY, here INTEGER)")
    # The same moment may hold two shots of one sequence: each finds one of its own.
    numbered = (
        "SELECT id, planned_at, sequence, setup_id, "
        "row_number() OVER (PARTITION BY planned_at, sequence, setup_id ORDER BY id) AS nth FROM {book}.shot"
    )
    book.execute(
        f"INSERT INTO pairs SELECT there.id, here.id FROM ({numbered.format(book='other')}) AS there "
        f"JOIN ({numbered.format(book='main')}) AS here USING (planned_at, sequence, setup_id, nth) "
        "WHERE there.id IN (SELECT id FROM wanted)"
    )
    same = int(book.execute("SELECT count(*) FROM pairs").fetchone()[0])
    columns = ", ".join(SHOT_COLUMNS)
    first = int(book.execute("SELECT coalesce(max(id), 0) FROM main.shot").fetchone()[0])
    book.execute(
        f"CREATE TEMP TABLE coming AS SELECT id AS there, {first} + row_number() OVER (ORDER BY at, id) AS here "
        "FROM other.shot WHERE id IN (SELECT id FROM wanted) AND id NOT IN (SELECT there FROM pairs)"
    )
    # Without its sitting a shot of a damaged logbook has nowhere to stand: rescue makes one for it.
    new = book.execute(
        f"INSERT INTO main.shot (id, sitting_id, {columns}) SELECT coming.here, sittings.here, {columns} "
        "FROM other.shot JOIN coming ON coming.there = other.shot.id "
        "JOIN sittings ON sittings.there = other.shot.sitting_id ORDER BY coming.here"
    ).rowcount
    book.execute("INSERT INTO pairs SELECT there, here FROM coming WHERE here IN (SELECT id FROM main.shot)")
    return same, new


def _what_only_the_other_says(book: sqlite3.Connection) -> None:
    """A note, a rating or a mark that is missing here comes along; what stands here is not written over."""
    of_other = (
        "(SELECT theirs.{column} FROM other.shot AS theirs JOIN pairs ON pairs.there = theirs.id "
        "WHERE pairs.here = main.shot.id)"
    )
    for column, missing in MISSING.items():
        book.execute(
            f"UPDATE main.shot SET {column} = {of_other.format(column=column)} "
            f"WHERE {missing} AND id IN (SELECT here FROM pairs) "
            f"AND NOT {_is_removed(column, 'main.shot.id', repr(''))}"
        )


def _pictures(book: sqlite3.Connection) -> int:
    columns = ", ".join(PICTURE_COLUMNS)
    return book.execute(
        f"INSERT INTO main.picture (shot_id, {columns}) SELECT pairs.here, {columns} FROM other.picture "
        "JOIN pairs ON pairs.there = shot_id WHERE sha256 NOT IN (SELECT sha256 FROM main.picture) "
        "AND sha256 NOT IN (SELECT beside_sha256 FROM main.picture WHERE beside_sha256 IS NOT NULL) "
        "ORDER BY other.picture.id"
    ).rowcount
