"""The shots of a logbook as columns of numbers in memory: asked in milliseconds, however many they are.

Only what is asked for is read: the order of the shots at first, then each column once. What the writer changes is read
again, shot by shot. Used by one thread, the reader; `Touched` is what it shares with the writer.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.facts import NAMES
from ondine.core.setup import BenchKind
from ondine.logbook.records import ShotState

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Fetch = Callable[..., list[Any]]

ON_SHOT = {
    "binned": "binned_at IS NOT NULL",
    "rating": "rating",
    "keeper": "keeper",
    "sitting": "sitting_id",
    "setup": "(SELECT rowid FROM setup_revision WHERE setup_revision.id = shot.setup_id)",
    "tagged": "EXISTS (SELECT 1 FROM tag WHERE tag.shot_id = shot.id)",
    "pictured": "EXISTS (SELECT 1 FROM picture WHERE picture.shot_id = shot.id)",
    "question": "EXISTS (SELECT 1 FROM picture WHERE picture.shot_id = shot.id AND NOT sure)",
    "failed": f"state = '{ShotState.FAILED}'",
    **{kind.name.lower(): f"bench = '{kind.value}'" for kind in BenchKind},
}
"""Columns that stand in the shots' own rows, or follow from them."""

MOST_READ_AGAIN = 400
"""Where more shots have changed than so many, all are read anew."""


class Touched:
    """Which shots were changed since somebody looked; told by who writes, asked by who reads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._ids: set[int] | None = None
        self._more = False

    def note(self, shot_ids: Iterable[int] | None) -> None:
        """Some shots have changed; None: nobody knows which."""
        with self._lock:
            if shot_ids is None or self._ids is None:
                self._ids = None if shot_ids is None else set(shot_ids)
                self._more = self._more or shot_ids is None
            else:
                self._ids.update(shot_ids)

    def take(self) -> set[int] | None:
        """Return the shots that have changed since the last time; None: all may have."""
        with self._lock:
            found = None if self._more else self._ids or set()
            self._ids, self._more = set(), False
            return found


class Shelf:
    """Columns over all shots, oldest first; the bin's shots among them.

    fetch : asks the logbook's file, (SQL, values) to rows. touched : what to read again.
    """

    def __init__(self, fetch: Fetch, touched: Touched) -> None:
        self._fetch, self._touched = fetch, touched
        self.ids: Ints = np.empty(0, np.int64)
        self._columns: dict[str, Floats] = {}
        self._place: Ints = np.empty(0, np.int64)
        self._is_read = False

    def refresh(self) -> None:
        """Read what has changed; to be called once before each question."""
        changed = self._touched.take()
        if not self._is_read or changed is None or len(changed) > MOST_READ_AGAIN:
            self._read_order()
        elif changed:
            # A shot that is new, or that fired at another time than it was planned for, may stand elsewhere.
            before = self._columns
            old_ids = self.ids
            self._read_order()
            for name, column in before.items():
                self._columns[name] = self._with_changed(name, old_ids, column, changed)

    def _read_order(self) -> None:
        rows = self._fetch("SELECT id FROM shot ORDER BY at, id", ())
        self.ids = np.fromiter((row[0] for row in rows), np.int64, len(rows))
        self._place = np.full(int(self.ids.max(initial=0)) + 1, -1, np.int64)
        self._place[self.ids] = np.arange(len(self.ids))
        self._columns, self._is_read = {}, True

    def _with_changed(self, name: str, old_ids: Ints, column: Floats, changed: set[int]) -> Floats:
        made = np.full(len(self.ids), np.nan)
        places = self.places(old_ids)
        made[places[places >= 0]] = column[places >= 0]
        slots = ", ".join("?" for _ in changed)
        for number, value in self._fetch(f"{_ask(name)} WHERE {_key(name)} IN ({slots})", tuple(changed)):
            place = self.places(np.array([number]))[0]
            if place >= 0:
                made[place] = np.nan if value is None else value
        return made

    def column(self, name: str) -> Floats:
        """Return a column, shape (n,): one of `ON_SHOT`, or a figure of the shots; NaN where there is none."""
        if name not in self._columns:
            values = np.full(len(self.ids), np.nan)
            rows = self._fetch(_ask(name), ())
            if rows:
                table = np.array(rows, dtype=np.float64)
                places = self.places(table[:, 0].astype(np.int64))
                values[places[places >= 0]] = table[places >= 0, 1]
            self._columns[name] = values
        return self._columns[name]

    def before(self, at: str) -> int:
        """How many shots stand before a time, as the file holds times."""
        return int(self._fetch("SELECT count(*) FROM shot WHERE at < ?", (at,))[0][0])

    def places(self, shot_ids: Ints) -> Ints:
        """Return where shots stand in the columns, shape (m,); −1 for one that does not."""
        known = (shot_ids >= 0) & (shot_ids < len(self._place))
        return np.where(known, self._place[np.where(known, shot_ids, 0)] if len(self._place) else -1, -1)

    def among(self, shot_ids: Iterable[int], count: int) -> Bools:
        """Return which shots are among some, shape (n,)."""
        found = np.zeros(len(self.ids), np.bool_)
        places = self.places(np.fromiter(shot_ids, np.int64, count))
        found[places[places >= 0]] = True
        return found


def _key(name: str) -> str:
    return "id" if name in ON_SHOT else "shot_id"


def _ask(name: str) -> str:
    if name in ON_SHOT:
        return f"SELECT id, {ON_SHOT[name]} FROM shot"
    assert name in (*NAMES, "timing")
    return f"SELECT shot_id, {name} FROM shot_facts"
