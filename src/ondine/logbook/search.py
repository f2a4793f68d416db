"""Finds shots: a query in, the numbers of all that fit out, in order; their records are read page by page."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ondine.core.forecast.shapes import SHAPES
from ondine.core.log.atlas import UNTAGGED, WELL_KNOWN_MS, Points
from ondine.core.log.quantities import QUANTITIES
from ondine.core.setup import BenchKind
from ondine.logbook.database import Database
from ondine.logbook.query import Condition, Field, Fired, Flag, HasShape, Is, Order, Query, Says, Within
from ondine.logbook.records import stored_time
from ondine.logbook.shelf import NUMBERS, SETS, Bools, Floats, Ints, Shelf

FLAG_COLUMNS = {
    Flag.KEEPER: "keeper",
    Flag.FAILED: "failed",
    Flag.BINNED: "binned",
    Flag.TAGGED: "tagged",
    Flag.PICTURE: "pictured",
    Flag.QUESTION: "question",
    Flag.SIMULATED: BenchKind.SIMULATED.name.lower(),
    Flag.BY_HAND: BenchKind.BY_HAND.name.lower(),
    Flag.BY_CABLE: BenchKind.CABLE.name.lower(),
}
WORDS_IN = {
    Field.ANY: (("shot_words", ""), ("sitting_words", ""), ("setup_words", "")),
    Field.NOTE: (("shot_words", "note : "),),
    Field.LABEL: (("shot_words", "label : "),),
    Field.SITTING: (("sitting_words", ""),),
    Field.SETUP: (("setup_words", ""),),
    Field.LIQUID: (("setup_words", ""),),
}
"""Where a field's words stand: the full-text index, and the part of it."""

OWNER = {"sitting_words": "sitting", "setup_words": "setup"}
"""The column that says whose a shot is."""


@dataclass(frozen=True)
class Group:
    """Shots of one timing: the newest of them, how many they are, of how many it is known, how many are hits."""

    shot_id: int
    count: int
    known: int
    hits: int


KEEPERS = "keeper"
"""In the place of a shape: a shot that is kept is a hit, and of every shot it is known whether it is."""


LIKENESS = {
    "drops": 0.25, "interval_ms": 2.0, "open_ms": 2.0, "second_open_ms": 2.0, "after_touchdown_ms": 2.0,
    "after_meeting_ms": 1.0, "height_mm": 20.0, "viscosity_mpa_s": 0.5,
}  # fmt: skip
"""What makes shots alike, and how much of each counts as one step away: about what changes what is seen."""

COUNTED_FROM = {
    "after_touchdown_ms": "touchdown_sd_ms",
    "crater_clocks": "touchdown_sd_ms",
    "after_meeting_ms": "meeting_sd_ms",
}
"""How well the event was known that a figure is counted from."""

SAME_HEIGHT = 0.02
"""Drops from heights nearer to each other than this touch down within some three milliseconds."""

_DROPS = "CASE WHEN json_valid(sequence) THEN json_extract(sequence, '$.drops') END"
SAME_DROPS = (
    "SELECT id FROM shot WHERE binned_at IS NULL AND sitting_id = (SELECT sitting_id FROM shot WHERE id = ?) "
    f"AND {_DROPS} = (SELECT {_DROPS} FROM shot WHERE id = ?)"
)
"""The shots of a sitting whose drops were commanded alike."""

FAR = 1e3
"""Further away than so many steps is all the same."""


OFTEN = ("tagged", "rating", "gap_ms", "interval_ms", "flash_ms", "pictured", "keeper", "failed", "open_ms",
         "after_touchdown_ms", "after_meeting_ms", "setup", "sitting", "timing", "shape")  # fmt: skip
"""The columns that are asked for most, in this order."""

SELDOM = tuple(name for name in (*NUMBERS, *SETS) if name not in OFTEN)
"""All others."""


class Search:
    """Asks the logbook; for one thread. Every answer is numbers alone, however many shots there are."""

    OFTEN, SELDOM = OFTEN, SELDOM

    def __init__(self, database: Database) -> None:
        self._database = database
        self._shelf = Shelf(self._fetch, database.touched)

    def ids(self, query: Query, order: Order = Order.NEWEST) -> Ints:
        """Return the numbers of all shots that fit, shape (n,), in order."""
        places = self._places(query)
        if order in (Order.NEWEST, Order.LIKE):
            # Like no shot in particular: by time.
            places = places[::-1]
        elif order is Order.BEST:
            keeper, rating = (self._shelf.column(name)[places] for name in ("keeper", "rating"))
            places = places[np.lexsort((-places, -rating, -keeper))]
        found: Ints = self._shelf.ids[places]
        return found

    def figures(self, query: Query, keys: tuple[str, ...]) -> tuple[Ints, Floats]:
        """Return the numbers of all shots that fit, oldest first, shape (n,), and some of their figures, shape (n, k).

        keys : of `core.log.quantities`, or of `core.log.facts`; what a shot has no figure of is NaN.
        """
        places = self._places(query)
        columns = [self._shelf.column(key)[places] for key in keys]
        return self._shelf.ids[places], np.stack(columns, axis=1) if columns else np.empty((len(places), 0))

    def figures_of(self, shot_ids: Sequence[int]) -> list[dict[str, float]]:
        """Return the figures of some shots by the keys of `core.log.quantities`, without those that a shot lacks."""
        self._shelf.refresh()
        places = self._shelf.places(np.array(shot_ids, np.int64))
        columns = {quantity.key: self._shelf.column(quantity.key) for quantity in QUANTITIES}
        return [
            {key: float(column[place]) for key, column in columns.items() if place >= 0 and np.isfinite(column[place])}
            for place in places
        ]

    def ladder(self, shot_id: int) -> Ints:
        """Return the shots of one's sitting with the same drops, by their first flash and then by time, shape (n,).

        They are instants of one splash, as far as drops repeat themselves; the one shot is among them.
        """
        self._shelf.refresh()
        ids = np.array([row[0] for row in self._fetch(SAME_DROPS, (shot_id, shot_id))], np.int64)
        places = self._shelf.places(ids)
        places = np.sort(places[places >= 0])
        flash_ms = self._shelf.column("flash_ms")[places]
        found: Ints = self._shelf.ids[places[np.argsort(flash_ms, kind="stable")]]
        return found

    def points(self, query: Query, x: str, y: str) -> Points:
        """Return the shots that fit and have both figures, as points of the atlas.

        x, y : keys of `core.log.quantities`. Where a figure is counted from a touchdown or a meeting that was not well
        known, or from the trigger though most others fell from another height, the point cannot be compared.
        """
        places = self._places(query)
        u, v = (self._shelf.column(key)[places] for key in (x, y))
        has = np.isfinite(u) & np.isfinite(v)
        places, u, v = places[has], u[has], v[has]
        shape = np.nan_to_num(self._shelf.column("shape")[places], nan=UNTAGGED).astype(np.int64)
        comparable = np.ones(len(places), np.bool_)
        for known in {COUNTED_FROM[key] for key in (x, y) if key in COUNTED_FROM}:
            comparable &= self._shelf.column(known)[places] <= WELL_KNOWN_MS
        if "flash_ms" in (x, y):
            comparable &= _of_one_height(self._shelf.column("height_mm")[places])
        return Points(self._shelf.ids[places], u, v, shape, comparable)

    def near(self, query: Query, shot_id: int, scales: Mapping[str, float] = LIKENESS) -> Ints:
        """Return the numbers of all shots that fit, the most like one first, shape (n,).

        scales : figures, and how much of each counts as one step away; those that the one shot lacks do not count.
        """
        places = self._places(query)
        here = self._shelf.places(np.array([shot_id]))[0]
        away = np.zeros(len(places))
        if here < 0:
            return self.ids(query)
        for key, scale in scales.items():
            column = self._shelf.column(key)
            if np.isfinite(column[here]):
                apart = np.abs(column[places] - column[here]) / scale
                away += np.where(np.isnan(apart), FAR, np.minimum(apart, FAR)) ** 2
        found: Ints = self._shelf.ids[places[np.lexsort((-places, away))]]
        return found

    def groups(self, query: Query, shape: str, most: int) -> list[Group]:
        """Return the shots that fit by equal timing, the most hits first, at most so many groups.

        shape : which tag counts as a hit, or `KEEPERS`.
        """
        places = self._places(query)
        timing = self._shelf.column("timing")[places]
        _, which = np.unique(timing, return_inverse=True)
        if shape == KEEPERS:
            known, hits = np.ones(len(places)), self._shelf.column("keeper")[places]
        else:
            known = self._shelf.column("tagged")[places]
            hits = self._among("SELECT shot_id AS id FROM tag WHERE shape = ?", shape)[places].astype(float)
        count = np.bincount(which)
        knew, hit = (np.bincount(which, weights=part).astype(int) for part in (known, hits))
        newest = np.zeros(len(count), np.int64)
        newest[which] = places
        best = np.lexsort((-newest, -count, -hit))[:most]
        return [Group(int(self._shelf.ids[newest[g]]), int(count[g]), int(knew[g]), int(hit[g])) for g in best]

    def of_group(self, shot_id: int) -> Ints:
        """Return the numbers of the shots that have the same timing and set-up as one, oldest first, shape (n,)."""
        self._shelf.refresh()
        timing, binned = self._shelf.column("timing"), self._shelf.column("binned")
        here = self._shelf.places(np.array([shot_id]))[0]
        found: Ints = self._shelf.ids[(timing == timing[here]) & (binned == 0)]
        return found

    def oldest_first(self, shot_ids: Sequence[int]) -> Ints:
        """Return some shots by when they were fired, shape (n,); those that are not there are left out."""
        self._shelf.refresh()
        places = self._shelf.places(np.array(shot_ids, np.int64))
        found: Ints = self._shelf.ids[np.sort(places[places >= 0])]
        return found

    def of_sitting(self, sitting_id: int) -> Ints:
        """Return the numbers of a sitting's shots that are in no bin, oldest first, shape (n,)."""
        self._shelf.refresh()
        found: Ints = self._shelf.ids[
            (self._shelf.column("sitting") == sitting_id) & (self._shelf.column("binned") == 0)
        ]
        return found

    def sitting_of(self, shot_id: int) -> int | None:
        """Return the number of a shot's sitting; None if there is no such shot."""
        self._shelf.refresh()
        here = self._shelf.places(np.array([shot_id]))[0]
        return None if here < 0 else int(self._shelf.column("sitting")[here])

    def make_ready(self, name: str) -> bool:
        """Read some of a column before somebody asks for it; return whether all of it is read."""
        self._shelf.refresh()
        return self._shelf.read_part(name)

    # How a query is answered

    def _places(self, query: Query) -> Ints:
        """Return where in the shelf the shots stand that fit, oldest first, shape (n,)."""
        self._shelf.refresh()
        fits = np.ones(len(self._shelf.ids), np.bool_) if query.asks_for_bin else self._shelf.column("binned") == 0
        for term in query.terms:
            part = self._fits(term.condition)
            fits = fits & (~part if term.negated else part)
        return np.flatnonzero(fits)

    def _fits(self, condition: Condition) -> Bools:
        match condition:
            case HasShape(key):
                return self._among("SELECT shot_id AS id FROM tag WHERE shape = ?", key)
            case Is(flag):
                return self._is(flag)
            case Within(quantity, low, high):
                column = self._shelf.column(quantity.key)
                with np.errstate(invalid="ignore"):
                    return (column >= (-np.inf if low is None else low)) & (
                        column <= (np.inf if high is None else high)
                    )
            case Fired(since, until):
                place = np.arange(len(self._shelf.ids))
                first = 0 if since is None else self._shelf.before(stored_time(since))
                after = len(place) if until is None else self._shelf.before(stored_time(until))
                return (place >= first) & (place < after)
            case Says(field, words, whole):
                return self._says(field, words, whole)

    def _is(self, flag: Flag) -> Bools:
        if flag is Flag.UNTAGGED:
            return self._has("tagged", 0) & self._has("failed", 0)
        if flag is Flag.NO_PICTURE:
            return self._has("pictured", 0)
        return self._has(FLAG_COLUMNS[flag], 1)

    def _has(self, column: str, value: int) -> Bools:
        found: Bools = self._shelf.column(column) == value
        return found

    def _says(self, field: Field, words: str, whole: bool) -> Bools:
        # Quoted, so that no word is a command of the index; a word counts by its beginning.
        quoted = '"' + words.replace('"', '""').replace("\0", " ") + '"' + ("" if whole else "*")
        fits = np.zeros(len(self._shelf.ids), np.bool_)
        for table, part in WORDS_IN[field]:
            asked = f"SELECT rowid AS id FROM {table} WHERE {table} MATCH ?"
            if table in OWNER:
                owners = [row[0] for row in self._fetch(asked, (part + quoted,))]
                fits |= np.isin(self._shelf.column(OWNER[table]), owners)
            else:
                fits |= self._shelf.among(asked, (part + quoted,))
        if field is Field.ANY:
            # A shape that is only half written finds what it may become.
            for key in self._shapes_named(words.casefold(), whole):
                fits |= self._shelf.among("SELECT shot_id AS id FROM tag WHERE shape = ?", (key,))
        return fits

    def _shapes_named(self, words: str, whole: bool) -> list[str]:
        own = [(str(key), str(name)) for key, name in self._fetch("SELECT key, name FROM own_shape", ())]
        named = [(shape.key, shape.name) for shape in SHAPES] + own
        if whole:
            return [key for key, name in named if words in name.casefold()]
        return [key for key, name in named if any(part.startswith(words) for part in name.casefold().split())]

    def _among(self, asked: str, *values: object) -> Bools:
        return self._shelf.among(asked, values)

    def _fetch(self, asked: str, values: tuple[object, ...]) -> list[Any]:
        with self._database.session() as session:
            # Straight from the driver: a hundred thousand numbers are no objects.
            connection = session.connection().connection.driver_connection
            assert connection is not None
            found: list[Any] = connection.execute(asked, values).fetchall()
        return found


def _of_one_height(heights_mm: Floats) -> Bools:
    """Return which of some shots fell from the height that most of them fell from, within a fiftieth; shape (n,)."""
    known = np.isfinite(heights_mm)
    if not known.any():
        return np.ones(len(heights_mm), np.bool_)
    values, counts = np.unique(heights_mm[known].round(), return_counts=True)
    usual = values[np.argmax(counts)]
    found: Bools = ~known | (np.abs(heights_mm - usual) <= SAME_HEIGHT * usual)
    return found
