"""The shots of a logbook as columns of numbers in memory: asked in milliseconds, however many they are.

The order of the shots is read at first, then each column once: when it is asked for, or before that, part by part. What
the writer changes is read again, shot by shot. Used by one thread, the reader; `Touched` is what it shares with the
writer.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.atlas import KEYS, weight_of
from ondine.core.log.facts import NAMES
from ondine.core.setup import BenchKind
from ondine.logbook.records import ShotState

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Fetch = Callable[..., list[Any]]

_IDS = "SELECT id, 1 AS value FROM shot WHERE "
SETS = {
    "binned": f"{_IDS}binned_at IS NOT NULL",
    "keeper": f"{_IDS}keeper",
    "failed": f"{_IDS}state = '{ShotState.FAILED}'",
    "tagged": "SELECT DISTINCT shot_id AS id, 1 AS value FROM tag WHERE 1",
    "pictured": "SELECT DISTINCT shot_id AS id, 1 AS value FROM picture WHERE shot_id IS NOT NULL",
    "question": "SELECT DISTINCT shot_id AS id, 1 AS value FROM picture WHERE NOT sure AND shot_id IS NOT NULL",
    **{kind.name.lower(): f"{_IDS}bench = '{kind.value}'" for kind in BenchKind},
}
"""Columns of yes and no: which shots have it. Each is read from an index, not from the shots' wide rows."""

RANK = 1000
_KNOWN = " ".join(f"WHEN '{key}' THEN {RANK * weight_of(key) + place}" for place, key in enumerate(KEYS))
FORGOTTEN = 900
_OWN = (
    "(SELECT (SELECT count(*) FROM own_shape AS b WHERE (b.letter, b.key) < (o.letter, o.key)) "
    "FROM own_shape AS o WHERE o.key = tag.shape)"
)
_SHAPE = f"CASE shape {_KNOWN} ELSE {RANK * weight_of('') + len(KEYS)} + coalesce({_OWN}, {FORGOTTEN}) END"
"""Of several shapes the one that says most; those of one's own come after all others, by their letters, and after them
such that were taken off the board.
"""

SCALE = 1e9
"""Figures are read as whole billionths: SQLite writes, and NumPy reads, a whole number in half the time of another.
What has no more than nine decimals stays the same number to the last bit.
"""

NUMBERS = {
    "rating": "SELECT id, rating AS value FROM shot WHERE 1",
    "sitting": "SELECT id, sitting_id AS value FROM shot WHERE 1",
    "setup": "SELECT shot.id AS id, setup_revision.rowid AS value FROM setup_revision "
    "JOIN shot ON shot.setup_id = setup_revision.id WHERE 1",
    "timing": "SELECT shot_id AS id, timing AS value FROM shot_facts WHERE 1",
    **{
        name: f"SELECT shot_id AS id, CAST(round({name} * {SCALE}) AS INTEGER) AS value FROM shot_facts WHERE 1"
        for name in NAMES
    },
    "shape": f"SELECT shot_id AS id, max({_SHAPE}) % {RANK} AS value FROM tag WHERE 1",
}
"""Columns of numbers: each shot's own."""

PART_CHARS = 100_000
"""So much text is made numbers in some two milliseconds, in which no other thread of Python's goes on."""

PART_SHOTS = 20_000
"""Of so many shots a column is read in some eight milliseconds, for which a question waits that comes meanwhile."""

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
        self._halves: dict[str, tuple[Floats, int]] = {}
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
        self.ids = _numbers(self._fetch(_joined("SELECT id FROM shot ORDER BY at, id", "id"), ())[0][0])
        self._place = np.full(int(self.ids.max(initial=0)) + 1, -1, np.int64)
        self._place[self.ids] = np.arange(len(self.ids))
        self._columns, self._halves, self._is_read = {}, {}, True

    def _with_changed(self, name: str, old_ids: Ints, column: Floats, changed: set[int]) -> Floats:
        made = np.full(len(self.ids), _usual(name))
        places = self.places(old_ids)
        made[places[places >= 0]] = column[places >= 0]
        there = self.places(np.fromiter(changed, np.int64, len(changed)))
        made[there[there >= 0]] = _usual(name)
        slots = ", ".join("?" for _ in changed)
        self._put(made, name, f" AND {_key(name)} IN ({slots})", tuple(changed))
        return made

    def column(self, name: str) -> Floats:
        """Return a column, shape (n,): 0 or 1 of `SETS`, else a number; NaN where there is none."""
        if name not in self._columns:
            if name in SETS:
                values = self.among(SETS[name], ()).astype(np.float64)
            else:
                values = np.full(len(self.ids), _usual(name))
                self._put(values, name, "", ())
            self._columns[name] = values
        return self._columns[name]

    def read_part(self, name: str) -> bool:
        """Read some more of a column that nobody waits for; return whether it is whole now."""
        if name in self._columns or name in SETS:
            self.column(name)
            return True
        values, begin = self._halves.pop(name, None) or (np.full(len(self.ids), _usual(name)), 0)
        end = begin + PART_SHOTS
        self._put(values, name, f" AND {_key(name)} >= ? AND {_key(name)} < ?", (begin, end))
        is_whole = end >= len(self._place)
        if is_whole:
            self._columns[name] = values
        else:
            self._halves[name] = values, end
        return is_whole

    def _put(self, values: Floats, name: str, more: str, slots: tuple[object, ...]) -> None:
        """Write a column's numbers to the places of its shots; more : which shots, in SQL."""
        asked = f"{_joined(f'{_ask(name)}{more}{_end(name)}', 'id', 'CAST(value AS INTEGER)')} WHERE value IS NOT NULL"
        ids, told = self._fetch(asked, slots)[0]
        places = self.places(_numbers(ids))
        values[places[places >= 0]] = _numbers(told)[places >= 0] / (SCALE if name in NAMES else 1.0)

    def before(self, at: str) -> int:
        """How many shots stand before a time, as the file holds times."""
        return int(self._fetch("SELECT count(*) FROM shot WHERE at < ?", (at,))[0][0])

    def places(self, shot_ids: Ints) -> Ints:
        """Return where shots stand in the columns, shape (m,); −1 for one that does not."""
        known = (shot_ids >= 0) & (shot_ids < len(self._place))
        return np.where(known, self._place[np.where(known, shot_ids, 0)] if len(self._place) else -1, -1)

    def among(self, asked: str, slots: tuple[object, ...]) -> Bools:
        """Return which shots are among those that a question for `id` answers, shape (n,)."""
        found = np.zeros(len(self.ids), np.bool_)
        places = self.places(_numbers(self._fetch(_joined(asked, "id"), slots)[0][0]))
        found[places[places >= 0]] = True
        return found


def _joined(asked: str, *parts: str) -> str:
    """Return a question whose answer is one row of long texts: ten times the speed of a row for each shot.

    SQLite writes them in the order of the inner question, and holds up no other thread meanwhile.
    """
    return f"SELECT {', '.join(f'group_concat({part})' for part in parts)} FROM ({asked})"


def _numbers(text: object) -> Ints:
    """Return the numbers of a long text, shape (n,); part by part: a hand that drags waits for no more than one."""
    held, parts, begin = str(text or ""), [np.empty(0, np.int64)], 0
    while begin < len(held):
        end = held.find(",", begin + PART_CHARS)
        end = len(held) if end < 0 else end
        parts.append(np.fromstring(held[begin:end], np.int64, sep=","))
        begin = end + 1
    return np.concatenate(parts)


def _ask(name: str) -> str:
    return SETS[name] if name in SETS else NUMBERS[name]


def _key(name: str) -> str:
    """What a shot's number is called in a column's question."""
    return "shot.id" if name == "setup" else "shot_id" if "shot_id" in _ask(name) else "id"


def _end(name: str) -> str:
    """What follows the conditions."""
    return " GROUP BY shot_id" if name == "shape" else ""


def _usual(name: str) -> float:
    """What a shot has of which nothing is told."""
    return 0.0 if name in SETS else np.nan
